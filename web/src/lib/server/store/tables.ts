import { and, asc, eq, gte, inArray, isNull, lt } from 'drizzle-orm';
import type { LogLayer } from '#core/tables/version';
import { fail, ProblemError } from '#core/problem';
import type { TableKind } from '#core/tables/kinds';
import type { Executor } from '../db/client';
import type { TableMarks } from '#core/tables/marks';
import { cellEdit, object, project, rowExclusion, seenFinding, tableChunk } from '../db/schema';
import { CHUNK_ROWS, columnCells, decodeChunks, type TableParts, type TableState } from '../threads/stored-table';
import { tableState } from '../threads/stored-table';

export interface StoredTable {
	id: string;
	name: string;
	hash: string;
	revision: number;
	/** Which of its stored versions counts. */
	version: number;
	state: TableState;
	/** Unit of the project. */
	lengthUnit: string;
}

/** An object that can not be read: what is stored of it was damaged. */
export interface Damage {
	object: string;
	kind: string;
	name: string;
	/** What is wrong with it. */
	what: string;
}

/** Reads an object; where it is damaged that is put on a list, for who shows what is left. @param damaged without it, reading fails */
export function readOr<T>(o: { id: string; kind: string; name: string }, read: () => T, damaged?: Damage[]): T | null {
	try {
		return read();
	} catch (error) {
		if (!damaged || !(error instanceof ProblemError) || error.problem.kind !== 'damaged-state') throw error;
		if (!damaged.some((d) => d.object === o.id)) damaged.push({ object: o.id, kind: o.kind, name: o.name, what: error.problem.message });
		return null;
	}
}

/** The object of a table as a table. @throws ProblemError `damaged-state` */
export const storedTable = (
	o: Pick<typeof object.$inferSelect, 'id' | 'name' | 'contentHash' | 'revision' | 'version' | 'state'>,
	lengthUnit: string
): StoredTable => ({
	id: o.id,
	name: o.name,
	hash: o.contentHash,
	revision: o.revision,
	version: o.version,
	state: tableState(o.state, `"${o.name}"`),
	lengthUnit
});

/**
 * Tables of a project, of some kinds or all, in the order in which they came.
 * @param damaged gets those that can not be read, which are left out then
 * @throws ProblemError `damaged-state` for one, where nobody asks for them
 */
export async function listTables(
	on: Executor,
	projectId: string,
	kinds?: readonly TableKind[],
	damaged?: Damage[]
): Promise<StoredTable[]> {
	const rows = await on
		.select({ object, lengthUnit: project.lengthUnit })
		.from(object)
		.innerJoin(project, eq(project.id, object.projectId))
		.where(and(eq(object.projectId, projectId), eq(object.kind, 'table'), isNull(object.removedAt)))
		.orderBy(object.createdAt, object.id);
	return rows
		.flatMap(({ object: r, lengthUnit }) => {
			const table = readOr(r, () => storedTable(r, lengthUnit), damaged);
			return table ? [table] : [];
		})
		.filter((t) => !kinds || kinds.includes(t.state.kind));
}

/** Everything a table is made of. @param withRows without, the chunks are left out: for a thread that has them already */
export async function tableParts(on: Executor, table: Omit<StoredTable, 'lengthUnit'>, withRows = true): Promise<TableParts> {
	if (table.state.versionOf) {
		const source = await tableParts(on, await sourceTable(on, table.state.versionOf), withRows);
		const layer = await layerOf(on, table);
		return { ...source, id: table.id, hash: table.hash, name: table.name, state: table.state, layers: [...(source.layers ?? []), layer] };
	}
	const chunks = withRows
		? await on
				.select({ bytes: tableChunk.bytes })
				.from(tableChunk)
				.where(and(eq(tableChunk.objectId, table.id), eq(tableChunk.version, table.version)))
				.orderBy(asc(tableChunk.chunk))
		: [];
	const { edits, excluded } = await marksOf(on, table);
	return {
		id: table.id,
		hash: table.hash,
		name: table.name,
		state: table.state,
		chunks: chunks.map((c) => new Uint8Array(c.bytes.buffer, c.bytes.byteOffset, c.bytes.byteLength)),
		edits: edits.map(({ n, position, value }) => ({ n, position, value })),
		excluded
	};
}

/** Edits and exclusions of the rows of a table, as its own. */
async function marksOf(on: Executor, table: Pick<StoredTable, 'id' | 'version'>) {
	const edits = await on
		.select({ n: cellEdit.n, position: cellEdit.position, value: cellEdit.value, original: cellEdit.original })
		.from(cellEdit)
		.where(and(eq(cellEdit.objectId, table.id), eq(cellEdit.version, table.version)))
		.orderBy(asc(cellEdit.n), asc(cellEdit.position));
	const excluded = await on
		.select({ n: rowExclusion.n })
		.from(rowExclusion)
		.where(and(eq(rowExclusion.objectId, table.id), eq(rowExclusion.version, table.version)))
		.orderBy(asc(rowExclusion.n));
	return { edits, excluded: excluded.map((e) => e.n) };
}

/** What a version of a log lays over what it goes out from. */
export async function layerOf(on: Executor, version: Pick<StoredTable, 'id' | 'version' | 'state'>): Promise<LogLayer> {
	return { recode: version.state.recode ?? {}, added: version.state.added ?? [], ...(await marksOf(on, version)) };
}

/** The table, or version, that a version of a log goes out from; also one that was taken out of the project. @throws ProblemError `not-found` */
export async function sourceTable(on: Executor, id: string): Promise<Omit<StoredTable, 'lengthUnit'>> {
	const [r] = await on.select().from(object).where(eq(object.id, id));
	if (!r) return fail('not-found', 'the table that this log goes out from is not kept any more');
	return { id: r.id, name: r.name, hash: r.contentHash, revision: r.revision, version: r.version, state: tableState(r.state) };
}

/** Parts of all tables of some kinds. */
export async function allParts(on: Executor, projectId: string, kinds?: readonly TableKind[]): Promise<TableParts[]> {
	const out: TableParts[] = [];
	for (const t of await listTables(on, projectId, kinds)) out.push(await tableParts(on, t));
	return out;
}

export interface StoredRow {
	n: number;
	line: number;
	excluded: boolean;
	/** As they are now. */
	cells: string[];
	/** Position of each edited cell, with what the file says. */
	originals: Record<string, string>;
	/** Who edited each of them, and when. */
	edited: Record<string, { by: string; at: string }>;
}

/** Some rows of a table by number, in ascending order. */
export async function rowsByNumber(
	on: Executor,
	table: Pick<StoredTable, 'id' | 'state' | 'version'>,
	numbers: readonly number[]
): Promise<StoredRow[]> {
	const wanted = [...new Set(numbers)].filter((n) => n >= 0 && n < table.state.rowCount).sort((a, b) => a - b);
	if (wanted.length === 0) return [];
	if (table.state.versionOf) return rowsOfVersion(on, table, wanted);
	const width = table.state.header.length;
	const chunkNumbers = [...new Set(wanted.map((n) => Math.floor(n / CHUNK_ROWS)))];
	const chunks = await on
		.select({ chunk: tableChunk.chunk, bytes: tableChunk.bytes })
		.from(tableChunk)
		.where(and(eq(tableChunk.objectId, table.id), eq(tableChunk.version, table.version), inArray(tableChunk.chunk, chunkNumbers)));
	const decoded = new Map(chunks.map((c) => [c.chunk, decodeChunks([new Uint8Array(c.bytes)], width)]));
	const within = and(gte(cellEdit.n, wanted[0]!), lt(cellEdit.n, wanted[wanted.length - 1]! + 1));
	const edits = await on
		.select()
		.from(cellEdit)
		.where(and(eq(cellEdit.objectId, table.id), eq(cellEdit.version, table.version), within));
	const excluded = new Set(
		(
			await on
				.select({ n: rowExclusion.n })
				.from(rowExclusion)
				.where(
					and(
						eq(rowExclusion.objectId, table.id),
						eq(rowExclusion.version, table.version),
						gte(rowExclusion.n, wanted[0]!),
						lt(rowExclusion.n, wanted[wanted.length - 1]! + 1)
					)
				)
		).map((e) => e.n)
	);
	const editsOf = new Map<number, typeof edits>();
	for (const e of edits) editsOf.set(e.n, [...(editsOf.get(e.n) ?? []), e]);
	return wanted.map((n) => {
		const part = decoded.get(Math.floor(n / CHUNK_ROWS))!;
		const at = n % CHUNK_ROWS;
		const cells = part.columns.map((c) => c[at]!);
		const originals: Record<string, string> = {};
		const edited: StoredRow['edited'] = {};
		for (const e of editsOf.get(n) ?? []) {
			originals[e.position] = e.original;
			edited[e.position] = { by: e.editedBy, at: e.editedAt.toISOString() };
			cells[e.position] = e.value;
		}
		return { n, line: part.lines[at]!, excluded: excluded.has(n), cells, originals, edited };
	});
}

/** Rows of a version of a log: those of what it goes out from, with what it lays over them. */
async function rowsOfVersion(
	on: Executor,
	table: Pick<StoredTable, 'id' | 'state' | 'version'>,
	wanted: readonly number[]
): Promise<StoredRow[]> {
	const source = await sourceTable(on, table.state.versionOf!);
	const below = new Map((await rowsByNumber(on, source, wanted)).map((r) => [r.n, r]));
	const { header, mapping, recode = {}, added = [] } = table.state;
	const code = header.findIndex((h) => mapping[h] === 'code');
	// By range: a great many numbers do not fit one query.
	const [first, last] = [wanted[0]!, wanted[wanted.length - 1]!];
	const edits = await on
		.select()
		.from(cellEdit)
		.where(and(eq(cellEdit.objectId, table.id), eq(cellEdit.version, table.version), gte(cellEdit.n, first), lt(cellEdit.n, last + 1)));
	const editsOf = new Map<number, typeof edits>();
	for (const e of edits) {
		const known = editsOf.get(e.n);
		if (known) known.push(e);
		else editsOf.set(e.n, [e]);
	}
	const ofIt = and(eq(rowExclusion.objectId, table.id), eq(rowExclusion.version, table.version));
	const exclusions = await on
		.select({ n: rowExclusion.n })
		.from(rowExclusion)
		.where(and(ofIt, gte(rowExclusion.n, first), lt(rowExclusion.n, last + 1)));
	const out = new Set(exclusions.map((e) => e.n));
	return wanted.map((n) => {
		const under = below.get(n);
		const cells = header.map((_, i) => (under ? under.cells[i] : added[n - source.state.rowCount]?.cells[i]) ?? '');
		if (under && code >= 0 && Object.hasOwn(recode, cells[code]!)) cells[code] = recode[cells[code]!]!;
		const row: StoredRow = {
			n,
			line: under?.line ?? 0,
			excluded: out.has(n) || (under?.excluded ?? false),
			cells,
			originals: {},
			edited: {}
		};
		for (const e of editsOf.get(n) ?? []) {
			row.originals[e.position] = cells[e.position]!;
			row.edited[e.position] = { by: e.editedBy, at: e.editedAt.toISOString() };
			cells[e.position] = e.value;
		}
		return row;
	});
}

/** What people have done to a version of a table, for an archive. */
export async function tableMarks(on: Executor, id: string, version: number, header: readonly string[]): Promise<TableMarks> {
	const of = (t: typeof cellEdit | typeof rowExclusion | typeof seenFinding) => and(eq(t.objectId, id), eq(t.version, version));
	const edits = await on.select().from(cellEdit).where(of(cellEdit)).orderBy(asc(cellEdit.n), asc(cellEdit.position));
	const excluded = await on.select().from(rowExclusion).where(of(rowExclusion)).orderBy(asc(rowExclusion.n));
	const seen = await on.select().from(seenFinding).where(of(seenFinding)).orderBy(asc(seenFinding.rule), asc(seenFinding.n));
	return {
		edits: edits.map((e) => ({
			row: e.n,
			column: header[e.position]!,
			original: e.original,
			value: e.value,
			by: e.editedBy,
			at: e.editedAt.toISOString()
		})),
		excluded: excluded.map((e) => ({ row: e.n, by: e.excludedBy, at: e.excludedAt.toISOString() })),
		seen: seen.map((f) => ({ rule: f.rule, row: f.n, reason: f.reason, by: f.seenBy, at: f.seenAt.toISOString() }))
	};
}

/** Names of all holes that have a collar, for guesses. */
export async function holeNames(on: Executor, projectId: string): Promise<Set<string>> {
	const names = new Set<string>();
	for (const t of await listTables(on, projectId, ['collars'])) {
		const position = t.state.header.findIndex((h) => t.state.mapping[h] === 'hole');
		const parts = await tableParts(on, t);
		for (const cell of columnCells(parts, position)) names.add(cell);
	}
	return names;
}
