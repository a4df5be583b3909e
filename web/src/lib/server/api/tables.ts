import { and, asc, eq, gt, inArray, sql } from 'drizzle-orm';
import * as yup from 'yup';
import { RULES } from '#core/checks/rules';
import { fail } from '#core/problem';
import { db, type Executor } from '../db/client';
import { anyOf } from '../db/conditions';
import { finding, rowExclusion } from '../db/schema';
import { doChange, lockObject } from '../graph/changes';
import { fileRow } from '../store/files';
import { enqueue } from '../jobs/queue';
import type { RowQuery } from '../threads/table-tasks';
import { runTableTask } from '../threads/threads';
import { versionMessage } from '../jobs/version-job';
import { checkEdit, checkProject, countFindings, type StoredEdit } from '../services/check';
import { checkInput, partsForThread } from '../graph/check-input';
import { mendSteps, previewMends } from '../graph/mends';
import type { Step } from '../graph/steps';
import { columnCells, toldState, type TableState } from '../threads/stored-table';
import { listTables, rowsByNumber, tableParts, type StoredTable } from '../store/tables';

import { mendPreviewAnswer, rowPageAnswer, versionAnswer } from '$lib/api/answers/data';
import { changedAnswer, countsAnswer, startedJobAnswer } from '$lib/api/answers/projects';
import { operation } from './operation';
import { tableState } from '../threads/stored-table';

export async function oneTable(projectId: string, id: string): Promise<StoredTable> {
	return (await listTables(db(), projectId)).find((t) => t.id === id) ?? fail('not-found', 'there is no such table in this project');
}

/** How its file is read is a matter of the log that a version goes out from. @throws ProblemError `is-a-version` */
export function refuseVersion(state: TableState, name: string): void {
	if (state.versionOf)
		fail(
			'is-a-version',
			`${name} is a version of a log and has no file of its own`,
			'Do this to the log that it goes out from; it follows.'
		);
}

/** Does a change of rows and checks what it can affect. */
export async function changeRows(
	projectId: string,
	label: string,
	objectId: string | null,
	steps: (tx: Executor) => Promise<Step[]>
): Promise<{ held: number; noted: number }> {
	const before = await checkInput(db(), projectId);
	let done: Step[] = [];
	await doChange(projectId, label, async (tx) => (done = await steps(tx)));
	// What changes nothing changes no finding either.
	if (done.length === 0) return countFindings(projectId);
	const isVersion = before.tables.some((t) => t.id === objectId && t.state.versionOf !== undefined);
	const edit = editOf(done, objectId, isVersion ? MOST_OF_VERSION : MOST_BY_PART);
	return edit ? checkEdit(before, edit) : checkProject(projectId);
}

/** Changes of rows of one table as an edit that can be checked by part; null when other things changed, or much of it. */
function editOf(steps: readonly Step[], objectId: string | null, most: number): StoredEdit | null {
	const edit: StoredEdit = { objectId: objectId ?? '', cells: [], rows: [] };
	for (const s of steps) {
		if ((s.kind !== 'cells' && s.kind !== 'excluded') || s.object !== objectId) return null;
		if ((s.kind === 'cells' ? s.cells : s.rows).length + edit.cells.length + edit.rows.length >= most) return null;
		if (s.kind === 'cells') for (const [n, position, , value] of s.cells) edit.cells.push({ n, position, value });
		else for (const n of s.rows) edit.rows.push({ n, excluded: s.after });
	}
	return edit;
}
/** Of a table the rows of as many holes are looked at again; of a version only what is changed in it. */
const MOST_BY_PART = 200;
const MOST_OF_VERSION = 50_000;

/** What rows are chosen and ordered by. */
export const rowQuery = {
	filter: yup.string().max(2000),
	sort: yup.string().max(500),
	descending: yup.boolean(),
	find: yup.string().max(200)
};

/** A table for the thread that keeps tables. */
export async function forThread(table: StoredTable) {
	const [parts] = await partsForThread(db(), [table], table.lengthUnit);
	return { table: parts!, lengthUnit: table.lengthUnit };
}

const rowSelection = {
	rule: yup
		.string()
		.oneOf(RULES.map((r) => r.id))
		.required(),
	/** Rows; all findings of the rule in the table when left out. */
	rows: yup.array(yup.number().integer().min(0).required()).max(100_000),
	/** Header of the column whose findings are meant, when a rule found something in several. */
	column: yup.string().max(500)
};

export const tableOperations = [
	operation({
		id: 'listRows',
		method: 'get',
		path: '/projects/{project}/tables/{object}/rows',
		tag: 'Tables',
		summary: 'Rows of a table with their findings and edits',
		answer: rowPageAnswer,
		reply: 'A page of rows',
		query: yup
			.object({
				offset: yup.number().integer().min(0).default(0),
				limit: yup.number().integer().min(1).max(1000).default(100),
				only: yup.string().oneOf(['all', 'found', 'excluded']).default('all'),
				hole: yup.string().max(200),
				...rowQuery
			})
			.noUnknown(),
		run: async ({ params, query }) => {
			const table = await oneTable(params['project']!, params['object']!);
			const { numbers, total } = await selectRows(table, query);
			const stored = new Map((await rowsByNumber(db(), table, numbers)).map((r) => [r.n, r]));
			const rows = numbers.map((n) => stored.get(n)!);
			const hole = table.state.header.findIndex((h) => table.state.mapping[h] === 'hole');
			const holes = hole < 0 ? [] : [...new Set(rows.map((r) => r.cells[hole]!))];
			// A finding about all rows of a hole shows at each of them.
			const ofHoles = holes.length ? and(gt(finding.count, 1), inArray(finding.hole, holes)) : undefined;
			const found = numbers.length
				? await db()
						.select()
						.from(finding)
						.where(
							and(eq(finding.objectId, table.id), ofHoles ? anyOf([inArray(finding.n, numbers), ofHoles]) : inArray(finding.n, numbers))
						)
				: [];
			return {
				table: { ...toldState(table.state), id: table.id, name: table.name, revision: table.revision },
				calculated: table.state.calculated?.length
					? await runTableTask('calculatedCells', { ...(await forThread(table)), rows: numbers })
					: [],
				total,
				rows: rows.map((r) => ({
					...r,
					findings: found
						.filter((f) => f.n === r.n || (f.count > 1 && f.n >= 0 && f.hole === r.cells[hole]))
						.map(({ rule, severity, role, message, hint, proposal }) => ({ rule, severity, role, message, hint, proposal }))
				}))
			};
		}
	}),
	operation({
		id: 'editRow',
		method: 'patch',
		path: '/projects/{project}/tables/{object}/rows/{n}',
		tag: 'Tables',
		summary: 'Edit one cell of a row, or exclude the row; the original stays',
		answer: countsAnswer,
		reply: 'Open findings held back and noted as they are then',
		body: yup
			.object({
				column: yup.string().max(500),
				value: yup.string().max(10_000),
				excluded: yup.boolean(),
				revision: yup.number().integer().required()
			})
			.noUnknown()
			.test(
				'one',
				'give column and value, or excluded',
				(b) => (b.column !== undefined && b.value !== undefined) !== (b.excluded !== undefined)
			),
		run: async ({ params, body }) => {
			const n = Number(params['n']);
			const label = body.excluded === undefined ? `Edit ${body.column}` : body.excluded ? 'Exclude a row' : 'Take a row back in';
			return changeRows(params['project']!, label, params['object']!, async (tx) => {
				const row = await lockObject(tx, params['project']!, params['object']!, body.revision);
				const state = tableState(row.state);
				const [stored] = Number.isInteger(n) ? await rowsByNumber(tx, { id: row.id, version: row.version, state }, [n]) : [];
				if (!stored) return fail('not-found', 'there is no such row');
				if (body.excluded !== undefined)
					return stored.excluded === body.excluded
						? []
						: [{ kind: 'excluded', object: row.id, version: row.version, rows: [n], after: body.excluded }];
				const position = state.header.indexOf(body.column!);
				if (position < 0)
					return fail('unknown-column', `there is no column "${body.column}"`, `The columns are: ${state.header.join(', ')}.`, 'column');
				const before = stored.cells[position]!;
				const after = body.value!.trim();
				return before === after ? [] : [{ kind: 'cells', object: row.id, version: row.version, cells: [[n, position, before, after]] }];
			});
		}
	}),
	operation({
		id: 'editCells',
		method: 'post',
		path: '/projects/{project}/tables/{object}/cells',
		tag: 'Tables',
		summary: 'Edit many cells as one change, as by pasting',
		answer: changedAnswer,
		reply: 'How many cells changed, and open findings held back and noted as they are then',
		body: yup
			.object({
				cells: yup
					.array(
						yup
							.object({
								n: yup.number().integer().min(0).required(),
								column: yup.string().max(500).required(),
								value: yup.string().max(10_000).defined()
							})
							.noUnknown()
							.required()
					)
					.min(1)
					.max(20_000)
					.required(),
				revision: yup.number().integer().required()
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			let changed = 0;
			const counts = await changeRows(
				params['project']!,
				body.cells.length === 1 ? `Edit ${body.cells[0]!.column}` : `Edit ${body.cells.length} cells`,
				params['object']!,
				async (tx) => {
					const row = await lockObject(tx, params['project']!, params['object']!, body.revision);
					const state = tableState(row.state);
					const stored = new Map(
						(
							await rowsByNumber(
								tx,
								{ id: row.id, version: row.version, state },
								body.cells.map((c) => c.n)
							)
						).map((r) => [r.n, r.cells])
					);
					// Of a cell that is named twice the last value counts.
					const last = new Map(body.cells.map((c) => [`${c.n} ${c.column}`, c]));
					const cells = [...last.values()].flatMap((c): [number, number, string, string][] => {
						const position = state.header.indexOf(c.column);
						if (position < 0)
							return fail(
								'unknown-column',
								`there is no column "${c.column}" that can be edited`,
								`The columns are: ${state.header.join(', ')}.`,
								'column'
							);
						const before = (stored.get(c.n) ?? fail('not-found', `there is no row ${c.n + 1}`))[position]!;
						return before === c.value.trim() ? [] : [[c.n, position, before, c.value.trim()]];
					});
					changed = cells.length;
					return cells.length ? [{ kind: 'cells', object: row.id, version: row.version, cells }] : [];
				}
			);
			return { changed, ...counts };
		}
	}),
	operation({
		id: 'compareVersion',
		method: 'post',
		path: '/projects/{project}/tables/{object}/reload/preview',
		tag: 'Tables',
		summary: 'What a newer version of the file changes, and which edits it conflicts with',
		answer: versionAnswer,
		reply: 'Counts and conflicts',
		body: yup.object({ fileId: yup.string().uuid().required() }).noUnknown(),
		run: async ({ params, body }) => {
			const table = await oneTable(params['project']!, params['object']!);
			refuseVersion(table.state, table.name);
			return runTableTask('compareVersions', await versionMessage(db(), params['project']!, table, body.fileId));
		}
	}),
	...(['reload', 'append'] as const).map((how) =>
		operation({
			id: `${how}Table`,
			method: 'post',
			path: `/projects/{project}/tables/{object}/${how}`,
			tag: 'Tables',
			summary:
				how === 'reload'
					? 'Read a table from a newer version of its file; edits stay where the file did not change'
					: 'Add the rows of another file with the same columns',
			answer: startedJobAnswer,
			reply: 'The job',
			body: yup
				.object({
					fileId: yup.string().uuid().required(),
					conflicts: yup.string().oneOf(['edits', 'source']).default('edits'),
					dropLost: yup.boolean().default(false),
					revision: yup.number().integer().required()
				})
				.noUnknown(),
			run: async ({ params, body, requestKey }) => {
				const table = await oneTable(params['project']!, params['object']!);
				refuseVersion(table.state, table.name);
				await fileRow(params['project']!, body.fileId);
				return {
					job: await enqueue(
						params['project']!,
						'version',
						`${how === 'reload' ? 'Reload' : 'Append to'} ${table.name}`,
						{
							objectId: table.id,
							fileId: body.fileId,
							how,
							conflicts: body.conflicts ?? 'edits',
							dropLost: body.dropLost ?? false,
							revision: body.revision
						},
						{ requestKey }
					)
				};
			}
		})
	),
	operation({
		id: 'previewMend',
		method: 'post',
		path: '/projects/{project}/tables/{object}/mends/preview',
		tag: 'Check',
		summary: 'What a mend of the findings of a rule would change',
		answer: mendPreviewAnswer,
		reply: 'Cells before and after, or rows that would be left out',
		body: yup
			.object({
				...rowSelection,
				mend: yup.string().oneOf(['swap', 'deepen-hole', 'propose', 'exclude', 'set']).required(),
				value: yup.string().max(1000)
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			const table = await oneTable(params['project']!, params['object']!);
			// What is mended are findings of the tables as they stand: what came in a moment ago is looked at first.
			await checkProject(params['project']!);
			return previewMends(params['project']!, table, body);
		}
	}),
	operation({
		id: 'mend',
		method: 'post',
		path: '/projects/{project}/tables/{object}/mends',
		tag: 'Check',
		summary: 'Mend the findings of a rule: swap, extend the hole, take the proposal, exclude, or set a value; for some rows or for all',
		answer: changedAnswer,
		reply: 'How many cells and rows changed, and open findings as they are then',
		body: yup
			.object({
				...rowSelection,
				mend: yup.string().oneOf(['swap', 'deepen-hole', 'propose', 'exclude', 'set']).required(),
				value: yup.string().max(1000),
				revision: yup.number().integer().required()
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			const table = await oneTable(params['project']!, params['object']!);
			await checkProject(params['project']!);
			const title = RULES.find((r) => r.id === body.rule)!.title;
			let changed = 0;
			const counts = await changeRows(params['project']!, `Mend: ${title}`, table.id, async (tx) => {
				await lockObject(tx, params['project']!, table.id, body.revision);
				const steps = await mendSteps(tx, params['project']!, table, body);
				changed = steps.reduce((n, s) => n + (s.kind === 'cells' ? s.cells.length : s.kind === 'excluded' ? s.rows.length : 0), 0);
				return steps;
			});
			return { changed, ...counts };
		}
	}),
	operation({
		id: 'excludeHole',
		method: 'post',
		path: '/projects/{project}/holes/{hole}/exclude',
		tag: 'Check',
		summary: 'Leave a hole out of one table or of all, or take it back in',
		answer: changedAnswer,
		reply: 'How many rows changed, and open findings as they are then',
		body: yup.object({ table: yup.string().uuid(), excluded: yup.boolean().required() }).noUnknown(),
		run: async ({ params, body }) => {
			// What is left out of a log is left out of its versions.
			const tables = (await listTables(db(), params['project']!)).filter((t) => (body.table ? t.id === body.table : !t.state.versionOf));
			let changed = 0;
			await doChange(params['project']!, `${body.excluded ? 'Leave out' : 'Take back in'} ${params['hole']}`, async (tx) => {
				const steps: Step[] = [];
				for (const t of tables) {
					const position = t.state.header.findIndex((h) => t.state.mapping[h] === 'hole');
					if (position < 0) continue;
					const parts = await tableParts(tx, t);
					const names = columnCells(parts, position);
					const out = new Set(parts.excluded);
					const rows = names.flatMap((h, n) => (h === params['hole'] && out.has(n) !== body.excluded ? [n] : []));
					changed += rows.length;
					if (rows.length) steps.push({ kind: 'excluded', object: t.id, version: t.version, rows, after: body.excluded });
				}
				return steps;
			});
			if (changed === 0) return fail('not-found', `no row of ${params['hole']} is ${body.excluded ? 'in use' : 'left out'}`);
			return { changed, ...(await checkProject(params['project']!)) };
		}
	})
];

/** Numbers of the rows that a query asks for, and how many there are. */
async function selectRows(
	table: StoredTable,
	query: RowQuery & { offset: number; limit: number; only: string; hole?: string | undefined }
): Promise<{ numbers: number[]; total: number }> {
	const { filter, sort, descending, find } = query;
	if (filter || sort !== undefined || descending || find)
		return runTableTask('rowPage', {
			...(await forThread(table)),
			query: { filter, sort, descending, find },
			offset: query.offset,
			limit: query.limit
		});
	const page = (list: number[]) => ({ numbers: list.slice(query.offset, query.offset + query.limit), total: list.length });
	if (query.hole !== undefined) {
		const position = table.state.header.findIndex((h) => table.state.mapping[h] === 'hole');
		const parts = await tableParts(db(), table);
		const names = columnCells(parts, position);
		return page(names.flatMap((h, n) => (h === query.hole ? [n] : [])));
	}
	if (query.only === 'excluded')
		return page(
			(
				await db()
					.select({ n: rowExclusion.n })
					.from(rowExclusion)
					.where(and(eq(rowExclusion.objectId, table.id), eq(rowExclusion.version, table.version)))
					.orderBy(asc(rowExclusion.n))
			).map((r) => r.n)
		);
	if (query.only === 'found') {
		const rows = await db()
			.selectDistinct({ n: finding.n })
			.from(finding)
			.where(and(eq(finding.objectId, table.id), sql`${finding.n} >= 0`))
			.orderBy(asc(finding.n));
		return page(rows.map((r) => r.n));
	}
	const total = table.state.rowCount;
	return { numbers: Array.from({ length: Math.max(0, Math.min(query.limit, total - query.offset)) }, (_, i) => query.offset + i), total };
}
