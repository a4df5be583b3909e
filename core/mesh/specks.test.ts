import { expect, it } from 'vitest';
import { cutLattice, type CutMesh, type SolidMesh } from './cut-lattice';
import { openEdges, partsOf, solidOf } from './extract';
import { latticeOf, nodeCount, nodePositions } from './lattice';
import { dropSpecks } from './specks';

const lattice = latticeOf({ minX: 0, minY: 0, minZ: 0, maxX: 40, maxY: 40, maxZ: 40 }, 2);
/** A ground (unit 1) with three balls of unit 0 in it. */
const balls: CutMesh = await (async () => {
	const xyz = nodePositions(
		lattice,
		Uint32Array.from({ length: nodeCount(lattice) }, (_, i) => i)
	);
	const inside = (x: number, y: number, z: number) =>
		Math.max(
			...[
				[12, 12, 12, 8],
				[30, 30, 30, 5],
				[31, 9, 20, 3]
			].map(([a, b, c, r]) => r! - Math.hypot(x - a!, y - b!, z - c!))
		);
	const values = Float64Array.from({ length: nodeCount(lattice) }, (_, i) => inside(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!));
	return cutLattice(
		lattice,
		{ function: 0, above: { leaf: 0, label: 0 }, below: { leaf: 1, label: 1 } },
		[{ values, level: 0, surface: 0 }],
		1e-6
	);
})();
const total = (m: SolidMesh) => [...m.volumes.values()].reduce((a, b) => a + b, 0);

it('loose parts below a volume become part of what is around them, and volumes still add up', () => {
	const parts = partsOf(solidOf(balls, 0));
	expect(parts).toHaveLength(3);
	const least = (parts[1]! + parts[2]!) / 2;
	const { mesh, dropped, volume } = dropSpecks(balls, least);
	expect([dropped, partsOf(solidOf(mesh, 0)).length]).toEqual([1, 2]);
	expect(volume).toBeCloseTo(parts[2]!, 6);
	expect(mesh.volumes.get(0)! + volume).toBeCloseTo(balls.volumes.get(0)!, 6);
	expect(total(mesh)).toBeCloseTo(64_000, 6);
	for (const unit of [0, 1]) expect(openEdges(solidOf(mesh, unit))).toBe(0);
	expect(mesh.front.length).toBeLessThan(balls.front.length);
});
it('keeps all when nothing is asked, and can drop a unit whole', () => {
	expect(dropSpecks(balls, 0)).toEqual({ mesh: balls, dropped: 0, volume: 0 });
	const { mesh, dropped } = dropSpecks(balls, 1e4);
	expect(dropped).toBe(3);
	expect(mesh.volumes.get(1)).toBeCloseTo(64_000, 6);
	expect(solidOf(mesh, 0).triangles).toHaveLength(0);
});
