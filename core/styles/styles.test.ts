import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NO_CLASS, type CategoryColumn, type NumberColumn } from '../datasets/dataset';
import { sortedValues } from '../statistics/spread';
import { isPattern, patternElement, PATTERNS, proposePattern, type PatternName } from './patterns';
import { proposedStyle, unitDefaults } from './propose';
import { plainScale, proposeScale, readyScale } from './scale';
import {
	classStyle,
	colorAt,
	hexOf,
	orderedClasses,
	painter,
	plainDefaults,
	plainStyle,
	readClasses,
	styleSchema,
	writeClasses,
	type DataStyle
} from './style';
import { timeColor } from './time-colors';

const numbers = (key: string, ...values: number[]): NumberColumn => ({
	key,
	label: key,
	type: 'number',
	unit: 'ppm',
	values: Float32Array.from(values)
});
const rocks: CategoryColumn = {
	key: 'code',
	label: 'Code',
	type: 'category',
	values: Uint16Array.of(0, 1, 2, NO_CLASS),
	categories: ['Granite', 'Sandstone', 'Jurassic']
};

describe('scales of numbers', () => {
	const at = (change: object, values: number[]) => readyScale({ ...plainScale(), ...change }, sortedValues(values)).at;
	it('run from the least to the greatest, or between the ends that are set', () => {
		expect([0, 5, 10, -3, 14].map(at({}, [0, 10]))).toEqual([0, 0.5, 1, 0, 1]);
		expect([0, 4, 6].map(at({ clip: [2, 6] }, [0, 10]))).toEqual([0, 0.5, 1]);
		expect([0, 10].map(at({ reversed: true }, [0, 10]))).toEqual([1, 0]);
		expect(at({}, [0, 10])(NaN)).toBeNaN();
	});
	it('by logarithm give equal steps to equal ratios, and the low end to what has none', () => {
		const log = at({ kind: 'log' }, [1, 100]);
		expect(log(10)).toBeCloseTo(0.5, 12);
		expect([log(0), log(-4)]).toEqual([0, 0]);
		// Values at and below zero leave the axis with those above.
		expect(at({ kind: 'log' }, [-5, 0, 10, 1000])(100)).toBeCloseTo(0.5, 12);
		expect(at({ kind: 'log' }, [-5, 0])(3)).toBeGreaterThanOrEqual(0);
	});
	it('by equal counts put as many values into each class', () => {
		const values = Array.from({ length: 100 }, (_, i) => i ** 3);
		const scale = readyScale({ ...plainScale(), kind: 'equal-count', classes: 4 }, sortedValues(values));
		const counts = new Map<number, number>();
		for (const v of values) counts.set(scale.at(v), (counts.get(scale.at(v)) ?? 0) + 1);
		expect([...counts.values()]).toEqual([25, 25, 25, 25]);
	});
	it('by own limits have one class more than limits, in any order that they are given', () => {
		const scale = readyScale({ ...plainScale(), kind: 'breaks', breaks: [20, 10] }, sortedValues([1, 30]));
		expect(scale.limits).toEqual([10, 20]);
		expect([9, 10, 19, 20].map(scale.at)).toEqual([0, 0.5, 0.5, 1]);
	});
	it('survive a column that is empty, all equal, or has one wild value', () => {
		expect(readyScale(proposeScale([]), []).at(3)).toBeGreaterThanOrEqual(0);
		expect(readyScale(proposeScale([5, 5, 5]), [5, 5, 5]).at(5)).toBe(0.5);
		const sorted = sortedValues([...Array.from({ length: 500 }, (_, i) => i), 1e12]);
		const scale = readyScale(proposeScale(sorted), sorted);
		expect(scale.high).toBeLessThan(1000);
		expect(scale.at(250)).toBeCloseTo(0.5, 1);
	});
	it('are logarithmic by themselves only where values spread over decades', () => {
		expect(proposeScale(sortedValues(Array.from({ length: 100 }, (_, i) => 10 ** (i / 25)))).kind).toBe('log');
		expect(proposeScale(sortedValues([1, 2, 3, 4])).kind).toBe('linear');
		expect(proposeScale(sortedValues([0, 1, 1000])).kind).toBe('linear');
	});
	it('never leave 0 … 1', () => {
		fc.assert(
			fc.property(
				fc.array(fc.double({ min: -1e150, max: 1e150, noNaN: true }), { minLength: 1, maxLength: 30 }),
				fc.constantFrom('linear', 'log', 'equal-count', 'breaks'),
				fc.double({ noNaN: true }),
				(values, kind, v) => {
					const t = readyScale({ ...plainScale(), kind: kind as 'log', breaks: [1, 2] }, sortedValues(values)).at(v);
					expect(t >= 0 && t <= 1).toBe(true);
				}
			)
		);
	});
});

describe('a painter', () => {
	const set = { columns: [rocks, numbers('Cu', 1, 50, 100, NaN)] };
	const style = (change: Partial<DataStyle>): DataStyle => ({ ...plainStyle(null), ...change });
	it('colours by class with the colour of the class, and what has none in grey', () => {
		const p = painter(set, style({ by: 'code', classes: { code: { Granite: { color: '#ff0000' } } } }));
		expect(p.css(0)).toBe('#ff0000');
		expect(p.css(3)).toBe('#c9c6bc');
		expect(p.pattern(0)).toBe('granite');
		expect(p.all).toBe(true);
	});
	it('hides classes that are hidden, and rows outside of a window, of any column', () => {
		expect([0, 1, 2, 3].map(painter(set, style({ by: 'Cu', classes: { code: { Sandstone: { hidden: true } } } })).shown)).toEqual([
			true,
			false,
			true,
			true
		]);
		const p = painter(set, style({ by: 'code', windows: { Cu: [10, 100] } }));
		expect([0, 1, 2, 3].map(p.shown)).toEqual([false, true, true, false]);
		expect(p.rgb(0)).toBe(-1);
		expect(p.rgb(1)).toBeGreaterThanOrEqual(0);
	});
	it('sizes from a third to three times by another column', () => {
		const p = painter(
			set,
			style({ by: 'code', size: { value: 6, unit: 'px', by: 'Cu' }, scales: { Cu: { ...plainScale(), clip: [1, 100] } } })
		);
		expect([p.size(0), p.size(2)].map((v) => Math.round(v * 1000) / 1000)).toEqual([0.333, 3]);
		expect(p.size(3)).toBeCloseTo(1 / 3, 9);
	});
	it('a column that is not there any more counts as none', () => {
		const p = painter(set, style({ by: 'gone', color: '#123456', windows: { gone: [0, 1] }, classes: { gone: { x: { hidden: true } } } }));
		expect([p.css(0), p.shown(0)]).toEqual(['#123456', true]);
	});
	it('500 classes have colours, and neighbours differ', () => {
		const colors = Array.from({ length: 500 }, (_, i) => colorAt(i));
		for (const c of colors) expect(c).toMatch(/^#[0-9a-f]{6}$/);
		for (let i = 1; i < 500; i++) expect(colors[i]).not.toBe(colors[i - 1]);
	});
});

describe('classes', () => {
	it('stand in the order that was set, others after them', () => {
		expect(orderedClasses(rocks, { order: { code: ['Jurassic', 'gone', 'Granite'] } })).toEqual(['Jurassic', 'Granite', 'Sandstone']);
	});
	it('are written and read back as they were, and strange ones are left out', () => {
		const style: DataStyle = {
			...plainStyle('code'),
			classes: { code: { Sandstone: { color: '#abcdef', pattern: 'sand', hidden: true } } },
			order: { code: ['Sandstone', 'Granite'] }
		};
		const text = writeClasses(rocks, style, plainDefaults);
		const { style: back, found } = readClasses(text, rocks, plainStyle('code'));
		expect(found).toBe(3);
		for (const c of rocks.categories) expect(classStyle(rocks, c, back, plainDefaults)).toEqual(classStyle(rocks, c, style, plainDefaults));
		expect(orderedClasses(rocks, back)).toEqual(orderedClasses(rocks, style));
		expect(
			readClasses(
				'{"classes":[{"name":"Basalt","color":"#000000"},{"name":"Granite","color":"#010203","pattern":"zigzag"}]}',
				rocks,
				plainStyle()
			).style.classes['code']
		).toEqual({ Granite: { color: '#010203', pattern: null, hidden: false } });
	});
	it.each(['', '[]', '{"classes":[]}', '{"classes":[{"name":"a","color":"red"}]}', '{"classes":[{"color":"#000000"}]}', 'null'])(
		'%s is no list of classes',
		(text) => {
			expect(() => readClasses(text, rocks, plainStyle())).toThrow(/no list of classes/);
		}
	);
	it('named like what every object has do not confuse', () => {
		const odd: CategoryColumn = { ...rocks, categories: ['constructor', '__proto__', 'toString'] };
		for (const c of odd.categories) expect(classStyle(odd, c, plainStyle('code'), plainDefaults).hidden).toBe(false);
	});
	it('of units take the colour of the column, codes that of their unit, names of time that of the chart', () => {
		const defaults = unitDefaults([{ id: 'g', name: 'Carrow Granite', color: '#112233' }], { GRA: 'g' });
		expect(defaults({ ...rocks, key: 'unit' }, 'Carrow Granite', 0)).toEqual({ color: '#112233', pattern: 'granite' });
		expect(defaults(rocks, 'GRA', 0)).toEqual({ color: '#112233', pattern: 'granite' });
		expect(defaults({ ...rocks, key: 'age' }, 'Late Jurassic', 5).color).toBe('#B3E3EE');
		expect(['Palaeozoic', 'early triassic', 'Mid Devonian', 'Archaean'].map(timeColor)).toEqual([
			'#99C08D',
			'#983999',
			'#F1C868',
			'#F0047F'
		]);
		expect(timeColor('Granite')).toBeNull();
	});
});

describe('patterns', () => {
	it('suit the names that loggers write', () => {
		const of: [string, PatternName | null][] = [
			['Limestone', 'limestone'],
			['LST', 'limestone'],
			['Siltstone', 'silt'],
			['sandy gravel', 'gravel'],
			['Boulder clay', 'mud'],
			['Fault gouge', 'broken'],
			['XYZ', null]
		];
		for (const [name, pattern] of of) expect([name, proposePattern(name)]).toEqual([name, pattern]);
	});
	it('are drawn with the colour below', () => {
		for (const name of Object.keys(PATTERNS) as PatternName[]) expect(patternElement('p', name, '#abcdef')).toContain('fill="#abcdef"');
		expect([isPattern('sand'), isPattern('constructor')]).toEqual([true, false]);
	});
	it('colours of ramps are read in both ways of writing', () => {
		expect([hexOf('rgb(255, 0, 16)'), hexOf('#123456')]).toEqual(['#ff0010', '#123456']);
	});
});

describe('styles', () => {
	it('that are proposed are ones that the server takes', () => {
		for (const kind of ['intervals', 'assays', 'orientations', 'stations', 'collars'] as const)
			expect(
				styleSchema.isValidSync(proposedStyle({ kind, place: 'map', columns: [rocks, numbers('Cu', 1)], rowCount: 4 }, null), {
					strict: true
				})
			).toBe(true);
	});
	it.each([
		{ opacity: 2 },
		{ color: 'red' },
		{ windows: { a: [1] } },
		{ scales: { a: { kind: 'cubic' } } },
		{ size: { value: -1, unit: 'px', by: null } },
		{ classes: { a: { b: { color: 'x' } } } },
		{ surprise: 1 }
	])('%j is refused', (change) => {
		expect(styleSchema.isValidSync({ ...plainStyle(null), ...change }, { strict: true })).toBe(false);
	});
});

it('a logarithmic scale begins at its clip, or at the first value above zero, and is 0 for what has no logarithm', () => {
	const scale = (clip: [number | null, number | null]) => readyScale({ ...plainScale(), kind: 'log', clip }, [-5, 0, 0.01, 1, 100]);
	expect([scale([null, null]).low, scale([null, null]).at(1)]).toEqual([0.01, expect.closeTo(0.5, 9)]);
	expect([scale([0.1, 10]).at(0.1), scale([0.1, 10]).at(1), scale([0.1, 10]).at(10)]).toEqual([0, expect.closeTo(0.5, 9), 1]);
	expect([scale([0, 10]).low, scale([null, null]).at(0), scale([null, null]).at(-5)]).toEqual([0.01, 0, 0]);
});
