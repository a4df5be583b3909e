import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import * as yup from 'yup';
import { guessKind, guessMapping, guessUnits, missingRoles, validateMapping } from '#core/tables/mapping';
import { firstRows, rowOf, type Reading } from '#core/tables/raw-table';
import { readTable } from '#core/tables/table';
import { checkTables } from '#core/checks/check';
import { TABLE_KINDS, type TableKind } from '#core/tables/kinds';
import { textRecordSchema, traceSchema } from '#core/project/guards';
import { readingSchema, valueRulesSchema } from '#core/project/project-file';
import { fail, ProblemError } from '#core/problem';
import { db } from '../db/client';
import { file, object } from '../db/schema';
import { lockObject } from '../objects/changes';
import { checkProject } from '../objects/check';
import { fileBytes, fileRow, LARGEST_FILE, storeFile } from '../objects/files';
import { coordinatesFor, systemOf } from '../objects/crs';
import { findProject, SOURCE_KINDS, type SourceKind } from '../objects/projects';
import { holeNames } from '../objects/tables';
import type { TableState } from '../objects/stored-table';
import { enqueue } from '../jobs/queue';
import { isAsc } from '#core/formats/asc';
import { meshFormat } from '#core/formats/mesh-readers';
import { coreOfName, isPicture, readPicture, type Placement } from '#core/formats/picture';
import { vectorFormat } from '#core/formats/vectors';
import { isZip } from '#core/formats/xlsx';
import type { CommonPoint } from '#core/geometry/similarity';
import { partsOfFile, readTabular, tabularFormat } from '#core/formats/tabular';
import { runTask } from '../jobs/threads';
import { loadGraph } from '../objects/graph';
import { sourceFile } from '../objects/source-files';
import { download, operation } from './operation';

const numbers = (count: number) => (v: unknown) => v === undefined || (Array.isArray(v) && v.length === count && v.every((x) => typeof x === 'number' && Number.isFinite(x)));
const boxSchema = yup.mixed<[number, number, number, number]>().test('box', 'must be four numbers: least x and y, greatest x and y', numbers(4));
const placementSchema = yup.mixed<Placement>().test('placement', 'must be the six numbers a to f', (v) => v === undefined || (typeof v === 'object' && ['a', 'b', 'c', 'd', 'e', 'f'].every((k) => Number.isFinite((v as unknown as Record<string, unknown>)[k]))));
/** A picture hung on a section: its trace, and where its top left and bottom right lie along it and in elevation. */
const hungSchema = yup
	.object({ trace: traceSchema, left: yup.number().required(), top: yup.number().required(), right: yup.number().required(), bottom: yup.number().required() })
	.noUnknown()
	.default(undefined)
	.optional();
/** A photograph of core: its hole, and the depths of its ends. */
const coreSchema = yup
	.object({ hole: yup.string().trim().min(1).max(200).required(), from: yup.number().min(0).required(), to: yup.number().min(0).required() })
	.noUnknown()
	.default(undefined)
	.optional();
const coordinateFields = {
	fromEpsg: yup.number().integer().min(1).max(999_999),
	sitePoints: yup.array(yup.mixed<CommonPoint>().required().test('point', 'must be four numbers: site easting and northing, project easting and northing', numbers(4))).max(200),
	verticalShift: yup.number().min(-1e5).max(1e5)
};
const kindSchema = yup.string<TableKind>().oneOf(TABLE_KINDS.map((k) => k.kind));
const PREVIEW_BYTES = 2 * 1024 * 1024;

/** As much of a file as its format needs to show its first rows: of delimited text the first part, else the whole. */
async function tableBytes(head: Uint8Array, fileId: string, size: number): Promise<Uint8Array> {
	if (head.length === 0 || tabularFormat(head) === 'delimited') return wholeLines(head, size);
	return size > head.length ? fileBytes(fileId) : head;
}

/** The first part of a text file, cut after its last whole line. */
function wholeLines(bytes: Uint8Array, size: number): Uint8Array {
	if (size <= bytes.length) return bytes;
	const end = bytes.lastIndexOf(10);
	return end > 0 ? bytes.subarray(0, end + 1) : bytes;
}

interface Asked {
	kind?: TableKind | undefined;
	mapping?: Record<string, string> | undefined;
	reading?: Partial<Reading> | undefined;
	units?: Record<string, string> | undefined;
}

/** What a file is taken to be, and its first rows as they are understood. */
async function preview(projectId: string, fileId: string, asked: Asked = {}) {
	const f = await fileRow(projectId, fileId);
	const head = await fileBytes(fileId, PREVIEW_BYTES);
	const other = await previewOther(f, head);
	if (other?.as === 'picture') return { file: f, ...other, core: coreOfName(f.name, await holeNames(db(), projectId)) };
	if (other) return { file: f, ...other };
	const p = await findProject(db(), projectId);
	const bytes = await tableBytes(head, f.id, f.size);
	const { format, parts, notes } = await partsOfFile(bytes, f.name);
	const raw = await readTabular(bytes, f.name, asked.reading ?? {});
	const known = { holes: await holeNames(db(), projectId) };
	const remembered = asked.kind || asked.mapping ? null : await rememberedReading(projectId, raw.header);
	const kind = asked.kind ?? remembered?.kind ?? guessKind(raw, f.name, known);
	const mapping = asked.mapping ?? remembered?.mapping ?? guessMapping(raw, kind, known);
	const units = asked.units ?? remembered?.units ?? guessUnits(raw, kind, mapping, p.lengthUnit);
	const first = firstRows(raw, 12);
	// Trouble is shown in place only where one row tells it: holes are not known here.
	let trouble: { row: number; column: string; message: string }[] = [];
	let problem: { message: string; hint?: string } | null = null;
	try {
		const table = readTable(f.name, kind, first, mapping, { units, lengthUnit: p.lengthUnit });
		trouble = checkTables([table], { lengthUnit: p.lengthUnit, settings: { 'unknown-hole': { silenced: true } } })
			.findings.filter((x) => ['not-a-number', 'out-of-range', 'from-not-above-to', 'bad-date'].includes(x.rule) && x.column && table.headers[x.column])
			.map((x) => ({ row: x.row, column: table.headers[x.column!]!, message: x.message }));
	} catch (error) {
		if (!(error instanceof ProblemError)) throw error;
		problem = error.problem;
	}
	return {
		file: f,
		as: 'table' as const,
		format,
		parts,
		notes: notes.slice(0, 100),
		kind,
		header: raw.header,
		stated: raw.units,
		reading: raw.reading,
		rows: Array.from({ length: first.rowCount }, (_, n) => rowOf(first, n)),
		mapping,
		units,
		remembered: remembered !== null,
		missing: missingRoles(kind, mapping),
		trouble,
		problem
	};
}

const TIFFS = [0x49492a00, 0x4d4d002a, 0x49492b00, 0x4d4d002b];

/** A file that holds no table: raster, layer, surface or picture. */
async function previewOther(f: { id: string; name: string; size: number }, head: Uint8Array) {
	const whole = () => fileBytes(f.id);
	const message = async () => ({ bytes: await whole(), fileName: f.name, coordinates: {} });
	const isTiff = head.length >= 4 && TIFFS.includes(new DataView(head.buffer, head.byteOffset, 4).getUint32(0));
	const colored = isTiff ? await runTask('readTiffPicture', { bytes: await whole(), fileName: f.name }) : null;
	if (colored) return { as: 'picture' as const, epsg: colored.epsg, says: `${colored.width} × ${colored.height} pixels`, picture: { width: colored.width, height: colored.height, placement: colored.placement } };
	if (isTiff || isAsc(new TextDecoder('latin1').decode(head.subarray(0, 200)))) {
		const read = await runTask('readGrid', await message());
		return { as: 'terrain' as const, epsg: read.epsg, terrain: { ...read.shape, epsg: read.epsg, min: read.min, max: read.max, missing: read.missing } };
	}
	if (/\.tiff?$/i.test(f.name)) return fail('not-a-geotiff', `${f.name} is called a TIFF, but is none`, 'Choose the file again; a terrain is read from GeoTIFF or an ASCII grid.', f.name);
	if (meshFormat(head, f.name)) {
		const read = await runTask('readSurface', await message());
		return { as: 'surface' as const, epsg: null, says: `${read.triangles} triangles` };
	}
	const full = f.size > head.length && isZip(head) ? await whole() : head;
	if (vectorFormat(full, f.name)) {
		const read = await runTask('readLayer', await message());
		return { as: 'layer' as const, epsg: read.epsg, says: `${read.points} points, ${read.lines} lines, ${read.polygons} polygons`, properties: read.properties };
	}
	if (isPicture(full, f.name)) {
		const { width, height, placement } = readPicture(await whole(), f.name);
		return { as: 'picture' as const, epsg: null, says: `${width} × ${height} pixels`, picture: { width, height, placement } };
	}
	return null;
}

/** How the last table with the same columns was read; in this project first, then in any other. */
async function rememberedReading(projectId: string, header: readonly string[]): Promise<Pick<TableState, 'kind' | 'mapping' | 'units'> | null> {
	const rows = await db()
		.select({ state: object.state, projectId: object.projectId })
		.from(object)
		.where(and(eq(object.kind, 'table'), sql`${object.state}->'header' = ${JSON.stringify(header)}::jsonb`))
		.orderBy(sql`(${object.projectId} = ${projectId}) desc`, desc(object.updatedAt))
		.limit(1);
	return (rows[0]?.state as unknown as TableState | undefined) ?? null;
}

export const gatherOperations = [
	operation({
		id: 'coordinateSystem', method: 'get', path: '/crs/{code}', tag: 'Gather', summary: 'A coordinate system by its EPSG code', reply: 'Name, unit and definition',
		run: async ({ params }) => systemOf(Number(params['code'])) ?? fail('not-found', `EPSG:${params['code']} is not known`, 'Look the code up in the EPSG register.')
	}),
	operation({
		id: 'listKinds', method: 'get', path: '/table-kinds', tag: 'Gather', summary: 'Kinds of table and the roles that their columns can take', reply: 'Kinds', run: async () => ({ kinds: TABLE_KINDS })
	}),
	operation({
		id: 'uploadFile', method: 'post', path: '/projects/{project}/files', tag: 'Gather', summary: `Store a raw file (up to ${LARGEST_FILE / 1048576} MiB) and see what it is taken to be`, body: 'bytes', reply: 'The file and a preview',
		query: yup.object({ name: yup.string().trim().min(1).max(300).required() }).noUnknown(),
		run: async ({ params, query, body }) => {
			await findProject(db(), params['project']!);
			const name = query.name.replace(/[\\/]/g, '_').replace(/[\u0000-\u001f]/g, '');
			if (!body) return fail('empty-file', `${name} is empty`, 'Choose the file again; nothing was stored.', name);
			const stored = await storeFile(params['project']!, name, body);
			try {
				return await preview(params['project']!, stored.id);
			} catch (error) {
				// What can not be read is not kept.
				await db().delete(file).where(eq(file.id, stored.id));
				throw error;
			}
		}
	}),
	operation({
		id: 'previewFile', method: 'post', path: '/projects/{project}/files/{file}/preview', tag: 'Gather', summary: 'The first rows of a stored file under another kind or other roles', reply: 'A preview',
		body: yup.object({ kind: kindSchema, mapping: textRecordSchema, reading: readingSchema.default(undefined).optional(), units: textRecordSchema }).noUnknown(),
		run: async ({ params, body }) => preview(params['project']!, params['file']!, body)
	}),
	operation({
		id: 'importFile', method: 'post', path: '/projects/{project}/imports', tag: 'Gather', summary: 'Bring a stored file in as a table or as terrain, in the background', reply: 'The job',
		body: yup.object({ fileId: yup.string().uuid().required(), name: yup.string().trim().min(1).max(200).required(), as: yup.string<SourceKind>().oneOf(SOURCE_KINDS).required(), every: yup.number().integer().min(1).max(1000), clip: boxSchema, placement: placementSchema, points: yup.array(yup.mixed<CommonPoint>().required().test('point', 'must be four numbers: column, row, easting, northing', numbers(4))).max(100), hung: hungSchema, core: coreSchema, ...coordinateFields, kind: kindSchema, mapping: textRecordSchema, reading: readingSchema.default(undefined).optional(), units: textRecordSchema, values: valueRulesSchema }).noUnknown(),
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			const f = await fileRow(projectId, body.fileId);
			const taken = await db().select({ id: object.id }).from(object).where(and(eq(object.projectId, projectId), eq(object.name, body.name), inArray(object.kind, [...SOURCE_KINDS])));
			if (taken.length) fail('name-taken', `there is a ${body.as} called "${body.name}" already`, 'Choose another name.', 'name');
			const { crs } = await findProject(db(), projectId);
			coordinatesFor(crs, body);
			if (body.as === 'table') {
				if (!body.kind || !body.mapping) return fail('unmapped-columns', 'a table needs its kind and the roles of its columns', undefined, 'mapping');
				const raw = await readTabular(await tableBytes(await fileBytes(body.fileId, PREVIEW_BYTES), f.id, f.size), f.name, body.reading ?? {});
				validateMapping(body.kind, raw.header, body.mapping);
			}
			return { job: await enqueue(projectId, 'import', `Read ${body.name}`, body) };
		}
	}),
	operation({
		id: 'saveSource', method: 'get', path: '/projects/{project}/sources/{object}/file.{format}', tag: 'Gather', summary: 'A source with its edits as a file: tables as csv, xlsx, las; rasters as tif, asc; layers as gpkg, geojson, zip (shapefiles), dxf; surfaces as obj, stl, ply, glb', reply: 'A file', media: 'application/octet-stream',
		run: async ({ params }) => {
			const { crs } = await findProject(db(), params['project']!);
			const node = (await loadGraph(db(), params['project']!)).find((o) => o.id === params['object']) ?? fail('not-found', 'there is no such object in this project');
			const f = await sourceFile(node, params['format']!, crs);
			return download(f.bytes, f.media, f.name);
		}
	}),
	operation({
		id: 'deleteSource', method: 'delete', path: '/projects/{project}/sources/{object}', tag: 'Gather', summary: 'Take a table or a terrain out of the project', reply: 'Nothing',
		run: async ({ params }) => {
			await db().transaction(async (tx) => {
				const row = await lockObject(tx, params['project']!, params['object']!, undefined);
				if (!(SOURCE_KINDS as readonly string[]).includes(row.kind)) fail('not-a-source', `${row.name} did not come from a file`);
				await tx.delete(object).where(eq(object.id, row.id));
			});
			await checkProject(params['project']!);
		}
	})
];
