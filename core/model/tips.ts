import { isInZone } from '../fields/bounded';
import { FAULT, withTriangles, type CutMesh } from '../mesh/cut-lattice';
import type { FittedFault } from './faults';

/**
 * A fault that dies out parts the lattice beyond its tips, too. There nothing differs across it: it is not drawn, and what was cut
 * from either side meets at the same vertices, which are made one.
 */
export function tidyBeyondTips(mesh: CutMesh, faults: readonly FittedFault[], spacing: number): CutMesh {
	if (!faults.some((f) => f.zone)) return mesh;
	const { positions: p, front, back, surface } = mesh;
	const zoneOf = (t: number) => (surface[t]! >= FAULT ? faults[surface[t]! - FAULT]?.zone : null);
	const one = new Uint32Array(p.length / 3).map((_, v) => v);
	const known = new Map<string, number>();
	for (let t = 0; t < front.length; t++) {
		if (!zoneOf(t)) continue;
		for (const v of mesh.triangles.subarray(3 * t, 3 * t + 3)) {
			const key = [0, 1, 2].map((c) => Math.round((p[3 * v + c]! - p[c]!) / (1e-5 * spacing))).join();
			const first = known.get(key);
			if (first === undefined) known.set(key, v);
			else one[v] = first;
		}
	}
	const triangles = mesh.triangles.map((v) => one[v]!);
	const kept: number[] = [];
	for (let t = 0; t < front.length; t++) {
		const [a, b, c] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
		if (a === b || b === c || a === c) continue;
		const zone = front[t] === back[t] ? zoneOf(t) : null;
		const at = (k: number) => (p[3 * a + k]! + p[3 * b + k]! + p[3 * c + k]!) / 3;
		if (!zone || isInZone(zone, at(0), at(1), at(2))) kept.push(t);
	}
	return withTriangles({ ...mesh, triangles }, kept);
}
