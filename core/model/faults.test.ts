import { describe, expect, it } from 'vitest';
import { cutDyke, p10, p4, p4Slip } from '../../bench/grounds';
import { random } from '../../bench/problems';
import { sampled } from '../../bench/sampled';
import { isInZone, shapesAt, shapeSlopes, SHAPES } from '../fields/bounded';
import { gradientAt, inBlock, valueAt } from '../fields/field';
import { FAULT } from '../mesh/cut-lattice';
import { surfaceOf } from '../mesh/extract';
import { buildModel } from './build';
import { faultDistance } from './fault-field';
import { blockAt, fitFaults, refuseCircles, validateFault } from './faults';
import { fitGround } from './fit-ground';
import { unitAt } from './walk';

describe('a fault that dies out', () => {
	const input = sampled(p4());
	const ground = fitGround(input);
	const zone = ground.faults[0]!.zone!;

	it('lies where its tips say: its middle on the fault, below the middle of its trace', () => {
		expect(zone.center[0]).toBeCloseTo(1000 + 450 / Math.tan((70 * Math.PI) / 180), 3);
		expect(zone.center[1]).toBeCloseTo(1000, 6);
		expect(zone.center[2]).toBeCloseTo(-450, 6);
		const r = random(2);
		for (let i = 0; i < 500; i++) {
			const p = [2000 * r(), 2000 * r(), -1000 * r()] as const;
			expect(isInZone(zone, ...p)).toBe(p4Slip(...p).slip > 0);
		}
	});
	it('has shapes that are 1 at its middle and nothing outside, with the slopes of their values', () => {
		expect(shapesAt(zone, ...zone.center)).toEqual(Array.from({ length: SHAPES }, () => 1));
		const e = 1e-4;
		for (const p of [
			[1100, 900, -400],
			[1300, 1100, -600]
		] as const) {
			const slopes = shapeSlopes(zone, ...(p as [number, number, number]));
			for (let c = 0; c < 3; c++) {
				const at = (d: number) => shapesAt(zone, p[0] + (c === 0 ? d : 0), p[1] + (c === 1 ? d : 0), p[2] + (c === 2 ? d : 0));
				at(e).forEach((v, k) => expect((v - at(-e)[k]!) / (2 * e)).toBeCloseTo(slopes[k]![c]!, 6));
			}
		}
	});
	it('has a field whose gradient is that of its values on both sides', () => {
		const field = ground.sequences[0]!.innerField!;
		const e = 1e-3;
		for (const block of [0, 1]) {
			const b = inBlock(field, block);
			const p = [1180, 930, -390] as const;
			const g = gradientAt(b, ...p);
			for (let c = 0; c < 3; c++) {
				const at = (d: number) => valueAt(b, p[0] + (c === 0 ? d : 0), p[1] + (c === 1 ? d : 0), p[2] + (c === 2 ? d : 0));
				expect(((at(e) - at(-e)) / (2 * e)) * field.unit).toBeCloseTo(g[c]!, 4);
			}
		}
	});
	it('is drawn within its tip line, to a spacing', async () => {
		const around = { ...zone, axes: zone.axes.map((v) => v / 1.15) };
		const { mesh } = await buildModel(ground, { spacing: 50 });
		const face = surfaceOf(mesh, FAULT);
		let inside = 0;
		for (let t = 0; t < face.triangles.length; t += 3) {
			const at = (c: number) =>
				(face.positions[3 * face.triangles[t]! + c]! +
					face.positions[3 * face.triangles[t + 1]! + c]! +
					face.positions[3 * face.triangles[t + 2]! + c]!) /
				3;
			if (isInZone(around, at(0), at(1), at(2))) inside++;
		}
		expect(inside).toBe(face.triangles.length / 3);
		expect(inside).toBeGreaterThan(300);
	});
	it('without a size is refused', () => {
		const [f] = input.faults;
		expect(() => validateFault({ ...f!, tips: { ...f!.tips!, reach: 0 } }, ['u0'])).toThrow('no size');
	});
});

describe('a fault that is younger than a dyke', () => {
	it('offsets it, and leaves it whole when the dyke is younger', () => {
		const truth = cutDyke();
		const input = sampled(truth);
		const right = (i: typeof input) => {
			const at = unitAt(fitGround(i));
			const r = random(15);
			let [n, good] = [0, 0];
			// Near the dyke only: it is a small part of the box.
			while (n < 4000) {
				const p = [800 + 700 * r(), 100 + 1800 * r(), -600 * r()] as const;
				n++;
				if (at(...p) === truth.unitAt(...p)) good++;
			}
			return good / n;
		};
		expect(right(input)).toBeGreaterThan(0.985);
		// Taken as older than the dyke, the fault can not explain the offset.
		expect(right({ ...input, faults: [{ ...input.faults[0]!, youngestCut: 'host' }] })).toBeLessThan(right(input) - 0.005);
	});
});

describe('a fault that ends on another', () => {
	const input = sampled(p10());
	it('is there only on the side on which it was drawn', () => {
		const faults = fitFaults(input);
		const blocks = faults.map((f) => inBlock(f.field, 0));
		const at = (x: number, y: number, z: number) => blockAt(faults, blocks, () => true, x, y, z);
		// West of the main fault there is no branch; east of it the branch parts north from south.
		expect([at(300, 1900, -100), at(300, 100, -100)]).toEqual([0, 0]);
		expect([at(1700, 1900, -100), at(1700, 100, -100)]).toEqual([3, 1]);
	});
	it('does not depend on which of the two comes first in the list', () => {
		const one = unitAt(fitGround(input));
		const other = unitAt(fitGround({ ...input, faults: [...input.faults].reverse() }));
		const r = random(21);
		let differ = 0;
		for (let i = 0; i < 2000; i++) {
			const p = [2000 * r(), 2000 * r(), -1000 * r()] as const;
			if (one(...p) !== other(...p)) differ++;
		}
		expect(differ).toBeLessThan(5);
	});
	it('goes right through when that fault is off', () => {
		const faults = fitFaults({ ...input, faults: input.faults.map((f) => ({ ...f, on: f.id !== 'main' })) });
		expect(faults.map((f) => [f.id, f.endsOn])).toEqual([['branch', -1]]);
	});
	it('may not end on itself, by way of others either', () => {
		expect(() => refuseCircles([{ id: 'a', name: 'A', endsOn: 'a' }])).toThrow('A ends on itself');
		expect(() =>
			refuseCircles([
				{ id: 'a', name: 'A', endsOn: 'b' },
				{ id: 'b', name: 'B', endsOn: 'c' },
				{ id: 'c', name: 'C', endsOn: 'a' }
			])
		).toThrow('by way of A, B, C');
		expect(() => refuseCircles([{ id: 'a', name: 'A', endsOn: 'gone' }])).not.toThrow();
	});
});

describe('a fault that was seen in pieces', () => {
	const fault = { id: 'f', name: 'F', dip: 60, dipAzimuth: 90, youngestCut: 'a', halfWidth: 5, on: true };
	const input = (more: object) => ({ ...sampled(p10()), faults: [{ ...sampled(p10()).faults[0]!, ...more }] });
	const whole = sampled(p10()).faults[0]!;
	/** A place between two of the trace, by the share of the way. */
	const between = (t: number): [number, number] => {
		const [a, b] = [whole.trace[0]!, whole.trace[whole.trace.length - 1]!];
		return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
	};

	it('runs through all of them, and as straight between as if it were one', () => {
		const straight = fitFaults(input({ trace: [between(0), between(1)] }))[0]!;
		const pieces = fitFaults(input({ trace: [between(0), between(0.3)], pieces: [[between(0.7), between(1)]] }))[0]!;
		for (const t of [0, 0.15, 0.3, 0.5, 0.7, 0.9]) {
			const [x, y] = between(t);
			const z = -120;
			const [a, b] = [straight, pieces].map((f) => faultDistance(inBlock(f.field, 0), x + 40, y, z));
			expect(b).toBeCloseTo(a!, 0);
		}
	});
	it('bends where a piece lies aside', () => {
		const off = (p: [number, number]): [number, number] => [p[0] + 60, p[1]];
		const bent = fitFaults(input({ trace: [between(0), between(0.3)], pieces: [[off(between(0.7)), off(between(1))]] }))[0]!;
		const height = sampled(p10()).terrain;
		const at = (p: [number, number]) => valueAt(inBlock(bent.field, 0), p[0], p[1], height ? 0 : sampled(p10()).extent.maxZ);
		expect(Math.sign(at([between(0.85)[0] + 140, between(0.85)[1]]))).not.toBe(Math.sign(at([between(0.85)[0] - 140, between(0.85)[1]])));
	});
	it('with a piece that is no line is refused, and says which', () => {
		expect(() => validateFault({ ...fault, trace: [[0, 0], [1, 1]], pieces: [[[0, 0], [1, 0]], [[5, 5], [5, 5]]] }, ['a'])).toThrow('piece 2 of'); // prettier-ignore
	});
});

describe('a fault that is only roughly known', () => {
	const spec = {
		id: 'f',
		name: 'F',
		trace: [
			[400, 0],
			[400, 1000]
		] as [number, number][],
		dip: 70,
		dipAzimuth: 90,
		youngestCut: 'a',
		halfWidth: 2,
		on: true
	};
	const input = (more: object) => ({
		extent: { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 },
		column: ['a', 'b'].map((id) => ({ id, name: id, color: '#888888', contact: 'conformable' as const })),
		contacts: [],
		observations: [],
		orientations: [],
		faults: [{ ...spec, ...more }],
		terrain: null
	});
	const curve = (z: number) => 400 - z / Math.tan(((70 + (45 * z) / 400) * Math.PI) / 180);
	it('passes through its places at depth, with its dip there, and says how far it is off them', () => {
		const places = [-100, -200, -300].flatMap((z) => [200, 800].map((y) => ({ x: curve(z), y, z })));
		const [f] = fitFaults(input({ places }));
		const b = inBlock(f!.field, 0);
		for (const p of places) expect(Math.abs(faultDistance(b, p.x, p.y, p.z))).toBeLessThan(0.5);
		// Far from them it still goes along the curve, which the plane of its dip at the surface leaves by 187.
		expect(Math.abs(faultDistance(b, curve(-250), 500, -250))).toBeLessThan(25);
		expect(f!.misfit).toBeLessThan(0.5);
		expect(fitFaults(input({}))[0]!.misfit).toBeNull();
		const [tilted] = fitFaults(input({ places: [{ x: 450, y: 500, z: -200, dip: 85, dipAzimuth: 90 }] }));
		const g = gradientAt(inBlock(tilted!.field, 0), 450, 500, -200);
		expect((Math.atan2(Math.hypot(g[0], g[1]), Math.abs(g[2])) * 180) / Math.PI).toBeGreaterThan(80);
	});
	it.each([
		['straight', (_t: number): [number, number] => [0, 0], 6],
		['bent by a tenth of its length', (t: number): [number, number] => [400 * t * (1 - t), 0], 15],
		['in pieces that are drawn in both senses', (_t: number): [number, number] => [0, 0], 6]
	])('of which places at depth are known at both ends goes on the same way between them: %s', (what, bend, most) => {
		const x = (y: number) => bend(y / 1000)[0];
		const line = (ys: number[]) => ys.map((y): [number, number] => [400 + x(y), y]);
		const trace = what.startsWith('in pieces')
			? { trace: line([0, 400]), pieces: [line([1000, 600])] }
			: { trace: line([0, 200, 400, 600, 800, 1000]) };
		const places = [-80, -160, -240, -320].flatMap((z) => [100, 900].map((y) => ({ x: curve(z) + x(y), y, z })));
		const b = inBlock(fitFaults(input({ ...trace, places }))[0]!.field, 0);
		for (const y of [300, 500, 700])
			for (const z of [-80, -200, -320]) expect(Math.abs(faultDistance(b, curve(z) + x(y), y, z))).toBeLessThan(most);
		// The gradient is that of the values, though lengths along the fault count less.
		const [p, e] = [[430, 480, -150] as const, 1e-3];
		const g = gradientAt(b, ...p);
		for (let c = 0; c < 3; c++) {
			const at = (d: number) => valueAt(b, p[0] + (c === 0 ? d : 0), p[1] + (c === 1 ? d : 0), p[2] + (c === 2 ? d : 0));
			expect(((at(e) - at(-e)) / (2 * e)) * b.field.unit).toBeCloseTo(g[c]!, 4);
		}
	});
	it('that runs in a ring has no one strike, and is fitted all the same', () => {
		const trace = Array.from({ length: 13 }, (_, i): [number, number] => {
			const a = (i * Math.PI) / 6;
			return [500 + 300 * Math.cos(a), 500 + 300 * Math.sin(a)];
		});
		const places = [{ x: 800, y: 500, z: -200 }];
		const b = inBlock(fitFaults(input({ trace, dip: 89, places }))[0]!.field, 0);
		expect(faultDistance(b, 800, 500, -200)).toBeCloseTo(0, 3);
	});
	it('moves to the side that what lies there says', () => {
		const side = { fault: 'f', x: 480, y: 500, z: -200, hole: 'H' };
		const off = (faultSides: object[]) =>
			faultDistance(inBlock(fitFaults({ ...input({}), faultSides: faultSides as never })[0]!.field, 0), 480, 500, -200);
		expect(off([])).toBeGreaterThan(0);
		expect(off([{ ...side, sense: -1 }])).toBeLessThan(1e-6);
		expect(off([{ ...side, sense: 1 }])).toBe(off([]));
	});
	it('may be off by what is stated, or by a fiftieth of the extent, and is never nearer known than its zone is wide', () => {
		const reach = (more: object) => fitFaults(input(more))[0]!.reach;
		expect([reach({ uncertainty: 7 }), reach({ uncertainty: 0 }), reach({})]).toEqual([7, 2, 0.02 * Math.hypot(1000, 1000)]);
	});
	it.each([
		[{ places: [{ x: NaN, y: 0, z: 0 }] }, 'fault-place'],
		[{ places: [{ x: 1, y: 0, z: 0, dip: 120 }] }, 'fault-place'],
		[{ uncertainty: -1 }, 'fault-uncertainty']
	])('%j is refused', (more, kind) => {
		expect(() => validateFault({ ...spec, ...more }, ['a'])).toThrowError(
			expect.objectContaining({ problem: expect.objectContaining({ kind }) })
		);
	});
});
