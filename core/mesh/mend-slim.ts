import { withTriangles, type CutMesh } from './cut-lattice';
import { TERRAIN } from './labels';
import type { Lattice } from './lattice';
import { mendPart, type Mended, type MendTask } from './slim-triangles';

/** Parts that a mesh is mended in, and layers of cubes that each has at least. They do not depend on the number of threads. */
const PARTS = 4;
const LAYERS = 6;
/** Layers on both sides of where parts meet that are mended once more. */
const NEAR = 2;

/** Mends one part; hosts give one that uses threads. */
export type MendPart = (task: MendTask) => Mended | Promise<Mended>;

/**
 * A mesh with fewer slim triangles, which cuts near nodes of the lattice leave (see `mendPart`). Volumes follow, so that they go on adding
 * up. It is mended in parts, layer above layer, and then once more where these meet; the terrain is given and stays where it is.
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
	const work: Whole = {
		...sheetsOf(mesh),
		positions: mesh.positions,
		triangles: mesh.triangles.slice(),
		gone: new Uint8Array(mesh.front.length),
		volumes: new Map(mesh.volumes),
		still,
		spacing
	};
	const count = Math.max(1, Math.min(PARTS, Math.floor(lattice.nz / LAYERS)));
	const layers = layersOf(work, lattice);
	for (let t = 0; t < layers.length; t++) layers[t] = Math.min(count - 1, Math.floor((layers[t]! * count) / lattice.nz));
	await mendParts(work, layers, mend);
	if (count > 1) await mendParts(work, seamsOf(layersOf(work, lattice), lattice.nz, count), mend);
	return withoutGone({ ...mesh, triangles: work.triangles, volumes: work.volumes }, work.gone);
}

/** Of layers the number of the place near which they lie, of those where two parts meet; −1 elsewhere. */
function seamsOf(layers: Int16Array, nz: number, parts: number): Int16Array {
	const near = new Int16Array(nz).fill(-1);
	for (let k = 1; k < parts; k++) {
		const first = Math.ceil((k * nz) / parts);
		near.fill(k - 1, Math.max(0, first - NEAR), Math.min(nz, first + NEAR));
	}
	const out = new Int16Array(layers.length);
	for (let t = 0; t < out.length; t++) out[t] = near[layers[t]!]!;
	return out;
}

/** A mesh while it is mended: triangles that are gone stay where they were until the end. */
interface Whole extends Sheets {
	positions: Float64Array;
	triangles: Uint32Array;
	gone: Uint8Array;
	volumes: Map<number, number>;
	still: Uint8Array | null;
	spacing: number;
}

/** Mends the parts of a mesh, each by itself. @param partOf by triangle: the part that it is in, −1 for none; these and what they touch stay */
async function mendParts(work: Whole, partOf: Int16Array, mend: MendPart): Promise<void> {
	const { triangles, gone, volumes, front, back } = work;
	const parts = partsOf(partOf, gone).map((own) => partFrom(work, own));
	keepShared(parts, work, partOf);
	const add = (label: number, volume: number) => {
		const own = volumes.get(label);
		if (own !== undefined) volumes.set(label, own + volume);
	};
	const all = await Promise.all(parts.map(({ task }) => mend(task)));
	all.forEach((mended, k) => {
		const { own, vertices } = parts[k]!;
		for (let i = 0; i < own.length; i++) {
			const t = own[i]!;
			gone[t] = mended.gone[i]!;
			for (let c = 0; c < 3; c++) triangles[3 * t + c] = vertices[mended.triangles[3 * i + c]!]!;
		}
		mended.gained.forEach((volume, s) => {
			if (front[s] === back[s]) return;
			add(back[s]!, volume);
			add(front[s]!, -volume);
		});
	});
}

interface Part {
	/** Triangles and vertices of the whole. */
	own: Uint32Array;
	vertices: Uint32Array;
	task: MendTask;
}

/** By triangle: the layer of cubes that its middle lies in. */
function layersOf({ positions: p, triangles }: Pick<Whole, 'positions' | 'triangles'>, l: Lattice): Int16Array {
	const out = new Int16Array(triangles.length / 3);
	for (let t = 0; t < out.length; t++) {
		const z = p[3 * triangles[3 * t]! + 2]! + p[3 * triangles[3 * t + 1]! + 2]! + p[3 * triangles[3 * t + 2]! + 2]!;
		out[t] = Math.min(l.nz - 1, Math.max(0, Math.floor((z / 3 - l.z0) / l.dz)));
	}
	return out;
}

/** The triangles of each part, without those that are gone. */
function partsOf(partOf: Int16Array, gone: Uint8Array): Uint32Array[] {
	const sizes: number[] = [];
	for (let t = 0; t < partOf.length; t++) if (partOf[t]! >= 0 && !gone[t]) sizes[partOf[t]!] = (sizes[partOf[t]!] ?? 0) + 1;
	const out = Array.from(sizes, (n) => new Uint32Array(n ?? 0));
	const next = new Uint32Array(out.length);
	for (let t = 0; t < partOf.length; t++) {
		const k = partOf[t]!;
		if (k >= 0 && !gone[t]) out[k]![next[k]!++] = t;
	}
	return out;
}

function partFrom(work: Whole, own: Uint32Array): Part {
	const corners = new Uint32Array(3 * own.length);
	const sheet = new Int32Array(own.length);
	for (let i = 0; i < own.length; i++) {
		const t = own[i]!;
		sheet[i] = work.sheet[t]!;
		for (let c = 0; c < 3; c++) corners[3 * i + c] = work.triangles[3 * t + c]!;
	}
	const { positions, triangles, vertices } = numberedAnew(work.positions, corners);
	const still = new Uint8Array(vertices.length);
	if (work.still) for (let n = 0; n < vertices.length; n++) still[n] = work.still[vertices[n]!]!;
	return { own, vertices, task: { mend: { positions, triangles, sheet, given: work.given, still, spacing: work.spacing } } };
}

/** Vertices that several parts have, or a part and what is in none, stay. */
function keepShared(parts: readonly Part[], { triangles, positions, gone }: Whole, partOf: Int16Array): void {
	const NOBODY = -2;
	const SHARED = -3;
	const owner = new Int16Array(positions.length / 3).fill(NOBODY);
	for (let t = 0; t < partOf.length; t++) {
		if (gone[t]) continue;
		const k = partOf[t]!;
		for (let c = 3 * t; c < 3 * t + 3; c++) {
			const v = triangles[c]!;
			if (owner[v] === NOBODY) owner[v] = k;
			else if (owner[v] !== k) owner[v] = SHARED;
		}
	}
	for (const { vertices, task } of parts)
		for (let n = 0; n < vertices.length; n++) if (owner[vertices[n]!] === SHARED) task.mend.still[n] = 1;
}

/** A mesh without some of its triangles, and without vertices that nothing is made of any more; the others keep their order. */
function withoutGone(mesh: CutMesh, gone: Uint8Array): CutMesh {
	const kept = new Uint32Array(gone.length);
	let count = 0;
	for (let t = 0; t < gone.length; t++) if (!gone[t]) kept[count++] = t;
	const out = withTriangles(mesh, kept.subarray(0, count));
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

interface Sheets {
	/** By triangle. */
	sheet: Int32Array;
	/** By sheet: labels on both sides, and 1 where it is given. */
	front: number[];
	back: number[];
	given: Uint8Array;
}

/** Sheets: one for all triangles that have the same on both sides and are of one surface, with the labels on both sides. */
function sheetsOf({ frontLeaf, backLeaf, surface, ...mesh }: CutMesh): Sheets {
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
