import * as yup from 'yup';
import { writeBlocks } from '#core/formats/blocks';
import { fileName } from '#core/formats/meshes';
import { readPack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { enqueueBuild } from '../jobs/queue';
import { one, loadModel, type ObjectRow } from '../graph/graph';
import { changeMade, makeObject } from '../graph/made';
import { findProject } from '../store/projects';
import { builtReport, resultBytes } from '../store/results';
import { doubtAnswer, doubtReport } from '$lib/api/answers/ground';
import { startedJobAnswer } from '$lib/api/answers/projects';
import { bytes, download, operation } from './operation';
import { reportAs } from './report-as';

const MOST_CELLS = 3_000_000;
const error = (most: number) => yup.number().min(0).max(most).required();

/** The ensemble of a model: the newest object that is made of its fields. */
const ownDoubt = (seen: readonly ObjectRow[]): ObjectRow | undefined =>
	seen.filter((o) => o.kind === 'doubt' && o.inputs.includes(one(seen, 'fields').id)).at(-1);

async function lastOf(projectId: string, model: string | null) {
	const seen = await loadModel(db(), projectId, model);
	const own = ownDoubt(seen);
	const built = own?.contentHash ? await builtReport(db(), projectId, own.contentHash) : null;
	return own && built ? { ...built, key: own.contentHash, outOfDate: own.outOfDate } : null;
}

/** @throws ProblemError `not-built` */
const latest = async (projectId: string, model: string | null) =>
	(await lastOf(projectId, model)) ?? fail('not-built', 'no ensemble was run yet', 'Run one under Build, Doubt.');

export const doubtOperations = [
	operation({
		id: 'runDoubt',
		ofModel: true,
		method: 'post',
		path: '/projects/{project}/doubt',
		tag: 'Build',
		summary:
			'Many models from data moved within their errors, in the background: probability of each unit by cell, entropy, spread of the volumes',
		answer: startedJobAnswer,
		reply: 'The job',
		body: yup
			.object({
				members: yup.number().integer().min(2).max(1000).required(),
				spacing: yup.number().positive().required(),
				seed: yup
					.number()
					.integer()
					.min(0)
					.max(2 ** 31)
					.required(),
				/** One standard deviation: contacts and fault traces in length units, orientations and fault dips in degrees. */
				errors: yup
					.object({ contact: error(1e5), orientation: error(90), faultDip: error(45), faultTrace: error(1e5) })
					.noUnknown()
					.required()
			})
			.noUnknown(),
		run: async ({ params, model, body, requestKey }) => {
			const projectId = params['project']!;
			const { extent: e } = await findProject(db(), projectId);
			if (!e) return fail('no-extent', 'the project has no extent yet', 'Set it under Build.', 'extent');
			const cells = ((e.maxX - e.minX) * (e.maxY - e.minY) * (e.maxZ - e.minZ)) / body.spacing ** 3;
			if (cells > MOST_CELLS)
				fail(
					'too-fine',
					`cells of ${body.spacing} make ${Math.round(cells).toLocaleString('en')} cells; the most is ${MOST_CELLS.toLocaleString('en')}`,
					'Use wider cells.',
					'spacing'
				);
			const seen = await loadModel(db(), projectId, model);
			const target = one(seen, 'model');
			if (target.missing || one(seen, 'fields').outOfDate)
				fail(
					'not-built',
					target.missing ? 'there is no model yet' : 'the model is not up to date',
					'Build it first: the doubt is about that model.'
				);
			const { errors, ...rest } = body;
			const parameters = { ...rest, ...errors };
			const own = ownDoubt(seen);
			const terrain = seen.find((o) => o.kind === 'terrain');
			const inputs = { fields: [target.id], terrain: terrain ? [terrain.id] : [] };
			const id = own
				? (await changeMade(projectId, own.id, { parameters, inputs }), own.id)
				: await makeObject(projectId, { recipe: 'doubt', name: `Doubt of ${target.name}`, parameters, inputs });
			return { job: await enqueueBuild(projectId, 'Doubt about the model', [id], requestKey) };
		}
	}),
	operation({
		id: 'getDoubt',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/doubt',
		tag: 'Build',
		summary: 'The last ensemble: volumes at 10, 50 and 90 %, options, and whether the model changed since',
		answer: doubtAnswer,
		reply: 'The report; without members when none was run yet',
		run: async ({ params, model }) => {
			const row = await lastOf(params['project']!, model);
			if (!row) return { members: 0, failed: 0, volumes: [], outOfDate: false };
			return { ...reportAs(doubtReport, row.report), seconds: row.seconds, createdAt: row.createdAt, outOfDate: row.outOfDate };
		}
	}),
	operation({
		id: 'getDoubtPack',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/doubt/pack',
		tag: 'Build',
		summary: 'Probability of each unit and entropy by cell as typed arrays',
		reply: 'A pack',
		media: 'application/octet-stream',
		run: async ({ params, model }) => {
			const row = await latest(params['project']!, model);
			return bytes(await resultBytes(db(), params['project']!, row.key), row.key);
		}
	}),
	operation({
		id: 'exportDoubt',
		ofModel: true,
		method: 'get',
		path: '/projects/{project}/doubt/cells.vti',
		tag: 'Present',
		summary: 'Probability of each unit and entropy by cell as VTK XML image data',
		reply: 'A file',
		media: 'application/xml',
		run: async ({ params, model }) => {
			const row = await latest(params['project']!, model);
			const pack = readPack(await resultBytes(db(), params['project']!, row.key));
			const { name } = await findProject(db(), params['project']!);
			return download(writeBlocks(pack), 'application/xml', `${fileName(`${name} doubt`)}.vti`);
		}
	})
];
