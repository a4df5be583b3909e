import { and, asc, eq, sql } from 'drizzle-orm';
import type { Executor } from '../db/client';
import { cellEdit, file, object, rowExclusion } from '../db/schema';
import { canonicalJson } from '#core/lineage/key';
import { sha256 } from './hash';
import { ownState, versionState, type TableParts, type TableState } from '../threads/stored-table';
import { sourceTable } from './tables';
import { tableState } from '../threads/stored-table';

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

/**
 * Content hash of a table: its raw file, how its columns are read, and every edit and exclusion. Counts as a new revision. Versions of
 * logs that go out from it follow.
 */
export async function refreshTableHash(tx: Executor, objectId: string): Promise<void> {
	const [row] = await tx
		.select({ state: object.state, version: object.version, sha: file.sha256 })
		.from(object)
		.leftJoin(file, eq(file.id, object.fileId))
		.where(eq(object.id, objectId));
	if (!row) return;
	const { state, contentHash } = await tableContent(tx, { id: objectId, ...row });
	await tx
		.update(object)
		.set({ state: { ...state }, contentHash, revision: sql`${object.revision} + 1`, updatedAt: new Date() })
		.where(eq(object.id, objectId));
	const versions = await tx
		.select({ id: object.id })
		.from(object)
		.where(sql`${object.state}->>'versionOf' = ${objectId}`);
	for (const v of versions) await refreshTableHash(tx, v.id);
}

/** What a table is, and its hash: of a version of a log by what it goes out from and what is its own. */
export async function tableContent(
	tx: Executor,
	row: { id: string; version: number; sha: string | null; state: Record<string, unknown> }
): Promise<{ state: TableState; contentHash: string }> {
	const edits = await tx
		.select({ n: cellEdit.n, position: cellEdit.position, value: cellEdit.value })
		.from(cellEdit)
		.where(and(eq(cellEdit.objectId, row.id), eq(cellEdit.version, row.version)))
		.orderBy(asc(cellEdit.n), asc(cellEdit.position));
	const out = await tx
		.select({ n: rowExclusion.n })
		.from(rowExclusion)
		.where(and(eq(rowExclusion.objectId, row.id), eq(rowExclusion.version, row.version)))
		.orderBy(asc(rowExclusion.n));
	const excluded = out.map((e) => e.n);
	if (typeof row.state['versionOf'] === 'string') {
		const source = await sourceTable(tx, row.state['versionOf']);
		const state = versionState(row.state, source.state);
		return { state, contentHash: sha256(canonicalJson({ source: source.hash, own: ownState({ ...state }), edits, excluded })) };
	}
	const state = tableState(row.state);
	return { state, contentHash: tableHash(`${row.sha ?? ''} ${(state.appended ?? []).join(' ')}`.trim(), state, edits, excluded) };
}
