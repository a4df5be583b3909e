import { and, eq, inArray, isNull } from 'drizzle-orm';
import * as yup from 'yup';
import { RULES } from '#core/checks/rules';
import type { RuleSettings } from '#core/checks/settings';
import { writeXlsx } from '#core/formats/xlsx';
import { ruleSettingsSchema } from '#core/project/project-file';
import { tableKind } from '#core/tables/kinds';
import { writeCsv } from '#core/tables/delimited';
import { fileName } from '#core/formats/meshes';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { finding, object, file, seenFinding } from '../db/schema';
import { runTableTask } from '../threads/threads';
import { checkProject, countFindings } from '../services/check';
import { checkInput, tablesOf } from '../graph/check-input';
import { doChange } from '../graph/changes';
import { loadModel, one } from '../graph/graph';
import { findProject } from '../store/projects';
import { listTables } from '../store/tables';
import { setState } from './interpret';
import { findingListAnswer, ruleListAnswer, rulesAnswer, rulesEffectAnswer } from '$lib/api/answers/data';
import { countsAnswer } from '$lib/api/answers/projects';
import { download, operation } from './operation';
import { pageOf, pageQuery } from './pages';
import { stateOf, unlessDamaged } from '../graph/states';

const MOST_FINDINGS = 20_000;

/** Findings of a project, or of one table, with what was seen and left. */
async function findings(projectId: string, table?: string) {
	return db()
		.select({
			id: finding.id,
			table: finding.objectId,
			rule: finding.rule,
			severity: finding.severity,
			n: finding.n,
			line: finding.line,
			role: finding.role,
			hole: finding.hole,
			message: finding.message,
			hint: finding.hint,
			others: finding.others,
			proposal: finding.proposal,
			count: finding.count,
			seen: seenFinding.reason,
			seenBy: seenFinding.seenBy
		})
		.from(finding)
		.leftJoin(object, eq(object.id, finding.objectId))
		.leftJoin(
			seenFinding,
			and(
				eq(seenFinding.objectId, finding.objectId),
				eq(seenFinding.version, object.version),
				eq(seenFinding.rule, finding.rule),
				eq(seenFinding.n, finding.n)
			)
		)
		.where(and(eq(finding.projectId, projectId), isNull(object.removedAt), table ? eq(finding.objectId, table) : undefined))
		.orderBy(finding.id)
		.limit(MOST_FINDINGS);
}

/** @throws ProblemError that names the rule and its bound */
function validateRules(rules: RuleSettings): void {
	for (const [id, setting] of Object.entries(rules)) {
		const rule = RULES.find((r) => r.id === id) ?? fail('unknown-rule', `there is no rule "${id}"`, undefined, `rules.${id}`);
		if (setting.silenced && !setting.reason?.trim())
			fail(
				'no-reason',
				`"${rule.title}" can only be silenced with a reason`,
				'Say why, for those who read the report.',
				`rules.${id}.reason`
			);
		for (const [key, value] of Object.entries(setting.bounds ?? {})) {
			const bound =
				rule.bounds?.[key] ?? fail('unknown-bound', `"${rule.title}" has no bound "${key}"`, undefined, `rules.${id}.bounds.${key}`);
			const least = bound.least ?? 0;
			if (value < least || value > bound.most)
				fail(
					'bound-out-of-range',
					`${bound.label} (${rule.title}) is ${value}; it may be ${least} to ${bound.most}`,
					'Nothing was changed.',
					`rules.${id}.bounds.${key}`
				);
		}
		if (setting.severity === 'held' && NOT_HOLDING.has(id))
			fail(
				'not-holding',
				`"${rule.title}" can only be noted`,
				'It depends on the interpretation, which must not change which rows are used.',
				`rules.${id}.severity`
			);
	}
}

/** What other settings of the rules would do, against those that stand. */
async function effectOf(projectId: string, rules: RuleSettings) {
	const input = await checkInput(db(), projectId);
	const tables = await tablesOf(input);
	const settings = input.options.settings ?? {};
	const names = new Map(input.tables.map((t) => [t.id, t.name]));
	const { before, after } = await runTableTask('compareSettings', { ...tables, settings: [settings, rules] });
	return {
		before: { held: before.held, noted: before.noted },
		after: { held: after.held, noted: after.noted },
		tables: after.tables.map((t, i) => ({
			table: names.get(t.table) ?? t.table,
			rows: t.rows,
			held: t.held,
			heldNow: before.tables[i]!.held
		}))
	};
}

const LARGE_EFFECT = 0.25;

/** A setting that takes a quarter of a table and more out of all calculations is asked about. @throws ProblemError `large-effect` */
async function refuseLargeEffect(projectId: string, rules: RuleSettings): Promise<void> {
	const effect = await effectOf(projectId, rules);
	const worst = effect.tables.find((t) => t.held - t.heldNow > LARGE_EFFECT * t.rows);
	if (worst)
		fail(
			'large-effect',
			`with this, ${worst.held} of the ${worst.rows} rows of ${worst.table} are held back (now ${worst.heldNow})`,
			'Say that this is meant (accept). Nothing was changed.',
			'accept'
		);
}

export const checkOperations = [
	operation({
		id: 'listRules',
		method: 'get',
		path: '/projects/{project}/rules',
		tag: 'Check',
		summary: 'The rules of the checks with what the project has changed in them',
		answer: ruleListAnswer,
		reply: 'Rules, and the revision of the changes',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			const node = one(await loadModel(db(), params['project']!), 'rules');
			const settings = stateOf(node, 'rules').rules;
			return {
				revision: node.revision,
				rules: RULES.map(({ id, title, severity, reason, scope, mends, bounds }) => ({
					id,
					title,
					severity,
					reason,
					scope,
					mends: mends ?? [],
					bounds: bounds ?? {},
					setting: settings[id] ?? {}
				}))
			};
		}
	}),
	operation({
		id: 'setRules',
		method: 'put',
		path: '/projects/{project}/rules',
		tag: 'Check',
		summary: 'Change severity or bounds of rules, or silence them with a reason',
		answer: rulesAnswer,
		reply: 'The changes',
		body: yup
			.object({ rules: ruleSettingsSchema.required(), accept: yup.boolean().default(false), revision: yup.number().integer().required() })
			.noUnknown(),
		run: async ({ params, body }) => {
			validateRules(body.rules);
			if (!body.accept) await refuseLargeEffect(params['project']!, body.rules);
			return setState(params['project']!, null, 'rules', 'Change the rules of the checks', body.revision, { rules: body.rules });
		}
	}),
	operation({
		id: 'previewRules',
		method: 'post',
		path: '/projects/{project}/rules/preview',
		tag: 'Check',
		summary: 'How many rows would be held back, and how much would be noted, under other settings of the rules',
		answer: rulesEffectAnswer,
		reply: 'Counts now and then, and by table the rows that would be held back',
		body: yup.object({ rules: ruleSettingsSchema.required() }).noUnknown(),
		run: async ({ params, body }) => {
			validateRules(body.rules);
			return effectOf(params['project']!, body.rules);
		}
	}),
	operation({
		id: 'listFindings',
		followed: true,
		method: 'get',
		path: '/projects/{project}/findings',
		tag: 'Check',
		summary: 'Everything that the checks found',
		answer: findingListAnswer,
		reply: 'Tables and findings; whether they are of the tables as they are now',
		query: yup.object(pageQuery(MOST_FINDINGS)).noUnknown(),
		run: async ({ params, query }) => {
			const p = await findProject(db(), params['project']!);
			const list = await findings(params['project']!);
			// Where something is damaged nothing can be checked, and what was found before is shown.
			const tables = await listTables(db(), p.id, undefined, []);
			const input = await unlessDamaged(checkInput(db(), p.id));
			return {
				checked: p.checkedKey === input?.key,
				tables: tables.map((t) => ({
					id: t.id,
					name: t.name,
					kind: t.state.kind,
					label: tableKind(t.state.kind).label,
					rowCount: t.state.rowCount
				})),
				total: list.length,
				findings: pageOf(list, query)
			};
		}
	}),
	operation({
		id: 'checkNow',
		method: 'post',
		path: '/projects/{project}/check',
		tag: 'Check',
		summary: 'Run all rules over all tables',
		answer: countsAnswer,
		reply: 'Open findings held back and noted',
		run: async ({ params }) => {
			// Who asks for it is told why it can not be done.
			await checkInput(db(), params['project']!);
			return checkProject(params['project']!);
		}
	}),
	operation({
		id: 'markSeen',
		method: 'post',
		path: '/projects/{project}/findings/seen',
		tag: 'Check',
		summary: 'Say that findings were seen and are left as they are, with a reason; or take that back',
		answer: countsAnswer,
		reply: 'Open findings as they are then',
		body: yup
			.object({
				table: yup.string().uuid().required(),
				rule: yup
					.string()
					.oneOf(RULES.map((r) => r.id))
					.required(),
				rows: yup.array(yup.number().integer().min(-1).required()).max(100_000),
				reason: yup.string().trim().max(1000),
				seen: yup.boolean().required()
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			if (body.seen && !body.reason) fail('no-reason', 'say why it is left as it is', 'The reason stands in the report.', 'reason');
			await checkProject(params['project']!);
			const title = RULES.find((r) => r.id === body.rule)!.title;
			await doChange(params['project']!, `${body.seen ? 'Leave as seen' : 'Take up again'}: ${title}`, async (tx) => {
				const [table] = await tx
					.select({ id: object.id, version: object.version })
					.from(object)
					.where(and(eq(object.id, body.table), eq(object.projectId, params['project']!), isNull(object.removedAt)))
					.for('no key update');
				const rows = table
					? await tx
							.selectDistinct({ n: finding.n })
							.from(finding)
							.where(
								and(eq(finding.objectId, body.table), eq(finding.rule, body.rule), body.rows ? inArray(finding.n, body.rows) : undefined)
							)
					: [];
				if (!table || rows.length === 0) return fail('not-found', 'there is no such finding');
				const known = new Map(
					(
						await tx
							.select({ n: seenFinding.n, reason: seenFinding.reason })
							.from(seenFinding)
							.where(and(eq(seenFinding.objectId, table.id), eq(seenFinding.version, table.version), eq(seenFinding.rule, body.rule)))
					).map((r) => [r.n, r.reason])
				);
				const changed = rows
					.map(({ n }): [number, string | null, string | null] => [n, known.get(n) ?? null, body.seen ? body.reason! : null])
					.filter(([, before, after]) => before !== after);
				return changed.length ? [{ kind: 'seen', object: table.id, version: table.version, rule: body.rule, rows: changed }] : [];
			});
			return countFindings(params['project']!);
		}
	}),
	operation({
		id: 'exportFindings',
		method: 'get',
		path: '/projects/{project}/exports/findings.{format}',
		tag: 'Check',
		summary: 'Findings as CSV or XLSX, of one table or all, with file and line, to be mended at the source',
		reply: 'A file',
		media: 'text/csv',
		query: yup.object({ table: yup.string().uuid() }).noUnknown(),
		run: async ({ params, query }) => {
			const p = await findProject(db(), params['project']!);
			const tables = new Map((await listTables(db(), p.id)).map((t) => [t.id, t]));
			const files = new Map(
				(
					await db()
						.select({ id: object.id, file: file.name })
						.from(object)
						.leftJoin(file, eq(file.id, object.fileId))
						.where(eq(object.projectId, p.id))
				).map((r) => [r.id, r.file ?? ''])
			);
			const header = [
				'table',
				'file',
				'line',
				'rows',
				'hole',
				'column',
				'rule',
				'severity',
				'message',
				'what to do',
				'seen and left because'
			];
			const rows = (await findings(p.id, query.table)).map((f) => {
				const t = tables.get(f.table ?? '');
				const column = t?.state.header.find((h) => t.state.mapping[h] === f.role) ?? f.role ?? '';
				return [
					t?.name ?? '',
					files.get(f.table ?? '') ?? '',
					f.line,
					f.count,
					f.hole ?? '',
					column,
					f.rule,
					f.severity === 'held' ? 'held back' : 'noted',
					f.message,
					f.hint,
					f.seen ?? ''
				];
			});
			const name = `${fileName(`${p.name} findings`)}.${params['format']}`;
			if (params['format'] === 'csv') return download(writeCsv(header, rows), 'text/csv; charset=utf-8', name);
			if (params['format'] === 'xlsx')
				return download(
					await writeXlsx([{ name: 'Findings', header, rows }]),
					'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
					name
				);
			return fail('not-found', `findings can not be written as ${params['format']}`, 'Choose csv or xlsx.');
		}
	})
];

/** Rules that look at the interpretation: which rows are used must not depend on it. */
const NOT_HOLDING = new Set(['unit-order', 'code-variants']);
