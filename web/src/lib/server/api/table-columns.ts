import * as yup from 'yup';
import { textRecordSchema } from '#core/project/guards';
import { readingSchema, valueRulesSchema, writtenSchema } from '#core/project/project-file';
import { roleOf } from '#core/tables/kinds';
import { validateMapping } from '#core/tables/mapping';
import { numberReader } from '#core/tables/numbers';
import { countClasses, VALUE_CLASSES } from '#core/tables/value-rules';
import { calculatedPreviewAnswer, statisticsAnswer, summaryAnswer } from '$lib/api/answers/data';
import { countsAnswer } from '$lib/api/answers/projects';
import { db } from '../db/client';
import { runTableTask } from '../threads/threads';
import { doChange, lockObject } from '../graph/changes';
import { checkProject } from '../services/check';
import { findProject } from '../store/projects';
import { rawTable } from '../threads/stored-table';
import { summaryOf } from '../services/summaries';
import { tableParts, type StoredTable } from '../store/tables';
import { operation } from './operation';
import { forThread, oneTable, refuseVersion, rowQuery } from './tables';
import { tableState } from '../threads/stored-table';

const calculatedSchema = yup
	.array(
		yup
			.object({ name: yup.string().trim().min(1).max(200).required(), expression: yup.string().min(1).max(2000).required() })
			.noUnknown()
			.required()
	)
	.max(50)
	.required();

/** What is said and asked of the columns of a table. */
export const columnOperations = [
	operation({
		id: 'columnStatistics',
		method: 'get',
		path: '/projects/{project}/tables/{object}/statistics',
		tag: 'Tables',
		summary: 'Statistics of one column, of all rows in use or of those that a filter chooses',
		answer: statisticsAnswer,
		reply: 'Count, missing, middle, spread, quartiles and histogram of numbers; counts of classes of text',
		query: yup.object({ column: yup.string().max(500).required(), filter: rowQuery.filter, find: rowQuery.find }).noUnknown(),
		run: async ({ params, query }) => ({
			statistics: await runTableTask('columnStatistics', {
				...(await forThread(await oneTable(params['project']!, params['object']!))),
				query: { filter: query.filter, find: query.find },
				column: query.column
			})
		})
	}),
	operation({
		id: 'previewCalculated',
		method: 'post',
		path: '/projects/{project}/tables/{object}/calculated/preview',
		tag: 'Tables',
		summary: 'What the last of some calculated columns would hold',
		body: yup.object({ columns: calculatedSchema }).noUnknown(),
		answer: calculatedPreviewAnswer,
		reply: 'Type, unit, first cells and how many are empty',
		run: async ({ params, body }) => ({
			preview: await runTableTask('previewCalculated', {
				...(await forThread(await oneTable(params['project']!, params['object']!))),
				columns: body.columns
			})
		})
	}),
	operation({
		id: 'setCalculated',
		method: 'put',
		path: '/projects/{project}/tables/{object}/calculated',
		tag: 'Tables',
		summary: 'The calculated columns of a table: names and expressions (see docs/expressions.md)',
		body: yup.object({ columns: calculatedSchema, revision: yup.number().integer().required() }).noUnknown(),
		answer: countsAnswer,
		reply: 'Open findings as they are then',
		run: async ({ params, body }) => {
			await runTableTask('previewCalculated', {
				...(await forThread(await oneTable(params['project']!, params['object']!))),
				columns: body.columns
			});
			await doChange(params['project']!, 'Change calculated columns', async (tx) => {
				const row = await lockObject(tx, params['project']!, params['object']!, body.revision);
				return [{ kind: 'state', object: row.id, before: row.state, after: { ...row.state, calculated: body.columns } }];
			});
			return checkProject(params['project']!);
		}
	}),
	operation({
		id: 'changeReading',
		method: 'put',
		path: '/projects/{project}/tables/{object}/mapping',
		tag: 'Tables',
		summary: 'Read the columns of a table otherwise (roles, units, value rules), with no new upload',
		answer: countsAnswer,
		reply: 'Open findings as they are then',
		body: yup
			.object({
				mapping: textRecordSchema,
				units: textRecordSchema,
				values: valueRulesSchema,
				written: writtenSchema,
				reading: readingSchema.pick(['decimal', 'thousands']).default(undefined).optional(),
				revision: yup.number().integer().required()
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			await doChange(
				params['project']!,
				body.mapping ? 'Change column roles' : body.values ? 'Change value rules' : 'Change how columns are read',
				async (tx) => {
					const row = await lockObject(tx, params['project']!, params['object']!, body.revision);
					const state = tableState(row.state);
					refuseVersion(state, row.name);
					const mapping = body.mapping ?? state.mapping;
					validateMapping(state.kind, state.header, mapping);
					const after = {
						...state,
						mapping,
						units: body.units ?? state.units,
						values: body.values ?? state.values,
						written: body.written ?? state.written ?? {},
						reading: { ...state.reading, ...body.reading }
					};
					return [{ kind: 'state', object: row.id, before: row.state, after }];
				}
			);
			return checkProject(params['project']!);
		}
	}),
	operation({
		id: 'tableSummary',
		method: 'get',
		path: '/projects/{project}/tables/{object}/summary',
		tag: 'Check',
		summary: 'Rows, holes, depth range, missing cells, histogram of each numeric column, counts of each code, classes of measured values',
		answer: summaryAnswer,
		reply: 'The summary',
		run: async ({ params }) => {
			const table = await oneTable(params['project']!, params['object']!);
			const p = await findProject(db(), params['project']!);
			return {
				summary: await summaryOf(params['project']!, table, p.lengthUnit),
				values: await valueClasses(table),
				acts: table.state.values,
				classes: VALUE_CLASSES
			};
		}
	})
];

/** How many cells of each class the measured columns have. */
async function valueClasses(table: StoredTable) {
	const measured = table.state.header
		.map((h, i) => ({ h, i }))
		.filter(({ h }) => roleOf(table.state.kind, table.state.mapping[h] ?? '')?.key === 'value');
	if (measured.length === 0) return [];
	const parts = await tableParts(db(), table);
	const { columns } = rawTable(parts).raw;
	return measured.map(({ h, i }) => ({ column: h, counts: countClasses(columns[i]!, numberReader(table.state.reading)) }));
}
