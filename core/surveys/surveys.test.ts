import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { crossingsOf, linesOf } from './lines';
import { headingError, level, namedBy } from './levelling';
import { baseAt, filled, lagged, smoothed, spikesOf, stepsAlong } from './steps';

const straight = (values: number[], step = 10) => {
	const x = values.map((_, i) => step * i);
	const y = values.map(() => 0);
	return {
		line: linesOf(
			values.map(() => 'L'),
			x,
			y,
			null
		)[0]!,
		x,
		y,
		values
	};
};

describe('lines', () => {
	it('are in the order of their times, each with its length and direction', () => {
		const lines = linesOf(['A', 'B', 'A', 'A', 'B'], [0, 5, 20, 10, NaN], [0, 5, 0, 0, 0], [1, 1, 3, 2, 5]);
		expect(lines.map((l) => [l.name, l.rows, [...l.distance], l.azimuth])).toEqual([
			['A', [0, 3, 2], [0, 10, 20], 90],
			['B', [1], [0], NaN]
		]);
	});
	it('cross once where they cross, at a station, too', () => {
		const x = [0, 10, 20, 10, 10, 10];
		const y = [0, 0, 0, -10, 0, 10];
		const lines = linesOf(['A', 'A', 'A', 'T', 'T', 'T'], x, y, null);
		const found = crossingsOf([lines[0]!], [lines[1]!], x, y);
		expect(found).toHaveLength(1);
		expect(found[0]).toMatchObject({ x: 10, y: 0, onLine: [1, 0], onTie: [1, 0] });
		expect(crossingsOf([lines[0]!], [lines[1]!], x, y, 5)).toHaveLength(0);
	});
	it('are named by patterns', () => {
		const tie = namedBy('T*, 9?0.5; base');
		expect(['T1', 't22', 'base', '9?0.5', '900.5', '10'].map(tie)).toEqual([true, true, true, true, false, false]);
		const between = namedBy('*a*b*,x*x');
		expect(['ab', 'zazbz', 'ba', 'x', 'xx', 'xyx'].map(between)).toEqual([true, true, false, false, true, true]);
		// A pattern of many stars takes no longer than any other.
		expect(namedBy('*a'.repeat(900))('a'.repeat(150) + 'b')).toBe(false);
	});
});

describe('steps', () => {
	it('spikes stand out, slopes and corners do not', () => {
		const { line, values } = straight([1, 2, 3, 4, 50, 6, 7, 8, 8, 8, 8, -9, 8, 8]);
		expect([...spikesOf(line, values, 3, 4, 0.5)].flatMap((s, k) => (s ? [k] : []))).toEqual([4, 11]);
		expect([...spikesOf(line, values, 3, 4, 100)].some(Boolean)).toBe(false);
		const one = straight([5]);
		expect([...spikesOf(one.line, one.values, 3, 4, 0)]).toEqual([0]);
	});
	it('gaps are filled straight, ends and long ones not', () => {
		const { line, values } = straight([NaN, 2, NaN, NaN, 8, NaN, NaN, NaN, 9, NaN]);
		expect([...filled(line, values, 0).values]).toEqual([NaN, 2, 4, 6, 8, 8.25, 8.5, 8.75, 9, NaN]);
		expect(filled(line, values, 30)).toEqual({ values: Float64Array.of(NaN, 2, 4, 6, 8, NaN, NaN, NaN, 9, NaN), count: 2 });
	});
	it('smoothing keeps a slope inside and gaps', () => {
		const { line, values } = straight([0, 1, 2, NaN, 4, 5, 6]);
		const s = smoothed(line, values, 15);
		expect(s[1]).toBeCloseTo(1, 9);
		expect(s[3]).toBeNaN();
	});
	it('a base is straight between its readings, in any order, and nothing long before or after', () => {
		const at = baseAt([2, 1, NaN, 3], [20, 10, 5, 40]);
		expect([at(1.5), at(2.5), at(3.01), at(0.5), at(NaN)]).toEqual([15, 30, 40, NaN, NaN]);
		expect(baseAt([], [])(1)).toBeNaN();
	});
	it('a lag moves values along, and the end has none', () => {
		const { line, values } = straight([0, 1, 2, 3]);
		expect([...lagged(line, values, line.distance, 5)]).toEqual([0.5, 1.5, 2.5, NaN]);
		expect([...lagged(line, values, line.distance, -10)]).toEqual([NaN, 0, 1, 2]);
	});
	it('equal steps lie along the line from its first station', () => {
		const line = linesOf(['L', 'L', 'L'], [0, 7, 20], [0, 0, 0], null)[0]!;
		expect(stepsAlong(line, 10).map((s) => [s.distance, s.on[0], Number(s.on[1].toFixed(3))])).toEqual([
			[0, 0, 0],
			[10, 1, 0.231],
			[20, 1, 1]
		]);
		expect(stepsAlong(linesOf(['L'], [1], [1], null)[0]!, 10)).toEqual([{ distance: 0, on: [0, 0] }]);
	});
});

describe('levelling', () => {
	const NOISE = 0.5;
	/** Forty lines flown there and back, five ties, each line with an offset and a drift of its own. */
	function survey(seed: number, drift: number) {
		const { normal } = seededRandom(seed);
		const [names, x, y, truth, values]: [string[], number[], number[], number[], number[]] = [[], [], [], [], []];
		const field = (px: number, py: number) => 48_000 + 60 * Math.sin(px / 300) + 40 * Math.cos(py / 250);
		const add = (name: string, px: number, py: number, error: number) => {
			names.push(name);
			x.push(px);
			y.push(py);
			truth.push(field(px, py));
			values.push(field(px, py) + error + NOISE * normal());
		};
		for (let l = 0; l < 40; l++) {
			const offset = 12 * normal() + (l % 2 ? 6 : -6);
			for (let k = 0; k <= 100; k++) add(`L${l}`, 20 * (l % 2 ? 100 - k : k), 50 * l, offset + (drift * k) / 100);
		}
		for (let t = 0; t < 5; t++) for (let k = 0; k <= 98; k++) add(`T${t}`, 100 + 450 * t, 20 * k, 0);
		const lines = linesOf(names, x, y, null);
		return { lines: lines.filter((l) => l.name.startsWith('L')), ties: lines.filter((l) => l.name.startsWith('T')), x, y, truth, values };
	}
	it.each([
		[0, 0],
		[1, 15]
	])('of degree %s brings forty lines with drift %s down to the noise', (degree, drift) => {
		const s = survey(5, drift);
		const r = level(s.lines, s.ties, s.x, s.y, s.values, degree);
		expect(r.misties).toHaveLength(200);
		expect(r.before).toBeGreaterThan(8);
		expect(r.after).toBeLessThan(1.5 * NOISE);
		let [squares, n, sum] = [0, 0, 0];
		const errors: number[] = [];
		s.lines.forEach((l, k) => l.rows.forEach((row, m) => errors.push(s.values[row]! + r.lines[k]![m]! - s.truth[row]!)));
		for (const e of errors) sum += e / errors.length;
		for (const e of errors) [squares, n] = [squares + (e - sum) ** 2, n + 1];
		expect(Math.sqrt(squares / n)).toBeLessThan(1.6 * NOISE);
	});
	it('says what can not be levelled', () => {
		const s = survey(6, 0);
		expect(() => level(s.lines, [], s.x, s.y, s.values, 0)).toThrow('no line is a tie');
		expect(() => level([], s.ties, s.x, s.y, s.values, 0)).toThrow('all lines are ties');
		expect(() => level(s.lines, s.ties, s.x, s.y, s.values, 0, 1)).toThrow('no line crosses a tie');
		// A single line on its own keeps what it is.
		const lone = linesOf(['Z', 'Z'], [1e6, 1e6 + 10], [0, 0], null);
		expect(level([...s.lines, ...lone], s.ties, s.x, s.y, s.values, 1).alone).toEqual(['Z']);
	});
	it('finds the error of heading from the crossings', () => {
		const s = survey(9, 0);
		const heading = (a: number) => 4 * Math.cos((a * Math.PI) / 180) + 9 * Math.sin((a * Math.PI) / 180);
		const values = s.truth.slice();
		for (const l of [...s.lines, ...s.ties]) for (const row of l.rows) values[row]! += heading(l.azimuth);
		const found = headingError(s.lines, s.ties, s.x, s.y, values)!;
		expect(found.crossings).toBe(200);
		// Crossings lie between stations, where the field is not straight.
		expect(found.sine).toBeCloseTo(9, 1);
		expect(found.cosine).toBeCloseTo(4, 1);
		expect(headingError(s.lines, [], s.x, s.y, values)).toBeNull();
	});
});
