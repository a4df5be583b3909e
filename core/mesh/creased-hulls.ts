import { FAULT, LIMIT, SIDE, TERRAIN, type SolidMesh } from './cut-lattice';

/** The skin of a unit or a face of a fault, with vertices of its own: one for each surface that meets at a vertex of the model. */
export interface CreasedHull {
	/** Vertex of the model that each own vertex stands on. */
	vertex: Uint32Array;
	/** Own vertices, three a triangle, wound so that normals point out of the unit: first those with none of the model on their other side. */
	triangles: Uint32Array;
	/** How many of `triangles` are those of the outside. */
	outside: number;
	/** Unit normals, three a vertex: even within one surface, with a crease where two meet. */
	normals: Float32Array;
}

/**
 * Skins with smooth surfaces and crisp edges: normals are means over the triangles of one surface, weighted by their areas (Gouraud
 * shading, 1971), never across the line where two surfaces meet.
 * @param positions 3 a vertex, in any units that are the same both ways
 * @param surfacesOnly leaves sides of the box, terrain and limits out
 * @returns by `u` and number of the unit, `f` and number of the fault
 */
export function creasedHulls(mesh: SolidMesh, positions: ArrayLike<number>, surfacesOnly = false): Map<string, CreasedHull> {
	const { front, back, surface, triangles } = mesh;
	// Triangles of each hull, by surface: the number of the triangle, negative when it is wound the other way round.
	const lists = new Map<string, Map<number, number[]>>();
	const take = (key: string, t: number, turned: boolean) => {
		let bySurface = lists.get(key);
		if (!bySurface) lists.set(key, (bySurface = new Map<number, number[]>()));
		// The two sides of one surface are two surfaces to the light.
		const code = 2 * surface[t]! + (turned ? 1 : 0);
		const list = bySurface.get(code);
		if (list) list.push(turned ? -1 - t : t);
		else bySurface.set(code, [turned ? -1 - t : t]);
	};
	for (let t = 0; t < front.length; t++) {
		const s = surface[t]!;
		if (surfacesOnly && (s >= SIDE || s === TERRAIN || s === LIMIT)) continue;
		if (front[t] !== back[t]) {
			if (back[t]! >= 0) take(`u${back[t]}`, t, false);
			if (front[t]! >= 0) take(`u${front[t]}`, t, true);
		}
		if (s >= FAULT && s < SIDE) take(`f${s - FAULT}`, t, false);
	}
	const isOutside = (n: number) => front[n < 0 ? -1 - n : n]! < 0 || back[n < 0 ? -1 - n : n]! < 0;
	const own = new Uint32Array(positions.length / 3);
	const stamp = new Uint32Array(positions.length / 3);
	let round = 0;
	const out = new Map<string, CreasedHull>();
	for (const [key, bySurface] of lists) {
		let [count, outside] = [0, 0];
		for (const l of bySurface.values())
			for (const n of l) {
				count++;
				if (isOutside(n)) outside += 3;
			}
		const corners = new Uint32Array(3 * count);
		const vertex: number[] = [];
		const at = { outside: 0, inside: outside };
		for (const list of bySurface.values()) {
			round++;
			for (const n of list) {
				const t = n < 0 ? -1 - n : n;
				const side = isOutside(n) ? 'outside' : 'inside';
				for (let c = 0; c < 3; c++) {
					const v = triangles[3 * t + (n < 0 ? 2 - c : c)]!;
					if (stamp[v] !== round) {
						stamp[v] = round;
						own[v] = vertex.length;
						vertex.push(v);
					}
					corners[at[side]++] = own[v]!;
				}
			}
		}
		const of = Uint32Array.from(vertex);
		out.set(key, { vertex: of, triangles: corners, outside, normals: meanNormals(corners, of, positions) });
	}
	return out;
}

/** Normals of vertices as the sum of those of their triangles, each as long as twice its area. */
function meanNormals(corners: Uint32Array, vertex: Uint32Array, p: ArrayLike<number>): Float32Array {
	const normals = new Float32Array(3 * vertex.length);
	for (let k = 0; k < corners.length; k += 3) {
		const [a, b, c] = [3 * vertex[corners[k]!]!, 3 * vertex[corners[k + 1]!]!, 3 * vertex[corners[k + 2]!]!];
		const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
		const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
		const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
		for (let i = 0; i < 3; i++) {
			const o = 3 * corners[k + i]!;
			normals[o]! += nx;
			normals[o + 1]! += ny;
			normals[o + 2]! += nz;
		}
	}
	for (let o = 0; o < normals.length; o += 3) {
		const long = Math.hypot(normals[o]!, normals[o + 1]!, normals[o + 2]!);
		// A vertex of slivers alone has no direction; up is as good as any.
		if (long > 0) for (let i = 0; i < 3; i++) normals[o + i]! /= long;
		else normals[o + 2] = 1;
	}
	return normals;
}
