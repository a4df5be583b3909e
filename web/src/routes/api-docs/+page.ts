import type { PageLoad } from './$types';

export interface Described {
	operationId: string;
	tags: string[];
	summary: string;
	parameters?: { name: string; in: string; required: boolean; schema: Record<string, unknown> }[];
	requestBody?: { content: Record<string, { schema: Record<string, unknown>; example?: unknown }> };
	/** By status; that of success stands first. */
	responses: Record<string, { description: string; content: Record<string, { schema: Record<string, unknown> }> }>;
}

export const load: PageLoad = async ({ fetch }) => {
	const api = (await (await fetch('/api/v1/openapi.json')).json()) as {
		info: { version: string };
		paths: Record<string, Record<string, Described>>;
	};
	const list = Object.entries(api.paths).flatMap(([path, methods]) =>
		Object.entries(methods).map(([method, o]) => ({ path, method, ...o }))
	);
	const groups = new Map<string, typeof list>();
	for (const o of list) groups.set(o.tags[0]!, [...(groups.get(o.tags[0]!) ?? []), o]);
	return { version: api.info.version, groups: [...groups] };
};
