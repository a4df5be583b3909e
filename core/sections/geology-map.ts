import { isGroundTop } from '../mesh/extract';
import type { SolidMesh } from '../mesh/cut-lattice';

/** Where each unit meets the surface: closed rings on the map, flat xy, first point repeated at the end. */
export type GeologyRings = Map<number, Float64Array[]>;

/**
 * The geology at the ground's upper face, as outlines: edges between two triangles of one unit cancel, what is left closes to
 * rings. Outer rings run anticlockwise, holes clockwise.
 */
export function geologyAtSurface(mesh: SolidMesh, hasTerrain: boolean): GeologyRings {
	const n = mesh.positions.length / 3;
	const edges = new Map<number, Map<number, number>>();
	for (let t = 0; t < mesh.back.length; t++) {
		if (!isGroundTop(mesh, t, hasTerrain)) continue;
		const unit = mesh.back[t]!;
		// Beyond the limits of the model nothing is known.
		if (unit < 0) continue;
		let own = edges.get(unit);
		if (!own) edges.set(unit, (own = new Map()));
		for (let e = 0; e < 3; e++) {
			const a = mesh.triangles[3 * t + e]!;
			const b = mesh.triangles[3 * t + ((e + 1) % 3)]!;
			if (!own.delete(b * n + a)) own.set(a * n + b, 1);
		}
	}
	const result: GeologyRings = new Map();
	for (const [unit, own] of [...edges].sort((a, b) => a[0] - b[0])) {
		const leaving = new Map<number, number[]>();
		for (const key of own.keys()) {
			const a = Math.floor(key / n);
			const list = leaving.get(a);
			if (list) list.push(key % n);
			else leaving.set(a, [key % n]);
		}
		const rings: Float64Array[] = [];
		for (const [start, list] of leaving)
			while (list.length) {
				const ring: number[] = [];
				let at = start;
				do {
					ring.push(mesh.positions[3 * at]!, mesh.positions[3 * at + 1]!);
					at = leaving.get(at)!.pop()!;
				} while (at !== start);
				ring.push(ring[0]!, ring[1]!);
				rings.push(Float64Array.from(ring));
			}
		result.set(unit, rings);
	}
	return result;
}

/** Signed area of a closed ring, positive anticlockwise. */
export function ringArea(ring: ArrayLike<number>): number {
	let sum = 0;
	const [ox, oy] = [ring[0]!, ring[1]!];
	for (let i = 0; i + 3 < ring.length; i += 2) sum += (ring[i]! - ox) * (ring[i + 3]! - oy) - (ring[i + 2]! - ox) * (ring[i + 1]! - oy);
	return sum / 2;
}

function contains(ring: ArrayLike<number>, x: number, y: number): boolean {
	let inside = false;
	for (let i = 0; i + 3 < ring.length; i += 2) {
		const [ax, ay, bx, by] = [ring[i]!, ring[i + 1]!, ring[i + 2]!, ring[i + 3]!];
		if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
	}
	return inside;
}

/** Puts holes into the outer rings that hold them: polygons as GeoJSON wants them. */
export function polygonsOf(rings: readonly Float64Array[]): Float64Array[][] {
	const outer = rings.filter((r) => ringArea(r) > 0).map((r) => ({ ring: r, area: ringArea(r), polygon: [r] }));
	outer.sort((a, b) => a.area - b.area);
	for (const hole of rings) {
		if (ringArea(hole) >= 0) continue;
		// A point just off the middle of the hole's first edge, on the unit's side (the left of a clockwise hole is outside of it).
		const [ax, ay, bx, by] = [hole[0]!, hole[1]!, hole[2]!, hole[3]!];
		const x = (ax + bx) / 2 - (by - ay) * 1e-6;
		const y = (ay + by) / 2 + (bx - ax) * 1e-6;
		outer.find((o) => o.area > -ringArea(hole) && contains(o.ring, x, y))?.polygon.push(hole);
	}
	return outer.map((o) => o.polygon);
}

/** Units with their polygons of the faces that geology at the surface is stored as: outer rings with their holes, flat xy. */
export const polygonsOfFaces = (faces: unknown): { unit: string; polygons: number[][][] }[] =>
	(faces as { properties: { unit: string }; geometry: { coordinates: number[][][][] } }[]).map((f) => ({
		unit: f.properties.unit,
		polygons: f.geometry.coordinates.map((p) => p.map((ring) => ring.flat()))
	}));
