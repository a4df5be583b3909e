import * as yup from 'yup';
import { describe, expect, it } from 'vitest';
import { columnSchema, faultSchema, finite, textRecordSchema, traceSchema } from '#core/project/guards';
import { projectFileSchema } from '#core/project/project-file';
import { lineSchema, trendSchema } from '#core/project/shaping';
import { jsonSchemaOf, type Json } from './json-schema';

const at = (schema: Json, ...path: string[]): Json =>
	path.reduce((s, key) => (s['properties'] as Record<string, Json>)[key] as Json, schema);

describe('guards as JSON Schema', () => {
	it.each<[string, Parameters<typeof jsonSchemaOf>[0], Json]>([
		['text with a length', yup.string().max(5), { type: 'string', maxLength: 5 }],
		['one of some words', yup.string().oneOf(['a', 'b']), { type: 'string', enum: ['a', 'b'] }],
		['text of a pattern', yup.string().matches(/^[a-z]+$/), { type: 'string', pattern: '^[a-z]+$' }],
		['a number with bounds', finite().min(0).max(90), { type: 'number', minimum: 0, maximum: 90 }],
		['a number above another', finite().moreThan(0), { type: 'number', exclusiveMinimum: 0 }],
		['a whole number', yup.number().integer().min(1), { type: 'integer', minimum: 1 }],
		['yes or no, with what it is otherwise', yup.boolean().default(true) as never, { type: 'boolean', default: true }],
		[
			'a list with so many entries',
			yup.array(yup.string().required()).min(2).max(9),
			{ type: 'array', items: { type: 'string' }, minItems: 2, maxItems: 9 }
		],
		['what may be nothing', yup.string().nullable(), { type: ['string', 'null'] }],
		['a record of text', textRecordSchema, { type: 'object', additionalProperties: { type: 'string' } }],
		[
			'a line on the map',
			traceSchema,
			{ type: 'array', items: { type: 'array', items: { type: 'number' }, minItems: 2, maxItems: 2 }, maxItems: 5000 }
		]
	])('%s', (_, schema, expected) => expect(jsonSchemaOf(schema)).toEqual(expected));

	it('objects name what must be given, and allow nothing else', () => {
		const s = jsonSchemaOf(yup.object({ a: yup.string().required(), b: finite(), c: yup.boolean().required().default(false) }).noUnknown());
		expect(s).toMatchObject({ type: 'object', required: ['a'], additionalProperties: false });
		expect(Object.keys(s['properties'] as object)).toEqual(['a', 'b', 'c']);
	});

	it('those of an interpretation keep their bounds and words', () => {
		const fault = jsonSchemaOf(faultSchema);
		expect(at(fault, 'dip')).toEqual({ type: 'number', exclusiveMinimum: 0, maximum: 90 });
		expect(at(fault, 'tips')).toMatchObject({ type: ['object', 'null'], required: ['elevation', 'halfLength', 'halfHeight', 'reach'] });
		expect(at(jsonSchemaOf(lineSchema), 'vertices')).toMatchObject({
			items: { type: 'array', items: { type: ['number', 'null'] }, minItems: 3, maxItems: 3 }
		});
		expect(at(jsonSchemaOf(trendSchema), 'anisotropy', 'ratios')).toMatchObject({ minItems: 3, maxItems: 3 });
		expect((jsonSchemaOf(columnSchema)['items'] as Json)['required']).toEqual(['id', 'name', 'color', 'contact']);
	});

	it('that of a project file describes every field down to the last one', () => {
		const seen: string[] = [];
		const walk = (s: Json, path: string) => {
			// Only records of a shape that is told in words have no type.
			if (s['type'] === undefined && s['additionalProperties'] === undefined) seen.push(path);
			for (const [k, v] of Object.entries((s['properties'] as Record<string, Json>) ?? {})) walk(v, `${path}.${k}`);
			if (s['items']) walk(s['items'] as Json, `${path}[]`);
		};
		walk(jsonSchemaOf(projectFileSchema), '');
		expect(seen).toEqual([]);
	});
});
