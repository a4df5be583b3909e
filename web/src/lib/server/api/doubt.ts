import { and, desc, eq } from 'drizzle-orm';
import * as yup from 'yup';
import { writeImageData } from '#core/formats/image-data';
import { fileName } from '#core/formats/meshes';
import { readPack } from '#core/formats/pack';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { result } from '../db/schema';
import { enqueue } from '../jobs/queue';
import { loadGraph, one } from '../objects/graph';
import { findProject } from '../objects/projects';
import { resultBytes } from '../objects/results';
import { doubtAnswer } from '$lib/api/answers/ground';
import { startedJobAnswer } from '$lib/api/answers/projects';
import { bytes, download, operation } from './operation';

const MOST_CELLS = 3_000_000;
const error = (most: number) => yup.number().min(0).max(most).required();

async function lastOf(projectId: string) {
	await findProject(db(), projectId);
	const [row] = await db()
		.select({ key: result.key, report: result.report, seconds: result.seconds, createdAt: result.createdAt })
		.from(result)
		.where(and(eq(result.projectId, projectId), eq(result.kind, 'doubt')))
		.orderBy(desc(result.createdAt))
		.limit(1);
	return row ?? null;
}

/** @throws ProblemError `not-built` */
const latest = async (projectId: string) =>
	(await lastOf(projectId)) ?? fail('not-built', 'no ensemble was run yet', 'Run one under Build, Doubt.');

export const doubtOperations = [
	operation({
		id: 'runDoubt',
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
		run: async ({ params, body, requestKey }) => {
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
			if (one(await loadGraph(db(), projectId), 'model').missing)
				fail('not-built', 'there is no model yet', 'Build it first: the doubt is about that model.');
			return { job: await enqueue(projectId, 'doubt', 'Doubt about the model', body as Record<string, unknown>, { requestKey }) };
		}
	}),
	operation({
		id: 'getDoubt',
		method: 'get',
		path: '/projects/{project}/doubt',
		tag: 'Build',
		summary: 'The last ensemble: volumes at 10, 50 and 90 %, options, and whether the model changed since',
		answer: doubtAnswer,
		reply: 'The report; without members when none was run yet',
		run: async ({ params }) => {
			const row = await lastOf(params['project']!);
			if (!row) return { members: 0, failed: 0, volumes: [], outOfDate: false };
			const fields = one(await loadGraph(db(), params['project']!), 'fields');
			return {
				...row.report,
				seconds: row.seconds,
				createdAt: row.createdAt,
				outOfDate: row.report['fields'] !== fields.contentHash || fields.outOfDate
			};
		}
	}),
	operation({
		id: 'getDoubtPack',
		method: 'get',
		path: '/projects/{project}/doubt/pack',
		tag: 'Build',
		summary: 'Probability of each unit and entropy by cell as typed arrays',
		reply: 'A pack',
		media: 'application/octet-stream',
		run: async ({ params }) => {
			const row = await latest(params['project']!);
			return bytes(await resultBytes(db(), params['project']!, row.key), row.key);
		}
	}),
	operation({
		id: 'exportDoubt',
		method: 'get',
		path: '/projects/{project}/doubt/cells.vti',
		tag: 'Present',
		summary: 'Probability of each unit and entropy by cell as VTK XML image data',
		reply: 'A file',
		media: 'application/xml',
		run: async ({ params }) => {
			const row = await latest(params['project']!);
			const { info, arrays } = readPack(await resultBytes(db(), params['project']!, row.key));
			const { size, origin, cell, units } = info as {
				size: [number, number, number];
				origin: [number, number, number];
				cell: [number, number, number];
				units: string[];
			};
			const cells = size[0] * size[1] * size[2];
			const probability = arrays['probability'] as Float32Array;
			const { name } = await findProject(db(), params['project']!);
			return download(
				writeImageData(size, origin, cell, [
					{ name: 'entropy', values: arrays['entropy'] as Float32Array },
					...units.map((u, i) => ({ name: u, values: probability.subarray(i * cells, (i + 1) * cells) }))
				]),
				'application/xml',
				`${fileName(`${name} doubt`)}.vti`
			);
		}
	})
];
