import { and, asc, eq } from 'drizzle-orm';
import * as yup from 'yup';
import { fail } from '#core/problem';
import { benchSchema, completeBench, type BenchState } from '$lib/workbench/state';
import { db } from '../db/client';
import { viewpoint, workbench } from '../db/schema';
import { announce } from '../objects/events';
import { findProject } from '../objects/projects';
import { operation } from './operation';

const stage = yup.string().oneOf(['gather', 'check', 'interpret', 'build', 'examine', 'present']);
const MOST_VIEWPOINTS = 500;

async function findViewpoint(projectId: string, id: string) {
	const [row] = await db().select().from(viewpoint).where(and(eq(viewpoint.id, id), eq(viewpoint.projectId, projectId)));
	return row ?? fail('not-found', 'there is no such viewpoint in this project');
}

/** @throws ProblemError `name-taken` */
async function requireFreeName(projectId: string, name: string): Promise<void> {
	const [taken] = await db().select({ id: viewpoint.id }).from(viewpoint).where(and(eq(viewpoint.projectId, projectId), eq(viewpoint.name, name)));
	if (taken) fail('name-taken', `there is a viewpoint "${name}" already`, 'Choose another name, or remove that one first.', 'name');
}

export const workbenchOperations = [
	operation({
		id: 'getWorkbench', method: 'get', path: '/projects/{project}/workbench', tag: 'Examine', summary: 'How the workbench of the project looks: panes, styles, filters', reply: 'The state, and when it was kept (ms since 1970; 0 is never)',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			const [row] = await db().select().from(workbench).where(eq(workbench.projectId, params['project']!));
			return { state: completeBench(row?.state), keptAt: row?.updatedAt.getTime() ?? 0 };
		}
	}),
	operation({
		id: 'setWorkbench', method: 'put', path: '/projects/{project}/workbench', tag: 'Examine', summary: 'Keep how the workbench looks; with `since` only when nothing else was kept after that', body: yup.object({ state: benchSchema.required(), since: yup.number().integer().min(0).max(8.64e15) }).noUnknown(), reply: 'When it was kept',
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			const state = body.state as unknown as BenchState;
			const updatedAt = new Date();
			// A page that goes away sends its last state late: it must not undo what the next page has kept.
			const only = body.since === undefined ? {} : { setWhere: eq(workbench.updatedAt, new Date(body.since)) };
			await db().insert(workbench).values({ projectId: params['project']!, state, updatedAt }).onConflictDoUpdate({ target: workbench.projectId, set: { state, updatedAt }, ...only });
			return { keptAt: updatedAt.getTime() };
		}
	}),
	operation({
		id: 'listViewpoints', method: 'get', path: '/projects/{project}/viewpoints', tag: 'Examine', summary: 'Viewpoints: states of the workbench under a name', reply: 'Names, stages, authors and dates',
		run: async ({ params }) => ({ viewpoints: await db().select({ id: viewpoint.id, name: viewpoint.name, stage: viewpoint.stage, createdBy: viewpoint.createdBy, createdAt: viewpoint.createdAt }).from(viewpoint).where(eq(viewpoint.projectId, params['project']!)).orderBy(asc(viewpoint.createdAt)) })
	}),
	operation({
		id: 'getViewpoint', method: 'get', path: '/projects/{project}/viewpoints/{viewpoint}', tag: 'Examine', summary: 'One viewpoint with its state', reply: 'The viewpoint',
		run: async ({ params }) => {
			const row = await findViewpoint(params['project']!, params['viewpoint']!);
			return { ...row, state: completeBench(row.state) };
		}
	}),
	operation({
		id: 'addViewpoint', method: 'post', path: '/projects/{project}/viewpoints', tag: 'Examine', summary: 'Keep a state of the workbench under a name', reply: 'The viewpoint',
		body: yup.object({ name: yup.string().trim().min(1).max(200).required(), stage: stage.required(), state: benchSchema.required() }).noUnknown(),
		run: async ({ params, body }) => {
			const projectId = params['project']!;
			const p = await findProject(db(), projectId);
			await requireFreeName(projectId, body.name);
			const known = await db().$count(viewpoint, eq(viewpoint.projectId, projectId));
			if (known >= MOST_VIEWPOINTS) fail('too-many-viewpoints', `a project keeps at most ${MOST_VIEWPOINTS} viewpoints`, 'Remove some first.');
			const [row] = await db().insert(viewpoint).values({ projectId, name: body.name, stage: body.stage, state: body.state as unknown as BenchState, createdBy: p.author }).returning();
			await announce(db(), { project: projectId, topic: 'objects' });
			return row!;
		}
	}),
	operation({
		id: 'renameViewpoint', method: 'patch', path: '/projects/{project}/viewpoints/{viewpoint}', tag: 'Examine', summary: 'Rename a viewpoint', body: yup.object({ name: yup.string().trim().min(1).max(200).required() }).noUnknown(), reply: 'Nothing',
		run: async ({ params, body }) => {
			const row = await findViewpoint(params['project']!, params['viewpoint']!);
			if (row.name !== body.name) await requireFreeName(params['project']!, body.name);
			await db().update(viewpoint).set({ name: body.name }).where(eq(viewpoint.id, row.id));
			await announce(db(), { project: params['project']!, topic: 'objects' });
		}
	}),
	operation({
		id: 'deleteViewpoint', method: 'delete', path: '/projects/{project}/viewpoints/{viewpoint}', tag: 'Examine', summary: 'Remove a viewpoint', reply: 'Nothing',
		run: async ({ params }) => {
			const row = await findViewpoint(params['project']!, params['viewpoint']!);
			await db().delete(viewpoint).where(eq(viewpoint.id, row.id));
			await announce(db(), { project: params['project']!, topic: 'objects' });
		}
	})
];
