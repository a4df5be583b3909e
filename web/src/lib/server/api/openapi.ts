import { EXAMPLES } from './examples';
import { jsonSchemaOf, type Json } from './json-schema';
import { OPERATIONS } from './register';

const PROBLEM: Json = {
	type: 'object',
	properties: {
		type: { type: 'string', description: 'short machine-readable name' },
		title: { type: 'string', description: 'what happened' },
		status: { type: 'integer' },
		hint: { type: 'string', description: 'what can be done' },
		where: { type: 'string' },
		fields: { type: 'array', items: { type: 'object', properties: { path: { type: 'string' }, message: { type: 'string' } } } }
	},
	required: ['type', 'title', 'status']
};

/** The description of the API, made from the operations themselves. */
export function openApi(version: string): Json & { paths: Record<string, Json> } {
	const paths: Record<string, Json> = {};
	for (const o of OPERATIONS) {
		const parameters: Json[] = [...o.path.matchAll(/\{(\w+)\}/g)].map((m) => ({
			name: m[1],
			in: 'path',
			required: true,
			schema: { type: 'string' }
		}));
		if (o.reply === 'The job')
			parameters.push({
				name: 'idempotency-key',
				in: 'header',
				required: false,
				description: 'The same key again starts nothing more and gives the job that was started first',
				schema: { type: 'string', pattern: '^[\\w-]{8,100}$' }
			});
		if (o.query) {
			const q = jsonSchemaOf(o.query);
			for (const [name, schema] of Object.entries(q['properties'] as Record<string, Json>))
				parameters.push({ name, in: 'query', required: ((q['required'] as string[]) ?? []).includes(name), schema });
		}
		if (o.ofModel)
			parameters.push({
				name: 'model',
				in: 'query',
				required: false,
				description: 'Model of the project that it is about; the first one when it is left out',
				schema: { type: 'string', format: 'uuid' }
			});
		(paths[o.path] ??= {})[o.method] = {
			operationId: o.id,
			tags: [o.tag],
			summary: o.summary,
			...(parameters.length ? { parameters } : {}),
			...(o.body
				? {
						requestBody: {
							required: !o.bodyOptional,
							content:
								o.body === 'bytes'
									? { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } }
									: { 'application/json': { schema: jsonSchemaOf(o.body), ...(EXAMPLES[o.id] ? { example: EXAMPLES[o.id] } : {}) } }
						}
					}
				: {}),
			responses: {
				[o.created ? '201' : '200']: {
					description: o.reply,
					content: {
						[o.media ?? 'application/json']: {
							schema: o.answer ? jsonSchemaOf(o.answer) : o.media?.includes('json') ? {} : { type: 'string', format: 'binary' }
						}
					}
				},
				default: {
					description: 'A problem, with what can be done about it',
					content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } }
				}
			}
		};
	}
	return {
		openapi: '3.1.0',
		info: {
			title: 'Malachite',
			version,
			description: 'Everything that the screens do.',
			license: { name: 'Apache-2.0', identifier: 'Apache-2.0' }
		},
		servers: [{ url: '/api/v1' }],
		paths,
		components: { schemas: { Problem: PROBLEM } }
	};
}
