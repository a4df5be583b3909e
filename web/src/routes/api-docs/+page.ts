import type { PageLoad } from './$types';

export interface Described {
	operationId: string;
	tags: string[];
	summary: string;
	parameters?: { name: string; in: string; required: boolean; schema: Record<string, unknown> }[];
	requestBody?: { content: Record<string, { schema: Record<string, unknown> }> };
	responses: { '200': { description: string; content: Record<string, unknown> } };
}

export const load: PageLoad = async ({ fetch }) => {
	const api = (await (await fetch('/api/v1/openapi.json')).json()) as { info: { version: string }; paths: Record<string, Record<string, Described>> };
	const list = Object.entries(api.paths).flatMap(([path, methods]) => Object.entries(methods).map(([method, o]) => ({ path, method, ...o })));
	return { version: api.info.version, groups: Object.entries(Object.groupBy(list, (o) => o.tags[0]!)) };
};
