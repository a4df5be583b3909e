import { describe, expect, it } from 'vitest';
import type { Feature } from 'geojson';
import type { Pack } from '../formats/pack';
import { pathThrough } from '../holes/path';
import { cutLattice } from '../mesh/cut-lattice';
import { solidOf } from '../mesh/extract';
import { sampledOn } from '../mesh/for-tests';
import { latticeOf } from '../mesh/lattice';
import type { Table } from '../tables/table';
import { Log } from './relog';
import { bodyOf, rowsWithin } from './within-body';

const ring = [
	[100, 100],
	[200, 100],
	[200, 200],
	[100, 200],
	[100, 100]
];
const faces = (...coordinates: number[][][]): Pack => ({
	info: { features: [{ type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates } } as Feature] },
	arrays: {}
});

/** A ball of radius 40 about (150, 150, −50), as a unit of a model, or alone. */
async function ball(): Promise<Pack> {
	const l = latticeOf({ minX: 50, minY: 50, minZ: -150, maxX: 250, maxY: 250, maxZ: 50 }, 10);
	const mesh = await cutLattice(
		l,
		{ function: 0, above: { leaf: 0, label: 0 }, below: { leaf: 1, label: 1 } },
		[sampledOn(l, 1, (x, y, z) => 40 - Math.hypot(x - 150, y - 150, z + 50))],
		1e-6
	);
	return { info: {}, arrays: mesh as unknown as Pack['arrays'] };
}

describe('a body', () => {
	it('is what lies under faces on the map, without their holes', () => {
		const inner = ring.map(([x, y]) => [150 + (x! - 150) * 0.5, 150 + (y! - 150) * 0.5]);
		const body = bodyOf('Field', 'faces', faces(ring, inner));
		expect([body(110, 110, -999), body(150, 150, 0), body(90, 150, 0)]).toEqual([true, false, false]);
		const closed = {
			info: { features: [{ type: 'Feature', properties: {}, geometry: { type: 'LineString', coordinates: ring } }] },
			arrays: {}
		};
		expect(bodyOf('Rim', 'lines', closed)(150, 150, 5)).toBe(true);
		expect(() => bodyOf('Nothing', 'lines', { info: { features: [] }, arrays: {} })).toThrow('holds no face');
	});

	it('is the inside of a closed surface, or a unit of a model; an open one is refused', async () => {
		const pack = await ball();
		const alone = solidOf(pack.arrays as never, 0);
		for (const body of [
			bodyOf('Model', 'solids', pack, 0),
			bodyOf('Ball', 'surface', { info: {}, arrays: { positions: alone.positions, triangles: alone.triangles } })
		])
			expect([body(150, 150, -50), body(150, 185, -50), body(150, 195, -50), body(150, 150, 20)]).toEqual([true, true, false, false]);
		expect(bodyOf('Model', 'solids', pack, 1)(150, 195, -50)).toBe(true);
		const open = { info: {}, arrays: { positions: alone.positions, triangles: alone.triangles.slice(3) } };
		expect(() => bodyOf('Torn', 'surface', open)).toThrow('is not closed');
	});

	it('picks intervals by their middle, also in slanted holes; holes without a place have none', async () => {
		const text = { hole: ['A', 'A', 'A', 'B', 'LOST'], code: ['S', 'S', 'S', 'S', 'S'] };
		const table = {
			name: 'log',
			kind: 'intervals',
			rowCount: 5,
			text,
			numbers: { from: Float64Array.of(0, 20, 95, 60, 0), to: Float64Array.of(20, 80, 140, 130, 9) },
			headers: {}
		} as unknown as Table;
		const log = new Log(table, new Uint8Array(5));
		const paths = new Map([
			['A', pathThrough([150, 150, 0], 200, [{ at: [150, 150, -200] }])],
			['B', pathThrough([50, 150, 0], Math.hypot(100, 100), [{ at: [150, 150, -100] }])]
		]);
		const seen: [number, number, number][] = [];
		const body = (x: number, y: number, z: number) => {
			seen.push([x, y, z]);
			return Math.hypot(x - 150, y - 150, z + 50) < 40;
		};
		const rows = rowsWithin(log, paths, body);
		expect(rows).toEqual([1, 3]);
		expect(seen).toHaveLength(4);
	});
});
