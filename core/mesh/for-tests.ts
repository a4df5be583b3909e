import { expect } from 'vitest';
import type { LatticeFunction, SolidMesh } from './cut-lattice';
import { openEdges, solidOf, unitsIn, volumeOf, type TriangleMesh } from './extract';
import { nodeCount, nodePositions, type Lattice } from './lattice';

/** A function at all nodes of a lattice. */
export function sampledOn(l: Lattice, surface: number, f: (x: number, y: number, z: number) => number): LatticeFunction {
	const p = nodePositions(
		l,
		Uint32Array.from({ length: nodeCount(l) }, (_, i) => i)
	);
	return { level: 0, surface, values: Float64Array.from({ length: nodeCount(l) }, (_, i) => f(p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!)) };
}

/** Expects closed solids with the volumes that the mesh tells, and that these add up to the whole. */
export function expectClosedSolids(mesh: SolidMesh, whole: number, tolerance = 1e-12): void {
	let sum = 0;
	for (const u of unitsIn(mesh)) {
		const solid = solidOf(mesh, u);
		expect(openEdges(solid)).toBe(0);
		expect(Math.abs(volumeOf(solid) - mesh.volumes.get(u)!)).toBeLessThan(Math.max(1e-6, 1e-9 * whole));
		sum += mesh.volumes.get(u)!;
	}
	expect(Math.abs(sum / whole - 1)).toBeLessThan(tolerance);
}

/** Length of the longest edge, length units. */
export function longestEdge({ positions: p, triangles: t }: TriangleMesh): number {
	let longest = 0;
	for (let i = 0; i < t.length; i++) {
		const [a, b] = [3 * t[i]!, 3 * t[i % 3 === 2 ? i - 2 : i + 1]!];
		longest = Math.max(longest, Math.hypot(p[a]! - p[b]!, p[a + 1]! - p[b + 1]!, p[a + 2]! - p[b + 2]!));
	}
	return longest;
}
