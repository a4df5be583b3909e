import { and, eq } from 'drizzle-orm';
import type { TableSummary } from '#core/tables/summary';
import { db, type Executor } from '../db/client';
import { result } from '../db/schema';
import { runTableTask } from '../threads/threads';
import { partsForThread } from '../graph/check-input';
import { listTables, type Damage, type StoredTable } from '../store/tables';

const keyOf = (hash: string): string => `summary ${hash}`;

/** Keeps the summary of a table under its content hash. */
export async function storeSummary(on: Executor, projectId: string, hash: string, summary: TableSummary): Promise<void> {
	await on
		.insert(result)
		.values({ key: keyOf(hash), projectId, kind: 'summary', report: { ...summary }, seconds: 0, bytes: Buffer.alloc(0) })
		.onConflictDoNothing();
}

/** The summary of a table as it is now: the stored one, or made now. */
export async function summaryOf(projectId: string, table: StoredTable, lengthUnit: string): Promise<TableSummary> {
	const [known] = await db()
		.select({ report: result.report })
		.from(result)
		.where(and(eq(result.projectId, projectId), eq(result.key, keyOf(table.hash))));
	if (known) return known.report as unknown as TableSummary;
	const [parts] = await partsForThread(db(), [table], lengthUnit);
	const summary = await runTableTask('summary', { table: parts!, lengthUnit });
	await storeSummary(db(), projectId, table.hash, summary);
	return summary;
}

/** Codes of tables as they were last counted, by content hash. */
const counted = new Map<string, Promise<TableSummary['codes']>>();
const MOST_COUNTED = 200;

function codesOf(table: StoredTable, lengthUnit: string): Promise<TableSummary['codes']> {
	const known = counted.get(table.hash);
	counted.delete(table.hash);
	const codes = known ?? partsForThread(db(), [table], lengthUnit).then(([parts]) => runTableTask('codes', { table: parts!, lengthUnit }));
	counted.set(table.hash, codes);
	codes.catch(() => counted.delete(table.hash));
	for (const old of counted.keys()) if (counted.size > MOST_COUNTED) counted.delete(old);
	return codes;
}

/** Codes of all logged intervals, orientations and versions of logs with how often each stands in what was logged. */
export async function codeCounts(projectId: string, lengthUnit: string, damaged?: Damage[]): Promise<{ code: string; count: number }[]> {
	const counts = new Map<string, number>();
	for (const t of await listTables(db(), projectId, ['intervals', 'orientations', 'holeOrientations'], damaged))
		for (const { code, count } of await codesOf(t, lengthUnit))
			counts.set(code, (counts.get(code) ?? 0) + (t.state.kind === 'intervals' && !t.state.versionOf ? count : 0));
	return [...counts].map(([code, count]) => ({ code, count })).sort((a, b) => b.count - a.count || (a.code < b.code ? -1 : 1));
}
