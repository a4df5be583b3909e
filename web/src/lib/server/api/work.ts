import { monitorEventLoopDelay } from 'node:perf_hooks';
import { and, desc, eq } from 'drizzle-orm';
import * as yup from 'yup';
import { fail } from '#core/problem';
import { isOfHoles } from '#core/tables/kinds';
import { db } from '../db/client';
import { job } from '../db/schema';
import { sql } from 'drizzle-orm';
import { builtReport, resultBytes } from '../store/results';
import { loadGraph, loadModel, modelsIn, one, type ObjectRow } from '../graph/graph';
import { objectBytes } from '../graph/inputs';
import { isBuilt } from '#core/recipes/register';
import { targetsIn } from '../jobs/plan';
import { DRAWN_LAYOUT } from '#core/formats/drawn-mesh';
import { packInfo } from '#core/formats/pack';
import type { ContactPoint } from '#core/units/contacts';
import { storedModel } from '../services/model';
import { shownPicture } from '../services/pictures';
import { sourcePack } from '../graph/source-packs';
import { checkInput, tablesOf } from '../graph/check-input';
import { recentShared, sendPack, sendPart } from '../services/packs';
import { runTableTask, runTask } from '../threads/threads';
import { cancelJob, enqueueBuild, queueState } from '../jobs/queue';
import { contactsReport, holeAnswer, modelAnswer, modelReport } from '$lib/api/answers/ground';
import { cancelledAnswer, healthAnswer, jobAnswer, jobListAnswer, startedJobAnswer } from '$lib/api/answers/projects';
import { pageQuery } from './pages';
import { operation } from './operation';
import { requireMemory } from './interpret';
import { VERSION } from '../version';
import { stateOf } from '../graph/states';
import { reportAs } from '$lib/api/report-as';
import { tableState } from '../threads/stored-table';

/** How late the thread that answers everybody was, since it was asked last. */
const lateness = monitorEventLoopDelay({ resolution: 10 });
lateness.enable();

/** An object as it was built last, of a kind that every model has. @throws ProblemError `not-built`, also when the store has lost it */
function requireBuilt(seen: readonly ObjectRow[], kind: 'holes' | 'model'): string {
	const node = one(seen, kind);
	return node.missing ? fail('not-built', 'nothing is built yet', 'Press Build model under Build.') : node.contentHash;
}

/** Key of a state that is known already: of the next one only what changed is sent. */
const sinceQuery = yup.object({ since: yup.string().max(200).default('') }).noUnknown();

/** What of a pack is asked for. */
const packQuery = yup
	.object({
		drawn: yup.boolean().default(false),
		most: yup.number().integer().min(1000).max(1e9),
		part: yup.number().integer().min(0).max(100_000)
	})
	.noUnknown();

/** @throws ProblemError `wrong-form` */
function refusePart(query: { part?: number | undefined }): void {
	if (query.part !== undefined) fail('wrong-form', 'only drawn solids come in parts', 'Ask for all of it.', 'part');
}

/** Solids as panes draw them: with few triangles for a first look, as a whole, or one part of it. */
function sendSolids(
	projectId: string,
	key: string,
	pack: () => Promise<Uint8Array>,
	{ most, part }: { most?: number | undefined; part?: number | undefined },
	request: Request
): Promise<Response> {
	const inParts = part !== undefined;
	const name = ['drawn', DRAWN_LAYOUT, key, ...(most ? [`most ${most}`] : []), ...(inParts ? ['in parts'] : [])].join(' ');
	return sendPart(name, part ?? 0, request, async () => {
		const spacing = Number((await builtReport(db(), projectId, key))?.report['spacing']) || 1;
		return runTask('drawnMesh', { of: key, pack: await pack(), spacing, most, inParts });
	});
}

/** An object, and what it holds. @throws ProblemError `not-found`, `not-built` */
async function heldBy(projectId: string, id: string) {
	const node = (await loadGraph(db(), projectId)).find((o) => o.id === id) ?? fail('not-found', 'there is no such object in this project');
	if (node.missing) fail('not-built', `${node.name} is not built yet`, 'Build it first.');
	const pack = async () =>
		(await objectBytes(projectId, node)) ??
		fail('not-found', `${node.name} holds nothing that can be drawn`, 'Tables have rows, settings a state.');
	return { node, pack };
}

/** A job as the API tells it: without what only its worker needs. */
const TOLD = {
	id: job.id,
	kind: job.kind,
	objectId: job.objectId,
	after: job.after,
	title: job.title,
	state: job.state,
	what: job.what,
	share: job.share,
	outcome: job.outcome,
	attempt: job.attempt,
	by: job.by,
	createdAt: job.createdAt,
	endedAt: job.endedAt
};

export const workOperations = [
	operation({
		id: 'health',
		method: 'get',
		path: '/health',
		tag: 'Server',
		summary: 'State of server, database, queue and version, and how late the event loop was since the last call, ms',
		answer: healthAnswer,
		reply: 'The state of each; status 503 when one is down',
		run: async () => {
			const up = async (work: () => Promise<unknown>) => {
				try {
					await work();
					return 'up';
				} catch {
					return 'down';
				}
			};
			const database = await up(() => db().execute(sql`select 1`));
			const queue = database === 'up' ? await up(queueState) : 'down';
			const ms = (ns: number) => Math.round(ns / 1e5) / 10;
			const body = {
				server: 'up',
				database,
				queue,
				version: VERSION,
				delay: { mean: ms(lateness.mean), p99: ms(lateness.percentile(99)), most: ms(lateness.max) }
			};
			lateness.reset();
			return new Response(JSON.stringify(body), {
				status: database === 'up' && queue === 'up' ? 200 : 503,
				headers: { 'content-type': 'application/json' }
			});
		}
	}),
	operation({
		id: 'build',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/build',
		tag: 'Build',
		summary:
			'Build in the background what is out of date: a model with all upstream of it, or the objects that are named, or everything. Independent ones are built at the same time by as many workers as there are',
		answer: startedJobAnswer,
		reply: 'The job',
		body: yup
			.object({ objects: yup.array(yup.string().uuid().required()).min(1).max(2000), all: yup.boolean().default(false) })
			.noUnknown(),
		bodyOptional: true,
		run: async ({ params, model: which, body, requestKey }) => {
			const projectId = params['project']!;
			const graph = await loadGraph(db(), projectId);
			const seen = await loadModel(db(), projectId, which);
			const model = one(seen, 'model');
			const targets = body.all
				? graph.filter((o) => isBuilt(o.kind)).map((o) => o.id)
				: body.objects
					? targetsIn(graph, body.objects)
					: [model.id];
			const models = modelsIn(graph).filter((m) => targets.includes(m.id));
			const kinds = graph.filter((o) => o.kind === 'table').map((o) => tableState(o.state).kind);
			if (models.length && !kinds.includes('collars') && kinds.some(isOfHoles))
				fail('no-collars', 'there is no collar table', 'Bring in the collars under Gather: without them nobody knows where the holes are.');
			// Of many, one that has not what it needs fails by itself; the others are built.
			if (!body.all) for (const m of models) await requireMemory(projectId, m.id, stateOf(m, 'model').spacing);
			const name = targets.length === 1 ? graph.find((o) => o.id === targets[0])!.name : '';
			const title =
				!body.all && !body.objects ? 'Build model' : name ? `Build ${name}` : body.all ? 'Build everything' : 'Build what is shown';
			return { job: await enqueueBuild(projectId, title, targets, requestKey) };
		}
	}),
	operation({
		id: 'listJobs',
		followed: true,
		method: 'get',
		path: '/projects/{project}/jobs',
		tag: 'Work',
		summary: 'Background work, the newest first',
		answer: jobListAnswer,
		reply: 'Jobs with progress and outcome',
		query: yup.object(pageQuery(50)).noUnknown(),
		run: async ({ params, query }) => {
			const own = eq(job.projectId, params['project']!);
			return {
				total: await db().$count(job, own),
				jobs: await db().select(TOLD).from(job).where(own).orderBy(desc(job.createdAt)).offset(query.offset).limit(query.limit)
			};
		}
	}),
	operation({
		id: 'getJob',
		method: 'get',
		path: '/projects/{project}/jobs/{job}',
		tag: 'Work',
		summary: 'One job',
		answer: jobAnswer,
		reply: 'The job',
		run: async ({ params }) => {
			const [row] = await db()
				.select(TOLD)
				.from(job)
				.where(and(eq(job.id, params['job']!), eq(job.projectId, params['project']!)));
			return row ?? fail('not-found', 'there is no such job');
		}
	}),
	operation({
		id: 'cancelJob',
		method: 'post',
		path: '/projects/{project}/jobs/{job}/cancel',
		tag: 'Work',
		summary: 'Stop a job; nothing half-done stays',
		answer: cancelledAnswer,
		reply: 'Whether it could still be stopped',
		run: async ({ params }) => ({ cancelled: await cancelJob(params['project']!, params['job']!) })
	}),
	operation({
		id: 'getModel',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/model',
		tag: 'Examine',
		summary: 'Report of the last built model: volumes, misfits of the surfaces, findings, time',
		answer: modelAnswer,
		reply: 'The report',
		run: async ({ params, model }) => {
			const graph = await loadModel(db(), params['project']!, model);
			const of = (kind: string) => one(graph, kind);
			const key = of('model').contentHash;
			const built = key ? await builtReport(db(), params['project']!, key) : null;
			if (!built) return fail('not-built', 'there is no model yet', 'Press Build model under Build.');
			const steps = await Promise.all(
				['holes', 'contacts', 'fields', 'model'].map(async (k) => {
					const stored = await builtReport(db(), params['project']!, of(k).contentHash);
					return { step: k, report: stored?.report, seconds: stored?.seconds ?? 0 };
				})
			);
			const [contacts, fields] = [steps[1]!.report, steps[2]!.report];
			const { pack } = await storedModel(params['project']!, model);
			const { misfits } = packInfo(pack) as unknown as { misfits: (ContactPoint & { distance: number | null })[] };
			return {
				...reportAs(modelReport, built.report),
				builtAt: built.createdAt,
				outOfDate: of('model').outOfDate,
				// Of a step that was changed and not built again nothing is told.
				contacts: contacts ? reportAs(contactsReport, contacts) : { placed: 0, faulted: 0, findings: [] },
				orientations: { count: Number(fields?.['orientations'] ?? 0), unused: Number(fields?.['unused'] ?? 0) },
				seconds: Object.fromEntries(steps.map((s) => [s.step, s.seconds])),
				misfits: misfits.map((m) => ({
					surface: m.surface,
					hole: m.hole,
					depth: m.depth,
					x: m.x,
					y: m.y,
					z: m.z,
					distance: m.distance,
					table: m.table,
					row: m.row
				}))
			};
		}
	}),
	operation({
		id: 'getHoles',
		method: 'get',
		path: '/projects/{project}/holes',
		tag: 'Examine',
		summary: 'Hole paths and logged intervals as typed arrays',
		reply: 'A pack (see docs/api.md)',
		media: 'application/octet-stream',
		run: async ({ params, request }) => {
			const key = requireBuilt(await loadModel(db(), params['project']!), 'holes');
			return sendPack(key, request, () => resultBytes(db(), params['project']!, key));
		}
	}),
	operation({
		id: 'getMesh',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/mesh',
		tag: 'Examine',
		summary:
			'The triangles of the model as typed arrays; drawn: with places to a thousandth of the spacing, a tenth of the size; of a drawn one at most so many triangles, for a first look, where its info says `light`, or one part of it (see docs/api.md)',
		reply: 'A pack',
		media: 'application/octet-stream',
		query: packQuery,
		run: async ({ params, query, model, request }) => {
			const projectId = params['project']!;
			const key = requireBuilt(await loadModel(db(), projectId, model), 'model');
			if (!query.drawn) {
				refusePart(query);
				return sendPack(key, request, () => resultBytes(db(), projectId, key));
			}
			return sendSolids(projectId, key, () => resultBytes(db(), projectId, key), query, request);
		}
	}),
	operation({
		id: 'getObjectPack',
		method: 'get',
		path: '/projects/{project}/objects/{object}/pack',
		tag: 'Examine',
		summary:
			'What an object holds, by its form, in project coordinates: a grid, layer or surface as it was read, or a result as it was built; drawn: as panes draw it (solids and grids), of solids at most so many triangles for a first look, or one part (see docs/api.md)',
		reply: 'A pack',
		media: 'application/octet-stream',
		query: packQuery,
		run: async ({ params, query, request }) => {
			const { node, pack } = await heldBy(params['project']!, params['object']!);
			if (query.drawn && node.form === 'solids') return sendSolids(params['project']!, node.contentHash, pack, query, request);
			refusePart(query);
			return query.drawn && node.form === 'grid'
				? sendPack(`drawn ${node.contentHash}`, request, async () => runTask('drawnRaster', { pack: await pack() }))
				: sendPack(`object ${node.contentHash}`, request, pack);
		}
	}),
	operation({
		id: 'getGridPart',
		method: 'get',
		path: '/projects/{project}/objects/{object}/part',
		tag: 'Examine',
		summary:
			'The cells of a grid within a rectangle, or all of it; where they are more than wanted, means of 2 × 2, 3 × 3, … cells (every). whole: how many cells there are',
		reply: 'A pack: a grid, with every and whole',
		media: 'application/octet-stream',
		query: yup
			.object({
				minX: yup.number().min(-1e8).max(1e8),
				minY: yup.number().min(-1e8).max(1e8),
				maxX: yup.number().min(-1e8).max(1e8),
				maxY: yup.number().min(-1e8).max(1e8),
				most: yup.number().integer().min(1).max(4_000_000).default(4_000_000)
			})
			.noUnknown(),
		run: async ({ params, query, request }) => {
			const { node, pack } = await heldBy(params['project']!, params['object']!);
			if (node.form !== 'grid') fail('wrong-form', `${node.name} is no grid`, 'Ask for its pack.');
			const { minX, minY, maxX, maxY, most } = query;
			const sides = [minX, minY, maxX, maxY];
			const given = sides.filter((v) => v !== undefined).length;
			if (given !== 0 && given !== 4) fail('no-extent', 'a rectangle has four sides', 'Give minX, minY, maxX and maxY, or none of them.');
			if (given && !(maxX! > minX! && maxY! > minY!))
				fail('no-extent', 'maxX must be above minX, and maxY above minY', 'Swap them.', 'maxX');
			const box = given ? { minX: minX!, minY: minY!, maxX: maxX!, maxY: maxY! } : null;
			return sendPack(`part ${most} ${sides.join()} ${node.contentHash}`, request, async () =>
				runTask('gridPart', { pack: await recentShared(`${params['project']} ${node.contentHash}`, pack), box, most })
			);
		}
	}),
	operation({
		id: 'getPicture',
		method: 'get',
		path: '/projects/{project}/objects/{object}/picture',
		tag: 'Examine',
		summary: 'A picture as it was brought in',
		reply: 'PNG or JPEG',
		media: 'image/png',
		run: async ({ params }) => {
			const node =
				(await loadGraph(db(), params['project']!)).find((o) => o.id === params['object'] && o.kind === 'picture') ??
				fail('not-found', 'there is no such picture in this project');
			const picture = await shownPicture(params['project']!, node);
			return new Response(picture.bytes as BodyInit, {
				headers: {
					'content-type': picture.media,
					'x-content-type-options': 'nosniff',
					'content-security-policy': "default-src 'none'",
					'cache-control': 'private, max-age=3600'
				}
			});
		}
	}),
	operation({
		id: 'getTerrain',
		method: 'get',
		path: '/projects/{project}/terrain',
		tag: 'Examine',
		summary:
			'The terrain grid as typed arrays; drawn: with values in 65 535 steps, a third of the size, and in wider cells where they are more than most',
		reply: 'A pack',
		media: 'application/octet-stream',
		query: yup
			.object({ drawn: yup.boolean().default(false), most: yup.number().integer().min(1).max(100_000_000).default(100_000_000) })
			.noUnknown(),
		run: async ({ params, query, request }) => {
			const node =
				(await loadGraph(db(), params['project']!)).find((o) => o.kind === 'terrain') ??
				fail('no-terrain', 'there is no terrain yet', 'Bring one in under Gather.');
			const pack = () => sourcePack(db(), params['project']!, node);
			if (!query.drawn) return sendPack(`source ${node.contentHash}`, request, pack);
			return sendPack(`drawn ${query.most} ${node.contentHash}`, request, async () =>
				runTask('drawnRaster', { pack: await pack(), most: query.most })
			);
		}
	}),
	operation({
		id: 'getPaths',
		method: 'get',
		path: '/projects/{project}/paths',
		tag: 'Examine',
		summary: 'Paths of the holes in use as typed arrays; since: of a state that is known already only what changed',
		reply: 'A pack (see docs/api.md)',
		media: 'application/octet-stream',
		query: sinceQuery,
		run: async ({ params, query, request }) => {
			const input = await checkInput(db(), params['project']!);
			return sendPack(`paths ${input.key} since ${query.since}`, request, async () =>
				runTableTask('paths', { ...(await tablesOf(input)), since: query.since || null })
			);
		}
	}),
	operation({
		id: 'getPlacedTable',
		method: 'get',
		path: '/projects/{project}/tables/{object}/placed',
		tag: 'Examine',
		summary:
			'The rows of a table in use with their places and a typed array for each column; since: of a state that is known already only what changed',
		reply: 'A pack (see docs/api.md)',
		media: 'application/octet-stream',
		query: sinceQuery,
		run: async ({ params, query, request }) => {
			const input = await checkInput(db(), params['project']!);
			const objectId = params['object']!;
			if (!input.tables.some((t) => t.id === objectId)) fail('not-found', 'there is no such table in this project');
			return sendPack(`${objectId} ${input.key} since ${query.since}`, request, async () =>
				runTableTask('placedTable', { ...(await tablesOf(input)), objectId, since: query.since || null })
			);
		}
	}),
	operation({
		id: 'getHole',
		method: 'get',
		path: '/projects/{project}/holes/{hole}',
		tag: 'Examine',
		summary: 'A hole: collar, end, path table with dogleg severity, and how many rows each table has of it',
		answer: holeAnswer,
		reply: 'The hole',
		run: async ({ params }) =>
			runTableTask('holeDetails', { ...(await tablesOf(await checkInput(db(), params['project']!))), hole: params['hole']! })
	})
];
