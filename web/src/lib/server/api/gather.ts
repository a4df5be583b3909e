import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import * as yup from 'yup';
import { canonicalJson } from '#core/lineage/key';
import { fail } from '#core/problem';
import { shapingSchema, withRenamed, type Shaping } from '#core/project/shaping';
import { TABLE_KINDS } from '#core/tables/kinds';
import { validateMapping } from '#core/tables/mapping';
import { db, type Executor } from '../db/client';
import { file, incoming, object } from '../db/schema';
import { refuseTakenName } from '../jobs/import-job';
import { enqueue } from '../jobs/queue';
import { changeWithin } from '../graph/changes';
import { expressionSteps } from '../graph/made';
import type { Step } from '../graph/steps';
import { checkProject } from '../services/check';
import { coordinatesFor, findSystems, systemOf } from '../store/crs';
import { fileBytes, fileRow, LARGEST_FILE, storeFile } from '../store/files';
import { loadGraph } from '../graph/graph';
import { previewFile } from '../services/preview';
import { findProject, inProject } from '../store/projects';
import { SOURCE_KINDS } from '../graph/sources';
import { sourceFile } from '../services/source-files';
import {
	cardAnswer,
	cardListAnswer,
	kindListAnswer,
	previewAnswer,
	systemAnswer,
	systemListAnswer,
	uploadAnswer
} from '$lib/api/answers/data';
import { startedJobAnswer } from '$lib/api/answers/projects';
import { nothing } from '$lib/api/answers/shapes';
import { download, operation } from './operation';
import { choiceFields, importFields } from '../jobs/payloads';

const titleSchema = yup.string().trim().min(1).max(200);
const MOST_WAITING = 500;

/** A card of the files that wait to be brought in. */
async function addCard(projectId: string, fileId: string, title: string, choice: Record<string, unknown>): Promise<string> {
	if ((await db().$count(incoming, eq(incoming.projectId, projectId))) >= MOST_WAITING)
		fail('too-many-files', `${MOST_WAITING} files wait to be brought in already`, 'Bring some in, or put them aside.');
	const [row] = await db().insert(incoming).values({ projectId, fileId, title, choice }).returning({ id: incoming.id });
	return row!.id;
}

async function findCard(projectId: string, id: string) {
	const [row] = /^[0-9a-f-]{36}$/i.test(id)
		? await db()
				.select()
				.from(incoming)
				.where(and(eq(incoming.id, id), eq(incoming.projectId, projectId)))
		: [];
	return row ?? fail('not-found', 'there is no such file waiting', 'It may have been brought in or put aside elsewhere.');
}

export const gatherOperations = [
	operation({
		id: 'findCoordinateSystems',
		method: 'get',
		path: '/crs',
		tag: 'Gather',
		summary: 'Coordinate systems by the beginning of their EPSG code, or by words of their name or of the area where they are used',
		answer: systemListAnswer,
		reply: 'Up to twenty: code, name, unit, area',
		query: yup.object({ search: yup.string().trim().max(100).required() }).noUnknown(),
		run: async ({ query }) => ({ systems: findSystems(query.search) })
	}),
	operation({
		id: 'coordinateSystem',
		method: 'get',
		path: '/crs/{code}',
		tag: 'Gather',
		summary: 'A coordinate system by its EPSG code',
		answer: systemAnswer,
		reply: 'Name, unit and definition',
		run: async ({ params }) =>
			systemOf(Number(params['code'])) ?? fail('not-found', `EPSG:${params['code']} is not known`, 'Look the code up in the EPSG register.')
	}),
	operation({
		id: 'listKinds',
		method: 'get',
		path: '/table-kinds',
		tag: 'Gather',
		summary: 'Kinds of table and the roles that their columns can take',
		answer: kindListAnswer,
		reply: 'Kinds',
		run: async () => ({ kinds: TABLE_KINDS })
	}),
	operation({
		id: 'uploadFile',
		method: 'post',
		path: '/projects/{project}/files',
		tag: 'Gather',
		summary: `Store a raw file (up to ${LARGEST_FILE / 1048576} MiB) and see what it is taken to be; it waits until it is brought in or put aside`,
		body: 'bytes',
		answer: uploadAnswer,
		reply: 'The file, a preview, and its card among those that wait',
		query: yup.object({ name: yup.string().trim().min(1).max(300).required(), wait: yup.boolean().default(true) }).noUnknown(),
		run: async ({ params, query, body }) => {
			await findProject(db(), params['project']!);
			const name = query.name.replace(/[\\/]/g, '_').replace(/[\u0000-\u001f]/g, '');
			if (!body) return fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', name);
			const stored = await storeFile(params['project']!, name, body);
			try {
				const p = await previewFile(params['project']!, stored.id);
				return { ...p, card: query.wait === false ? null : await addCard(params['project']!, stored.id, '', {}) };
			} catch (error) {
				// What can not be read is not kept.
				await db().delete(file).where(eq(file.id, stored.id));
				throw error;
			}
		}
	}),
	operation({
		id: 'downloadFile',
		method: 'get',
		path: '/projects/{project}/files/{file}',
		tag: 'Gather',
		summary: 'A raw file as it came, byte for byte',
		reply: 'The file',
		media: 'application/octet-stream',
		run: async ({ params }) => {
			const f = await fileRow(params['project']!, params['file']!);
			return download(await fileBytes(f.id), 'application/octet-stream', f.name);
		}
	}),
	operation({
		id: 'previewFile',
		method: 'post',
		path: '/projects/{project}/files/{file}/preview',
		tag: 'Gather',
		summary: 'The first rows of a stored file as another thing, under another kind or other roles',
		answer: previewAnswer,
		reply: 'A preview',
		body: yup.object(choiceFields).noUnknown(),
		run: async ({ params, body }) => previewFile(params['project']!, params['file']!, body)
	}),
	operation({
		id: 'listIncoming',
		method: 'get',
		path: '/projects/{project}/incoming',
		tag: 'Gather',
		summary: 'Files that wait to be brought in, with what was said of each',
		answer: cardListAnswer,
		reply: 'Cards, the first first',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			const cards = await db()
				.select({ id: incoming.id, fileId: incoming.fileId, name: file.name, title: incoming.title, choice: incoming.choice })
				.from(incoming)
				.innerJoin(file, eq(file.id, incoming.fileId))
				.where(eq(incoming.projectId, params['project']!))
				.orderBy(asc(incoming.createdAt), asc(incoming.id));
			return { cards };
		}
	}),
	operation({
		id: 'addIncoming',
		method: 'post',
		path: '/projects/{project}/incoming',
		tag: 'Gather',
		summary: 'Let another table of a stored file wait, too',
		answer: cardAnswer,
		reply: 'The card',
		body: yup
			.object({
				fileId: yup.string().uuid().required(),
				title: yup.string().trim().max(200).default(''),
				choice: yup.object(choiceFields).noUnknown().required()
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			await fileRow(params['project']!, body.fileId);
			return { card: await addCard(params['project']!, body.fileId, body.title ?? '', body.choice) };
		}
	}),
	operation({
		id: 'changeIncoming',
		method: 'patch',
		path: '/projects/{project}/incoming/{card}',
		tag: 'Gather',
		summary: 'Keep what is said of a file that waits',
		answer: nothing,
		reply: 'Nothing',
		body: yup
			.object({ title: yup.string().trim().max(200), choice: yup.object(choiceFields).noUnknown().default(undefined).optional() })
			.noUnknown(),
		run: async ({ params, body }) => {
			const card = await findCard(params['project']!, params['card']!);
			await db()
				.update(incoming)
				.set({ title: body.title ?? card.title, choice: body.choice ?? card.choice })
				.where(eq(incoming.id, card.id));
		}
	}),
	operation({
		id: 'removeIncoming',
		method: 'delete',
		path: '/projects/{project}/incoming/{card}',
		tag: 'Gather',
		summary: 'Put a file that waits aside',
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params }) => {
			const card = await findCard(params['project']!, params['card']!);
			await db().delete(incoming).where(eq(incoming.id, card.id));
		}
	}),
	operation({
		id: 'importFile',
		method: 'post',
		path: '/projects/{project}/imports',
		tag: 'Gather',
		summary: 'Bring a stored file in as a table or as terrain, in the background',
		answer: startedJobAnswer,
		reply: 'The job',
		body: yup.object(importFields).noUnknown(),
		run: async ({ params, body, requestKey }) => {
			const projectId = params['project']!;
			await fileRow(projectId, body.fileId);
			await refuseTakenName(db(), projectId, body.name);
			const { crs } = await findProject(db(), projectId);
			coordinatesFor(crs, body);
			if (body.as === 'table') {
				if (!body.kind || !body.mapping)
					return fail('unmapped-columns', 'a table needs its kind and the roles of its columns', undefined, 'mapping');
				const seen = await previewFile(projectId, body.fileId, {
					as: 'table',
					kind: body.kind,
					mapping: body.mapping,
					reading: body.reading
				});
				if ('header' in seen) validateMapping(body.kind, seen.header, body.mapping);
			}
			return { job: await enqueue(projectId, 'import', `Read ${body.name}`, body, { requestKey }) };
		}
	}),
	operation({
		id: 'saveSource',
		method: 'get',
		path: '/projects/{project}/sources/{object}/file.{format}',
		tag: 'Gather',
		summary:
			'A source with its edits as a file: tables as csv, xlsx, las (readings), ags (collars and logs), or with the places of their rows as placed (CSV), gpkg, geojson, zip, dxf; rasters as tif, asc; layers as gpkg, geojson, zip (shapefiles), dxf; surfaces as obj, stl, ply, glb',
		reply: 'A file',
		media: 'application/octet-stream',
		run: async ({ params }) => {
			const project = await findProject(db(), params['project']!);
			const node =
				(await loadGraph(db(), params['project']!)).find((o) => o.id === params['object']) ??
				fail('not-found', 'there is no such object in this project');
			const f = await sourceFile(project, node, params['format']!);
			return download(f.bytes, f.media, f.name);
		}
	}),
	operation({
		id: 'renameSource',
		method: 'patch',
		path: '/projects/{project}/sources/{object}',
		tag: 'Gather',
		summary: 'Give a source another name',
		answer: nothing,
		reply: 'Nothing',
		body: yup.object({ name: titleSchema.required() }).noUnknown(),
		run: async ({ params, body }) => {
			await inProject(params['project']!, async (tx) => {
				const row = await lockSource(tx, params['project']!, params['object']!);
				if (row.name === body.name) return;
				await refuseTakenName(tx, params['project']!, body.name);
				const steps: Step[] = [
					{ kind: 'renamed', object: row.id, before: row.name, after: body.name },
					...expressionSteps(await loadGraph(tx, params['project']!), row.id, row.name, body.name)
				];
				// Models name what shapes them: they hear of it in the same change.
				const shapings = await tx
					.select({ id: object.id, state: object.state })
					.from(object)
					.where(and(eq(object.projectId, params['project']!), eq(object.kind, 'shaping'), isNull(object.removedAt)))
					.orderBy(object.id)
					.for('no key update');
				for (const s of shapings) {
					const before = shapingSchema.cast(s.state) as Shaping;
					const after = withRenamed(before, row.name, body.name);
					if (canonicalJson(after) !== canonicalJson(before))
						steps.push({ kind: 'state', object: s.id, before: s.state, after: { ...after } });
				}
				await changeWithin(tx, params['project']!, `Rename ${row.name}`, steps);
			});
		}
	}),
	operation({
		id: 'deleteSource',
		method: 'delete',
		path: '/projects/{project}/sources/{object}',
		tag: 'Gather',
		summary: 'Take a table or a terrain out of the project; this can be undone',
		answer: nothing,
		reply: 'Nothing',
		run: ({ params }) => takeOut(params['project']!, [params['object']!])
	}),
	operation({
		id: 'deleteSources',
		method: 'post',
		path: '/projects/{project}/sources/take-out',
		tag: 'Gather',
		summary: 'Take several sources out of the project as one change, all or none; this can be undone',
		answer: nothing,
		reply: 'Nothing',
		body: yup.object({ objects: yup.array(yup.string().uuid().required()).min(1).max(1000).required() }).noUnknown(),
		run: ({ params, body }) => takeOut(params['project']!, body.objects)
	})
];

/** Takes sources out, with the versions of logs that go out from them, as one change. */
async function takeOut(projectId: string, ids: readonly string[]): Promise<void> {
	await inProject(projectId, async (tx) => {
		const rows = [];
		for (const id of new Set(ids)) rows.push(await lockSource(tx, projectId, id));
		const all = [...rows];
		for (const row of all) {
			const versions = await tx
				.select({ id: object.id })
				.from(object)
				.where(and(eq(object.projectId, projectId), sql`${object.state}->>'versionOf' = ${row.id}`, isNull(object.removedAt)))
				.orderBy(object.id);
			for (const v of versions) if (!all.some((r) => r.id === v.id)) all.push(await lockSource(tx, projectId, v.id));
		}
		await changeWithin(
			tx,
			projectId,
			rows.length === 1 ? `Take out ${rows[0]!.name}` : `Take out ${rows.length} sources`,
			all.map((row) => ({ kind: 'removed', what: 'object', id: row.id, after: true }) as const)
		);
	});
	await checkProject(projectId);
}

async function lockSource(tx: Executor, projectId: string, id: string) {
	const [row] = await tx
		.select()
		.from(object)
		.where(and(eq(object.id, id), eq(object.projectId, projectId), isNull(object.removedAt)))
		.for('no key update');
	if (!row) return fail('not-found', 'there is no such object in this project');
	if (!(SOURCE_KINDS as readonly string[]).includes(row.kind)) return fail('not-a-source', `${row.name} did not come from a file`);
	return row;
}
