import { and, asc, eq, isNull } from 'drizzle-orm';
import { fail } from '#core/problem';
import { readingAgain } from '#core/tables/raw-table';
import { db, type Executor } from '../db/client';
import { cellEdit, object, seenFinding } from '../db/schema';
import { checkProject } from '../services/check';
import { lockObject, recordChange } from '../graph/changes';
import { fileBytes, fileRow } from '../store/files';
import { applyStep, newestVersion, type Step, type TableVersion } from '../graph/steps';
import { tableParts, type StoredTable } from '../store/tables';
import { atOnce, storeRows } from './import-job';
import type { JobContext } from './queue';
import { readForeign } from '../threads/readers';
import type { VersionMessage } from '../threads/table-tasks';
import { runTableTask } from '../threads/threads';

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

interface VersionPayload {
	objectId: string;
	fileId: string;
	how: 'reload' | 'append';
	conflicts: 'edits' | 'source';
	dropLost: boolean;
	revision: number;
}

/** Reads a stored table from a newer version of its file, or adds the rows of another: a change like others, undone as one step. */
export async function runVersion(c: JobContext): Promise<Record<string, unknown>> {
	const { objectId, fileId, how, conflicts, dropLost, revision } = c.payload as unknown as VersionPayload;
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
		state: row.state as unknown as StoredTable['state']
	};
	const message = await versionMessage(db(), c.projectId, table, fileId, c.signal);
	c.progress('comparing', 0.3);
	const next = await runTableTask('newVersion', { ...message, how, conflicts, dropLost }, { signal: c.signal });
	c.progress('storing rows', 0.6);
	const outcome = { object: objectId, rows: next.state.rowCount, changes: next.said };
	await atOnce(c.signal, async (tx, client) => {
		// Nobody may have edited the table since the comparison was shown.
		const now = await lockObject(tx, c.projectId, objectId, revision);
		const version = (await newestVersion(tx, objectId)) + 1;
		await storeRows(tx, client, objectId, version, next, c.signal);
		const before: TableVersion = { version: now.version, fileId: now.fileId, state: now.state };
		const appended = how === 'append' ? { appended: [...(table.state.appended ?? []), fileId] } : {};
		const after: TableVersion = { version, fileId: how === 'reload' ? fileId : now.fileId, state: { ...next.state, ...appended } };
		const step: Step = { kind: 'version', object: objectId, before, after };
		await applyStep(tx, c.projectId, step, true);
		await recordChange(tx, c.projectId, `${how === 'reload' ? 'Reload' : 'Append to'} ${row.name}`, [step]);
		await c.done(tx, outcome);
	});
	c.progress('checking', 0.8);
	return { ...outcome, ...(await checkProject(c.projectId)) };
}
