import * as yup from 'yup';
import { fail } from '#core/problem';
import { textRecordSchema } from '#core/project/guards';
import { codeGroupsAnswer, columnEvidenceAnswer, logCodesAnswer, logDifferencesAnswer, newLogAnswer } from '$lib/api/answers/logs';
import { countsAnswer } from '$lib/api/answers/projects';
import { db } from '../db/client';
import { doChange, lockObject } from '../graph/changes';
import { loadModel, one } from '../graph/graph';
import { requireLog, startLog } from '../graph/logs';
import { checkProject } from '../services/check';
import { checkInput, tablesOf } from '../graph/check-input';
import type { StoredTable } from '../store/tables';
import { runTableTask } from '../threads/threads';
import { json, operation } from './operation';
import { oneTable } from './tables';
import { stateOf } from '../graph/states';

const revision = yup.number().integer().required();

/** A version, to be changed. @throws ProblemError `not-a-version` */
export async function oneVersion(projectId: string, id: string): Promise<StoredTable> {
	const table = await oneTable(projectId, id);
	if (!table.state.versionOf)
		fail('not-a-version', `${table.name} is what was logged, and stays as it is`, 'Make a version of it, and relog that.', 'object');
	return table;
}

/** All tables for the thread that keeps them, with the names of units as a model has them, and the log that is meant. */
export async function forLog(projectId: string, model: string | null, objectId: string) {
	return { ...(await tablesOf(await checkInput(db(), projectId, model))), objectId };
}

/** A log that is said by its table. */
export async function logIn(projectId: string, id: string): Promise<StoredTable> {
	const table = await oneTable(projectId, id);
	requireLog(table);
	return table;
}

export const logOperations = [
	operation({
		id: 'newLog',
		method: 'post',
		path: '/projects/{project}/logs',
		tag: 'Logs',
		summary:
			'Make a version of a log: its rows are those of the table or version that it goes out from, which is never touched; codes can be taken for others at once',
		created: true,
		body: yup
			.object({
				of: yup.string().uuid().required(),
				/** Column of text that is the log, where it is not that of the codes. */
				column: yup.string().min(1).max(500),
				name: yup.string().trim().min(1).max(200),
				recode: textRecordSchema.default(undefined).optional()
			})
			.noUnknown(),
		answer: newLogAnswer,
		reply: 'Its id and name',
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			const source = await oneTable(projectId, body.of);
			requireLog(source, body.column);
			const made = await startLog(projectId, body.name, `${source.name}, relogged`, {
				of: source.id,
				column: body.column,
				recode: body.recode
			});
			await checkProject(projectId);
			return json(made, 201);
		}
	}),
	operation({
		id: 'setRecode',
		method: 'put',
		path: '/projects/{project}/logs/{object}/recode',
		tag: 'Logs',
		summary: 'Which codes a version of a log takes for others, before any interval of it is relogged',
		body: yup.object({ recode: textRecordSchema.required(), revision }).noUnknown(),
		answer: countsAnswer,
		reply: 'Open findings as they are then',
		run: async ({ params, body }) => {
			const table = await oneVersion(params['project']!, params['object']!);
			await doChange(params['project']!, `Lump codes in ${table.name}`, async (tx) => {
				const row = await lockObject(tx, params['project']!, table.id, body.revision);
				return [{ kind: 'state', object: row.id, before: row.state, after: { ...row.state, recode: body.recode } }];
			});
			return checkProject(params['project']!);
		}
	}),
	operation({
		id: 'listLogCodes',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/logs/{object}/codes',
		tag: 'Logs',
		summary: 'The codes of a log: how often, how long, in how many holes, between which depths, and what loggers said of them',
		answer: logCodesAnswer,
		reply: 'The codes, the longest first',
		run: async ({ params, model }) => {
			const table = await logIn(params['project']!, params['object']!);
			return { codes: await runTableTask('logCodes', await forLog(params['project']!, model, table.id)) };
		}
	}),
	operation({
		id: 'proposeCodeGroups',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/logs/{object}/groups',
		tag: 'Logs',
		summary: 'Units for codes of a log that have none, by their spelling, by what loggers said, and by what they lie between',
		answer: codeGroupsAnswer,
		reply: 'Codes with the unit that is proposed, and what says so',
		run: async ({ params, model }) => {
			const table = await logIn(params['project']!, params['object']!);
			return { groups: await runTableTask('codeGroups', await forLog(params['project']!, model, table.id)) };
		}
	}),
	operation({
		id: 'compareLogs',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/logs/{object}/differences',
		tag: 'Logs',
		summary: 'Where two logs of the same holes say something else, by unit or by code',
		query: yup
			.object({
				with: yup.string().uuid().required(),
				by: yup.string<'unit' | 'code'>().oneOf(['unit', 'code']).default('unit'),
				limit: yup.number().integer().min(1).max(10_000).default(500)
			})
			.noUnknown(),
		answer: logDifferencesAnswer,
		reply: 'Stretches of holes with what either says, the length that was compared and the length that differs',
		run: async ({ params, model, query }) => {
			const [a, b] = [await logIn(params['project']!, params['object']!), await logIn(params['project']!, query.with)];
			return runTableTask('compareLogs', {
				...(await forLog(params['project']!, model, a.id)),
				other: b.id,
				by: query.by ?? 'unit',
				limit: query.limit ?? 500
			});
		}
	}),
	operation({
		id: 'getColumnEvidence',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/column/evidence',
		tag: 'Interpret',
		summary:
			'What the holes say of the order of the column, of its neighbours one by one, and the order and kinds of contact that most of them have',
		answer: columnEvidenceAnswer,
		reply: 'The evidence and the proposal',
		run: async ({ params, model }) => {
			const projectId = params['project']!;
			const graph = await loadModel(db(), projectId, model);
			const { log } = stateOf(one(graph, 'shaping'), 'shaping');
			const table = log ? graph.find((o) => o.kind === 'table' && o.name === log.table) : null;
			if (log && !table) fail('unknown-log', `there is no table "${log.table}" that the model is made from`, 'Choose another log for it.');
			return runTableTask('columnEvidence', {
				...(await tablesOf(await checkInput(db(), projectId, model))),
				log: log && table ? { table: table.id, column: log.column } : null
			});
		}
	})
];
