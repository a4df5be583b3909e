import type { CheckOptions } from '#core/checks/check';
import { canonicalJson } from '#core/lineage/key';
import { db, type Executor } from '../db/client';
import { sha256 } from '../store/hash';
import { storedTable, tableParts, type StoredTable } from '../store/tables';
import type { TableParts } from '../threads/stored-table';
import { runTableTask } from '../threads/threads';
import { one, seenByModel, seenProject, type SeenProject } from './graph';
import { terrainOf } from './terrain';
import { stateOf } from './states';

/** The day, in days since 1970. */
export const today = (): number => Math.floor(Date.now() / 86_400_000);

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

/** @param model the one whose column and codes count; the first one when none is said */
export async function checkInput(on: Executor, projectId: string, model?: string | null): Promise<CheckInput> {
	return checkInputOf(on, await seenProject(on, projectId), model);
}

/** The same of a project that was just read. */
export async function checkInputOf(on: Executor, { project: p, graph: all }: SeenProject, model?: string | null): Promise<CheckInput> {
	const projectId = p.id;
	const graph = seenByModel(all, model);
	const tables = all.flatMap((o) => (o.kind === 'table' ? [storedTable(o, p.lengthUnit)] : []));
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
				today: today()
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
