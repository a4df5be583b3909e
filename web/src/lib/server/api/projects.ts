import { eq } from 'drizzle-orm';
import * as yup from 'yup';
import { crsSchema, extentSchema } from '#core/project/project-file';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { object, project } from '../db/schema';
import { doChange, listChanges, nextChanges, stepBack } from '../objects/changes';
import { checkInput, checkProject, countFindings, tablesOf } from '../objects/check';
import { BUILT_KINDS, loadGraph, type BuiltKind } from '../objects/graph';
import { createProject, findProject, listProjects } from '../objects/projects';
import { runTableTask } from '../jobs/threads';
import { builtReport } from '../objects/results';
import { touchesChecks } from '../objects/steps';
import { operation } from './operation';

const text = (most: number) => yup.string().max(most);
const newProject = yup
	.object({
		name: yup.string().trim().min(1).max(200).required(),
		author: text(200),
		description: text(5000),
		crs: crsSchema,
		lengthUnit: yup.string().oneOf(['m', 'ft']),
		/** Mark between whole and fraction in what is typed. */
		decimal: yup.string().oneOf(['.', ',']),
		extent: extentSchema.nullable().default(undefined).optional()
	})
	.noUnknown();
const patchProject = newProject.shape({ name: yup.string().trim().min(1).max(200), revision: yup.number().integer().required() });

export const projectOperations = [
	operation({
		id: 'listProjects',
		method: 'get',
		path: '/projects',
		tag: 'Projects',
		summary: 'All projects, the last changed first',
		reply: 'A list of projects',
		run: async () => ({ projects: await listProjects() })
	}),
	operation({
		id: 'createProject',
		method: 'post',
		path: '/projects',
		tag: 'Projects',
		summary: 'Start a project',
		body: newProject,
		reply: 'The new project',
		run: async ({ body }) => findProject(db(), await createProject(body))
	}),
	operation({
		id: 'getProject',
		method: 'get',
		path: '/projects/{project}',
		tag: 'Projects',
		summary: 'A project with its objects, their lineage and what is out of date',
		reply: 'The project and its objects',
		run: async ({ params }) => {
			const p = await findProject(db(), params['project']!);
			const graph = await loadGraph(db(), p.id);
			const objects = await Promise.all(
				graph.map(async (o) => ({
					...o,
					built: o.contentHash && BUILT_KINDS.includes(o.kind as BuiltKind) ? await builtReport(db(), p.id, o.contentHash) : null
				}))
			);
			return { project: p, objects, findings: await countFindings(p.id), changes: await nextChanges(db(), p.id) };
		}
	}),
	operation({
		id: 'patchProject',
		method: 'patch',
		path: '/projects/{project}',
		tag: 'Projects',
		summary: 'Change name, author, description, coordinate system, unit or extent',
		body: patchProject,
		reply: 'The project',
		run: async ({ params, body }) => {
			const { revision, ...values } = body;
			await doChange(params['project']!, values.extent ? 'Change the extent' : 'Change the project', async (tx) => {
				const [p] = await tx.select().from(project).where(eq(project.id, params['project']!)).for('update');
				if (!p) return fail('not-found', 'there is no such project');
				if (revision !== p.revision)
					fail(
						'edited-elsewhere',
						'the project was changed meanwhile',
						'Load it again and repeat your change; nothing of it was stored.',
						'revision'
					);
				const before = Object.fromEntries(Object.keys(values).map((k) => [k, p[k as keyof typeof p]]));
				return [{ kind: 'project', before, after: values }];
			});
			if (values.extent !== undefined || values.lengthUnit !== undefined) await checkProject(params['project']!);
			return findProject(db(), params['project']!);
		}
	}),
	operation({
		id: 'deleteProject',
		method: 'delete',
		path: '/projects/{project}',
		tag: 'Projects',
		summary: 'Delete a project with everything in it',
		reply: 'Nothing',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			await db().transaction(async (tx) => {
				await tx.update(object).set({ fileId: null }).where(eq(object.projectId, params['project']!));
				await tx.delete(project).where(eq(project.id, params['project']!));
			});
		}
	}),
	operation({
		id: 'proposeExtent',
		method: 'get',
		path: '/projects/{project}/extent-proposal',
		tag: 'Projects',
		summary: 'An extent from the terrain or from the collars',
		reply: 'An extent',
		query: yup.object({ from: yup.string().oneOf(['terrain', 'collars']).required() }).noUnknown(),
		run: async ({ params, query }) => {
			const p = await findProject(db(), params['project']!);
			const graph = await loadGraph(db(), p.id);
			const input = await checkInput(db(), p.id);
			const around = input.tables.some((t) => t.state.kind === 'collars') ? await runTableTask('holesExtent', await tablesOf(input)) : null;
			const terrain = graph.find((o) => o.kind === 'terrain');
			if (query.from === 'collars')
				return { extent: around ?? fail('no-collars', 'there are no collars yet', 'Bring in the collars first.') };
			if (!terrain) return fail('no-terrain', 'there is no terrain yet', 'Bring in a terrain first, or take the extent from the collars.');
			const {
				shape: s,
				min,
				max
			} = terrain.state as { shape: { x0: number; y0: number; dx: number; dy: number; nx: number; ny: number }; min: number; max: number };
			const below = around ? Math.min(around.minZ, min) : min - (max - min);
			return {
				extent: {
					minX: s.x0 - s.dx / 2,
					minY: s.y0 - s.dy / 2,
					minZ: Math.floor(below / 10) * 10,
					maxX: s.x0 + (s.nx - 0.5) * s.dx,
					maxY: s.y0 + (s.ny - 0.5) * s.dy,
					maxZ: Math.ceil((max + 10) / 10) * 10
				}
			};
		}
	}),
	operation({
		id: 'listChanges',
		method: 'get',
		path: '/projects/{project}/changes',
		tag: 'Changes',
		summary: 'The last hundred changes',
		reply: 'Changes, newest first',
		run: async ({ params }) => ({ changes: await listChanges(params['project']!) })
	}),
	...(['undo', 'redo'] as const).map((which) =>
		operation({
			id: which,
			method: 'post',
			path: `/projects/{project}/${which}`,
			tag: 'Changes',
			summary:
				which === 'undo'
					? 'Undo the last change, by its number; one that was made in another browser only with `others`'
					: 'Do the last undone change again, by its number',
			reply: 'The label of the change, and what can be undone and done again then',
			body: yup.object({ change: yup.number().integer(), others: yup.boolean().default(false) }).noUnknown(),
			bodyOptional: true,
			run: async ({ params, body }) => {
				const { label, steps } = await stepBack(params['project']!, which === 'redo', body.change, body.others ?? false);
				if (touchesChecks(steps)) await checkProject(params['project']!);
				return { label, changes: await nextChanges(db(), params['project']!) };
			}
		})
	)
];
