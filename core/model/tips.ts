import { fromMiddle, isInZone } from '../fields/bounded';
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

/**
 * By vertex: 1 near faults that die out, also beyond their tips; null without such faults. Where there is no throw, the last digits of
 * coordinates decide what is beside what, and would decide what is mended.
 */
export function nearDyingFaults({ positions: p }: CutMesh, faults: readonly FittedFault[], distance: number): Uint8Array | null {
	const zones = faults.flatMap((f) => f.zone ?? []);
	if (zones.length === 0) return null;
	const out = new Uint8Array(p.length / 3);
	for (let v = 0; v < out.length; v++)
		for (const z of zones) if (fromMiddle(z, p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!) < distance) out[v] = 1;
	return out;
}
