import { describe, expect, it } from 'vitest';
import type { Hole } from '../holes/holes';
import { holePath } from '../holes/path';
import { random as seededRandom } from '../../bench/problems';
import type { Unit } from '../units/column';
import { contactsOf } from '../units/contacts';
import { fitGround, type Ground } from './fit-ground';
import { unitAt } from './walk';

/** A folded ground of six conformable units with an exact answer, drilled on a grid, and its logs damaged. */
const COLUMN: Unit[] = ['a', 'b', 'c', 'd', 'e', 'f'].map((id) => ({
	id,
	name: id.toUpperCase(),
	color: '#888888',
	contact: 'conformable'
}));
const LUMPING = Object.fromEntries(COLUMN.map((u) => [u.id, u.id]));
const EXTENT = { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 };
const fold = (x: number, y: number) => 30 * Math.sin(x / 220) + 20 * Math.cos(y / 310) + 0.05 * x;
/** Elevations of the bases of all units but the last, at a place. */
const bases = (x: number, y: number) => [-60, -110, -160, -210, -260].map((z) => z + fold(x, y) - 40);
const truth = (x: number, y: number, z: number) => {
	const k = bases(x, y).findIndex((b) => z > b);
	return k < 0 ? 5 : k;
};

interface Run {
	from: number;
	to: number;
	code: string;
}
function logs(): { x: number; y: number; runs: Run[] }[] {
	const r = seededRandom(4);
	return Array.from({ length: 72 }, (_, i) => {
		const [x, y] = [60 + 110 * (i % 9) + 20 * r(), 60 + 125 * Math.floor(i / 9) + 20 * r()];
		const ends = [...bases(x, y).map((z) => -z), 390];
		return {
			x,
			y,
			runs: COLUMN.flatMap((u, k) => (ends[k]! > 0 ? [{ from: k === 0 ? 0 : Math.max(0, ends[k - 1]!), to: ends[k]!, code: u.id }] : []))
		};
	});
}
function groundOfLogs(
	list: ReturnType<typeof logs>,
	column = COLUMN,
	lumping: Record<string, string> = LUMPING
): { ground: Ground; findings: ReturnType<typeof contactsOf>['findings'] } {
	const holes = list.map(({ x, y, runs }, i): Hole => ({
		name: `H${i}`,
		row: i,
		path: holePath([x, y, 0], 390, []),
		intervals: runs.map((r, row) => ({ ...r, table: 'log', row: 100 * i + row }))
	}));
	const found = contactsOf(holes, lumping, column);
	return {
		ground: fitGround({
			extent: EXTENT,
			column,
			contacts: found.points,
			observations: found.observations,
			orientations: [],
			faults: [],
			terrain: null
		}),
		findings: found.findings
	};
}
/** Share of places more than 8 from any boundary that are right, where `counts` says so. */
function share(ground: Ground, counts: (x: number, y: number) => boolean = () => true): number {
	const at = unitAt(ground);
	const r = seededRandom(9);
	let [right, all] = [0, 0];
	for (let i = 0; i < 4000; i++) {
		const [x, y, z] = [40 + 920 * r(), 40 + 920 * r(), -390 * r()];
		if (!counts(x, y) || bases(x, y).some((b) => Math.abs(b - z) < 8)) continue;
		all++;
		if (ground.input.column[at(x, y, z)]!.id === COLUMN[truth(x, y, z)]!.id) right++;
	}
	return right / all;
}

describe('logs with a slip in them', () => {
	it('none: all is right, and nobody is accused', () => {
		const { ground, findings } = groundOfLogs(logs());
		expect(share(ground)).toBeGreaterThan(0.99);
		expect(findings).toEqual([]);
	});
	it('a hole that skips a unit ruins nothing, and is named', () => {
		const list = logs();
		// D is logged as E.
		const hole = list[40]!;
		hole.runs = hole.runs.filter((r) => r.code !== 'd').map((r) => (r.code === 'e' ? { ...r, from: r.from - 50 } : r));
		const { ground, findings } = groundOfLogs(list);
		expect(share(ground)).toBeGreaterThan(0.985);
		expect(share(ground, (x, y) => Math.hypot(x - hole.x, y - hole.y) > 250)).toBeGreaterThan(0.99);
		expect(findings.map((f) => f.hole)).toContain('H40');
	});
	it.each([2, 13, 37, 55])('one wrong code (hole %s) ruins nothing, and is named', (h) => {
		const r = seededRandom(h);
		const list = logs();
		const { runs } = list[h]!;
		const k = 1 + Math.floor(r() * (runs.length - 2));
		const others = COLUMN.map((u) => u.id).filter((id) => id !== runs[k]!.code);
		runs[k] = { ...runs[k]!, code: others[Math.floor(r() * others.length)]! };
		const { ground, findings } = groundOfLogs(list);
		expect(share(ground)).toBeGreaterThan(0.985);
		expect(findings.map((f) => f.hole)).toContain(`H${h}`);
	});
	it('one row in twenty with a wrong code leaves the shape of the ground', () => {
		for (const seed of [1, 2, 3]) {
			const r = seededRandom(seed);
			const list = logs();
			for (const { runs } of list) runs.forEach((run, k) => r() < 0.05 && (runs[k] = { ...run, code: COLUMN[Math.floor(r() * 6)]!.id }));
			const { ground } = groundOfLogs(list);
			expect(share(ground)).toBeGreaterThan(0.95);
		}
	});
	it('a code without a unit between two others takes nothing of what lies below it', () => {
		const list = logs();
		const { ground, findings } = groundOfLogs(list, COLUMN, { ...LUMPING, c: '' });
		expect(findings.some((f) => f.rule === 'code-without-unit')).toBe(true);
		const at = unitAt(ground);
		for (const z of [-340, -380]) expect(at(500, 500, z)).toBe(truth(500, 500, z));
		expect(ground.findings.map((f) => f.kind)).toContain('base-not-reached');
		const volume = (u: number) =>
			[...Array(4000).keys()].filter((i) => at(500 + (i % 20) * 20, 500 + (((i / 20) % 20) | 0) * 20, -390 * ((i * 0.618) % 1)) === u)
				.length;
		for (const u of [0, 1, 3, 4, 5]) expect([u, volume(u) > 100]).toEqual([u, true]);
	});
});
