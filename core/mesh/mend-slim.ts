import { withTriangles, type CutMesh } from './cut-lattice';
import { TERRAIN } from './labels';
import type { Lattice } from './lattice';
import { mendPart, type Mended, type MendTask } from './slim-triangles';

/** Parts that a mesh is mended in, and layers of cubes that each has at least. They do not depend on the number of threads. */
const PARTS = 4;
const LAYERS = 6;

/** Mends one part; hosts give one that uses threads. */
export type MendPart = (task: MendTask) => Mended | Promise<Mended>;

/**
 * A mesh with fewer slim triangles, which cuts near nodes of the lattice leave (see `mendPart`). Volumes follow, so that they go on adding
 * up. Where parts meet, triangles stay as they are; the terrain is given and stays where it is.
 * @param still by vertex: 1 where it stays, and all edges to it; null where none has to
 */
export async function mendSlim(
	mesh: CutMesh,
	lattice: Lattice,
	spacing: number,
	still: Uint8Array | null,
	mend: MendPart = mendPart
): Promise<CutMesh> {
	// What is asked to be finer is cut as finely as it is asked.
	if (lattice.finer) return mesh;
	const { sheet, front, back, given } = sheetsOf(mesh);
	const parts = partsOf(mesh, lattice).map((own) => partOf(mesh, own, sheet, given, still, spacing));
	keepShared(parts, mesh.positions.length / 3);
	const triangles = mesh.triangles.slice();
	const gone = new Uint8Array(sheet.length);
	const volumes = new Map(mesh.volumes);
	const add = (label: number, volume: number) => {
		const own = volumes.get(label);
		if (own !== undefined) volumes.set(label, own + volume);
	};
	const all = await Promise.all(parts.map(({ task }) => mend(task)));
	all.forEach((mended, k) => {
		const { own, vertices } = parts[k]!;
		own.forEach((t, i) => {
			gone[t] = mended.gone[i]!;
			for (let c = 0; c < 3; c++) triangles[3 * t + c] = vertices[mended.triangles[3 * i + c]!]!;
		});
		mended.gained.forEach((volume, s) => {
			if (front[s] === back[s]) return;
			add(back[s]!, volume);
			add(front[s]!, -volume);
		});
	});
	return withoutGone({ ...mesh, triangles, volumes }, gone);
}

interface Part {
	/** Triangles and vertices of the whole. */
	own: Uint32Array;
	vertices: Uint32Array;
	task: MendTask;
}

/** Triangles by layers of the lattice. */
function partsOf({ positions: p, triangles }: CutMesh, l: Lattice): Uint32Array[] {
	const count = Math.max(1, Math.min(PARTS, Math.floor(l.nz / LAYERS)));
	const part = new Uint8Array(triangles.length / 3);
	const sizes = new Uint32Array(count);
	for (let t = 0; t < part.length; t++) {
		const [a, b, c] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
		const layer = Math.floor(((p[3 * a + 2]! + p[3 * b + 2]! + p[3 * c + 2]!) / 3 - l.z0) / l.dz);
		part[t] = Math.min(count - 1, Math.max(0, Math.floor((layer * count) / l.nz)));
		sizes[part[t]!]!++;
	}
	const out = Array.from(sizes, (n) => new Uint32Array(n));
	const next = new Uint32Array(count);
	part.forEach((k, t) => (out[k]![next[k]!++] = t));
	return out;
}

function partOf(mesh: CutMesh, own: Uint32Array, sheetOf: Int32Array, given: Uint8Array, still: Uint8Array | null, spacing: number): Part {
	const corners = new Uint32Array(3 * own.length);
	own.forEach((t, i) => {
		for (let c = 0; c < 3; c++) corners[3 * i + c] = mesh.triangles[3 * t + c]!;
	});
	const { positions, triangles, vertices } = numberedAnew(mesh.positions, corners);
	const stays = new Uint8Array(vertices.length);
	if (still) vertices.forEach((v, n) => (stays[n] = still[v]!));
	const sheet = Int32Array.from(own, (t) => sheetOf[t]!);
	return { own, vertices, task: { mend: { positions, triangles, sheet, given, still: stays, spacing } } };
}

/** Vertices that several parts have stay. */
function keepShared(parts: readonly Part[], count: number): void {
	const times = new Uint8Array(count);
	for (const { vertices } of parts) for (const v of vertices) times[v]!++;
	for (const { vertices, task } of parts)
		vertices.forEach((v, n) => {
			if (times[v]! > 1) task.mend.still[n] = 1;
		});
}

/** A mesh without some of its triangles, and without vertices that nothing is made of any more; the others keep their order. */
function withoutGone(mesh: CutMesh, gone: Uint8Array): CutMesh {
	const kept = new Uint32Array(gone.length - gone.reduce((n, g) => n + g, 0));
	for (let t = 0, n = 0; t < gone.length; t++) if (!gone[t]) kept[n++] = t;
	const out = withTriangles(mesh, kept);
	const { positions, triangles } = numberedAnew(mesh.positions, out.triangles);
	return { ...out, positions, triangles };
}

/** Only the vertices that triangles have, in their order, and the triangles by their new numbers. `vertices` are the old ones. */
function numberedAnew(all: Float64Array, corners: Uint32Array): { positions: Float64Array; triangles: Uint32Array; vertices: Uint32Array } {
	const number = new Int32Array(all.length / 3).fill(-1);
	for (let c = 0; c < corners.length; c++) number[corners[c]!] = 0;
	let used = 0;
	for (let v = 0; v < number.length; v++) if (number[v] === 0) number[v] = used++;
	const vertices = new Uint32Array(used);
	const positions = new Float64Array(3 * used);
	for (let v = 0; v < number.length; v++) {
		const n = number[v]!;
		if (n < 0) continue;
		vertices[n] = v;
		for (let k = 0; k < 3; k++) positions[3 * n + k] = all[3 * v + k]!;
	}
	const triangles = new Uint32Array(corners.length);
	for (let c = 0; c < corners.length; c++) triangles[c] = number[corners[c]!]!;
	return { positions, triangles, vertices };
}

/** Sheets: one for all triangles that have the same on both sides and are of one surface, with the labels on both sides. */
function sheetsOf({ frontLeaf, backLeaf, surface, ...mesh }: CutMesh): {
	sheet: Int32Array;
	front: number[];
	back: number[];
	given: Uint8Array;
} {
	const numbers = new Map<number, number>();
	const sheet = new Int32Array(surface.length);
	const [front, back, given]: [number[], number[], number[]] = [[], [], []];
	let [last, number] = [-1, -1];
	for (let t = 0; t < surface.length; t++) {
		const key = (surface[t]! + 32768) * 2 ** 32 + frontLeaf[t]! * 65536 + backLeaf[t]!;
		if (key !== last) {
			last = key;
			number = numbers.get(key) ?? numbers.size;
			if (number === numbers.size) {
				numbers.set(key, number);
				front.push(mesh.front[t]!);
				back.push(mesh.back[t]!);
				given.push(Number(surface[t] === TERRAIN));
			}
		}
		sheet[t] = number;
	}
	return { sheet, front, back, given: Uint8Array.from(given) };
}
