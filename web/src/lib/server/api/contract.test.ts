import { describe, expect, it } from 'vitest';
import type { Schema } from 'yup';
import { EXAMPLES } from './examples';
import { openApi } from './openapi';
import { OPERATIONS } from './register';

describe('the description of the API', () => {
	it('tells of every operation what comes back: JSON by a schema, all else by its media type', () => {
		const untold = OPERATIONS.filter((o) => (o.answer === undefined) === (o.media === undefined)).map((o) => o.id);
		expect(untold).toEqual([]);
	});
	it('has an empty schema for no answer', () => {
		const paths = openApi('1').paths as Record<
			string,
			Record<string, { responses: Record<string, { content: Record<string, { schema: object }> }> }>
		>;
		for (const [path, methods] of Object.entries(paths))
			for (const [method, o] of Object.entries(methods))
				for (const [status, r] of Object.entries(o.responses))
					for (const { schema } of Object.values(r.content))
						expect([method, path, status, Object.keys(schema).length > 0]).toEqual([method, path, status, true]);
	});
	it('names each operation once', () => {
		const ids = OPERATIONS.map((o) => o.id);
		expect(ids.filter((id, i) => ids.indexOf(id) !== i)).toEqual([]);
	});
});

describe('examples', () => {
	it.each(Object.entries(EXAMPLES))('of %s is what it takes', async (id, body) => {
		const own = OPERATIONS.find((o) => o.id === id);
		expect(own?.body).toBeDefined();
		await (own!.body as Schema).validate(body, { strict: true });
	});
	it('stand in the description', () => {
		const { paths } = openApi('1') as {
			paths: Record<string, Record<string, { operationId: string; requestBody?: { content: Record<string, { example?: unknown }> } }>>;
		};
		const shown = Object.values(paths).flatMap((m) =>
			Object.values(m).filter((o) => o.requestBody && Object.values(o.requestBody.content)[0]!.example)
		);
		expect(shown.map((o) => o.operationId).sort()).toEqual(Object.keys(EXAMPLES).sort());
	});
});
