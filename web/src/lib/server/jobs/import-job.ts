import type { CalculatedColumn } from '#core/tables/calculated';
import { randomUUID } from 'node:crypto';
import { drizzle } from 'drizzle-orm/node-postgres';
import type { PoolClient } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { placeByPoints, readPicture, type CorePlace, type HungPicture, type Picture, type Placement } from '#core/formats/picture';
import type { CommonPoint } from '#core/geometry/similarity';
import { validateTrace } from '#core/sections/section';
import type { Coordinates } from '#core/geometry/coordinates';
import { canonicalJson } from '#core/lineage/key';
import { fail } from '#core/problem';
import type { TableKind } from '#core/tables/kinds';
import type { ColumnUnits, Mapping } from '#core/tables/mapping';
import type { Reading } from '#core/tables/raw-table';
import type { ValueRules } from '#core/tables/value-rules';
import { readPack, writePack } from '#core/formats/pack';
import { db, pgPool, type Executor } from '../db/client';
import * as schema from '../db/schema';
import { rowExclusion } from '../db/schema';
import { checkInput, checkProject, partsForThread, storeFindings } from '../objects/check';
import { announce } from '../objects/events';
import { fileBytes, fileRow } from '../objects/files';
import { sha256 } from '../objects/hash';
import { coordinatesFor, type CoordinateChoice } from '../objects/crs';
import { addSource, findProject, type SourceKind } from '../objects/projects';
import { storeResult } from '../objects/results';
import { tableHash } from '../objects/table-hash';
import { storeSummary } from '../objects/summaries';
import type { JobContext } from './queue';
import { runTableTask, runTask } from './threads';

/** Brings a stored file in. Everything it writes is one transaction. */
export async function runImport(c: JobContext): Promise<Record<string, unknown>> {
	const { fileId, name, as } = c.payload as { fileId: string; name: string; as: SourceKind };
	const file = await fileRow(c.projectId, fileId);
	c.progress('reading the file', 0);
	const bytes = await fileBytes(fileId);
	const { crs } = await findProject(db(), c.projectId);
	const { residuals, ...coordinates } = coordinatesFor(crs, c.payload as CoordinateChoice);
	const outcome = as === 'table' ? await importTable(c, file, name, bytes, coordinates) : await importThing(c, file, name, as, bytes, coordinates, crs);
	// Collars are checked against the terrain, and take their elevation from it.
	if (as === 'terrain') await checkProject(c.projectId);
	return { ...outcome, ...(residuals ? { residuals } : {}) };
}

type FileRow = Awaited<ReturnType<typeof fileRow>>;
type Transaction = Executor;

/** Runs some writes as one transaction on one connection, so that COPY can be part of it. */
export async function atOnce<T>(signal: AbortSignal, work: (tx: Transaction, client: PoolClient) => Promise<T>): Promise<T> {
	const client = await pgPool().connect();
	try {
		await client.query('begin');
		const result = await work(drizzle(client, { schema }), client);
		signal.throwIfAborted();
		await client.query('commit');
		return result;
	} catch (error) {
		await client.query('rollback').catch(() => {});
		throw error;
	} finally {
		client.release();
	}
}

const isTiff = (b: Uint8Array): boolean => (b[0] === 0x49 && b[1] === 0x49) || (b[0] === 0x4d && b[1] === 0x4d);

/** EPSG code that a raster or layer states itself, or null. */
async function statedSystem(as: SourceKind, bytes: Uint8Array, fileName: string, signal: AbortSignal): Promise<number | null> {
	if (as === 'terrain' || as === 'grid') return (await runTask('systemOfGrid', { bytes, fileName }, { signal })).epsg;
	if (as === 'layer') return (await runTask('readLayer', { bytes, fileName, coordinates: {} }, { signal })).epsg;
	return null;
}

/** Brings in a raster, a layer, a surface or a picture. */
async function importThing(c: JobContext, file: FileRow, name: string, as: Exclude<SourceKind, 'table'>, bytes: Uint8Array, given: Coordinates, crs: number): Promise<Record<string, unknown>> {
	const started = performance.now();
	const { every, clip, placement, points, hung, core, trustFile } = c.payload as { every?: number; clip?: [number, number, number, number]; placement?: Placement; points?: CommonPoint[]; hung?: HungPicture; core?: CorePlace; trustFile?: boolean };
	const stated = given.from || given.site ? null : await statedSystem(as, bytes, file.name, c.signal);
	let coordinates = given;
	if (stated && crs && stated !== crs) {
		if (!trustFile) return fail('other-system', `${file.name} is in EPSG:${stated}, the project in EPSG:${crs}`, `Say that its coordinates are in EPSG:${stated} (fromEpsg), or in which system they are.`, 'fromEpsg');
		coordinates = { ...given, ...coordinatesFor(crs, { fromEpsg: stated }) };
	}
	const message = { bytes, fileName: file.name, coordinates };
	let pack: Uint8Array | null = null;
	let state: Record<string, unknown>;
	let outcome: Record<string, unknown>;
	if (as === 'terrain' || as === 'grid') {
		const { pack: p, ...rest } = await runTask('readGrid', { ...message, ...(every ? { every } : {}), ...(clip ? { clip } : {}) }, { signal: c.signal });
		[pack, state] = [p, rest];
		outcome = { cells: rest.shape.nx * rest.shape.ny, missing: rest.missing, min: rest.min, max: rest.max };
	} else if (as === 'layer') {
		const { pack: p, ...rest } = await runTask('readLayer', message, { signal: c.signal });
		[pack, state] = [p, rest];
		outcome = { said: `${rest.points} points, ${rest.lines} lines, ${rest.polygons} polygons` };
	} else if (as === 'surface') {
		const { pack: p, ...rest } = await runTask('readSurface', message, { signal: c.signal });
		[pack, state] = [p, rest];
		outcome = { said: `${rest.triangles} triangles, ${rest.vertices} vertices` };
	} else {
		const tiff = isTiff(bytes) ? await runTask('readTiffPicture', { bytes, fileName: file.name }, { signal: c.signal }) : null;
		const picture: Omit<Picture, 'bytes'> = tiff ? { ...tiff, media: 'image/png' } : readPicture(bytes, file.name);
		// A browser shows no TIFF: what is shown is kept beside the raw file.
		if (tiff) pack = writePack({ info: {}, arrays: { png: tiff.png } });
		const size = { media: picture.media, width: picture.width, height: picture.height };
		if (hung) {
			validateTrace(hung.trace);
			if (hung.left === hung.right || hung.top <= hung.bottom) return fail('hung-picture', 'the picture has no size on the section', 'Its right edge must differ from its left, and its top must lie above its bottom.', 'hung');
			state = { ...size, hung };
		} else if (core) {
			if (!(core.to > core.from)) return fail('core-picture', 'the photograph has no length along the hole', 'Its lower end must be deeper than its upper end.', 'core');
			state = { ...size, core };
		} else state = { ...size, placement: points?.length ? placeByPoints(points) : (placement ?? picture.placement ?? fail('no-placement', `nothing says where ${file.name} lies`, 'Bring its world file in with it, or give control points.', 'placement')) };
		outcome = { said: `${picture.width} × ${picture.height} pixels` };
	}
	return atOnce(c.signal, async (tx) => {
		const contentHash = sha256(canonicalJson({ as, file: file.sha256, coordinates, every, clip, placement, points, hung, core }));
		const id = await addSource(tx, c.projectId, as, as, { name, state: { ...state, coordinates }, fileId: file.id, contentHash });
		if (pack) await storeResult(tx, { key: contentHash, projectId: c.projectId, kind: as, report: {}, seconds: (performance.now() - started) / 1000, pack: readPack(pack) });
		await announce(tx, { project: c.projectId, topic: 'objects' });
		return { object: id, ...outcome };
	});
}

/** How a table is to be read, as the job was given it. */
interface TablePayload {
	kind: TableKind;
	mapping: Mapping;
	reading?: Partial<Reading>;
	units?: ColumnUnits;
	values?: ValueRules;
	calculated?: CalculatedColumn[];
	/** Lines of the file that are left out. */
	excluded?: number[];
}

async function importTable(c: JobContext, file: FileRow, name: string, bytes: Uint8Array, coordinates: Coordinates): Promise<Record<string, unknown>> {
	const { kind, mapping, reading = {}, units = {}, values = {}, calculated = [], excluded = [] } = c.payload as unknown as TablePayload;
	// The id is new on every attempt; an attempt that died has stored nothing.
	const objectId = randomUUID();
	const before = await checkInput(db(), c.projectId);
	const tables = await partsForThread(db(), before.tables, before.options.lengthUnit);
	const read = await runTableTask(
		'importTable',
		{ projectId: c.projectId, key: '', tables, options: before.options, bytes, fileName: file.name, objectId, name, kind, mapping, reading, units, values, calculated, coordinates, excludedLines: excluded },
		{ signal: c.signal, progress: (w, s) => c.progress(w, 0.05 + 0.75 * s) }
	);
	c.progress('storing rows', 0.85);
	const hash = tableHash(file.sha256, read.state, [], read.excluded);
	await atOnce(c.signal, async (tx, client) => {
		await addSource(tx, c.projectId, 'table', kind, { id: objectId, name, state: read.state, fileId: file.id, contentHash: hash });
		await pipeline(Readable.from(copyChunks(objectId, read.chunks)), client.query(copyFrom('copy table_chunk (object_id, chunk, bytes) from stdin (format binary)')), { signal: c.signal });
		if (read.excluded.length) await tx.insert(rowExclusion).values(read.excluded.map((n) => ({ objectId, n })));
		await storeSummary(tx, c.projectId, hash, read.summary);
	});
	c.progress('storing findings', 0.95);
	const after = await checkInput(db(), c.projectId);
	await runTableTask('confirm', { projectId: c.projectId, objectId, hash, key: after.key });
	await storeFindings(c.projectId, after.key, read.findings);
	await announce(db(), { project: c.projectId, topic: 'objects' });
	const own = read.findings.filter((f) => f.table === objectId);
	return { object: objectId, rows: read.state.rowCount, held: new Set(own.filter((f) => f.severity === 'held').map((f) => f.row)).size, noted: own.filter((f) => f.severity === 'noted').length };
}

/** Chunks in PostgreSQL's binary COPY format. */
export function* copyChunks(objectId: string, chunks: readonly Uint8Array[]): Iterable<Buffer> {
	const id = Buffer.from(objectId.replaceAll('-', ''), 'hex');
	yield Buffer.concat([Buffer.from('PGCOPY\n\xff\r\n\0', 'latin1'), Buffer.alloc(8)]);
	for (const [n, bytes] of chunks.entries()) {
		const head = Buffer.alloc(2 + 4 + 16 + 4 + 4 + 4);
		head.writeInt16BE(3, 0);
		head.writeInt32BE(16, 2);
		id.copy(head, 6);
		head.writeInt32BE(4, 22);
		head.writeInt32BE(n, 26);
		head.writeInt32BE(bytes.length, 30);
		yield head;
		yield Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	}
	yield Buffer.from([0xff, 0xff]);
}
