import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import { versionHeader, type UnplacedEdit } from '#core/tables/version';
import { fail } from '#core/problem';
import { readingAgain } from '#core/tables/raw-table';
import { db, type Executor } from '../db/client';
import { cellEdit, object, rowExclusion, seenFinding } from '../db/schema';
import { checkProject } from '../services/check';
import { lockObject, recordChange } from '../graph/changes';
import { fileBytes, fileRow } from '../store/files';
import { applyStep, newestVersion, type Step, type TableVersion } from '../graph/steps';
import { rowsByNumber, tableParts, type StoredTable } from '../store/tables';
import { ownState } from '../threads/stored-table';
import { atOnce, storeRows } from './import-job';
import type { JobContext } from './job-context';
import { readForeign } from '../threads/readers';
import type { VersionMessage } from '../threads/table-tasks';
import { runTableTask } from '../threads/threads';
import { tableState } from '../threads/stored-table';
import { payloadOf } from './payloads';

/** Everything that is needed to compare a stored table with another version of its file. */
export async function versionMessage(
	on: Executor,
	projectId: string,
	table: Omit<StoredTable, 'lengthUnit'>,
	fileId: string,
	signal?: AbortSignal
): Promise<VersionMessage> {
	const own = and(eq(cellEdit.objectId, table.id), eq(cellEdit.version, table.version));
	const edits = await on
		.select({ n: cellEdit.n, position: cellEdit.position, value: cellEdit.value, original: cellEdit.original })
		.from(cellEdit)
		.where(own)
		.orderBy(asc(cellEdit.n), asc(cellEdit.position));
	const seen = await on
		.select({
			rule: seenFinding.rule,
			n: seenFinding.n,
			reason: seenFinding.reason,
			seenBy: seenFinding.seenBy,
			seenAt: seenFinding.seenAt
		})
		.from(seenFinding)
		.where(and(eq(seenFinding.objectId, table.id), eq(seenFinding.version, table.version)));
	const file = await fileRow(projectId, fileId);
	const { reading, kind, mapping } = table.state;
	const cut = await readForeign(
		'readTableFile',
		{
			bytes: await fileBytes(fileId),
			fileName: file.name,
			kind,
			mapping,
			reading: readingAgain(reading),
			excludedLines: [],
			validate: false
		},
		signal ? { signal } : {}
	);
	return { table: await tableParts(on, table), edits, seen, file: { name: file.name, state: cut.state, chunks: cut.chunks } };
}

/** Reads a stored table from a newer version of its file, or adds the rows of another: a change like others, undone as one step. */
export async function runVersion(c: JobContext): Promise<Record<string, unknown>> {
	const { objectId, fileId, how, conflicts, dropLost, revision } = payloadOf(c, 'version');
	c.progress('reading the file', 0);
	const [row] = await db()
		.select()
		.from(object)
		.where(and(eq(object.id, objectId), eq(object.projectId, c.projectId), isNull(object.removedAt)));
	if (!row) return fail('not-found', 'the table is not in the project any more');
	const table: Omit<StoredTable, 'lengthUnit'> = {
		id: objectId,
		name: row.name,
		hash: row.contentHash,
		revision: row.revision,
		version: row.version,
		state: tableState(row.state)
	};
	const message = await versionMessage(db(), c.projectId, table, fileId, c.signal);
	c.progress('comparing', 0.3);
	const next = await runTableTask('newVersion', { ...message, how, conflicts, dropLost }, { signal: c.signal });
	c.progress('storing rows', 0.6);
	const outcome = { object: objectId, rows: next.state.rowCount, changes: next.said };
	await atOnce(c, async (tx, client) => {
		// Nobody may have edited the table since the comparison was shown.
		const now = await lockObject(tx, c.projectId, objectId, revision);
		const version = (await newestVersion(tx, objectId)) + 1;
		await storeRows(tx, client, objectId, version, next, c.signal);
		const before: TableVersion = { version: now.version, fileId: now.fileId, state: now.state };
		const appended = how === 'append' ? { appended: [...(table.state.appended ?? []), fileId] } : {};
		const after: TableVersion = { version, fileId: how === 'reload' ? fileId : now.fileId, state: { ...next.state, ...appended } };
		const followed = await followInVersions(tx, objectId, {
			places: next.places,
			rows: [table.state.rowCount, next.state.rowCount],
			headers: [table.state.header, next.state.header]
		});
		const steps: Step[] = [{ kind: 'version', object: objectId, before, after }, ...followed];
		for (const s of steps) await applyStep(tx, c.projectId, s, true);
		await recordChange(tx, c.projectId, `${how === 'reload' ? 'Reload' : 'Append to'} ${row.name}`, steps);
		await c.done(tx, outcome);
	});
	c.progress('checking', 0.8);
	return { ...outcome, ...(await checkProject(c.projectId)) };
}

/** Where rows and columns of a table went when it was read from another file. */
interface Moved {
	/** New number of each row; −1 for one that is gone. */
	places: Int32Array;
	/** How many rows there were, and are. */
	rows: [number, number];
	headers: [readonly string[], readonly string[]];
}

/**
 * Lets the versions of logs follow a table whose rows have other numbers now: their edits are stored anew under the number of their next
 * version. Edits without a row are kept aside.
 * @returns the steps that make these versions count
 */
async function followInVersions(tx: Executor, source: string, m: Moved): Promise<Step[]> {
	const versions = await tx
		.select()
		.from(object)
		.where(sql`${object.state}->>'versionOf' = ${source}`)
		.for('no key update');
	const steps: Step[] = [];
	for (const v of versions) {
		const state = tableState(v.state);
		const added = state.added?.length ?? 0;
		const place = (n: number) => (n < m.rows[0] ? m.places[n]! : n + m.rows[1] - m.rows[0]);
		const headers = [versionHeader(m.headers[0]), versionHeader(m.headers[1])] as const;
		const column = headers[0].map((h) => headers[1].indexOf(h));
		const edits = await tx
			.select()
			.from(cellEdit)
			.where(and(eq(cellEdit.objectId, v.id), eq(cellEdit.version, v.version)));
		const excluded = await tx
			.select()
			.from(rowExclusion)
			.where(and(eq(rowExclusion.objectId, v.id), eq(rowExclusion.version, v.version)));
		const version = (await newestVersion(tx, v.id)) + 1;
		const kept = edits.flatMap((e) =>
			place(e.n) >= 0 && column[e.position]! >= 0 ? [{ ...e, version, n: place(e.n), position: column[e.position]! }] : []
		);
		const lost = edits.filter((e) => !(place(e.n) >= 0 && column[e.position]! >= 0));
		const still = excluded.flatMap((e) => (place(e.n) >= 0 ? [{ ...e, version, n: place(e.n) }] : []));
		const gone = excluded.filter((e) => place(e.n) < 0);
		for (let i = 0; i < kept.length; i += 5000) await tx.insert(cellEdit).values(kept.slice(i, i + 5000));
		for (let i = 0; i < still.length; i += 5000) await tx.insert(rowExclusion).values(still.slice(i, i + 5000));
		const old = new Map(
			(
				await rowsByNumber(
					tx,
					{ id: v.id, version: v.version, state },
					[...lost, ...gone].map((e) => e.n)
				)
			).map((r) => [r.n, r.cells])
		);
		const of = (n: number, role: string) => old.get(n)?.[state.header.findIndex((h) => state.mapping[h] === role)] ?? '';
		const aside = (e: { n: number }, rest: Pick<UnplacedEdit, 'column' | 'value' | 'by' | 'at'>): UnplacedEdit => ({
			hole: of(e.n, 'hole'),
			place: `${of(e.n, 'from')} to ${of(e.n, 'to')}`,
			...rest
		});
		const unplaced = [
			...(state.unplaced ?? []),
			...lost.map((e) =>
				aside(e, { column: state.header[e.position] ?? '', value: e.value, by: e.editedBy, at: e.editedAt.toISOString() })
			),
			...gone.map((e) => aside(e, { column: '', value: 'left out', by: e.excludedBy, at: e.excludedAt.toISOString() }))
		];
		const moved = state.added?.map((a) => ({ of: place(a.of), cells: headers[1].map((h) => a.cells[headers[0].indexOf(h)] ?? '') }));
		steps.push({
			kind: 'version',
			object: v.id,
			before: { version: v.version, fileId: null, state: ownState(v.state) },
			after: {
				version,
				fileId: null,
				state: ownState({ ...v.state, ...(moved ? { added: moved } : {}), ...(unplaced.length ? { unplaced } : {}) })
			}
		});
		steps.push(
			...(await followInVersions(tx, v.id, {
				places: Int32Array.from({ length: m.rows[0] + added }, (_, n) => place(n)),
				rows: [m.rows[0] + added, m.rows[1] + added],
				headers: [headers[0], headers[1]]
			}))
		);
	}
	return steps;
}
