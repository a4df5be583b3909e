import { withTriangles, type SolidMesh } from './cut-lattice';

/** Cells grow by this factor at least until there are few enough triangles. */
const GROW = 1.1;
const ROUNDS = 40;
/** Surfaces that are told apart at a vertex; more share a place in its mask. */
const BITS = 46;

/**
 * A mesh of solids with fewer triangles, to look at while the whole one is on its way: vertices of one cell that lie on the same surfaces
 * become one, at their mean (vertex clustering, Rossignac & Borrel 1993). Vertices on the faces and edges of the box stay on them, and each solid stays
 * closed: what falls together goes in pairs. Volumes are told as they are.
 * @param most triangles; a few hundred at least, for each surface keeps its corners
 * @returns the mesh itself when it has no more than that
 */
export function lightMesh<M extends SolidMesh>(mesh: M, most: number): M {
	const count = mesh.triangles.length / 3;
	if (count <= most) return mesh;
	const [low, high] = bounds(mesh.positions);
	const on = surfacesAt(mesh, low, high);
	let size = Math.sqrt((2 * areaOf(mesh)) / most);
	let out = mesh;
	for (let round = 0; round < ROUNDS && out.triangles.length / 3 > most; round++) {
		out = clustered(mesh, on, [low, high], size);
		// The number of triangles goes with the square of the cells.
		size *= Math.max(GROW, Math.sqrt(out.triangles.length / 3 / most));
	}
	return out;
}

type Corner = [number, number, number];

function bounds(positions: Float64Array): [Corner, Corner] {
	const [low, high]: [Corner, Corner] = [
		[Infinity, Infinity, Infinity],
		[-Infinity, -Infinity, -Infinity]
	];
	for (let i = 0; i < positions.length; i++) {
		low[i % 3] = Math.min(low[i % 3]!, positions[i]!);
		high[i % 3] = Math.max(high[i % 3]!, positions[i]!);
	}
	return [low, high];
}

function areaOf({ positions: p, triangles }: SolidMesh): number {
	let sum = 0;
	for (let t = 0; t < triangles.length; t += 3) {
		const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
		const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
		const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
		sum += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
	}
	return sum;
}

/** Masks of the surfaces and the faces of the box that vertices lie on, as few numbers. */
interface OnSurfaces {
	of: Uint32Array;
	count: number;
}

function surfacesAt({ positions, triangles, surface }: SolidMesh, low: Corner, high: Corner): OnSurfaces {
	const bit = new Map<number, number>();
	for (const s of surface) if (!bit.has(s)) bit.set(s, bit.size % BITS);
	// Two halves of a mask, for a number of 32 bits holds one.
	const half = BITS / 2;
	const masks = [new Uint32Array(positions.length / 3), new Uint32Array(positions.length / 3)] as const;
	for (let i = 0; i < triangles.length; i++) {
		const b = bit.get(surface[(i / 3) | 0]!)!;
		masks[b < half ? 0 : 1][triangles[i]!]! |= 1 << (b % half);
	}
	const known = new Map<number, number>();
	const of = new Uint32Array(positions.length / 3);
	for (let v = 0; v < of.length; v++) {
		let box = 0;
		for (let c = 0; c < 3; c++) {
			const at = positions[3 * v + c]!;
			box = 3 * box + (at === low[c] ? 1 : at === high[c] ? 2 : 0);
		}
		const key = (masks[1][v]! * 2 ** half + masks[0][v]!) * 27 + box;
		let n = known.get(key);
		if (n === undefined) known.set(key, (n = known.size));
		of[v] = n;
	}
	return { of, count: known.size };
}

function clustered<M extends SolidMesh>(mesh: M, on: OnSurfaces, [low, high]: readonly [Corner, Corner], size: number): M {
	const { positions, triangles, front, back } = mesh;
	const cells = [0, 1, 2].map((c) => Math.floor((high[c]! - low[c]!) / size) + 1);
	const clusters = new Map<number, number>();
	const into = new Uint32Array(positions.length / 3);
	for (let v = 0; v < into.length; v++) {
		let key = 0;
		for (let c = 0; c < 3; c++) key = key * cells[c]! + Math.floor((positions[3 * v + c]! - low[c]!) / size);
		key = key * on.count + on.of[v]!;
		let k = clusters.get(key);
		if (k === undefined) clusters.set(key, (k = clusters.size));
		into[v] = k;
	}
	const places = new Float64Array(3 * clusters.size);
	const members = new Uint32Array(clusters.size);
	for (let v = 0; v < into.length; v++) {
		members[into[v]!]!++;
		for (let c = 0; c < 3; c++) places[3 * into[v]! + c]! += positions[3 * v + c]!;
	}
	for (let i = 0; i < places.length; i++) places[i]! /= members[(i / 3) | 0]!;
	// Two triangles in one place between the same two solids are a fold that was pressed flat: both go.
	const bySide = new Map<number, number[]>();
	const gone = new Uint8Array(front.length);
	const sorted = (t: number): Corner => {
		const [p, q, r] = [into[triangles[3 * t]!]!, into[triangles[3 * t + 1]!]!, into[triangles[3 * t + 2]!]!];
		const [a, c] = [Math.min(p, q, r), Math.max(p, q, r)];
		return [a, p + q + r - a - c, c];
	};
	const between = (t: number, o: number) =>
		(front[t] === front[o] && back[t] === back[o]) || (front[t] === back[o] && back[t] === front[o]);
	for (let t = 0; t < front.length; t++) {
		const [a, b, c] = sorted(t);
		if (a === b || b === c) {
			gone[t] = 1;
			continue;
		}
		const side = a * clusters.size + b;
		const others = bySide.get(side);
		if (!others) bySide.set(side, [t]);
		else {
			const twin = others.findIndex((o) => sorted(o)[2] === c && between(t, o));
			if (twin < 0) others.push(t);
			else {
				gone[t] = gone[others[twin]!] = 1;
				others.splice(twin, 1);
			}
		}
	}
	const kept = Uint32Array.from({ length: front.length }, (_, t) => t).filter((t) => !gone[t]);
	const out = withTriangles(mesh, kept);
	return { ...out, positions: places, triangles: out.triangles.map((v) => into[v]!) };
}
