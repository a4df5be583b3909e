import { and, asc, eq, sql } from 'drizzle-orm';
import type { Executor } from '../db/client';
import { cellEdit, file, object, rowExclusion } from '../db/schema';
import { canonicalJson } from '#core/lineage/key';
import { sha256 } from './hash';
import type { TableParts, TableState } from '../threads/stored-table';

/** Content hash of a table from what it is made of. */
export function tableHash(fileHash: string, state: TableState, edits: TableParts['edits'], excluded: readonly number[]): string {
	const { kind, mapping, reading, units, values, coordinates, rowCount, calculated, written } = state;
	// A review of a value rule changes nothing that is computed.
	const acts = Object.fromEntries(Object.entries(values).map(([column, rule]) => [column, rule.acts]));
	return sha256(
		canonicalJson({
			fileHash,
			kind,
			mapping,
			reading,
			units,
			acts,
			coordinates,
			rowCount,
			edits,
			excluded,
			...(calculated?.length ? { calculated } : {}),
			...(written && Object.keys(written).length ? { written } : {})
		})
	);
}

/** Content hash of a table: its raw file, how its columns are read, and every edit and exclusion. Counts as a new revision. */
export async function refreshTableHash(tx: Executor, objectId: string): Promise<void> {
	const [row] = await tx
		.select({ state: object.state, version: object.version, sha: file.sha256 })
		.from(object)
		.leftJoin(file, eq(file.id, object.fileId))
		.where(eq(object.id, objectId));
	if (!row) return;
	const edits = await tx
		.select({ n: cellEdit.n, position: cellEdit.position, value: cellEdit.value })
		.from(cellEdit)
		.where(and(eq(cellEdit.objectId, objectId), eq(cellEdit.version, row.version)))
		.orderBy(asc(cellEdit.n), asc(cellEdit.position));
	const excluded = await tx
		.select({ n: rowExclusion.n })
		.from(rowExclusion)
		.where(and(eq(rowExclusion.objectId, objectId), eq(rowExclusion.version, row.version)))
		.orderBy(asc(rowExclusion.n));
	const contentHash = tableHash(
		`${row.sha ?? ''} ${((row.state as { appended?: string[] }).appended ?? []).join(' ')}`.trim(),
		row.state as unknown as TableState,
		edits,
		excluded.map((e) => e.n)
	);
	await tx
		.update(object)
		.set({ contentHash, revision: sql`${object.revision} + 1`, updatedAt: new Date() })
		.where(eq(object.id, objectId));
}
