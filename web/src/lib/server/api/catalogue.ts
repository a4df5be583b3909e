import * as yup from 'yup';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { cataloguePicture, catalogueUrl, geographicBox, searchCatalogue } from '../services/catalogue';
import { findProject } from '../store/projects';
import { enqueue } from '../jobs/queue';
import { catalogueAnswer } from '$lib/api/answers/data';
import { startedJobAnswer } from '$lib/api/answers/projects';
import { operation } from './operation';

const degrees = yup
	.mixed<[number, number, number, number]>()
	.test(
		'degrees',
		'must be west, south, east, north in degrees, west below east and south below north',
		(b) =>
			b === undefined ||
			(Array.isArray(b) &&
				b.length === 4 &&
				b.every((v) => typeof v === 'number' && Number.isFinite(v)) &&
				b[0] < b[2] &&
				b[1] < b[3] &&
				b[0] >= -180 &&
				b[2] <= 180 &&
				b[1] >= -90 &&
				b[3] <= 90)
	);

export const catalogueOperations = [
	operation({
		id: 'searchCatalogue',
		method: 'get',
		path: '/projects/{project}/catalogue',
		tag: 'Gather',
		summary: 'What the regional catalogue has for an area; the extent of the project when none is given',
		answer: catalogueAnswer,
		reply: 'Records with resolution, date, licence and size',
		query: yup.object({ bbox: yup.string().max(200), q: yup.string().max(200).default('') }).noUnknown(),
		run: async ({ params, query }) => {
			const p = await findProject(db(), params['project']!);
			const typed = query.bbox?.split(',').map(Number);
			if (typed && !degrees.isValidSync(typed))
				return fail('bad-area', 'the area must be west, south, east, north in degrees', 'West lies below east, south below north.', 'bbox');
			const box =
				typed ??
				geographicBox(
					p.crs,
					p.extent ?? fail('no-extent', 'the project has no extent yet', 'Type the area, or set the extent under Build.', 'bbox')
				);
			return { url: catalogueUrl(), box, records: await searchCatalogue(box, query.q) };
		}
	}),
	operation({
		id: 'cataloguePicture',
		method: 'get',
		path: '/catalogue/{record}/picture',
		tag: 'Gather',
		summary: 'A small picture of a record of the regional catalogue',
		reply: 'PNG',
		media: 'image/png',
		run: async ({ params }) =>
			new Response((await cataloguePicture(params['record']!)) as BodyInit, {
				headers: { 'content-type': 'image/png', 'content-security-policy': "default-src 'none'", 'cache-control': 'private, max-age=3600' }
			})
	}),
	operation({
		id: 'fetchFromCatalogue',
		method: 'post',
		path: '/projects/{project}/catalogue/{record}',
		tag: 'Gather',
		summary: 'Download a record of the regional catalogue, clipped to an area, and bring it in; in the background',
		answer: startedJobAnswer,
		reply: 'The job',
		body: yup
			.object({
				box: degrees.required(),
				every: yup.number().integer().min(1).max(100).default(1),
				name: yup.string().trim().min(1).max(200).required()
			})
			.noUnknown(),
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			return {
				job: await enqueue(params['project']!, 'catalogue', `Download ${body.name}`, {
					record: params['record']!,
					...body,
					every: body.every ?? 1
				})
			};
		}
	})
];
