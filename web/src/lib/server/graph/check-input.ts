import type { CheckOptions } from '#core/checks/check';
import { canonicalJson } from '#core/lineage/key';
import { db, type Executor } from '../db/client';
import { sha256 } from '../store/hash';
import { findProject } from '../store/projects';
import { listTables, tableParts, type StoredTable } from '../store/tables';
import type { TableParts } from '../threads/stored-table';
import { runTableTask } from '../threads/threads';
import { loadModel, one, type ObjectRow } from './graph';
import { terrainOf } from './terrain';
import { stateOf } from './states';

/** What a check of a project depends on. */
export interface CheckInput {
	projectId: string;
	/** Key of everything below, and of all of it but the tables. */
	key: string;
	settingsKey: string;
	/** Key of that which the stored findings are of; empty when there were none yet. */
	checked: string;
	/** Since when a check of it is due, as the database says; null when none is. */
	due: Date | null;
	tables: StoredTable[];
	options: CheckOptions;
}

/**
 * @param seen the graph as the model sees it whose column and codes count; that of the first model when nothing is said
 */
export async function checkInput(on: Executor, projectId: string, seen?: readonly ObjectRow[]): Promise<CheckInput> {
	const p = await findProject(on, projectId);
	const graph = seen ?? (await loadModel(on, projectId));
	const tables = await listTables(on, projectId);
	const of = (kind: string) => graph.find((o) => o.kind === kind);
	const terrain = of('terrain');
	const settings = stateOf(one(graph, 'rules'), 'rules').rules;
	const column = stateOf(one(graph, 'column'), 'column').units;
	const schemes = stateOf(one(graph, 'schemes'), 'schemes').schemes;
	const lumping = stateOf(one(graph, 'lumping'), 'lumping').codes;
	const settingsKey = sha256(
		canonicalJson([
			settings,
			p.lengthUnit,
			p.extent,
			column.map((u) => [u.id, u.contact]),
			lumping,
			terrain?.contentHash ?? '',
			...(schemes.length ? [schemes] : [])
		])
	);
	const key = sha256(canonicalJson([tables.map((t) => [t.id, t.hash]), settingsKey]));
	return {
		projectId,
		key,
		settingsKey,
		checked: p.checkedKey,
		due: p.checkDue,
		tables,
		options: {
			lengthUnit: p.lengthUnit,
			settings,
			around: {
				schemes,
				terrain: await terrainOf(on, projectId, graph),
				extent: p.extent,
				column,
				lumping,
				today: Math.floor(Date.now() / 86_400_000)
			}
		}
	};
}

/** Parts of tables for the thread that keeps them: rows only of those that it does not have. */
export async function partsForThread(on: Executor, tables: readonly StoredTable[], lengthUnit: string): Promise<TableParts[]> {
	const missing = new Set(await runTableTask('missing', { tables: tables.map(({ id, hash }) => ({ id, hash })), lengthUnit }));
	const out: TableParts[] = [];
	for (const t of tables) out.push(await tableParts(on, t, missing.has(t.id)));
	return out;
}

/** All tables of a project with what they are checked by, for the thread that keeps them. */
export async function tablesOf(input: CheckInput, on: Executor = db()) {
	return {
		projectId: input.projectId,
		key: input.key,
		settingsKey: input.settingsKey,
		tables: await partsForThread(on, input.tables, input.options.lengthUnit),
		options: input.options
	};
}
