import { describe, expect, it } from 'vitest';
import { seededRandom } from '../statistics/random';
import { proposeColumn, type HoleLog } from './propose-column';

const logs = (...runs: string[]): HoleLog[] => runs.map((r, i) => ({ hole: `H${i + 1}`, units: r.split('') }));
const names = (l: HoleLog[], fixed?: string[]) =>
	proposeColumn(l, fixed)
		.units.map((u) => u.unit)
		.join('');

/**
 * Ten units in three sequences: A and B lie flat on C to F, which dip and are cut by them; those lie on G, H, I that dip more. A sill S
 * runs through all below B. Some rows have a wrong code.
 */
function ground(seed: number, holes = 40, wrong = 0.03): HoleLog[] {
	const { uniform: random } = seededRandom(seed);
	const codes = ['A', 'B', 'C', 'D', 'E', 'F', 'G', 'H', 'I', 'S'];
	return Array.from({ length: holes }, (_, k) => {
		const [x, y] = [random(), random()];
		const tops: [string, number][] = [
			['A', 0],
			['B', 12 + 4 * x],
			['C', 30 - 120 * x],
			['D', 60 - 120 * x],
			['E', 90 - 120 * x],
			['F', 120 - 120 * x],
			['G', 60 - 200 * y],
			['H', 150 - 200 * y],
			['I', 230 - 200 * y]
		];
		const sill = 95 + 60 * x - 30 * y;
		const unitAt = (z: number) => {
			if (z < 12 + 4 * x) return 'A';
			if (z < 30) return 'B';
			if (Math.abs(z - sill) < 4) return 'S';
			const top = (set: string) => tops.filter(([u, t]) => set.includes(u) && t <= z).at(-1)?.[0];
			return z < 115 ? (top('CDEF') ?? 'C') : (top('GHI') ?? 'G');
		};
		const units: string[] = [];
		for (let z = 0.5; z < 260; z += 1) {
			const u = unitAt(z);
			if (u !== units.at(-1)) units.push(u);
		}
		const logged = units.map((u) => (random() < wrong ? codes[Math.floor(random() * codes.length)]! : u));
		return { hole: `H${k}`, units: logged.filter((u, i) => u !== logged[i - 1]) };
	});
}

describe('a column from logs', () => {
	it('is the order that holes agree in, though none has all of it', () => {
		expect(names(logs('AB', 'BC', 'CD', 'AC', 'BD'))).toBe('ABCD');
		expect(names([])).toBe('');
		expect(names(logs('A'))).toBe('A');
	});
	it('is that of the many where one contradicts, and names that one', () => {
		const p = proposeColumn(logs('ABC', 'ABC', 'ACB', 'ABC'));
		expect(p.units.map((u) => u.unit).join('')).toBe('ABC');
		expect(p.contradicting).toEqual(['H3']);
		expect(p.evidence).toEqual([
			{ above: 'A', below: 'B', holes: 4, against: [] },
			{ above: 'B', below: 'C', holes: 3, against: ['H3'] }
		]);
	});
	it('keeps the order that is given, and finds the place of what is new', () => {
		expect(names(logs('BAX', 'BAX', 'XC'), ['A', 'B', 'C'])).toBe('ABXC');
	});
	it('tells a sill from beds that alternate', () => {
		const sill = proposeColumn(logs('ABSBC', 'ABCSC', 'ABSBC', 'ABC'));
		expect(sill.units.find((u) => u.unit === 'S')!.contact).toBe('intrusive');
		expect(sill.units.map((u) => u.unit).join('')).toBe('ASBC');
		expect(proposeColumn(logs('ABABAB', 'BABA', 'ABAB')).units.every((u) => u.contact === 'conformable')).toBe(true);
	});
	it('calls a base that lies on three older units erosional', () => {
		const p = proposeColumn(logs('TABCD', 'TBCD', 'TCD', 'TABCD', 'TBCD', 'TCD'));
		expect(p.units).toEqual([
			{ unit: 'T', contact: 'erosional' },
			...['A', 'B', 'C', 'D'].map((unit) => ({ unit, contact: 'conformable' }))
		]);
	});
	it('ten units, two unconformities, a sill, 3 % of codes wrong: right order and eight of ten kinds, for twenty seeds', () => {
		const truth: Record<string, string> = { B: 'erosional', F: 'erosional', S: 'intrusive' };
		for (let seed = 1; seed <= 20; seed++) {
			const { units } = proposeColumn(ground(seed));
			expect(
				units
					.map((u) => u.unit)
					.filter((u) => u !== 'S')
					.join(''),
				`seed ${seed}`
			).toBe('ABCDEFGHI');
			const right = units.filter((u) => u.contact === (truth[u.unit] ?? 'conformable')).length;
			expect(right, `seed ${seed}: ${units.map((u) => `${u.unit} ${u.contact}`).join()}`).toBeGreaterThanOrEqual(8);
		}
	});
});
