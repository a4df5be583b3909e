import * as yup from 'yup';
import { DISSOLVE_INTO } from '#core/logs/relog';
import { restoredTogether, type RestorableRow } from '#core/logs/restore';
import { NOTE } from '#core/tables/version';
import { fail } from '#core/problem';
import { numberReader } from '#core/tables/numbers';
import { logChangesAnswer, logPickAnswer, logPreviewAnswer, logRelogAnswer } from '$lib/api/answers/logs';
import { changedAnswer } from '$lib/api/answers/projects';
import { db } from '../db/client';
import { lockObject } from '../graph/changes';
import { loadGraph } from '../graph/graph';
import { objectBytes } from '../graph/inputs';
import type { Step } from '../graph/steps';
import { rowsByNumber, sourceTable, type StoredRow, type StoredTable } from '../store/tables';
import type { TableState } from '../threads/stored-table';
import type { AskedBody } from '../threads/log-tasks';
import { runTableTask } from '../threads/threads';
import { operation } from './operation';
import { changeRows } from './tables';
import { forLog, logIn, oneVersion } from './logs';

/** Forms of objects that something can lie within. */
const BODIES: readonly string[] = ['lines', 'faces', 'surface', 'solids'];
const revision = yup.number().integer().required();
const rowsSchema = yup.array(yup.number().integer().min(0).required()).max(1_000_000);
const depth = () => yup.number().min(-1e6).max(1e6);
const holeName = () => yup.string().min(1).max(200);
const code = () => yup.string().trim().max(200);

/** A rule that picks intervals. What it needs beside its kind is said by the kind. */
const ruleSchema = yup
	.object({
		by: yup
			.string<'thin' | 'beside' | 'depth' | 'codes' | 'filter' | 'within'>()
			.oneOf(['thin', 'beside', 'depth', 'codes', 'filter', 'within'])
			.required(),
		thinner: yup
			.number()
			.positive()
			.max(1e6)
			.when('by', { is: 'thin', then: (s) => s.required() }),
		/** Any, where it is left out. */
		between: yup.string<'any' | 'same'>().oneOf(['any', 'same']),
		of: code()
			.min(1)
			.when('by', { is: 'beside', then: (s) => s.required() }),
		side: yup
			.string<'above' | 'below'>()
			.oneOf(['above', 'below'])
			.when('by', { is: 'beside', then: (s) => s.required() }),
		from: depth().when('by', { is: 'depth', then: (s) => s.required() }),
		to: depth().when('by', { is: 'depth', then: (s) => s.required() }),
		codes: yup
			.array(yup.string().max(1000).defined())
			.max(5000)
			.when('by', { is: 'codes', then: (s) => s.required() }),
		filter: yup
			.string()
			.min(1)
			.max(2000)
			.when('by', { is: 'filter', then: (s) => s.required() }),
		/** Faces on the map, a closed surface, or a model, and then a unit of it. */
		object: yup
			.string()
			.uuid()
			.when('by', { is: 'within', then: (s) => s.required() }),
		unit: yup.string().max(100)
	})
	.noUnknown();

/** An act of relogging. What it needs beside its kind is said by the kind. */
const actSchema = yup
	.object({
		do: yup.string<'give' | 'stretch' | 'move' | 'split' | 'dissolve'>().oneOf(['give', 'stretch', 'move', 'split', 'dissolve']).required(),
		rows: rowsSchema.when('do', ([what], s) => (what === 'give' || what === 'dissolve' ? s.min(1).required() : s)),
		code: code().when('do', ([what], s) => (what === 'give' || what === 'stretch' ? s.defined() : s)),
		stretches: yup
			.array(
				yup.object({ hole: holeName().required(), from: depth().required(), to: depth().required(), code: code() }).noUnknown().required()
			)
			.max(20_000)
			.when('do', { is: 'stretch', then: (s) => s.min(1).required() }),
		hole: holeName().when('do', { is: 'move', then: (s) => s.required() }),
		from: depth().when('do', { is: 'move', then: (s) => s.required() }),
		to: depth().when('do', { is: 'move', then: (s) => s.required() }),
		row: yup
			.number()
			.integer()
			.min(0)
			.when('do', { is: 'split', then: (s) => s.required() }),
		depth: depth().when('do', { is: 'split', then: (s) => s.required() }),
		into: yup
			.string()
			.oneOf(DISSOLVE_INTO)
			.when('do', { is: 'dissolve', then: (s) => s.required() })
	})
	.noUnknown();

/** What intervals are to lie in. @throws ProblemError `not-found`, `not-a-body`, `not-built` */
async function bodyAsked(projectId: string, id: string, unit: string): Promise<AskedBody> {
	const object =
		(await loadGraph(db(), projectId)).find((o) => o.id === id) ??
		fail('not-found', 'there is no such object', 'Choose another.', 'object');
	if (!object.form || !BODIES.includes(object.form))
		fail('not-a-body', `nothing lies within ${object.name}`, 'Choose faces on the map, a closed surface, or a model and a unit.', 'object');
	const pack = object.missing ? null : await objectBytes(projectId, object);
	return {
		name: object.name,
		form: object.form,
		pack: pack ?? fail('not-built', `${object.name} was not built yet`, 'Build it first.', 'object'),
		unit
	};
}

const LABELS = {
	give: 'Relog intervals',
	stretch: 'Relog a stretch',
	move: 'Move a boundary',
	split: 'Split an interval',
	dissolve: 'Dissolve intervals'
};

/**
 * Steps that take changes of rows back: cells to what they were, rows in again, parts that were cut off out.
 * @param out rows that are left out in the version itself
 * @param cells rows of which codes and notes go back, and those of which depths do
 */
function restoreSteps(
	table: StoredTable,
	rows: readonly StoredRow[],
	out: ReadonlySet<number>,
	cells: ReadonlySet<number>,
	depths: ReadonlySet<number>
): Step[] {
	const { header, mapping, rowCount, added = [] } = table.state;
	const of = new Map(header.map((h, i) => [i, mapping[h] ?? '']));
	const source = rowCount - added.length;
	const back: [number, number, string, string][] = [];
	const outAgain: number[] = [];
	const inAgain: number[] = [];
	for (const r of rows) {
		const isDepth = depths.has(r.n);
		if (!isDepth && !cells.has(r.n)) continue;
		if (r.n >= source) {
			if (isDepth && !r.excluded) outAgain.push(r.n);
			continue;
		}
		for (const [position, was] of Object.entries(r.originals)) {
			const at = Number(position);
			const geometry = ['from', 'to', 'thickness'].includes(of.get(at)!);
			if (geometry ? isDepth : cells.has(r.n)) back.push([r.n, at, r.cells[at]!, was]);
		}
		if (isDepth && out.has(r.n)) inAgain.push(r.n);
	}
	const own = { object: table.id, version: table.version };
	const steps: Step[] = [];
	if (back.length) steps.push({ kind: 'cells', ...own, cells: back });
	if (inAgain.length) steps.push({ kind: 'excluded', ...own, rows: inAgain, after: false });
	if (outAgain.length) steps.push({ kind: 'excluded', ...own, rows: outAgain, after: true });
	return steps;
}

/** Whether a row is left out in a version itself, not in what it goes out from. */
async function ownExclusions(table: StoredTable, rows: readonly StoredRow[]): Promise<Set<number>> {
	const source = new Map(
		(
			await rowsByNumber(
				db(),
				await sourceTable(db(), table.state.versionOf!),
				rows.map((r) => r.n)
			)
		).map((r) => [r.n, r.excluded])
	);
	return new Set(rows.filter((r) => r.excluded && !source.get(r.n)).map((r) => r.n));
}

export const relogOperations = [
	operation({
		id: 'pickIntervals',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/logs/{object}/pick',
		tag: 'Logs',
		summary:
			'Intervals of a log that a rule picks: thin ones, those beside a unit, in a range of depth, of some codes, within a body, or by an expression',
		body: yup.object({ rule: ruleSchema.required(), among: rowsSchema.nullable() }).noUnknown(),
		answer: logPickAnswer,
		reply: 'Rows, and what they hold together',
		run: async ({ params, model, body }) => {
			const table = await logIn(params['project']!, params['object']!);
			return runTableTask('pickIntervals', {
				...(await forLog(params['project']!, model, table.id)),
				rule: (body.rule.by === 'within'
					? { by: 'within', body: await bodyAsked(params['project']!, body.rule.object!, body.rule.unit ?? '') }
					: { between: 'any', ...body.rule }) as never,
				among: body.among ?? null
			});
		}
	}),
	operation({
		id: 'previewRelog',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/logs/{object}/relog/preview',
		tag: 'Logs',
		summary: 'What an act of relogging would change',
		largest: 16 * 1024 * 1024,
		body: yup.object({ act: actSchema.required() }).noUnknown(),
		answer: logPreviewAnswer,
		reply: 'The first intervals that would change, and what they hold together',
		run: async ({ params, model, body }) => {
			const table = await logIn(params['project']!, params['object']!);
			const { cells, added, excluded, left, picked, shown } = await runTableTask('relogCells', {
				...(await forLog(params['project']!, model, table.id)),
				act: body.act as never,
				note: null
			});
			return { changed: cells.length + added.length + excluded.length, left, picked, shown };
		}
	}),
	operation({
		id: 'relog',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/logs/{object}/relog',
		tag: 'Logs',
		summary:
			'Relog a version: give intervals or stretches a code (an empty one is "not sampled"), move a boundary, split an interval, dissolve intervals into their neighbours; one act is one change',
		largest: 16 * 1024 * 1024,
		body: yup.object({ act: actSchema.required(), note: yup.string().trim().max(2000), revision }).noUnknown(),
		answer: logRelogAnswer,
		reply: 'How many cells and rows changed, and open findings as they are then',
		run: async ({ params, model, body }) => {
			const projectId = params['project']!;
			const table = await oneVersion(projectId, params['object']!);
			const { cells, added, excluded, left } = await runTableTask('relogCells', {
				...(await forLog(projectId, model, table.id)),
				act: body.act as never,
				note: body.note || null
			});
			const counts = await changeRows(projectId, `${LABELS[body.act.do]} in ${table.name}`, table.id, async (tx) => {
				const row = await lockObject(tx, projectId, table.id, body.revision);
				return relogSteps(row, cells, added, excluded);
			});
			return { changed: cells.length + added.length + excluded.length, left, ...counts };
		}
	}),
	operation({
		id: 'listRelogged',
		method: 'get',
		path: '/projects/{project}/logs/{object}/changes',
		tag: 'Logs',
		summary: 'The intervals that were changed in a version of a log, with what stood there before, by whom and when',
		query: yup
			.object({ offset: yup.number().integer().min(0).default(0), limit: yup.number().integer().min(1).max(1000).default(200) })
			.noUnknown(),
		answer: logChangesAnswer,
		reply: 'A page of changed intervals, and edits whose interval is not there any more',
		run: async ({ params, query }) => {
			const table = await oneVersion(params['project']!, params['object']!);
			const { total, rows } = await runTableTask('changedRows', { ...(await forLog(params['project']!, null, table.id)), ...query });
			const stored = new Map((await rowsByNumber(db(), table, rows)).map((r) => [r.n, r]));
			const { header, mapping, unplaced = [] } = table.state;
			const at = (role: string) => header.findIndex((h) => mapping[h] === role);
			const source = table.state.rowCount - (table.state.added?.length ?? 0);
			return {
				total,
				changes: rows.map((n) => {
					const r = stored.get(n)!;
					const [last] = Object.values(r.edited).sort((a, b) => (a.at < b.at ? 1 : -1));
					return {
						n,
						hole: r.cells[at('hole')] ?? '',
						from: r.cells[at('from')] ?? '',
						to: r.cells[at('to')] ?? '',
						code: r.cells[at('code')] ?? '',
						what: r.excluded ? ('left out' as const) : n >= source ? ('cut off' as const) : ('relogged' as const),
						before: Object.fromEntries(Object.entries(r.originals).map(([i, was]) => [header[Number(i)]!, was])),
						note: r.cells[header.indexOf(NOTE)] ?? '',
						by: last?.by ?? '',
						at: last?.at ?? null
					};
				}),
				unplaced
			};
		}
	}),
	operation({
		id: 'restoreIntervals',
		method: 'post',
		path: '/projects/{project}/logs/{object}/restore',
		tag: 'Logs',
		summary:
			'Take the relogging of some intervals back, or of all: codes as they were, and boundaries with those of the neighbours that moved with them; or let go edits whose interval is not there any more',
		body: yup
			.object({ rows: rowsSchema, all: yup.boolean(), unplaced: yup.boolean(), revision })
			.noUnknown()
			.test('one', 'give rows, all or unplaced', (b) => [b.rows, b.all, b.unplaced].filter(Boolean).length === 1),
		answer: changedAnswer,
		reply: 'How many cells and rows changed, and open findings as they are then',
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			const table = await oneVersion(projectId, params['object']!);
			const steps = body.unplaced ? [] : await stepsBack(projectId, table, body.all ? null : (body.rows ?? []));
			let changed = 0;
			const counts = await changeRows(projectId, `Take relogging of ${table.name} back`, table.id, async (tx) => {
				const row = await lockObject(tx, projectId, table.id, body.revision);
				const { unplaced: aside, ...rest } = row.state;
				changed = steps.reduce((n, s) => n + (s.kind === 'cells' ? s.cells.length : s.kind === 'excluded' ? s.rows.length : 0), 0);
				if (!body.unplaced || !aside) return steps;
				changed = (aside as unknown[]).length;
				return [{ kind: 'state', object: row.id, before: row.state, after: rest }];
			});
			return { changed, ...counts };
		}
	})
];

/** The steps of an act on a version, which is locked: rows that come in first, then cells, then rows that go out. */
function relogSteps(
	row: { id: string; version: number; state: Record<string, unknown> },
	cells: readonly [number, number, string, string][],
	added: NonNullable<TableState['added']>,
	excluded: readonly number[]
): Step[] {
	const own = { object: row.id, version: row.version };
	const known = (row.state['added'] ?? []) as NonNullable<TableState['added']>;
	const steps: Step[] = [];
	if (added.length) steps.push({ kind: 'state', object: row.id, before: row.state, after: { ...row.state, added: [...known, ...added] } });
	if (cells.length) steps.push({ kind: 'cells', ...own, cells: [...cells] });
	if (excluded.length) steps.push({ kind: 'excluded', ...own, rows: [...excluded], after: true });
	return steps;
}

/** What takes the relogging of some rows back, or of all. */
async function stepsBack(projectId: string, table: StoredTable, wanted: readonly number[] | null): Promise<Step[]> {
	const thread = await forLog(projectId, null, table.id);
	const all = wanted ?? (await runTableTask('changedRows', { ...thread, offset: 0, limit: 1_000_000 })).rows;
	if (all.length === 0) return fail('nothing-to-restore', `nothing of ${table.name} was relogged`, 'Pick intervals that were.', 'rows');
	const numbers = await runTableTask('rowsOfSame', { ...thread, rows: all });
	const rows = await rowsByNumber(db(), table, numbers);
	const out = await ownExclusions(table, rows);
	const { header, mapping, reading } = table.state;
	const read = numberReader(reading);
	const at = (role: string) => header.findIndex((h) => mapping[h] === role);
	const [hole, from, to] = [at('hole'), at('from'), at('to')];
	const source = table.state.rowCount - (table.state.added?.length ?? 0);
	const asked = new Set(all);
	const depths = new Set<number>();
	const byHole = groupBy(rows, (r) => r.cells[hole]!);
	for (const own of byHole.values()) {
		const number = (r: StoredRow, p: number, before: boolean) =>
			before && r.n >= source ? NaN : read((before ? r.originals[p] : undefined) ?? r.cells[p] ?? '');
		const restorable = own.map((r): RestorableRow => ({
			n: r.n,
			from: number(r, from, false),
			to: number(r, to, false),
			fromBefore: number(r, from, true),
			toBefore: number(r, to, true),
			isOut: r.excluded,
			isCutOff: r.n >= source
		}));
		for (const n of restoredTogether(
			restorable.filter((r) => !r.isOut || out.has(r.n)),
			asked
		))
			depths.add(n);
	}
	const steps = restoreSteps(table, rows, out, asked, depths);
	return steps.length
		? steps
		: fail('nothing-to-restore', 'these intervals are as they were logged', 'Pick intervals that were changed.', 'rows');
}

function groupBy<T>(list: readonly T[], key: (t: T) => string): Map<string, T[]> {
	const out = new Map<string, T[]>();
	for (const t of list) {
		const own = out.get(key(t));
		if (own) own.push(t);
		else out.set(key(t), [t]);
	}
	return out;
}
