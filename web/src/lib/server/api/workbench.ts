import { and, asc, desc, eq, isNull, sql } from 'drizzle-orm';
import * as yup from 'yup';
import { fail } from '#core/problem';
import { benchSchema, completeBench, type BenchState } from '$lib/workbench/state';
import { db } from '../db/client';
import { viewpoint, workbench } from '../db/schema';
import { canonicalJson } from '#core/lineage/key';
import type { DataStyle } from '#core/styles/style';
import type { Executor } from '../db/client';
import { change, object } from '../db/schema';
import { actor } from '../objects/actor';
import { changeWithin, recordChange } from '../objects/changes';
import { announce } from '../objects/events';
import type { Step } from '../objects/steps';
import { findProject } from '../objects/projects';
import { operation } from './operation';

const stage = yup.string().oneOf(['gather', 'check', 'interpret', 'build', 'examine', 'present']);
const MOST_VIEWPOINTS = 500;

async function findViewpoint(projectId: string, id: string) {
	const [row] = await db()
		.select()
		.from(viewpoint)
		.where(and(eq(viewpoint.id, id), eq(viewpoint.projectId, projectId), isNull(viewpoint.removedAt)));
	return row ?? fail('not-found', 'there is no such viewpoint in this project');
}

/** @throws ProblemError `name-taken` */
async function requireFreeName(projectId: string, name: string): Promise<void> {
	const [taken] = await db()
		.select({ id: viewpoint.id })
		.from(viewpoint)
		.where(and(eq(viewpoint.projectId, projectId), eq(viewpoint.name, name), isNull(viewpoint.removedAt)));
	if (taken) fail('name-taken', `there is a viewpoint "${name}" already`, 'Choose another name, or remove that one first.', 'name');
}

/** A style that is turned on and on is one change as long as nothing else comes between. */
const SAME_CHANGE_SECONDS = 10;

/** Writes down that styles of data were changed, so that it can be undone. */
async function recordStyles(
	tx: Executor,
	projectId: string,
	before: Record<string, DataStyle>,
	after: Record<string, DataStyle>
): Promise<void> {
	const changed = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
		(k) => canonicalJson(before[k] ?? null) !== canonicalJson(after[k] ?? null)
	);
	if (changed.length === 0) return;
	const of = (styles: Record<string, DataStyle>) => Object.fromEntries(changed.map((k) => [k, styles[k] ?? null]));
	const [last] = await tx.select().from(change).where(eq(change.projectId, projectId)).orderBy(desc(change.id)).limit(1);
	const [step] = (last?.steps ?? []) as Step[];
	if (
		last &&
		!last.undone &&
		last.session === actor().session &&
		step?.kind === 'styles' &&
		Object.keys(step.after).join() === changed.join() &&
		Date.now() - last.createdAt.getTime() < SAME_CHANGE_SECONDS * 1000
	) {
		await tx
			.update(change)
			.set({ steps: [{ ...step, after: of(after) }], createdAt: sql`now()` })
			.where(eq(change.id, last.id));
		return;
	}
	const [named] =
		changed.length === 1
			? await tx
					.select({ name: object.name })
					.from(object)
					.where(sql`${object.id}::text = ${changed[0]}`)
			: [];
	await recordChange(tx, projectId, named ? `Change the style of ${named.name}` : 'Change styles', [
		{ kind: 'styles', before: of(before), after: of(after) }
	]);
}

export const workbenchOperations = [
	operation({
		id: 'getWorkbench',
		method: 'get',
		path: '/projects/{project}/workbench',
		tag: 'Examine',
		summary: 'How the workbench of the project looks: panes, styles, filters',
		reply: 'The state, and when it was kept (ms since 1970; 0 is never)',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			const [row] = await db().select().from(workbench).where(eq(workbench.projectId, params['project']!));
			return { state: completeBench(row?.state), keptAt: row?.updatedAt.getTime() ?? 0 };
		}
	}),
	operation({
		id: 'setWorkbench',
		method: 'put',
		path: '/projects/{project}/workbench',
		tag: 'Examine',
		summary: 'Keep how the workbench looks; with `since` only when nothing else was kept after that',
		body: yup.object({ state: benchSchema.required(), since: yup.number().integer().min(0).max(8.64e15) }).noUnknown(),
		reply: 'When it was kept',
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			const state = body.state as unknown as BenchState;
			const updatedAt = new Date();
			return db().transaction(async (tx) => {
				const projectId = params['project']!;
				const [kept] = await tx.select().from(workbench).where(eq(workbench.projectId, projectId)).for('update');
				// A page that goes away sends its last state late: it must not undo what the next page has kept.
				if (kept && body.since !== undefined && kept.updatedAt.getTime() !== body.since) return { keptAt: kept.updatedAt.getTime() };
				await tx
					.insert(workbench)
					.values({ projectId, state, updatedAt })
					.onConflictDoUpdate({ target: workbench.projectId, set: { state, updatedAt } });
				await recordStyles(tx, projectId, kept?.state.styles ?? {}, state.styles);
				return { keptAt: updatedAt.getTime() };
			});
		}
	}),
	operation({
		id: 'listViewpoints',
		method: 'get',
		path: '/projects/{project}/viewpoints',
		tag: 'Examine',
		summary: 'Viewpoints: states of the workbench under a name',
		reply: 'Names, stages, authors and dates',
		run: async ({ params }) => ({
			viewpoints: await db()
				.select({
					id: viewpoint.id,
					name: viewpoint.name,
					stage: viewpoint.stage,
					createdBy: viewpoint.createdBy,
					createdAt: viewpoint.createdAt
				})
				.from(viewpoint)
				.where(and(eq(viewpoint.projectId, params['project']!), isNull(viewpoint.removedAt)))
				.orderBy(asc(viewpoint.createdAt))
		})
	}),
	operation({
		id: 'getViewpoint',
		method: 'get',
		path: '/projects/{project}/viewpoints/{viewpoint}',
		tag: 'Examine',
		summary: 'One viewpoint with its state',
		reply: 'The viewpoint',
		run: async ({ params }) => {
			const row = await findViewpoint(params['project']!, params['viewpoint']!);
			return { ...row, state: completeBench(row.state) };
		}
	}),
	operation({
		id: 'addViewpoint',
		method: 'post',
		path: '/projects/{project}/viewpoints',
		tag: 'Examine',
		summary: 'Keep a state of the workbench under a name',
		reply: 'The viewpoint',
		body: yup
			.object({ name: yup.string().trim().min(1).max(200).required(), stage: stage.required(), state: benchSchema.required() })
			.noUnknown(),
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			await requireFreeName(projectId, body.name);
			const known = await db().$count(viewpoint, and(eq(viewpoint.projectId, projectId), isNull(viewpoint.removedAt)));
			if (known >= MOST_VIEWPOINTS)
				fail('too-many-viewpoints', `a project keeps at most ${MOST_VIEWPOINTS} viewpoints`, 'Remove some first.');
			return db().transaction(async (tx) => {
				const [row] = await tx
					.insert(viewpoint)
					.values({ projectId, name: body.name, stage: body.stage, state: body.state as unknown as BenchState, createdBy: actor().name })
					.returning();
				await recordChange(tx, projectId, `Keep the viewpoint ${body.name}`, [
					{ kind: 'removed', what: 'viewpoint', id: row!.id, after: false }
				]);
				return row!;
			});
		}
	}),
	operation({
		id: 'renameViewpoint',
		method: 'patch',
		path: '/projects/{project}/viewpoints/{viewpoint}',
		tag: 'Examine',
		summary: 'Rename a viewpoint',
		body: yup.object({ name: yup.string().trim().min(1).max(200).required() }).noUnknown(),
		reply: 'Nothing',
		run: async ({ params, body }) => {
			const row = await findViewpoint(params['project']!, params['viewpoint']!);
			if (row.name !== body.name) await requireFreeName(params['project']!, body.name);
			await db().update(viewpoint).set({ name: body.name }).where(eq(viewpoint.id, row.id));
			await announce(db(), { project: params['project']!, topic: 'objects' });
		}
	}),
	operation({
		id: 'deleteViewpoint',
		method: 'delete',
		path: '/projects/{project}/viewpoints/{viewpoint}',
		tag: 'Examine',
		summary: 'Remove a viewpoint; this can be undone',
		reply: 'Nothing',
		run: async ({ params }) => {
			const row = await findViewpoint(params['project']!, params['viewpoint']!);
			await db().transaction((tx) =>
				changeWithin(tx, params['project']!, `Remove the viewpoint ${row.name}`, [
					{ kind: 'removed', what: 'viewpoint', id: row.id, after: true }
				])
			);
		}
	})
];
