import { and, asc, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { isRecord } from '#core/project/guards';
import * as yup from 'yup';
import { fail } from '#core/problem';
import { benchSchema, completeBench, plainBench, withBenchChanges, type BenchChanges, type BenchState } from '$lib/workbench/state';
import { db } from '../db/client';
import { layout, viewpoint, workbench } from '../db/schema';
import { canonicalJson } from '#core/lineage/key';
import type { DataStyle } from '#core/styles/style';
import type { Executor } from '../db/client';
import { change, object } from '../db/schema';
import { actor } from '../store/actor';
import { changeWithin, recordChange } from '../graph/changes';
import { announce } from '../store/events';
import type { Step } from '../graph/steps';
import { findProject, inProject } from '../store/projects';
import { nothing, typed } from '$lib/api/answers/shapes';
import { benchAnswer, viewpointAnswer, viewpointListAnswer } from '$lib/api/answers/workbench';
import { operation } from './operation';

const stage = yup.string().oneOf(['gather', 'check', 'interpret', 'build', 'examine', 'present']);
const MOST_VIEWPOINTS = 500;

async function findViewpoint(on: Executor, projectId: string, id: string) {
	const [row] = await on
		.select()
		.from(viewpoint)
		.where(and(eq(viewpoint.id, id), eq(viewpoint.projectId, projectId), isNull(viewpoint.removedAt)));
	return row ?? fail('not-found', 'there is no such viewpoint in this project');
}

/** @throws ProblemError `name-taken` */
async function requireFreeName(tx: Executor, projectId: string, name: string): Promise<void> {
	const [taken] = await tx
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

/** The state of the project, and that of the browser that asks, if it has one. */
async function keptStates(executor: Executor, projectId: string): Promise<{ shared: BenchState; own: BenchState | null }> {
	const { session: browser } = actor();
	const [row] = await executor.select().from(workbench).where(eq(workbench.projectId, projectId));
	const [own] = browser
		? await executor
				.select()
				.from(layout)
				.where(and(eq(layout.projectId, projectId), eq(layout.browser, browser)))
		: [];
	return { shared: completeBench(row?.state), own: own ? completeBench(own.state) : null };
}

/** The same, for one who writes: nobody else does until the transaction ends. */
async function lockStates(tx: Executor, projectId: string): ReturnType<typeof keptStates> {
	await tx.insert(workbench).values({ projectId, state: plainBench() }).onConflictDoNothing();
	await tx.select({ id: workbench.projectId }).from(workbench).where(eq(workbench.projectId, projectId)).for('no key update');
	return keptStates(tx, projectId);
}

/** Layouts of browsers that a project keeps. */
const MOST_LAYOUTS = 200;

async function keepLayout(tx: Executor, projectId: string, state: BenchState, updatedAt: Date): Promise<void> {
	const { session: browser } = actor();
	if (!browser) return;
	await tx
		.insert(layout)
		.values({ projectId, browser, state, updatedAt })
		.onConflictDoUpdate({ target: [layout.projectId, layout.browser], set: { state, updatedAt } });
	const old = tx
		.select({ browser: layout.browser })
		.from(layout)
		.where(eq(layout.projectId, projectId))
		.orderBy(desc(layout.updatedAt))
		.offset(MOST_LAYOUTS);
	await tx.delete(layout).where(and(eq(layout.projectId, projectId), inArray(layout.browser, old)));
}

/** A viewpoint as the API tells it. */
const told = ({ id, name, stage, createdBy, createdAt }: typeof viewpoint.$inferSelect) => ({ id, name, stage, createdBy, createdAt });

export const workbenchOperations = [
	operation({
		id: 'getWorkbench',
		method: 'get',
		path: '/projects/{project}/workbench',
		tag: 'Examine',
		summary: 'How the workbench of the project looks: panes, styles, filters; for a browser that names itself as it was left there',
		answer: benchAnswer,
		reply: 'The state',
		run: async ({ params }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			const { shared, own } = await keptStates(db(), projectId);
			return { state: own ? { ...own, styles: shared.styles } : shared };
		}
	}),
	operation({
		id: 'setWorkbench',
		method: 'put',
		path: '/projects/{project}/workbench',
		tag: 'Examine',
		summary: 'Set how the workbench looks, in every browser',
		body: yup.object({ state: typed<BenchState>(benchSchema.required()) }).noUnknown(),
		answer: benchAnswer,
		reply: 'The state',
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			const state = body.state;
			return inProject(projectId, async (tx) => {
				const { shared } = await lockStates(tx, projectId);
				await tx.delete(layout).where(eq(layout.projectId, projectId));
				await tx.update(workbench).set({ state, updatedAt: new Date() }).where(eq(workbench.projectId, projectId));
				await recordStyles(tx, projectId, shared.styles, state.styles);
				return { state };
			});
		}
	}),
	operation({
		id: 'changeWorkbench',
		method: 'patch',
		path: '/projects/{project}/workbench',
		tag: 'Examine',
		summary:
			'Keep what one browser changed of how the workbench looks: of maps (panes, styles, hidden, opacity) the entries, null for one that went',
		body: yup
			.object({
				changes: yup.mixed<BenchChanges>((v): v is BenchChanges => isRecord(v)).required()
			})
			.noUnknown(),
		answer: benchAnswer,
		reply: 'The state',
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			return inProject(projectId, async (tx) => {
				const kept = await lockStates(tx, projectId);
				const changed = async (state: BenchState) =>
					await typed<BenchState>(benchSchema).validate(withBenchChanges(state, body.changes), { strict: true });
				const shared = await changed(kept.shared);
				const own = kept.own ? await changed({ ...kept.own, styles: kept.shared.styles }) : shared;
				const updatedAt = new Date();
				await tx.update(workbench).set({ state: shared, updatedAt }).where(eq(workbench.projectId, projectId));
				await keepLayout(tx, projectId, own, updatedAt);
				await recordStyles(tx, projectId, kept.shared.styles, shared.styles);
				return { state: own };
			});
		}
	}),
	operation({
		id: 'listViewpoints',
		method: 'get',
		path: '/projects/{project}/viewpoints',
		tag: 'Examine',
		summary: 'Viewpoints: states of the workbench under a name',
		answer: viewpointListAnswer,
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
		answer: viewpointAnswer,
		reply: 'The viewpoint',
		run: async ({ params }) => {
			const row = await findViewpoint(db(), params['project']!, params['viewpoint']!);
			return { ...told(row), state: completeBench(row.state) };
		}
	}),
	operation({
		id: 'addViewpoint',
		method: 'post',
		path: '/projects/{project}/viewpoints',
		tag: 'Examine',
		summary: 'Keep a state of the workbench under a name',
		answer: viewpointAnswer,
		reply: 'The viewpoint',
		body: yup
			.object({
				name: yup.string().trim().min(1).max(200).required(),
				stage: stage.required(),
				state: typed<BenchState>(benchSchema.required())
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			await findProject(db(), projectId);
			return inProject(projectId, async (tx) => {
				await requireFreeName(tx, projectId, body.name);
				const known = await tx
					.select({ id: viewpoint.id })
					.from(viewpoint)
					.where(and(eq(viewpoint.projectId, projectId), isNull(viewpoint.removedAt)));
				if (known.length >= MOST_VIEWPOINTS)
					fail('too-many-viewpoints', `a project keeps at most ${MOST_VIEWPOINTS} viewpoints`, 'Remove some first.');
				const [row] = await tx
					.insert(viewpoint)
					.values({ projectId, name: body.name, stage: body.stage, state: body.state, createdBy: actor().name })
					.returning();
				await recordChange(tx, projectId, `Keep the viewpoint ${body.name}`, [
					{ kind: 'removed', what: 'viewpoint', id: row!.id, after: false }
				]);
				return { ...told(row!), state: completeBench(row!.state) };
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
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			await inProject(projectId, async (tx) => {
				const row = await findViewpoint(tx, projectId, params['viewpoint']!);
				if (row.name !== body.name) await requireFreeName(tx, projectId, body.name);
				await tx.update(viewpoint).set({ name: body.name }).where(eq(viewpoint.id, row.id));
				await announce(tx, { project: projectId, topic: 'viewpoints' });
			});
		}
	}),
	operation({
		id: 'deleteViewpoint',
		method: 'delete',
		path: '/projects/{project}/viewpoints/{viewpoint}',
		tag: 'Examine',
		summary: 'Remove a viewpoint; this can be undone',
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params }) => {
			const projectId = params['project']!;
			await inProject(projectId, async (tx) => {
				const row = await findViewpoint(tx, projectId, params['viewpoint']!);
				await changeWithin(tx, projectId, `Remove the viewpoint ${row.name}`, [
					{ kind: 'removed', what: 'viewpoint', id: row.id, after: true }
				]);
			});
		}
	})
];
