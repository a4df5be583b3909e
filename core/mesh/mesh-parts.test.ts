import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ContactPoint } from '../units/contacts';
import type { SolidMesh } from './cut-lattice';
import { openEdges, volumeOf } from './extract';
import { KeyTable } from './key-table';
import { misfits, misfitSummary } from './misfit';
import { random } from '../../bench/problems';
import { NearestTriangle } from './nearest-triangle';
import { Rows } from './rows';
import { triangulateLoop } from './triangulate';

describe('the key table', () => {
	it('answers like a map, for keys up to 2⁵² and while it grows', () => {
		fc.assert(
			fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 2 ** 52 }), { maxLength: 500 }), (keys) => {
				const table = new KeyTable();
				keys.forEach((k, i) => table.add(k, i));
				keys.forEach((k, i) => expect(table.get(k)).toBe(i));
				expect(table.get(2 ** 52 + 1)).toBe(-1);
			})
		);
		const table = new KeyTable();
		for (let i = 0; i < 100_000; i++) table.add(i * 1048576, i);
		for (let i = 0; i < 100_000; i += 97) expect(table.get(i * 1048576)).toBe(i);
	});
});

it('rows keep what was put into them while they grow', () => {
	fc.assert(
		fc.property(fc.array(fc.tuple(fc.nat(99), fc.nat(40), fc.nat()), { maxLength: 300 }), (puts) => {
			const rows = new Rows(2);
			const lists: number[][] = [];
			for (const [to, at, value] of puts) {
				const row = to % (lists.length + 1);
				if (row === lists.length) expect(rows.add()).toBe(lists.push([]) - 1);
				const place = at % (lists[row]!.length + 1);
				rows.insert(row, place, value);
				lists[row]!.splice(place, 0, value);
			}
			if (lists.length) {
				lists[0] = Array.from({ length: 70 }, (_, i) => i);
				rows.replace(
					0,
					Int32Array.from({ length: 90 }, (_, i) => i),
					70
				);
			}
			expect(lists.map((_, r) => [...rows.data.subarray(r * rows.stride, r * rows.stride + rows.lengths[r]!)])).toEqual(lists);
		})
	);
});

describe('triangles of a loop', () => {
	const area = (xyz: number[], t: number[]) => {
		const at = (v: number) => [xyz[3 * v]!, xyz[3 * v + 1]!] as const;
		const [[ax, ay], [bx, by], [cx, cy]] = [at(t[0]!), at(t[1]!), at(t[2]!)];
		return ((bx - ax) * (cy - ay) - (cx - ax) * (by - ay)) / 2;
	};

	const trianglesOf = (xyz: number[], loop: number[]): number[] => {
		const out = new Rows();
		out.add();
		triangulateLoop(xyz, [7, 7, ...loop], 2, loop.length, out);
		return [...out.data.subarray(out.stride, out.stride + out.lengths[1]!)];
	};

	it('cover a square with vertices in the middle of its sides, none of them flat', () => {
		const xyz = [0, 0, 0, 1, 0, 0, 2, 0, 0, 2, 1, 0, 2, 2, 0, 1, 2, 0, 0, 2, 0, 0, 1, 0];
		const t = trianglesOf(xyz, [0, 1, 2, 3, 4, 5, 6, 7]);
		expect(t).toHaveLength(18);
		let sum = 0;
		for (let i = 0; i < t.length; i += 3) {
			const a = area(xyz, t.slice(i, i + 3));
			expect(a).toBeGreaterThan(0.1);
			sum += a;
		}
		expect(sum).toBeCloseTo(4, 12);
	});

	it('choose the better diagonal of a kite', () => {
		expect(trianglesOf([0, 0, 0, 5, -1, 0, 10, 0, 0, 5, 1, 0], [0, 1, 2, 3])).toEqual([0, 1, 3, 1, 2, 3]);
	});
});

describe('misfits', () => {
	it('measure from corners, edges and the inside of a triangle', () => {
		const far = [400000, 4990000, 0] as const;
		for (const [x0, y0] of [[0, 0], far]) {
			const near = new NearestTriangle({
				positions: Float64Array.from([x0!, y0!, 0, x0! + 4, y0!, 0, x0!, y0! + 3, 0]),
				triangles: Uint32Array.from([0, 1, 2])
			});
			for (const [x, y, z, want] of [
				[1, 1, 2, 2],
				[-3, -4, 0, 5],
				[2, -1, 0, 1],
				[7, 0, 4, 5]
			] as const)
				expect(near.distance(x0! + x, y0! + y, z)).toBeCloseTo(want, 9);
			expect(near.nearest(x0! + 7, y0!, 4, 3)).toEqual({ distance: 3, corner: -1 });
		}
		expect(new NearestTriangle({ positions: new Float64Array(0), triangles: new Uint32Array(0) }).distance(1, 2, 3)).toBe(Infinity);
	});

	it('find the triangle that is nearest among many, as asking each would', () => {
		const r = random(7);
		const positions = Float64Array.from({ length: 900 }, () => 100 * r());
		const triangles = Uint32Array.from({ length: 600 }, () => Math.floor(300 * r()));
		const near = new NearestTriangle({ positions, triangles });
		const alone = Array.from({ length: 200 }, (_, t) => new NearestTriangle({ positions, triangles: triangles.slice(3 * t, 3 * t + 3) }));
		for (let i = 0; i < 100; i++) {
			const p = [100 * r(), 100 * r(), 100 * r()] as const;
			const all = alone.map((a) => a.distance(...p));
			const { distance, corner } = near.nearest(...p);
			expect(distance).toBeCloseTo(Math.min(...all), 6);
			expect(all[corner / 3]).toBeCloseTo(distance, 6);
		}
	});

	it('are null where the model has no such surface', () => {
		const mesh: SolidMesh = {
			positions: new Float64Array([0, 0, 5, 9, 0, 5, 0, 9, 5]),
			triangles: new Uint32Array([0, 1, 2]),
			front: Int16Array.of(0),
			back: Int16Array.of(1),
			surface: Int16Array.of(0),
			volumes: new Map()
		};
		const at = (surface: number, z: number): ContactPoint => ({ surface, x: 2, y: 2, z, hole: 'H', depth: 0, table: 't', row: 0 });
		const list = misfits(mesh, [at(0, 8), at(1, 5)]);
		expect(list.map((m) => m.distance)).toEqual([3, null]);
		expect(misfitSummary(list)).toEqual({ count: 1, rms: 3, max: 3 });
	});
});

it('a tetrahedron is closed and has its volume; without a face it is open', () => {
	const positions = new Float64Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]);
	const closed = { positions, triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]) };
	expect(openEdges(closed)).toBe(0);
	expect(volumeOf(closed)).toBeCloseTo(1 / 6, 12);
	expect(openEdges({ positions, triangles: closed.triangles.slice(0, 9) })).toBe(3);
});
