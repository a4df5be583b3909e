import { AIR, FAULT, OUTSIDE, TERRAIN, type SolidMesh } from './cut-lattice';
import { sixfoldVolume } from './vertex-places';

/** A plain triangle mesh with its own vertex numbers. */
export interface TriangleMesh {
	positions: Float64Array;
	triangles: Uint32Array;
}

/** Triangles chosen by `wanted` (0 leaves out, 1 takes, −1 takes turned round), with only the vertices that they use. */
export function extract(mesh: SolidMesh, wanted: (triangle: number) => number): TriangleMesh {
	const kept = new Int8Array(mesh.front.length);
	for (let t = 0; t < kept.length; t++) kept[t] = wanted(t);
	return extractKept(mesh, kept);
}

/** @param kept by triangle, as `wanted` of `extract` tells */
function extractKept(mesh: SolidMesh, kept: Int8Array): TriangleMesh {
	let count = 0;
	for (let t = 0; t < kept.length; t++) if (kept[t] !== 0) count++;
	const number = new Int32Array(mesh.positions.length / 3).fill(-1);
	const triangles = new Uint32Array(3 * count);
	/** Vertices in the order in which they are met. */
	const met = new Uint32Array(Math.min(number.length, 3 * count));
	let [at, vertices] = [0, 0];
	const { triangles: corners, positions: places } = mesh;
	for (let t = 0; t < kept.length; t++) {
		const side = kept[t]!;
		if (side === 0) continue;
		for (let k = 0; k < 3; k++) {
			// Turned round, the last two change places.
			const v = corners[3 * t + (side > 0 || k === 0 ? k : 3 - k)]!;
			if (number[v]! < 0) {
				number[v] = vertices;
				met[vertices++] = v;
			}
			triangles[at++] = number[v]!;
		}
	}
	const positions = new Float64Array(3 * vertices);
	for (let n = 0; n < vertices; n++) {
		const v = 3 * met[n]!;
		positions[3 * n] = places[v]!;
		positions[3 * n + 1] = places[v + 1]!;
		positions[3 * n + 2] = places[v + 2]!;
	}
	return { positions, triangles };
}

/** The closed surface of a unit, normals outward. */
export function solidOf(mesh: SolidMesh, unit: number): TriangleMesh {
	const { front, back } = mesh;
	const kept = new Int8Array(front.length);
	for (let t = 0; t < kept.length; t++) if (front[t] === unit ? back[t] !== unit : back[t] === unit) kept[t] = back[t] === unit ? 1 : -1;
	return extractKept(mesh, kept);
}

/** One surface of the model: the base of a unit, the terrain, or a fault (with the parts where one unit lies on both sides). */
export function surfaceOf(mesh: SolidMesh, surface: number): TriangleMesh {
	const own = mesh.surface;
	const kept = new Int8Array(own.length);
	for (let t = 0; t < kept.length; t++) if (own[t] === surface) kept[t] = 1;
	return extractKept(mesh, kept);
}

/** Numbers of the surfaces that the mesh has, sides of the box left out. */
export function surfacesIn(mesh: SolidMesh): number[] {
	const found = new Set<number>();
	for (const s of mesh.surface) if (s < FAULT + 1000) found.add(s);
	return [...found].sort((a, b) => a - b);
}

/** Units that have a volume, by index. */
export const unitsIn = (mesh: SolidMesh): number[] =>
	[...mesh.volumes.keys()].filter((u) => u !== AIR && u !== OUTSIDE && mesh.volumes.get(u)! > 0).sort((a, b) => a - b);

/** True for triangles at the ground's upper face: the terrain or, without terrain, the top of the box. */
export const isGroundTop = (mesh: SolidMesh, t: number, hasTerrain: boolean): boolean =>
	hasTerrain ? mesh.surface[t] === TERRAIN : mesh.surface[t] === 3005;

/** Six times the volume between a triangle and the first vertex of its mesh. @param t place of its first corner */
const sixfoldUnder = ({ positions, triangles }: TriangleMesh, t: number): number =>
	sixfoldVolume(positions, 0, triangles[t]!, triangles[t + 1]!, triangles[t + 2]!);

/** Volume of a closed mesh by the divergence theorem, about its own first vertex. */
export function volumeOf(mesh: TriangleMesh): number {
	let sum = 0;
	for (let t = 0; t < mesh.triangles.length; t += 3) sum += sixfoldUnder(mesh, t);
	return sum / 6;
}

/** Number of directed edges without a partner: 0 for a closed, consistently oriented mesh. */
export function openEdges(mesh: TriangleMesh): number {
	const n = mesh.positions.length / 3;
	const balance = new Map<number, number>();
	for (let i = 0; i < mesh.triangles.length; i += 3)
		for (let e = 0; e < 3; e++) {
			const a = mesh.triangles[i + e]!;
			const b = mesh.triangles[i + ((e + 1) % 3)]!;
			const key = a < b ? a * n + b : b * n + a;
			const sum = (balance.get(key) ?? 0) + (a < b ? 1 : -1);
			if (sum === 0) balance.delete(key);
			else balance.set(key, sum);
		}
	return balance.size;
}

/** Volumes of the connected parts of a closed mesh, the greatest first. Triangles that share a vertex belong together; a cavity is taken off the part around it. */
export function partsOf(mesh: TriangleMesh): number[] {
	const parent = new Uint32Array(mesh.positions.length / 3).map((_, v) => v);
	const root = (v: number): number => {
		while (parent[v] !== v) v = parent[v] = parent[parent[v]!]!;
		return v;
	};
	const { triangles } = mesh;
	for (let t = 0; t < triangles.length; t += 3) {
		const a = root(triangles[t]!);
		parent[root(triangles[t + 1]!)] = a;
		parent[root(triangles[t + 2]!)] = a;
	}
	/** By root: which part it is; and by part the volume under its triangles. */
	const part = new Int32Array(parent.length).fill(-1);
	const volumes: number[] = [];
	for (let t = 0; t < triangles.length; t += 3) {
		const r = root(triangles[t]!);
		if (part[r]! < 0) part[r] = volumes.push(0) - 1;
		volumes[part[r]!]! += sixfoldUnder(mesh, t);
	}
	for (let k = 0; k < volumes.length; k++) volumes[k]! /= 6;
	const parts = volumes.filter((v) => v > 0).sort((a, b) => b - a);
	// Which part a cavity lies in does not matter for the sum; the greatest takes it.
	const cavities = volumes.filter((v) => v < 0).reduce((a, b) => a + b, 0);
	if (parts.length) parts[0] = parts[0]! + cavities;
	return parts;
}
