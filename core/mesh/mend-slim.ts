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
	const count = Math.max(1, Math.min(PARTS, Math.floor(lattice.nz / LAYERS)));
	const once = await mendParts(
		{ mesh, still },
		layersOf(mesh, lattice).map((l) => Math.min(count - 1, Math.floor((l * count) / lattice.nz))),
		spacing,
		mend
	);
	if (count === 1) return once.mesh;
	// Near the layer where two parts meet, by the number of the upper one; −1 elsewhere.
	const seams = layersOf(once.mesh, lattice).map((l) => {
		for (let k = 1; k < count; k++) if (Math.abs(l + 0.5 - Math.ceil((k * lattice.nz) / count)) < NEAR) return k - 1;
		return -1;
	});
	return (await mendParts(once, seams, spacing, mend)).mesh;
}

interface Whole {
	mesh: CutMesh;
	still: Uint8Array | null;
}

/** Mends the parts of a mesh, each by itself. @param partOf by triangle: the part that it is in, −1 for none; these and what they touch stay */
async function mendParts({ mesh, still }: Whole, partOf: Int16Array, spacing: number, mend: MendPart): Promise<Whole> {
	const { sheet, front, back, given } = sheetsOf(mesh);
	const parts = partsOf(partOf).map((own) => partFrom(mesh, own, sheet, given, still, spacing));
	keepShared(parts, mesh, partOf);
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
	return withoutGone({ ...mesh, triangles, volumes }, gone, still);
}

interface Part {
	/** Triangles and vertices of the whole. */
	own: Uint32Array;
	vertices: Uint32Array;
	task: MendTask;
}

/** By triangle: the layer of cubes that its middle lies in. */
function layersOf({ positions: p, triangles }: CutMesh, l: Lattice): Int16Array {
	return Int16Array.from({ length: triangles.length / 3 }, (_, t) => {
		const [a, b, c] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
		const layer = Math.floor(((p[3 * a + 2]! + p[3 * b + 2]! + p[3 * c + 2]!) / 3 - l.z0) / l.dz);
		return Math.min(l.nz - 1, Math.max(0, layer));
	});
}

/** The triangles of each part. */
function partsOf(partOf: Int16Array): Uint32Array[] {
	const sizes: number[] = [];
	for (const k of partOf) if (k >= 0) sizes[k] = (sizes[k] ?? 0) + 1;
	const out = Array.from(sizes, (n) => new Uint32Array(n ?? 0));
	const next = new Uint32Array(out.length);
	partOf.forEach((k, t) => {
		if (k >= 0) out[k]![next[k]!++] = t;
	});
	return out;
}

function partFrom(
	mesh: CutMesh,
	own: Uint32Array,
	sheetOf: Int32Array,
	given: Uint8Array,
	still: Uint8Array | null,
	spacing: number
): Part {
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

/** Vertices that several parts have, or a part and what is in none, stay. */
function keepShared(parts: readonly Part[], { triangles, positions }: CutMesh, partOf: Int16Array): void {
	const NOBODY = -2;
	const SHARED = -3;
	const owner = new Int16Array(positions.length / 3).fill(NOBODY);
	partOf.forEach((k, t) => {
		for (let c = 3 * t; c < 3 * t + 3; c++) {
			const v = triangles[c]!;
			if (owner[v] === NOBODY) owner[v] = k;
			else if (owner[v] !== k) owner[v] = SHARED;
		}
	});
	for (const { vertices, task } of parts)
		vertices.forEach((v, n) => {
			if (owner[v] === SHARED) task.mend.still[n] = 1;
		});
}

/** A mesh without some of its triangles, and without vertices that nothing is made of any more; the others keep their order. */
function withoutGone(mesh: CutMesh, gone: Uint8Array, still: Uint8Array | null): Whole {
	const kept = new Uint32Array(gone.length - gone.reduce((n, g) => n + g, 0));
	for (let t = 0, n = 0; t < gone.length; t++) if (!gone[t]) kept[n++] = t;
	const out = withTriangles(mesh, kept);
	const { positions, triangles, vertices } = numberedAnew(mesh.positions, out.triangles);
	return { mesh: { ...out, positions, triangles }, still: still && Uint8Array.from(vertices, (v) => still[v]!) };
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
