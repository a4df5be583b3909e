import { describe, expect, it } from 'vitest';
import { random } from '../../bench/problems';
import { inBlock } from '../fields/field';
import { faultDistance } from './fault-field';
import { fitFaults } from './faults';
import type { FaultSide, FaultSpec, GroundInput } from './ground';
import { movedAsWhole } from './moved-fault';

const extent = { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 };
const fault: FaultSpec = {
	id: 'f',
	name: 'F',
	trace: [
		[300, 0],
		[300, 1000]
	],
	dip: 40,
	dipAzimuth: 90,
	youngestCut: 'a',
	halfWidth: 2,
	on: true
};
/** Signed distance to a plane with a trace to the north, positive above it. */
const fromPlane = (x: number, z: number, at: number, dip: number) =>
	(x - at) * Math.sin((dip * Math.PI) / 180) + z * Math.cos((dip * Math.PI) / 180);

/** Places within some distance of the true fault, with the side that they lie on. @param off their distance to it */
function places(off: (x: number, y: number, z: number) => number, count = 900, within = 60): FaultSide[] {
	const r = random(5);
	const out: FaultSide[] = [];
	while (out.length < count) {
		const [x, y, z] = [1000 * r(), 1000 * r(), -400 * r()];
		const d = off(x, y, z);
		if (Math.abs(d) < within) out.push({ fault: 'f', x, y, z, sense: d >= 0 ? 1 : -1, hole: `H${out.length}` });
	}
	return out;
}
const ground = (faultSides: FaultSide[], more: Partial<FaultSpec> = {}): GroundInput => ({
	extent,
	terrain: null,
	column: [
		{ id: 'a', name: 'A', color: '#888888', contact: 'conformable' },
		{ id: 'b', name: 'B', color: '#888888', contact: 'conformable' }
	],
	contacts: [],
	observations: [],
	orientations: [],
	faults: [{ ...fault, ...more }],
	faultSides
});
/** How far the fault that is fitted lies off the true one within the extent, at most. */
function farthest(input: GroundInput, truth: (y: number) => { at: number; dip: number }): number {
	const b = inBlock(fitFaults(input)[0]!.field, 0);
	let most = 0;
	for (let y = 0; y <= 1000; y += 100)
		for (let z = 0; z >= -400; z -= 50) {
			const { at, dip } = truth(y);
			const x = at - z / Math.tan((dip * Math.PI) / 180);
			if (x <= 1000) most = Math.max(most, Math.abs(faultDistance(b, x, y, z)));
		}
	return most;
}

describe('a fault that was drawn a little off', () => {
	it.each<[string, (y: number) => { at: number; dip: number }]>([
		['its dip', () => ({ at: 300, dip: 38 })],
		['its trace', () => ({ at: 312, dip: 40 })],
		['its strike', (y) => ({ at: 310 - 0.02 * y, dip: 40 })],
		['its dip and its trace', () => ({ at: 290, dip: 42 })]
	])('lies where it is when what lies on its sides tells it: %s', (_, truth) => {
		const sides = places((x, y, z) => fromPlane(x, z, truth(y).at, truth(y).dip));
		const drawn = farthest(ground([]), truth);
		const moved = farthest(ground(sides), truth);
		expect(drawn).toBeGreaterThan(6);
		expect(moved).toBeLessThan(2.5);
		const b = inBlock(fitFaults(ground(sides))[0]!.field, 0);
		for (const s of sides) expect(s.sense * faultDistance(b, s.x, s.y, s.z)).toBeGreaterThan(-1e-3);
	});
	it('moves in the plainest way that explains it: one that is right stays, and its dip alone changes where that is enough', () => {
		const asIs = places((x, _y, z) => fromPlane(x, z, 300, 40));
		expect(farthest(ground(asIs), () => ({ at: 300, dip: 40 }))).toBeLessThan(1e-3);
		const off = (x: number, z: number) => fromPlane(x, z, 300, 40);
		const onSides = places((x, _y, z) => fromPlane(x, z, 300, 38)).map((s) => ({ ...s, sense: s.sense as 1 | -1, off: off(s.x, s.z) }));
		const moved = movedAsWhole(fault, onSides, 28, 0, { length: 1414, height: 400 });
		expect(moved.trace).toEqual(fault.trace);
		expect(moved.dip).toBeCloseTo(38, 0);
	});
	it('is not bent far by one place that stands alone, nor led astray by a few that are wrong', () => {
		const lone = [...places((x, _y, z) => fromPlane(x, z, 300, 40)), { fault: 'f', x: 400, y: 900, z: -77, sense: -1 as const, hole: 'W' }];
		expect(fromPlane(400, -77, 300, 40)).toBeGreaterThan(4);
		expect(farthest(ground(lone), () => ({ at: 300, dip: 40 }))).toBeLessThan(12);
		const wrong = places((x, _y, z) => fromPlane(x, z, 300, 38)).map((s, i) => ({
			...s,
			sense: (i % 25 === 3 ? -s.sense : s.sense) as 1 | -1,
			off: fromPlane(s.x, s.z, 300, 40)
		}));
		const moved = movedAsWhole(fault, wrong, 28, 0, { length: 1414, height: 400 });
		expect(moved.dip).toBeCloseTo(38, 0);
	});
	it('stays on the places at depth that it is said to pass through', () => {
		const sides = places((x, _y, z) => fromPlane(x, z, 300, 38));
		const at = { x: 300 + 200 / Math.tan((40 * Math.PI) / 180), y: 500, z: -200 };
		const b = inBlock(fitFaults(ground(sides, { places: [at] }))[0]!.field, 0);
		expect(Math.abs(faultDistance(b, at.x, at.y, at.z))).toBeLessThan(0.5);
	});
	it('with more pieces moves with all of them', () => {
		const pieces: [number, number][][] = [
			[
				[300, 600],
				[300, 1000]
			]
		];
		const half: [number, number][] = [
			[300, 0],
			[300, 400]
		];
		const sides = places((x, _y, z) => fromPlane(x, z, 312, 40));
		expect(farthest(ground(sides, { trace: half, pieces }), () => ({ at: 312, dip: 40 }))).toBeLessThan(2.5);
	});
});
