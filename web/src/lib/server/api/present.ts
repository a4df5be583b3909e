import { Resvg } from '@resvg/resvg-js';
import proj4 from 'proj4';
import * as yup from 'yup';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { geologyGeoJson, type Project } from '#core/formats/geojson';
import { fileName, writeGltf, writeObj, writeStl, writeVtp, type NamedMesh } from '#core/formats/meshes';
import { sectionDxf } from '#core/formats/section-dxf';
import { sectionSvg } from '#core/formats/section-svg';
import { joinPages } from '#core/logs/pages';
import { logSpecSchema, type LogSpec } from '#core/logs/spec';
import { solidOf, surfaceOf, surfacesIn, unitsIn } from '#core/mesh/extract';
import { geologyAtSurface } from '#core/sections/geology-map';
import { writeCsv } from '#core/tables/delimited';
import { fail } from '#core/problem';
import { exportArchive, importArchive } from '../objects/archive';
import { runTask } from '../jobs/threads';
import { logDrawing } from '../objects/logs';
import { loadModel, sectionDrawing, surfaceName, type LoadedModel } from '../objects/model';
import { elevationGrid, gridOver, thicknessGrid, trueThicknessGrid } from '#core/grids/from-mesh';
import type { Raster } from '#core/grids/raster';
import { TERRAIN } from '#core/mesh/cut-lattice';
import { systemOf } from '../objects/crs';
import { download, json, operation } from './operation';

const LARGEST_ARCHIVE = 256 * 1024 * 1024;

const sectionQuery = yup
	.object({
		exaggeration: yup.number().min(0.1).max(50).default(1),
		filled: yup.boolean().default(true),
		width: yup.number().integer().min(400).max(8000).default(1600),
		/** 0 is the main section, then the lines of the set. */
		line: yup.number().integer().min(0).max(500).default(0),
		/** Anything: lets a page ask for a fresh picture. */
		v: yup.string().max(100)
	})
	.noUnknown();

function meshes(m: LoadedModel, what: string): NamedMesh[] {
	if (what === 'volumes') return unitsIn(m.mesh).map((u) => ({ name: m.units[u]!.name, color: m.units[u]!.color, mesh: solidOf(m.mesh, u) }));
	return surfacesIn(m.mesh).map((s) => ({ name: surfaceName(m, s).name, color: m.units[s]?.color ?? '#4A4A4A', mesh: surfaceOf(m.mesh, s) }));
}

const MOST_NODES = 25_000_000;

/** A grid over the model on the map. @param cell side of its cells; without it, that of the lattice */
function modelGrid(m: LoadedModel, what: string, unit: number, cell: number | undefined): Raster {
	const b = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity };
	const p = m.mesh.positions;
	for (let i = 0; i < p.length; i += 3) {
		b.minX = Math.min(b.minX, p[i]!);
		b.maxX = Math.max(b.maxX, p[i]!);
		b.minY = Math.min(b.minY, p[i + 1]!);
		b.maxY = Math.max(b.maxY, p[i + 1]!);
	}
	const side = cell ?? Math.max(b.maxX - b.minX, b.maxY - b.minY) / 200;
	const nodes = ((b.maxX - b.minX) * (b.maxY - b.minY)) / side ** 2;
	if (nodes > MOST_NODES) fail('too-fine', `cells of ${side} make ${Math.round(nodes).toLocaleString('en')} cells; the most is ${MOST_NODES.toLocaleString('en')}`, 'Use wider cells.', 'cell');
	const grid = gridOver(b, side);
	if (what === 'thickness') return thicknessGrid(solidOf(m.mesh, unit), grid);
	if (what === 'true-thickness') return trueThicknessGrid(solidOf(m.mesh, unit), grid);
	const base = elevationGrid(surfaceOf(m.mesh, unit), grid);
	if (what === 'elevation') return base;
	const top = m.hasTerrain ? elevationGrid(surfaceOf(m.mesh, TERRAIN), grid) : null;
	let highest = -Infinity;
	for (let i = 2; i < p.length; i += 3) highest = Math.max(highest, p[i]!);
	return { ...base, values: base.values.map((z, i) => (top ? top.values[i]! : highest) - z) };
}

/** Origin for formats with 24-bit numbers: the lower south-west corner of the model, rounded down. */
function originOf(m: LoadedModel): [number, number, number] {
	const low: [number, number, number] = [Infinity, Infinity, 0];
	const p = m.mesh.positions;
	for (let i = 0; i < p.length; i += 3) {
		low[0] = Math.min(low[0], p[i]!);
		low[1] = Math.min(low[1], p[i + 1]!);
	}
	return [Math.floor(low[0]), Math.floor(low[1]), 0];
}

/** Fonts for text in pictures, made from the shipped web fonts when the application is built. */
const fonts = (): string[] =>
	['plex-400.ttf', 'plex-600.ttf'].map((f) => fileURLToPath(new URL(`./fonts/${f}`, process.env['MALACHITE_DIST'] ? `file://${process.env['MALACHITE_DIST']}/` : import.meta.url))).filter((f) => existsSync(f));

export const presentOperations = [
	operation({
		id: 'exportSection', method: 'get', path: '/projects/{project}/exports/section.{format}', tag: 'Present', summary: 'The section as SVG, PNG or DXF', query: sectionQuery, reply: 'A file', media: 'image/svg+xml',
		run: async ({ params, query }) => {
			const format = params['format']!;
			if (!['svg', 'png', 'dxf'].includes(format)) fail('not-found', `a section can not be written as ${format}`, 'Choose svg, png or dxf.');
			const drawing = await sectionDrawing(params['project']!, { exaggeration: query.exaggeration, filled: query.filled, line: query.line });
			const name = `${fileName(drawing.title)}.${format}`;
			if (format === 'dxf') return download(sectionDxf(drawing), 'image/vnd.dxf', name);
			const svg = sectionSvg(drawing, query.width);
			if (format === 'svg') return download(svg, 'image/svg+xml', name);
			const png = new Resvg(svg, { font: { fontFiles: fonts(), loadSystemFonts: false, defaultFontFamily: 'IBM Plex Sans' } }).render().asPng();
			return download(new Uint8Array(png), 'image/png', name);
		}
	}),
	operation({
		id: 'exportGrid', method: 'get', path: '/projects/{project}/exports/grids/{what}.{format}', tag: 'Present', summary: 'A grid of the model as GeoTIFF (tif) or ASCII grid (asc): thickness or true-thickness of a unit, elevation or depth of its base', reply: 'A file', media: 'image/tiff',
		query: yup.object({ unit: yup.string().max(40).required(), cell: yup.number().positive() }).noUnknown(),
		run: async ({ params, query }) => {
			const { what, format } = params as { what: string; format: string };
			if (!['thickness', 'true-thickness', 'elevation', 'depth'].includes(what) || !['tif', 'asc'].includes(format)) fail('not-found', `there is no grid called ${what}.${format}`, 'There are thickness, true-thickness, elevation and depth, as tif or asc.');
			const m = await loadModel(params['project']!);
			const unit = m.units.findIndex((u) => u.id === query.unit);
			if (unit < 0) fail('not-found', `the column has no unit "${query.unit}"`, `It has ${m.units.map((u) => u.id).join(', ')}.`, 'unit');
			const raster = modelGrid(m, what, unit, query.cell);
			const name = `${fileName(`${m.units[unit]!.name} ${what}`)}.${format}`;
			return download(await runTask('writeGrid', { raster, format: format as 'tif' | 'asc', epsg: m.crs }), format === 'tif' ? 'image/tiff' : 'text/plain', name);
		}
	}),
	operation({
		id: 'exportMeshes', method: 'get', path: '/projects/{project}/exports/{what}.{format}', tag: 'Present', summary: 'Volumes or surfaces as OBJ, STL, glTF (glb) or VTK XML (vtp); volumes also as a table (csv); geology as geojson', reply: 'A file', media: 'application/octet-stream',
		run: async ({ params }) => {
			const { what, format } = params as { what: string; format: string };
			const m = await loadModel(params['project']!);
			const name = `${fileName(`${m.projectName} ${what}`)}.${format}`;
			if (what === 'geology' && format === 'geojson') return download(JSON.stringify(geologyGeoJson(geologyAtSurface(m.mesh, m.hasTerrain), m.units, toGeographic(m.crs))), 'application/geo+json', name);
			if (what === 'volumes' && format === 'csv')
				return download(
					writeCsv(['unit', 'name', `volume_${m.lengthUnit}3`], m.units.map((u, i) => [u.id, u.name, m.mesh.volumes.get(i) ?? 0])),
					'text/csv; charset=utf-8',
					name
				);
			if (!['volumes', 'surfaces'].includes(what)) fail('not-found', `there is no export called ${what}`, 'There are volumes, surfaces, geology and section.');
			const origin = originOf(m);
			switch (format) {
				case 'obj':
					return download(writeObj(meshes(m, what)), 'model/obj', name);
				case 'stl':
					return download(writeStl(meshes(m, what), origin), 'model/stl', name);
				case 'glb':
					return download(await writeGltf(meshes(m, what), origin), 'model/gltf-binary', name);
				case 'vtp':
					return download(writeVtp(meshes(m, what)), 'application/xml', name);
				default:
					return fail('not-found', `${what} can not be written as ${format}`, 'Choose obj, stl, glb or vtp.');
			}
		}
	}),
	operation({
		id: 'exportLog', method: 'post', path: '/projects/{project}/exports/log.{format}', tag: 'Present', summary: 'Logs of holes at a true scale as PDF or SVG, over as many pages as they need', reply: 'A file', media: 'application/pdf',
		body: yup.object({ spec: logSpecSchema.required(), paper: yup.array(yup.number().min(100).max(5000).required()).length(2) }).noUnknown(),
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
		id: 'exportArchive', method: 'get', path: '/projects/{project}/archive', tag: 'Present', summary: 'The project file with its data as one ZIP archive, for the command line and other servers', reply: 'A file', media: 'application/zip',
		run: async ({ params }) => {
			const { name, bytes } = await exportArchive(params['project']!);
			return download(bytes, 'application/zip', name);
		}
	}),
	operation({
		id: 'importArchive', method: 'post', path: '/archives', tag: 'Projects', summary: 'Start a project from an archive', body: 'bytes', reply: 'The project and the jobs that read its tables',
		run: async ({ body }) => {
			const parts: Uint8Array[] = [];
			let size = 0;
			for await (const part of (body ?? []) as unknown as AsyncIterable<Uint8Array>) {
				size += part.length;
				if (size > LARGEST_ARCHIVE) fail('file-too-large', 'the archive is larger than 256 MiB');
				parts.push(part);
			}
			return json(await importArchive(new Uint8Array(Buffer.concat(parts))), 201);
		}
	})
];

/** To longitude and latitude, or unchanged on a local grid. */
function toGeographic(crs: number): Project {
	const definition = systemOf(crs)?.definition;
	if (!definition) return (x, y) => [x, y];
	const transform = proj4(definition, 'EPSG:4326');
	return (x, y) => {
		const [lon, lat] = transform.forward([x, y]);
		return [Number(lon!.toFixed(8)), Number(lat!.toFixed(8))];
	};
}
