import { existsSync } from 'node:fs';
import { readFile, rm } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import * as yup from 'yup';
import { fileName } from '#core/formats/meshes';
import { joinPages } from '#core/logs/pages';
import { logSpecSchema, type LogSpec } from '#core/logs/spec';
import { ageSourcesSchema, type AgeSources } from '#core/stratigraphy/hole-ages';
import { correlationSpecSchema, type CorrelationSpec } from '#core/stratigraphy/correlation';
import { fail } from '#core/problem';
import { exportArchive } from '../services/archive';
import { importArchive } from '../jobs/archive-import';
import { runTask } from '../threads/threads';
import { systemOf } from '../store/crs';
import { endingsFor } from '#core/formats/known';
import { refuseEnding } from '#core/formats/writers';
import { spool } from '../store/files';
import { correlationDrawing, logDrawing } from '../services/logs';
import { sectionMessage, storedModel } from '../services/model';
import { startedAnswer } from '$lib/api/answers/projects';
import { download, json, operation } from './operation';

/** What can be saved of a model, in which formats. */
const MODEL_FILES: Readonly<Record<string, readonly string[]>> = {
	volumes: [...endingsFor('solids'), 'csv'],
	surfaces: endingsFor('solids'),
	geology: ['geojson']
};

const LARGEST_ARCHIVE = 256 * 1024 * 1024;

const sectionQuery = yup
	.object({
		/** Left out, that of the section. */
		exaggeration: yup.number().min(0.1).max(100),
		filled: yup.boolean().default(true),
		width: yup.number().integer().min(400).max(8000).default(1600),
		/** Id of the section; left out, the main one. */
		section: yup.string().uuid(),
		/** Anything: lets a page ask for a fresh picture. */
		v: yup.string().max(100)
	})
	.noUnknown();

/** Fonts for text in pictures, made from the shipped web fonts when the application is built. */
const fonts = (): string[] =>
	['plex-400.ttf', 'plex-600.ttf']
		.map((f) =>
			fileURLToPath(new URL(`./fonts/${f}`, process.env['MALACHITE_DIST'] ? `file://${process.env['MALACHITE_DIST']}/` : import.meta.url))
		)
		.filter((f) => existsSync(f));

export const presentOperations = [
	operation({
		id: 'exportSection',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/exports/section.{format}',
		tag: 'Present',
		summary: 'A section as SVG, PNG or DXF',
		query: sectionQuery,
		reply: 'A file',
		media: 'image/svg+xml',
		run: async ({ params, model, query }) => {
			const format = params['format']!;
			if (!['svg', 'png', 'dxf'].includes(format))
				fail('not-found', `a section can not be written as ${format}`, 'Choose svg, png or dxf.');
			const message = await sectionMessage(params['project']!, query.section ?? null, model);
			const name = `${fileName(message.title)}.${format}`;
			const bytes = await runTask('writeSection', {
				...message,
				exaggeration: query.exaggeration ?? message.exaggeration,
				filled: query.filled,
				format: format as 'svg' | 'png' | 'dxf',
				width: query.width,
				fonts: fonts()
			});
			return download(bytes, { svg: 'image/svg+xml', png: 'image/png', dxf: 'image/vnd.dxf' }[format]!, name);
		}
	}),
	operation({
		id: 'exportMeshes',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/exports/{what}.{format}',
		tag: 'Present',
		summary: 'Volumes or surfaces as OBJ, STL, glTF (glb) or VTK XML (vtp); volumes also as a table (csv); geology as geojson',
		reply: 'A file',
		media: 'application/octet-stream',
		run: async ({ params, model }) => {
			const { what, format } = params as { what: string; format: string };
			const { pack, about } = await storedModel(params['project']!, model);
			const name = `${fileName(`${about.projectName} ${what}`)}.${format}`;
			const formats = Object.hasOwn(MODEL_FILES, what) ? MODEL_FILES[what]! : null;
			if (!formats) fail('not-found', `there is no export called ${what}`, 'There are volumes, surfaces, geology and section.');
			if (!formats!.includes(format)) refuseEnding(what, format, formats!);
			const definition = systemOf(about.crs)?.definition ?? null;
			const { bytes, media } = await runTask('writeModel', { pack, about, what, format, definition });
			return download(bytes, media, name);
		}
	}),
	operation({
		id: 'exportLog',
		method: 'post',
		path: '/projects/{project}/exports/log.{format}',
		tag: 'Present',
		summary: 'Logs of holes at a true scale as PDF or SVG, over as many pages as they need',
		reply: 'A file',
		media: 'application/pdf',
		body: yup
			.object({ spec: logSpecSchema.required(), paper: yup.array(yup.number().min(100).max(5000).required()).length(2) })
			.noUnknown(),
		run: async ({ params, body }) => {
			const format = params['format']!;
			if (!['pdf', 'svg'].includes(format)) fail('not-found', `a log can not be written as ${format}`, 'Choose pdf or svg.');
			const pages = await logDrawing(params['project']!, body.spec as LogSpec, (body.paper as [number, number] | undefined) ?? [210, 297]);
			const name = `${fileName(`log ${body.spec.holes.slice(0, 5).join(' ')}`)}.${format}`;
			if (format === 'svg') return download(joinPages(pages), 'image/svg+xml', name);
			return download(await runTask('pagesToPdf', { pages, title: name, fonts: fonts() }), 'application/pdf', name);
		}
	}),
	operation({
		id: 'exportCorrelation',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/exports/correlation.{format}',
		tag: 'Present',
		summary: 'A correlation at a true scale on one sheet, as PDF or SVG',
		reply: 'A file',
		media: 'application/pdf',
		body: yup.object({ spec: correlationSpecSchema.required(), ages: ageSourcesSchema.required() }).noUnknown(),
		run: async ({ params, model, body }) => {
			const format = params['format']!;
			if (!['pdf', 'svg'].includes(format)) fail('not-found', `a correlation can not be written as ${format}`, 'Choose pdf or svg.');
			const page = await correlationDrawing(params['project']!, model, body.spec as CorrelationSpec, body.ages as AgeSources);
			const file = `${fileName(`correlation ${body.spec.holes.slice(0, 5).join(' ')}`)}.${format}`;
			if (format === 'svg') return download(page.svg, 'image/svg+xml', file);
			return download(await runTask('pagesToPdf', { pages: [page], title: file, fonts: fonts() }), 'application/pdf', file);
		}
	}),
	operation({
		id: 'exportArchive',
		method: 'get',
		path: '/projects/{project}/archive',
		tag: 'Present',
		summary: 'The project file with its data as one ZIP archive, for the command line and other servers',
		reply: 'A file',
		media: 'application/zip',
		run: async ({ params }) => {
			const { name, bytes } = await exportArchive(params['project']!);
			return download(bytes, 'application/zip', name);
		}
	}),
	operation({
		id: 'importArchive',
		created: true,
		method: 'post',
		path: '/archives',
		tag: 'Projects',
		summary: 'Start a project from an archive',
		body: 'bytes',
		answer: startedAnswer,
		reply: 'The project and the jobs that read its tables',
		run: async ({ body }) => {
			if (!body) return fail('empty-file', 'the archive is empty', 'Choose an archive that was exported from a project.');
			const spooled = await spool(body, 'the archive', LARGEST_ARCHIVE);
			try {
				return json(await importArchive(new Uint8Array(await readFile(spooled.path))), 201);
			} finally {
				await rm(spooled.path, { force: true });
			}
		}
	})
];
