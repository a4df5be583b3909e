import type { AnySchema } from 'yup';

export type Json = Record<string, unknown>;

interface Description {
	type: string;
	label?: string;
	meta?: { record?: string | true; values?: AnySchema; format?: string; vertex?: boolean; place?: boolean; ratios?: boolean };
	oneOf?: unknown[];
	nullable?: boolean;
	optional?: boolean;
	default?: unknown;
	tests?: { name?: string; params?: Record<string, unknown> }[];
	fields?: Record<string, Description>;
	innerType?: Description;
}

/** JSON Schema of a Yup schema. */
export const jsonSchemaOf = (schema: AnySchema): Json => convert(schema.describe() as unknown as Description);

const orNull = (d: Description, schema: Json): Json => {
	if (d.nullable && schema['type']) schema['type'] = [schema['type'], 'null'].flat();
	if (d.nullable && schema['enum']) schema['enum'] = [...(schema['enum'] as unknown[]), null];
	return schema;
};

function convert(d: Description): Json {
	const out: Json = {};
	const test = (name: string) => d.tests?.find((t) => t.name === name)?.params;
	if (d.meta?.vertex) return { type: 'array', items: { type: 'number' }, minItems: 2, maxItems: 2 };
	if (d.meta?.place) return { type: 'array', items: { type: ['number', 'null'] }, minItems: 3, maxItems: 3 };
	if (d.meta?.ratios) return { type: 'array', items: { type: 'number', exclusiveMinimum: 0, maximum: 1000 }, minItems: 3, maxItems: 3 };
	if (d.meta?.record) return orNull(d, { type: 'object', additionalProperties: d.meta.record === true ? true : { type: d.meta.record } });
	if (d.meta?.values) return orNull(d, { type: 'object', additionalProperties: jsonSchemaOf(d.meta.values) });
	switch (d.type) {
		case 'object': {
			out['type'] = 'object';
			out['properties'] = Object.fromEntries(Object.entries(d.fields ?? {}).map(([k, f]) => [k, convert(f)]));
			const required = Object.entries(d.fields ?? {})
				.filter(([, f]) => f.optional === false && f.default === undefined)
				.map(([k]) => k);
			if (required.length) out['required'] = required;
			out['additionalProperties'] = false;
			break;
		}
		case 'array':
			out['type'] = 'array';
			if (d.innerType) out['items'] = convert(d.innerType);
			if (test('min')) out['minItems'] = test('min')!['min'];
			if (test('max')) out['maxItems'] = test('max')!['max'];
			break;
		case 'number':
			out['type'] = test('integer') || d.tests?.some((t) => t.name === 'integer') ? 'integer' : 'number';
			if (test('min')) out['minimum'] = test('min')!['min'];
			if (test('min')?.['more'] !== undefined) {
				delete out['minimum'];
				out['exclusiveMinimum'] = test('min')!['more'];
			}
			if (test('max')) out['maximum'] = test('max')!['max'];
			break;
		case 'mixed':
			break;
		default:
			out['type'] = d.type;
			if (test('max')) out['maxLength'] = test('max')!['max'];
			if (test('matches')) out['pattern'] = String((test('matches')!['regex'] as RegExp).source);
	}
	if (d.oneOf?.length) out['enum'] = d.oneOf;
	if (d.meta?.format) out['format'] = d.meta.format;
	orNull(d, out);
	if (d.default !== undefined && typeof d.default !== 'object') out['default'] = d.default;
	return out;
}
