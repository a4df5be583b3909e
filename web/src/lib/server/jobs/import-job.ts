import { randomUUID } from 'node:crypto';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { and, eq, isNotNull, isNull, or } from 'drizzle-orm';
import type { PoolClient } from 'pg';
import { from as copyFrom } from 'pg-copy-streams';
import { readPack, writePack } from '#core/formats/pack';
import { placeByPoints } from '#core/formats/picture';
import type { Coordinates } from '#core/geometry/coordinates';
import { canonicalJson } from '#core/lineage/key';
import { fail } from '#core/problem';
import { validateTrace } from '#core/sections/section';
import { placeMarks } from '#core/tables/marks';
import { db, onOneClient, pgPool, type Executor } from '../db/client';
import * as schema from '../db/schema';
import { cellEdit, incoming, rowExclusion, seenFinding } from '../db/schema';
import { actor } from '../store/actor';
import { checkIsDue, recordChange } from '../graph/changes';
import { checkProject, storeFindings } from '../services/check';
import { checkInput, partsForThread, type CheckInput } from '../graph/check-input';
import { coordinatesFor } from '../store/crs';
import { announce } from '../store/events';
import { fileBytes, fileRow } from '../store/files';
import { sha256 } from '../store/hash';
import { findProject, holdProject, inTurn } from '../store/projects';
import { addSource, type SourceKind } from '../graph/sources';
import { storeResult } from '../store/results';
import { readSource, type SourceReading } from '../graph/source-packs';
import { storeSummary } from '../services/summaries';
import { decodeChunks, type TableParts, type TableState } from '../threads/stored-table';
import { tableHash } from '../store/table-hash';
import type { JobContext } from './job-context';
import { readForeign } from '../threads/readers';
import type { LocatedFinding } from '../threads/open-tables';
import { runTableTask } from '../threads/threads';
import { payloadOf } from './payloads';

/** Brings a stored file in. Everything it writes, and that it is done, is one transaction. */
export async function runImport(c: JobContext): Promise<Record<string, unknown>> {
	const asked = payloadOf(c, 'import');
	const { fileId, name, as } = asked;
	const file = await fileRow(c.projectId, fileId);
	c.progress('reading the file', 0);
	const bytes = await fileBytes(fileId);
	const { crs } = await findProject(db(), c.projectId);
	// An archive brings the way along that was taken; people say where coordinates come from.
	const { residuals, ...coordinates } =
		(asked.given ?? asked.coordinates) ? { residuals: undefined, ...(asked.given ?? asked.coordinates) } : coordinatesFor(crs, asked);
	const said = residuals ? { residuals } : {};
	const outcome =
		as === 'table'
			? await importTable(c, file, name, bytes, coordinates, said)
			: await importThing(c, file, name, as, bytes, coordinates, crs, said);
	// Collars are checked against the terrain, and take their elevation from it.
	if (as === 'terrain') await checkProject(c.projectId);
	return outcome;
}

type FileRow = Awaited<ReturnType<typeof fileRow>>;

/** Runs some writes of a job as one transaction that holds its project, on one connection, so that COPY can be part of it. */
export function atOnce<T>({ projectId, signal }: JobContext, work: (tx: Executor, client: PoolClient) => Promise<T>): Promise<T> {
	return inTurn(projectId, () =>
		onOneClient(async (tx, client) => {
			await holdProject(tx, projectId);
			const result = await work(tx, client);
			signal.throwIfAborted();
			return result;
		})
	);
}

/** A source has come in: that is a change like others, its card is done with, and so is the job. */
async function cameIn(tx: Executor, c: JobContext, id: string, name: string, outcome: Record<string, unknown>): Promise<void> {
	const { incomingId, objectId } = payloadOf(c, 'import');
	if (incomingId) await tx.delete(incoming).where(and(eq(incoming.id, incomingId), eq(incoming.projectId, c.projectId)));
	// What an archive brings was there before: there is nothing to undo.
	if (!objectId) await recordChange(tx, c.projectId, `Bring in ${name}`, [{ kind: 'removed', what: 'object', id, after: false }]);
	else {
		await checkIsDue(tx, c.projectId);
		await announce(tx, { project: c.projectId, topic: 'objects' });
	}
	await c.done(tx, outcome);
}

/** Another source of the name, which came in meanwhile. @throws ProblemError `name-taken` */
export async function refuseTakenName(tx: Executor, projectId: string, name: string): Promise<void> {
	const [taken] = await tx
		.select({ id: schema.object.id })
		.from(schema.object)
		.where(
			and(
				eq(schema.object.projectId, projectId),
				eq(schema.object.name, name),
				or(isNotNull(schema.object.fileId), eq(schema.object.kind, 'table')),
				isNull(schema.object.removedAt)
			)
		);
	if (taken) fail('name-taken', `there is a source called "${name}" already`, 'Choose another name.', 'name');
}

/** Brings in a raster, a layer, a surface or a picture. */
async function importThing(
	c: JobContext,
	file: FileRow,
	name: string,
	as: Exclude<SourceKind, 'table'>,
	bytes: Uint8Array,
	given: Coordinates,
	crs: number,
	said: Record<string, unknown>
): Promise<Record<string, unknown>> {
	const started = performance.now();
	const asked = payloadOf(c, 'import');
	const { every, clip, part, placement, points, hung, core, trustFile } = asked;
	const systemAs = as === 'terrain' || as === 'grid' ? 'raster' : as === 'layer' ? 'layer' : null;
	const told =
		given.from || given.site || !systemAs
			? null
			: await readForeign('systemOf', { bytes, fileName: file.name, as: systemAs, ...(part ? { part } : {}) }, { signal: c.signal });
	const stated = told?.epsg ?? null;
	if (told?.system && crs && !asked.given && asked.fromEpsg === undefined)
		return fail(
			'other-system',
			`${file.name} is in "${told.system}", which has no EPSG code`,
			`Say in which system its coordinates are (fromEpsg): ${crs} if it is that of the project.`,
			'fromEpsg'
		);
	let coordinates = given;
	if (stated && crs && stated !== crs && !asked.given) {
		if (!trustFile)
			return fail(
				'other-system',
				`${file.name} is in EPSG:${stated}, the project in EPSG:${crs}`,
				`Say that its coordinates are in EPSG:${stated} (fromEpsg), or in which system they are.`,
				'fromEpsg'
			);
		coordinates = { ...given, ...coordinatesFor(crs, { fromEpsg: stated }) };
	}
	let pack: Uint8Array | null = null;
	let state: Record<string, unknown>;
	let outcome: Record<string, unknown>;
	const how: SourceReading = { ...(every ? { every } : {}), ...(clip ? { clip } : {}), ...(part ? { part } : {}) };
	if (as === 'picture') {
		const picture = await readForeign('readPicture', { bytes, fileName: file.name }, { signal: c.signal });
		// A browser shows no TIFF: what is shown is kept beside the raw file.
		if (picture.png) pack = writePack({ info: {}, arrays: { png: picture.png } });
		const size = { media: picture.media, width: picture.width, height: picture.height };
		if (hung) {
			validateTrace(hung.trace);
			if (hung.left === hung.right || hung.top <= hung.bottom)
				return fail(
					'hung-picture',
					'the picture has no size on the section',
					'Its right edge must differ from its left, and its top must lie above its bottom.',
					'hung'
				);
			state = { ...size, hung };
		} else if (core) {
			if (!(core.to > core.from))
				return fail(
					'core-picture',
					'the photograph has no length along the hole',
					'Its lower end must be deeper than its upper end.',
					'core'
				);
			state = { ...size, core };
		} else
			state = {
				...size,
				placement: points?.length
					? placeByPoints(points)
					: (placement ??
						picture.placement ??
						fail(
							'no-placement',
							`nothing says where ${file.name} lies`,
							'Bring its world file in with it, or give control points.',
							'placement'
						))
			};
		outcome = { said: `${picture.width} × ${picture.height} pixels` };
	} else {
		const { pack: p, ...rest } = await readSource(as, bytes, file.name, coordinates, how, c.signal);
		[pack, state] = [p, { ...rest, how }];
		outcome =
			'shape' in rest
				? { cells: rest.shape.nx * rest.shape.ny, missing: rest.missing, min: rest.min, max: rest.max, notes: rest.notes }
				: {
						said:
							'vertices' in rest
								? `${rest.triangles} triangles, ${rest.vertices} vertices`
								: [`${rest.points} points, ${rest.lines} lines, ${rest.polygons} polygons`, ...rest.notes].join('; ')
					};
	}
	return atOnce(c, async (tx) => {
		await refuseTakenName(tx, c.projectId, name);
		const contentHash = sha256(canonicalJson({ as, file: file.sha256, coordinates, ...how, placement, points, hung, core }));
		const own = asked.objectId;
		const id = await addSource(tx, c.projectId, c.id, as, {
			...(own ? { id: own } : {}),
			name,
			state: { ...state, coordinates },
			fileId: file.id,
			contentHash
		});
		if (pack)
			await storeResult(tx, {
				key: contentHash,
				projectId: c.projectId,
				kind: as,
				report: {},
				seconds: (performance.now() - started) / 1000,
				pack: readPack(pack)
			});
		const whole = { object: id, ...outcome, ...said };
		await cameIn(tx, c, id, name, whole);
		return whole;
	});
}

async function importTable(
	c: JobContext,
	file: FileRow,
	name: string,
	bytes: Uint8Array,
	coordinates: Coordinates,
	said: Record<string, unknown>
): Promise<Record<string, unknown>> {
	const asked = payloadOf(c, 'import');
	const { reading = {}, values = {}, written, calculated = [], excluded: lines = [], marks, appended = [], mapping: given } = asked;
	const kind = asked.kind ?? fail('unmapped-columns', 'a table needs its kind and the roles of its columns', undefined, 'kind');
	// The id is new on every attempt, or given by an archive; an attempt that died has stored nothing.
	const objectId = asked.objectId ?? randomUUID();
	const { lengthUnit } = await findProject(db(), c.projectId);
	const cut = await readForeign(
		'readTableFile',
		{
			bytes,
			fileName: file.name,
			kind,
			...(given ? { mapping: given } : {}),
			lengthUnit,
			reading,
			excludedLines: lines,
			validate: true,
			appended: await Promise.all(
				appended.map(async (id) => ({ bytes: await fileBytes(id), fileName: (await fileRow(c.projectId, id)).name }))
			)
		},
		{ signal: c.signal, seconds: 600 }
	);
	c.progress('reading columns', 0.3);
	const state: TableState = {
		kind,
		mapping: cut.mapping,
		units: asked.units ?? (given ? {} : cut.units),
		values,
		coordinates,
		written: written ?? cut.written,
		...cut.state,
		...(calculated.length ? { calculated } : {}),
		...(appended.length ? { appended } : {})
	};
	const own = marks
		? placeMarks({ ...state, ...decodeChunks(cut.chunks, state.header.length) }, marks)
		: { edits: [], excluded: [], seen: [] };
	const excluded = [...new Set([...cut.excluded, ...own.excluded.map((e) => e.n)])].sort((a, b) => a - b);
	const before = await checkInput(db(), c.projectId);
	const checkedLater = await othersFollow(c);
	const tables = checkedLater ? [] : await partsForThread(db(), before.tables, before.options.lengthUnit);
	const hash = tableHash(`${file.sha256} ${appended.join(' ')}`.trim(), state, own.edits, excluded);
	const parts: TableParts = { id: objectId, hash, name, state, chunks: cut.chunks, edits: own.edits, excluded };
	const read = await runTableTask(
		'importTable',
		{ projectId: c.projectId, key: '', settingsKey: before.settingsKey, tables, options: before.options, table: parts, checkedLater },
		{ signal: c.signal, progress: (w, s) => c.progress(w, 0.35 + 0.45 * s) }
	);
	c.progress('storing rows', 0.85);
	const found = read.findings.filter((f) => f.table === objectId);
	const outcome = {
		object: objectId,
		rows: state.rowCount,
		...(checkedLater
			? {}
			: { held: rowsOf(found.filter((f) => f.severity === 'held')), noted: found.filter((f) => f.severity === 'noted').length }),
		...said
	};
	await atOnce(c, async (tx, client) => {
		await refuseTakenName(tx, c.projectId, name);
		await addSource(tx, c.projectId, c.id, 'table', { id: objectId, name, state, fileId: file.id, contentHash: hash });
		await storeRows(tx, client, objectId, 1, { chunks: cut.chunks, edits: own.edits, excluded, seen: own.seen }, c.signal, own.excluded);
		await storeSummary(tx, c.projectId, hash, read.summary);
		await cameIn(tx, c, objectId, name, outcome);
	});
	c.progress('storing findings', 0.95);
	if (!checkedLater) await keepFindings(before, c.projectId, objectId, read.findings);
	// Those that were to come after this one may have come first.
	else if (!(await othersFollow(c))) await checkProject(c.projectId);
	return outcome;
}

/**
 * Whether another table of the same archive is still to come that was asked for after this one: then a check of everything is left to the last of
 * them. One that dies leaves the check due, and what is due is made up for.
 */
async function othersFollow(c: JobContext): Promise<boolean> {
	if (!payloadOf(c, 'import').objectId) return false;
	const { rows } = await pgPool().query(
		`select 1 from job j, job own where own.id = $1 and j.project_id = own.project_id and j.kind = 'import' and j.state in ('waiting', 'running')
		 and j.payload ->> 'as' = 'table' and (j.created_at, j.id) > (own.created_at, own.id) limit 1`,
		[c.id]
	);
	return rows.length > 0;
}

/** Rows that some findings are about. */
const rowsOf = (found: readonly LocatedFinding[]): number =>
	new Set(found.filter((f) => !f.count).map((f) => f.row)).size + found.reduce((n, f) => n + (f.count ?? 0), 0);

/** Findings of a check that went beside the writing of a table: kept when nothing else changed meanwhile, else made anew. */
async function keepFindings(before: CheckInput, projectId: string, objectId: string, findings: readonly LocatedFinding[]): Promise<void> {
	const after = await checkInput(db(), projectId);
	const known = new Set(before.tables.map((t) => `${t.id} ${t.hash}`));
	const others = after.tables.filter((t) => t.id !== objectId);
	const same =
		others.length === before.tables.length &&
		others.every((t) => known.has(`${t.id} ${t.hash}`)) &&
		after.settingsKey === before.settingsKey;
	if (!same) return void (await checkProject(projectId));
	await runTableTask('confirm', { projectId, key: after.key });
	if (!(await storeFindings(after, findings, 'all'))) await checkProject(projectId);
}

/** Everything that stands under the number of a version of a table. */
interface StoredRows {
	chunks: readonly Uint8Array[];
	edits: readonly { n: number; position: number; value: string; original: string; editedBy?: string; editedAt?: Date }[];
	excluded: readonly number[];
	seen: readonly { rule: string; n: number; reason: string; seenBy: string; seenAt: Date }[];
}

const BATCH = 5000;

/** Stores the rows of a version of a table with its edits, exclusions and marks. @param by who left rows out, and when, where that is known */
export async function storeRows(
	tx: Executor,
	client: PoolClient,
	objectId: string,
	version: number,
	rows: StoredRows,
	signal: AbortSignal,
	by: readonly { n: number; by: string; at: Date }[] = []
): Promise<void> {
	await pipeline(
		Readable.from(copyChunks(objectId, version, rows.chunks)),
		client.query(copyFrom('copy table_chunk (object_id, version, chunk, bytes) from stdin (format binary)')),
		{ signal }
	);
	const name = actor().name;
	const who = new Map(by.map((e) => [e.n, e]));
	const own = { objectId, version };
	for (let i = 0; i < rows.edits.length; i += BATCH)
		await tx.insert(cellEdit).values(rows.edits.slice(i, i + BATCH).map((e) => ({ ...own, editedBy: name, ...e })));
	for (let i = 0; i < rows.excluded.length; i += BATCH)
		await tx
			.insert(rowExclusion)
			.values(
				rows.excluded
					.slice(i, i + BATCH)
					.map((n) => ({ ...own, n, excludedBy: who.get(n)?.by ?? name, ...(who.has(n) ? { excludedAt: who.get(n)!.at } : {}) }))
			);
	for (let i = 0; i < rows.seen.length; i += BATCH)
		await tx.insert(seenFinding).values(rows.seen.slice(i, i + BATCH).map((s) => ({ ...own, ...s })));
}

/** Chunks in PostgreSQL's binary COPY format. */
function* copyChunks(objectId: string, version: number, chunks: readonly Uint8Array[]): Iterable<Buffer> {
	const id = Buffer.from(objectId.replaceAll('-', ''), 'hex');
	yield Buffer.concat([Buffer.from('PGCOPY\n\xff\r\n\0', 'latin1'), Buffer.alloc(8)]);
	for (const [n, bytes] of chunks.entries()) {
		const head = Buffer.alloc(2 + 4 + 16 + 4 + 4 + 4 + 4 + 4);
		head.writeInt16BE(4, 0);
		head.writeInt32BE(16, 2);
		id.copy(head, 6);
		head.writeInt32BE(4, 22);
		head.writeInt32BE(version, 26);
		head.writeInt32BE(4, 30);
		head.writeInt32BE(n, 34);
		head.writeInt32BE(bytes.length, 38);
		yield head;
		yield Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	}
	yield Buffer.from([0xff, 0xff]);
}
