import * as yup from 'yup';
import { fail } from '#core/problem';
import { db } from '../db/client';
import { exportDerived, sendDerived, type Wanted } from '../services/derived';
import { findProject } from '../store/projects';
import { download, operation } from './operation';

const derivedQuery = yup
	.object({
		/** What it is made of: `role:id`, several with commas between them. */
		of: yup
			.string()
			.max(2000)
			.matches(/^[a-z]+:[0-9a-f-]{36}(,[a-z]+:[0-9a-f-]{36})*$/i, 'of must be role:id, several with commas between them')
			.required(),
		/** Parameters of the recipe as JSON; what is left out has its first value. */
		parameters: yup.string().max(4000)
	})
	.noUnknown();

/** @throws ProblemError `bad-parameters` */
function wantedOf(recipe: string, query: yup.InferType<typeof derivedQuery>): Wanted {
	const inputs: Record<string, string[]> = {};
	for (const part of query.of.split(',')) {
		const [role, object] = part.split(':') as [string, string];
		inputs[role] = [...(Object.hasOwn(inputs, role) ? inputs[role]! : []), object];
	}
	let given: unknown;
	try {
		given = JSON.parse(query.parameters ?? '{}');
	} catch {
		given = null;
	}
	if (typeof given !== 'object' || given === null || Array.isArray(given))
		return fail('bad-parameters', 'the parameters are no JSON object', 'Write {"unit":"…"}.', 'parameters');
	return { recipe, inputs, parameters: given as Record<string, unknown> };
}

export const derivedOperations = [
	operation({
		id: 'getDerived',
		method: 'get',
		path: '/projects/{project}/derived/{recipe}',
		tag: 'Results',
		summary:
			'What a quick recipe makes of objects as they stand built (geology at the surface, thickness of a unit, what changed between two models), without a result of its own',
		reply: 'A pack (see docs/api.md) by the form of the recipe; what is said of it stands in its info as `report`',
		media: 'application/octet-stream',
		query: derivedQuery,
		run: async ({ params, query, request }) => {
			await findProject(db(), params['project']!);
			return sendDerived(params['project']!, wantedOf(params['recipe']!, query), request);
		}
	}),
	operation({
		id: 'exportDerived',
		method: 'get',
		path: '/projects/{project}/derived/{recipe}/file.{format}',
		tag: 'Results',
		summary: 'The same as a file, by the form of the recipe: grids as tif or asc, faces as geojson; what is said of it as json or csv',
		reply: 'A file',
		media: 'application/octet-stream',
		query: derivedQuery,
		run: async ({ params, query }) => {
			const p = await findProject(db(), params['project']!);
			const f = await exportDerived(p, wantedOf(params['recipe']!, query), params['format']!);
			return download(f.bytes, f.media, f.name);
		}
	})
];
