import { describe, expect, it } from 'vitest';
import { sidesOf, type Evidence } from './fault-sides';

// Layers with x as their field; a fault at x = 0, known to 20 m, with 50 m of throw: beyond it evidence is off by 50 m more, or less.
const near = (p: { x: number }) => (Math.abs(p.x) <= 20 ? [{ fault: 0, off: Math.abs(p.x) }] : []);
const isOdd = (by: number) => Math.abs(by) > 5;
/** @param off how far it is off where it was taken to lie, and on the other side */
const seen = (hole: string, x: number, y: number, off: [number, number], group = 0): Evidence & { by: [number, number] } => ({
	x,
	y,
	z: 0,
	block: x >= 0 ? 1 : 0,
	group,
	hole,
	isOut: isOdd(off[0]),
	isOdd,
	by: off
});
const sides = (...evidence: (Evidence & { by: [number, number] })[]) =>
	sidesOf(
		evidence,
		near,
		(e) => {
			const own = evidence.find((o) => o.x === e.x && o.y === e.y && o.hole === e.hole && o.group === e.group)!;
			return own.by[e.block === own.block ? 0 : 1];
		},
		100
	).map((s) => [s.hole, s.x, s.sense]);

const BEYOND: [number, number] = [50, 0];
const HERE: [number, number] = [0, 50];
const NEITHER: [number, number] = [30, 80];
const BOTH: [number, number] = [1, 2];

describe('the side of a fault that evidence lies on', () => {
	it('is the other one where it fits there only, whichever side it was drawn on', () => {
		expect(sides(seen('A', 8, 0, BEYOND), seen('B', -8, 300, BEYOND), seen('C', 12, 600, HERE))).toEqual([
			['A', 8, -1],
			['B', -8, 1]
		]);
	});
	it('is told by nothing that fits on neither side, or on both', () => {
		expect(sides(seen('A', 8, 0, NEITHER), seen('B', 9, 300, BOTH), seen('C', 10, 600, HERE))).toEqual([
			['A', 8, 0],
			['B', 9, 0]
		]);
	});
	it('of one place is told by all that was seen there', () => {
		expect(sides(seen('A', 8, 0, BEYOND), seen('A', 8, 0, BOTH, 1))).toEqual([['A', 8, -1]]);
		expect(sides(seen('A', 8, 0, BOTH), seen('A', 8, 0, HERE, 1))).toEqual([]);
		expect(sides(seen('A', 8, 0, HERE), seen('A', 8, 0, NEITHER, 1))).toEqual([['A', 8, 0]]);
	});
	it('is its own where the same hole fits there, nearer to the fault', () => {
		expect(sides(seen('A', 15, 0, BEYOND), seen('A', 6, 0, HERE))).toEqual([['A', 15, 0]]);
		// Farther from it, or beyond it, it says nothing against.
		expect(sides(seen('A', 6, 0, BEYOND), seen('A', 15, 0, HERE), seen('A', -6, 0, HERE))).toEqual([['A', 6, -1]]);
	});
	it('is its own where more holes around it say that the fault does not pass there than that it does', () => {
		const claim = seen('A', 15, 0, BEYOND);
		const against = seen('B', 5, 60, HERE);
		expect(sides(claim, against)).toEqual([['A', 15, 0]]);
		expect(sides(claim, against, seen('C', 14, -60, BEYOND))).toContainEqual(['A', 15, -1]);
		// Not much nearer to it, or far from here, it says nothing against.
		expect(sides(claim, seen('B', 9, 60, HERE))).toEqual([['A', 15, -1]]);
		expect(sides(claim, seen('B', 5, 160, HERE))).toEqual([['A', 15, -1]]);
	});
	it('is not asked far from all faults', () => {
		expect(sides(seen('A', 30, 0, BEYOND))).toEqual([]);
	});
});
