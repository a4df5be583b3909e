import { and, asc, eq } from 'drizzle-orm';
import { from as copyFrom } from 'pg-copy-streams';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { db, type Executor } from '../db/client';
import { cellEdit, object, rowExclusion, tableChunk } from '../db/schema';
import { checkProject } from '../objects/check';
import { lockObject } from '../objects/changes';
import { announce } from '../objects/events';
import { fileBytes, fileRow } from '../objects/files';
import { tableHash } from '../objects/table-hash';
import { tableParts, type StoredTable } from '../objects/tables';
import { atOnce, copyChunks } from './import-job';
import type { JobContext } from './queue';
import { runTableTask } from './threads';

/** Everything that is needed to compare a stored table with another version of its file. */
export async function versionMessage(on: Executor, projectId: string, table: Omit<StoredTable, 'lengthUnit'>, fileId: string) {
	const file = await fileRow(projectId, fileId);
	const edits = await on.select({ n: cellEdit.n, position: cellEdit.position, value: cellEdit.value, original: cellEdit.original }).from(cellEdit).where(eq(cellEdit.objectId, table.id)).orderBy(asc(cellEdit.n), asc(cellEdit.position));
	return { table: await tableParts(on, table), edits, bytes: await fileBytes(fileId), fileName: file.name };
}

/** Reads a stored table from a newer version of its file, or adds the rows of another. All or nothing. */
export async function runVersion(c: JobContext): Promise<Record<string, unknown>> {
	const { objectId, fileId, how, conflicts, revision } = c.payload as { objectId: string; fileId: string; how: 'reload' | 'append'; conflicts: 'edits' | 'source'; revision: number };
	c.progress('reading the file', 0);
	const [row] = await db().select().from(object).where(and(eq(object.id, objectId), eq(object.projectId, c.projectId)));
	const table: Omit<StoredTable, 'lengthUnit'> = { id: objectId, name: row!.name, hash: row!.contentHash, revision: row!.revision, state: row!.state as unknown as StoredTable['state'] };
	const message = await versionMessage(db(), c.projectId, table, fileId);
	c.progress('comparing', 0.2);
	const next = await runTableTask('newVersion', { ...message, how, conflicts }, { signal: c.signal });
	c.progress('storing rows', 0.6);
	const file = await fileRow(c.projectId, fileId);
	await atOnce(c.signal, async (tx, client) => {
		// Nobody may have edited the table since the comparison was shown.
		await lockObject(tx, c.projectId, objectId, revision);
		const edits = next.edits.map(({ n, position, value }) => ({ n, position, value }));
		const appended = how === 'append' ? [...((row!.state['appended'] as string[] | undefined) ?? []), fileId] : [];
		const own = how === 'append' ? (await fileRow(c.projectId, row!.fileId!)).sha256 : file.sha256;
		const contentHash = tableHash(`${own} ${appended.join(' ')}`.trim(), next.state, edits, next.excluded);
		const state = { ...next.state, appended: appended.length ? appended : undefined };
		await tx.update(object).set({ state, contentHash, revision: revision + 1, updatedAt: new Date(), ...(how === 'reload' ? { fileId } : {}) }).where(eq(object.id, objectId));
		await tx.delete(tableChunk).where(eq(tableChunk.objectId, objectId));
		await tx.delete(cellEdit).where(eq(cellEdit.objectId, objectId));
		await tx.delete(rowExclusion).where(eq(rowExclusion.objectId, objectId));
		await pipeline(Readable.from(copyChunks(objectId, next.chunks)), client.query(copyFrom('copy table_chunk (object_id, chunk, bytes) from stdin (format binary)')), { signal: c.signal });
		for (let i = 0; i < next.edits.length; i += 5000) await tx.insert(cellEdit).values(next.edits.slice(i, i + 5000).map((e) => ({ objectId, ...e })));
		for (let i = 0; i < next.excluded.length; i += 5000) await tx.insert(rowExclusion).values(next.excluded.slice(i, i + 5000).map((n) => ({ objectId, n })));
	});
	c.progress('checking', 0.8);
	const counts = await checkProject(c.projectId);
	await announce(db(), { project: c.projectId, topic: 'objects' });
	return { object: objectId, rows: next.state.rowCount, ...counts, changes: next.said };
}
