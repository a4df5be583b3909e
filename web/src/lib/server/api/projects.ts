import { eq } from 'drizzle-orm';
import { zipSync } from 'fflate';
import * as yup from 'yup';
import { crsSchema, extentSchema } from '#core/project/project-file';
import { fail } from '#core/problem';
import { toldState } from '../threads/stored-table';
import { db } from '../db/client';
import { project } from '../db/schema';
import { doChange, listChanges, nextChanges, stepBack } from '../graph/changes';
import { checkProject, countFindings } from '../services/check';
import { checkInput, tablesOf } from '../graph/check-input';
import { isBuilt } from '#core/recipes/register';
import { loadGraph } from '../graph/graph';
import { exportArchive } from '../services/archive';
import { importArchive, importFiles } from '../jobs/archive-import';
import { requirePlaneSystem } from '../store/crs';
import { pictureOf } from '../services/picture';
import { binProject, deleteProject, findProject, listProjects } from '../store/projects';
import { createProject } from '../graph/sources';
import { sampleFiles } from '../services/sample';
import { BIN_DAYS } from '../jobs/sweep';
import { runTableTask } from '../threads/threads';
import { builtReports } from '../store/results';
import { touchesChecks } from '../graph/steps';
import {
	changeListAnswer,
	extentAnswer,
	openedAnswer,
	projectAnswer,
	projectListAnswer,
	startedAnswer,
	steppedAnswer
} from '$lib/api/answers/projects';
import { nothing } from '$lib/api/answers/shapes';
import { download, json, operation } from './operation';
import { pageOf, pageQuery } from './pages';

const text = (most: number) => yup.string().max(most);
const newProject = yup
	.object({
		name: yup.string().trim().min(1).max(200).required(),
		author: text(200),
		description: text(5000),
		crs: crsSchema,
		lengthUnit: yup.string<'m' | 'ft'>().oneOf(['m', 'ft']),
		/** Mark between whole and fraction in what is typed. */
		decimal: yup.string<'.' | ','>().oneOf(['.', ',']),
		extent: extentSchema.nullable().default(undefined).optional()
	})
	.noUnknown();
const patchProject = newProject.shape({ name: yup.string().trim().min(1).max(200), revision: yup.number().integer().required() });

/** A project as the API tells it: without what only the server needs. */
async function tellProject(id: string) {
	const { checkedKey: _key, checkDue: _due, removedAt: _removed, ...told } = await findProject(db(), id);
	return told;
}

export const projectOperations = [
	operation({
		id: 'listProjects',
		method: 'get',
		path: '/projects',
		tag: 'Projects',
		summary: 'All projects, or those in the bin, the last worked on first',
		answer: projectListAnswer,
		reply: 'A list of projects, each with the time of the last work on it',
		query: yup.object({ bin: yup.boolean().default(false), ...pageQuery(1000) }).noUnknown(),
		run: async ({ query }) => {
			const all = await listProjects(query.bin);
			return { total: all.length, projects: pageOf(all, query).map(({ checkedKey: _key, checkDue: _due, ...p }) => p) };
		}
	}),
	operation({
		id: 'createProject',
		method: 'post',
		path: '/projects',
		tag: 'Projects',
		summary: 'Start a project',
		body: newProject,
		answer: projectAnswer,
		reply: 'The new project',
		run: async ({ body }) => {
			requirePlaneSystem(body.crs);
			return tellProject(await createProject(body));
		}
	}),
	operation({
		id: 'getProject',
		followed: true,
		method: 'get',
		path: '/projects/{project}',
		tag: 'Projects',
		summary: 'A project with its objects, their lineage and what is out of date',
		answer: openedAnswer,
		reply: 'The project and its objects',
		run: async ({ params }) => {
			const p = await tellProject(params['project']!);
			const graph = await loadGraph(db(), p.id);
			const reports = await builtReports(
				db(),
				p.id,
				graph.flatMap((o) => (o.contentHash && isBuilt(o.kind) ? [o.contentHash] : []))
			);
			const objects = graph.map((o) => ({
				id: o.id,
				kind: o.kind,
				name: o.name,
				revision: o.revision,
				contentHash: o.contentHash,
				state: toldState(o.state),
				fileId: o.fileId,
				inputs: o.inputs,
				modelId: o.modelId,
				form: o.form,
				auto: o.auto,
				failure: o.failure && { type: o.failure.type, title: o.failure.title, ...(o.failure.hint ? { hint: o.failure.hint } : {}) },
				outOfDate: o.outOfDate,
				missing: o.missing,
				updatedAt: o.updatedAt,
				built: reports.get(o.contentHash) ?? null
			}));
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
		answer: projectAnswer,
		reply: 'The project',
		run: async ({ params, body }) => {
			const { revision, ...values } = body;
			await doChange(params['project']!, values.extent ? 'Change the extent' : 'Change the project', async (_, p) => {
				if (revision !== p.revision)
					fail(
						'edited-elsewhere',
						'the project was changed meanwhile',
						'Load it again and repeat your change; nothing of it was stored.',
						'revision'
					);
				// One that has such a system already may still be renamed.
				if (values.crs !== p.crs) requirePlaneSystem(values.crs);
				const before = Object.fromEntries(Object.keys(values).map((k) => [k, p[k as keyof typeof p]]));
				return [{ kind: 'project', before, after: values }];
			});
			if (values.extent !== undefined || values.lengthUnit !== undefined) await checkProject(params['project']!);
			return tellProject(params['project']!);
		}
	}),
	operation({
		id: 'deleteProject',
		method: 'delete',
		path: '/projects/{project}',
		tag: 'Projects',
		summary: `Put a project into the bin, from where it can be taken back for ${BIN_DAYS} days; or delete it with everything in it, for good`,
		answer: nothing,
		reply: 'Nothing',
		query: yup.object({ forever: yup.boolean().default(false) }).noUnknown(),
		run: async ({ params, query }) => {
			if (!query.forever) return binProject(params['project']!, true);
			const [p] = await db().select({ id: project.id }).from(project).where(eq(project.id, params['project']!));
			if (!p) fail('not-found', 'there is no such project');
			await deleteProject(params['project']!);
		}
	}),
	operation({
		id: 'restoreProject',
		method: 'post',
		path: '/projects/{project}/restore',
		tag: 'Projects',
		summary: 'Take a project back from the bin',
		answer: projectAnswer,
		reply: 'The project',
		run: async ({ params }) => {
			await binProject(params['project']!, false);
			return tellProject(params['project']!);
		}
	}),
	operation({
		id: 'duplicateProject',
		created: true,
		method: 'post',
		path: '/projects/{project}/duplicate',
		tag: 'Projects',
		summary: 'Start another project with all that this one holds',
		answer: startedAnswer,
		reply: 'The project and the jobs that read its tables',
		run: async ({ params }) => {
			const { name } = await findProject(db(), params['project']!);
			const copy = await importArchive((await exportArchive(params['project']!)).bytes);
			const taken = new Set((await listProjects()).map((p) => p.name));
			let own = `${name} (copy)`.slice(0, 200);
			for (let n = 2; taken.has(own); n++) own = `${name} (copy ${n})`.slice(0, 200);
			await db().update(project).set({ name: own }).where(eq(project.id, copy.project));
			return json(copy, 201);
		}
	}),
	operation({
		id: 'getProjectPicture',
		method: 'get',
		path: '/projects/{project}/picture',
		tag: 'Projects',
		summary: 'A small map of the project: geology at the surface where a model was built, holes, section',
		reply: 'A drawing',
		media: 'image/svg+xml',
		run: async ({ params, request }) => pictureOf(await findProject(db(), params['project']!), request)
	}),
	operation({
		id: 'startSample',
		created: true,
		method: 'post',
		path: '/sample',
		tag: 'Projects',
		summary: 'Start a project with the sample data: an island that never was',
		answer: startedAnswer,
		reply: 'The project and the jobs that read its tables',
		run: async () => json(await importFiles(await sampleFiles()), 201)
	}),
	operation({
		id: 'getSampleFiles',
		method: 'get',
		path: '/sample',
		tag: 'Projects',
		summary: 'The files of the sample project, to try bringing them in',
		reply: 'An archive of files',
		media: 'application/zip',
		run: async () => {
			const { 'project.json': _, 'surroundings.json': __, ...files } = await sampleFiles();
			return download(zipSync(files, { level: 1 }), 'application/zip', 'sample-files.zip');
		}
	}),
	operation({
		id: 'proposeExtent',
		method: 'get',
		path: '/projects/{project}/extent-proposal',
		tag: 'Projects',
		summary: 'An extent from the terrain or from the collars',
		answer: extentAnswer,
		reply: 'An extent',
		query: yup.object({ from: yup.string().oneOf(['terrain', 'collars']).required() }).noUnknown(),
		run: async ({ params, query }) => {
			const p = await findProject(db(), params['project']!);
			const extent = await runTableTask('projectExtent', { ...(await tablesOf(await checkInput(db(), p.id))), from: query.from });
			if (extent) return { extent };
			return query.from === 'collars'
				? fail('no-collars', 'there are no collars yet', 'Bring in the collars first.')
				: fail('no-terrain', 'there is no terrain yet', 'Bring in a terrain first, or take the extent from the collars.');
		}
	}),
	operation({
		id: 'listChanges',
		method: 'get',
		path: '/projects/{project}/changes',
		tag: 'Changes',
		summary: 'What was changed, as far back as it can be undone',
		answer: changeListAnswer,
		reply: 'Changes, newest first',
		query: yup.object(pageQuery(100)).noUnknown(),
		run: async ({ params, query }) => listChanges(params['project']!, query)
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
			answer: steppedAnswer,
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
