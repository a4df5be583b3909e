import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import { compile, type Source } from './expression';
import { combine, conversion, formatUnit, parseUnit, sameDimension } from './units';

const sources: Record<string, Source> = {
	Cu: { type: 'number', values: [1000, 20_000, NaN], unit: 'ppm' },
	Zn: { type: 'number', values: [0.5, 1, 2], unit: '%' },
	From: { type: 'number', values: [0, 10, 20], unit: 'm' },
	To: { type: 'number', values: [10, 20, 25], unit: 'm' },
	Density: { type: 'number', values: [2.5, 2.7, 3], unit: 't/m3' },
	'Rock type': { type: 'text', values: ['Granite', 'Skarn', ''] },
	plain: { type: 'number', values: [1, 2, 3], unit: '' }
};
const run = (text: string) => compile(text).run(sources, 3);
const values = (text: string) => [...(run(text).values as ArrayLike<number> & Iterable<unknown>)];
const problem = (text: string): { kind: string; message: string; hint?: string | undefined } => {
	try {
		run(text);
	} catch (error) {
		if (error instanceof ProblemError) return error.problem;
		throw error;
	}
	throw new Error(`${text} was taken`);
};

describe('expressions', () => {
	it.each<[string, unknown[]]>([
		['1 + 2 * 3', [7, 7, 7]],
		['(1 + 2) * 3', [9, 9, 9]],
		['2 ** 3 ** 2', [512, 512, 512]],
		['-2 + 7 % 4', [1, 1, 1]],
		['To - From', [10, 10, 5]],
		['Cu > 5000', [0, 1, 0]],
		['Cu >= 1000 and Zn < 2', [1, 1, 0]],
		['not (Cu > 5000)', [1, 0, 1]],
		["[Rock type] = 'Granite' or [Rock type] = 'Skarn'", [1, 1, 0]],
		["contains([Rock type], 'GRAN')", [1, 0, 0]],
		['empty(Cu)', [0, 0, 1]],
		['empty([Rock type])', [0, 0, 1]],
		['if(empty(Cu), 0, value(Cu)) + 1', [1001, 20_001, 1]],
		["if(plain > 1, 'many', 'few')", ['few', 'many', 'many']],
		["'a' + [Rock type]", ['aGranite', 'aSkarn', 'a']],
		['max(plain, 2)', [2, 2, 3]],
		['round(sqrt(plain * 2) * 10)', [14, 20, 24]],
		['log10(value(Cu))', [3, Math.log10(20_000), NaN]],
		['plain != 2', [1, 0, 1]],
		['true and plain > 0', [1, 1, 1]],
		['floor(plain / 2) + ceil(plain / 2)', [1, 2, 3]],
		['min(plain, 2, 1.5)', [1, 1.5, 1.5]],
		['abs(1 - plain)', [0, 1, 2]],
		['+plain', [1, 2, 3]],
		['plain ^ 2', [1, 4, 9]],
		['plain > 1 ? plain : 0', [0, 2, 3]],
		['(plain > 1) = (plain < 3)', [0, 1, 0]],
		['(plain > 1) != true', [1, 0, 0]],
		["[Rock type] != 'Skarn'", [1, 0, 1]],
		["starts([Rock type], 'sk')", [0, 1, 0]],
		['if(plain > 1, plain < 3, false)', [0, 1, 0]],
		['empty(plain > 1)', [0, 0, 0]],
		['plain > 2 || plain < 2 && true', [1, 0, 1]]
	])('%s', (text, expected) => {
		expect(values(text)).toEqual(expected);
	});

	it.each([
		["'a' - 'b'", 'bad-expression', '- needs a number, not text'],
		['Cu + [Rock type]', 'bad-expression', '+ needs a number, not text'],
		['Cu and true', 'bad-expression', 'and needs a yes or no, not a number'],
		['not Cu', 'bad-expression', 'not needs a yes or no'],
		['-[Rock type]', 'bad-expression', '- needs a number'],
		["if(Cu > 1, 1, 'a')", 'bad-expression', 'both must be of one kind'],
		["if('a', 1, 2)", 'bad-expression', 'if needs a yes or no'],
		['if(true, 1)', 'bad-expression', 'if takes 3 values, not 2'],
		['min()', 'bad-expression', 'min takes 1 to 20 values, not 0'],
		["contains('a', 1)", 'bad-expression', 'contains needs text'],
		['Cu + From', 'units-differ', '+ puts ppm and m together'],
		['Cu < From', 'units-differ', '<'],
		['log(From)', 'units-differ', 'log needs a plain number, not m'],
		["unit(From, 'ppm')", 'units-differ', 'can not be brought to'],
		['nope(Cu)', 'bad-expression', 'there is no function "nope"'],
		['Cu.x', 'bad-expression', 'has no meaning here'],
		['Cu Zn', 'bad-expression', 'an operator is missing'],
		['Sb + 1', 'unknown-column', 'there is no column "Sb"'],
		['toString', 'unknown-column', 'there is no column "toString"'],
		['1 +', 'bad-expression', '']
	])('refuse %s', (text, kind, message) => {
		const found = problem(text);
		expect(found.kind).toBe(kind);
		expect(found.message).toContain(message);
	});

	it('bring numbers to one unit before they are put together', () => {
		expect(values('Cu + Zn')).toEqual([6000, 30_000, NaN]);
		expect(values('Zn > Cu')).toEqual([1, 0, 0]);
		expect(values("unit(Zn, 'ppm')")).toEqual([5000, 10_000, 20_000]);
		expect(run('(To - From) ** 2')).toMatchObject({ type: 'number', unit: 'm²' });
		expect(run('sqrt((To - From) * To)')).toMatchObject({ unit: 'm' });
		expect(run('value(From) * 2')).toMatchObject({ unit: '' });
	});

	it('no value makes no value, and compares with nothing', () => {
		expect(values('Cu + 1')[2]).toBeNaN();
		expect([values('Cu = Cu')[2], values('Cu != 5')[2], values('Cu < 5')[2]]).toEqual([0, 0, 0]);
	});
	it('agree with the language for any arithmetic', () => {
		const node: fc.Arbitrary<string> = fc.letrec<{ e: string }>((tie) => ({
			e: fc.oneof(
				{ depthSize: 'small' },
				fc.integer({ min: 1, max: 9 }).map(String),
				fc.tuple(tie('e'), fc.constantFrom('+', '-', '*', '/'), tie('e')).map(([a, o, b]) => `(${a} ${o} ${b})`)
			)
		})).e;
		fc.assert(
			fc.property(node, (text) => {
				const expected = Function(`return ${text}`)() as number;
				const got = values(text)[0] as number;
				expect(Number.isNaN(expected) ? Number.isNaN(got) : Math.abs(got - expected) <= 1e-9 * Math.abs(expected) || got === expected).toBe(
					true
				);
			})
		);
	});
	it('name the columns that they use', () => {
		expect(compile("Cu / Zn > 3 and [Rock type] = 'x'").columns).toEqual(['Cu', 'Zn', 'Rock type']);
	});
});

describe('units', () => {
	it('of one kind are brought together, of two are refused', () => {
		// 1 000 ppm and 0.5 % are 0.6 % of each other.
		expect(values('Zn + Cu')[0]).toBeCloseTo(0.6, 12);
		expect(run('Zn + Cu')).toMatchObject({ unit: '%' });
		expect(values('Cu < Zn')).toEqual([1, 0, 0]);
		expect(problem('Cu + From')).toMatchObject({ kind: 'units-differ', message: expect.stringContaining('ppm') });
		expect(problem('From > Density').kind).toBe('units-differ');
		expect(problem('log(From)').kind).toBe('units-differ');
	});
	it('multiply and cancel', () => {
		expect(run('(To - From) * Density')).toMatchObject({ unit: 't/m²' });
		expect(run('From / To')).toMatchObject({ unit: '' });
		expect(run('sqrt(From * To)')).toMatchObject({ unit: 'm' });
		expect(run('From ** 2')).toMatchObject({ unit: 'm²' });
	});
	it('a bare number takes the unit of what it meets; another unit is asked for by name', () => {
		expect(run('From + 5')).toMatchObject({ unit: 'm' });
		expect(values("unit(To, 'ft')")[0]).toBeCloseTo(32.808, 3);
		expect(run("unit(Cu, '%')")).toMatchObject({ unit: '%' });
		expect(problem("unit(Cu, 'm')").kind).toBe('units-differ');
	});
	it.each([
		['g/t', 'ppm', 1],
		['kg/m³', 't/m3', 0.001],
		['MPa', 'kPa', 1000],
		['mm', 'ft', 1 / 304.8]
	])('%s is %s times %d', (a, b, factor) => {
		const [x, y] = [parseUnit(a)!, parseUnit(b)!];
		expect(sameDimension(x, y)).toBe(true);
		expect(conversion(x, y)).toBeCloseTo(factor, 9);
	});
	it('that nobody knows are a kind of their own', () => {
		expect(sameDimension(parseUnit('API')!, parseUnit('API')!)).toBe(true);
		expect(sameDimension(parseUnit('API')!, parseUnit('m')!)).toBe(false);
		expect(parseUnit(' ')).toBeNull();
		expect(formatUnit(combine(parseUnit('m')!, parseUnit('s')!, -2))).toBe('m/s²');
	});
});

describe('what can not be read', () => {
	it.each([
		['', 'bad-expression'],
		['1 +', 'bad-expression'],
		['1 2', 'bad-expression'],
		['(1', 'bad-expression'],
		['copper > 1', 'unknown-column'],
		['Cu > [Rock type]', 'bad-expression'],
		['[Rock type] + 1', 'bad-expression'],
		['Cu and Zn', 'bad-expression'],
		['if(Cu, 1, 2)', 'bad-expression'],
		["if(Cu > 1, 1, 'a')", 'bad-expression'],
		['sqrt(1, 2)', 'bad-expression'],
		['eval(1)', 'bad-expression'],
		['Cu.constructor', 'bad-expression'],
		['constructor', 'unknown-column'],
		['[1, 2]', 'unknown-column'],
		['this', 'bad-expression'],
		['Cu.values[0]', 'bad-expression'],
		['(() => 1)()', 'bad-expression'],
		['"unclosed', 'bad-expression']
	])('%s says %s', (text, kind) => {
		expect(problem(text).kind).toBe(kind);
	});
	it('too long or too deep is refused before it is read', () => {
		expect(problem('1+'.repeat(1500) + '1').message).toContain('longer');
		expect(problem(`${'('.repeat(5)}${'-'.repeat(70)}1${')'.repeat(5)}`).kind).toBe('bad-expression');
	});
	it('chance text never does anything but a clear refusal or a result', () => {
		fc.assert(
			fc.property(fc.string({ maxLength: 40 }), (text) => {
				try {
					run(text);
				} catch (error) {
					expect(error).toBeInstanceOf(ProblemError);
				}
			}),
			{ numRuns: 500 }
		);
	});
});
