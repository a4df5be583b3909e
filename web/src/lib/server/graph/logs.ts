import type { AddedRow, UnplacedEdit } from '#core/tables/version';
import { fail } from '#core/problem';
import type { Executor } from '../db/client';
import { cellEdit, object, objectInput, rowExclusion } from '../db/schema';
import { eq } from 'drizzle-orm';
import { actor } from '../store/actor';
import { freeName, refuseTaken } from '../store/names';
import { tableContent } from '../store/table-hash';
import type { TableState } from '../threads/stored-table';
import { recordChange } from './changes';
import { loadGraph } from './graph';
import { inProject } from '../store/projects';

/** Whether a table holds intervals along holes with a code, or with a column of text that can be one. @throws ProblemError `not-a-log` */
export function requireLog(t: { name: string; state: TableState }, column?: string): void {
	const roles = Object.values(t.state.mapping);
	const has = (...any: string[]) => any.some((r) => roles.includes(r));
	if (!has('hole') || !has('to', 'thickness'))
		fail('not-a-log', `${t.name} holds no intervals along holes`, 'A log has holes and depths from and to.', 'of');
	if (column !== undefined && !['keep', 'code', 'description'].includes(t.state.mapping[column] ?? ''))
		fail('not-a-log', `${t.name} has no column of text "${column}"`, `Its columns are: ${t.state.header.join(', ')}.`, 'column');
	if (column === undefined && !has('code'))
		fail('not-a-log', `${t.name} has no column of codes`, 'Say which of its columns of text is the log (column).', 'column');
}

interface NewLog {
	id?: string;
	name: string;
	/** Id of the table or version that it goes out from. */
	of: string;
	column?: string | undefined;
	recode?: Record<string, string> | undefined;
	added?: AddedRow[] | undefined;
	unplaced?: UnplacedEdit[] | undefined;
	edits?: { n: number; position: number; value: string; original: string; editedBy: string; editedAt: Date }[];
	excluded?: { n: number; by: string; at: Date }[];
}

const BATCH = 5000;

/** Puts a version of a log into a project, tied to what it goes out from. @throws ProblemError `doubled-name` */
export async function insertLog(tx: Executor, projectId: string, log: NewLog): Promise<string> {
	refuseTaken(await loadGraph(tx, projectId), log.name);
	const { added, unplaced, edits = [], excluded = [] } = log;
	const own = {
		versionOf: log.of,
		...(log.column ? { logColumn: log.column } : {}),
		recode: log.recode ?? {},
		...(added?.length ? { added } : {}),
		...(unplaced?.length ? { unplaced } : {})
	};
	const [row] = await tx
		.insert(object)
		.values({ ...(log.id ? { id: log.id } : {}), projectId, kind: 'table', name: log.name, state: own, createdBy: actor().name })
		.returning({ id: object.id });
	const id = row!.id;
	const ofIt = { objectId: id, version: 1 };
	for (let i = 0; i < edits.length; i += BATCH) await tx.insert(cellEdit).values(edits.slice(i, i + BATCH).map((e) => ({ ...ofIt, ...e })));
	for (let i = 0; i < excluded.length; i += BATCH)
		await tx
			.insert(rowExclusion)
			.values(excluded.slice(i, i + BATCH).map((e) => ({ ...ofIt, n: e.n, excludedBy: e.by, excludedAt: e.at })));
	const { state, contentHash } = await tableContent(tx, { id, version: 1, sha: null, state: own });
	await tx
		.update(object)
		.set({ state: { ...state }, contentHash })
		.where(eq(object.id, id));
	await tx.insert(objectInput).values({ objectId: id, inputId: log.of, role: 'log' });
	return id;
}

/**
 * Starts a version of a log as one change, under the name that is said, or a free one like the one that is proposed.
 * @throws ProblemError `doubled-name`
 */
export async function startLog(
	projectId: string,
	name: string | undefined,
	proposed: string,
	log: Omit<NewLog, 'name'>
): Promise<{ id: string; name: string }> {
	return inProject(projectId, async (tx) => {
		const own = name ?? freeName(await loadGraph(tx, projectId), proposed);
		const id = await insertLog(tx, projectId, { ...log, name: own });
		await recordChange(tx, projectId, `Start the log ${own}`, [{ kind: 'removed', what: 'object', id, after: false }]);
		return { id, name: own };
	});
}
