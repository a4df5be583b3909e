import * as yup from 'yup';
import { describe, expect, it } from 'vitest';
import { columnSchema, faultSchema } from './guards';
import { fieldProblems } from './project-file';
import { fieldInWords } from './wording';

const complaints = (schema: yup.Schema, value: unknown) => {
	try {
		schema.validateSync(value, { abortEarly: false, strict: true });
		return [];
	} catch (e) {
		return fieldProblems(e as yup.ValidationError).map((p) => `${fieldInWords(p.path)}: ${p.message}`);
	}
};

describe('what guards say', () => {
	it('names fields as one reads them', () => {
		expect(fieldInWords('units[0].name')).toBe('units 1, name');
		expect(fieldInWords('faults[2].dipAzimuth')).toBe('faults 3, dip azimuth');
		expect(fieldInWords('extent')).toBe('extent');
		expect(fieldInWords('codes["a.b"]')).toBe('codes, a, b');
		expect(fieldInWords('')).toBe('');
	});
	it('says what a value must be, and what it is', () => {
		expect(complaints(columnSchema, [{ id: 'a', name: '', color: '#123456', contact: 'conformable' }])).toEqual(['1, name: must be given']);
		expect(complaints(columnSchema, [{ id: 'a', name: 5, color: 'red', contact: 'odd' }])).toEqual([
			'1, name: must be text; it is 5',
			'1, color: must be a colour like #3a7f55',
			'1, contact: must be one of conformable, erosional, onlapping, intrusive'
		]);
		expect(complaints(faultSchema, { id: 'f', name: 'F', trace: [], dip: 'steep', dipAzimuth: 400, youngestCut: 'a' }).sort()).toEqual([
			'dip azimuth: must be 360 or less',
			'dip: must be a number'
		]);
	});
	it('uses no words of programmers, whatever is sent', () => {
		const schema = yup
			.object({
				t: yup.string().required().max(3),
				n: yup.number().integer().positive().required(),
				l: yup.array(yup.string().required()).min(2).required(),
				b: yup.boolean().required(),
				u: yup.string().uuid()
			})
			.noUnknown();
		for (const value of [{}, [], 5, null, { t: 7, n: 'x', l: {}, b: 'maybe', u: 'q', z: 1 }, { t: 'long text', n: -1.5, l: [null], b: 1 }])
			for (const said of complaints(schema, value)) expect(said).not.toMatch(/type|`|\bthis\b|required field|match|undefined|NaN|\[object/);
	});
});
