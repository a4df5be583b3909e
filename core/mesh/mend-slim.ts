import { sharedCopy } from '../kernels/shared';
import { withTriangles, type CutMesh } from './cut-lattice';
import { bringBack } from './given-surfaces';
import { AIR, TERRAIN } from './labels';
import type { Finer, Lattice } from './lattice';
import type { Mended, MendTask } from './mend-task';
import { mendPart } from './slim-triangles';

/** Parts that a mesh is mended in, and layers of cubes that each has at least. They do not depend on the number of threads. */
const PARTS = 4;
const LAYERS = 6;
/** Layers on both sides of where parts meet that are mended once more. */
const NEAR = 1;
/** The part of what is in none; and a vertex that no triangle was found of yet. */
const NONE = -1;
const NOBODY = -2;

/** Mends one part; hosts give one that uses threads. */
export type MendPart = (task: MendTask) => Mended | Promise<Mended>;

/**
 * A mesh with fewer slim triangles, which cuts near nodes of the lattice leave (see `mendPart`). Volumes follow, so that they go on adding
 * up. It is mended in parts, layer above layer, and then once more where these meet. The terrain is given: what lies below it has one volume,
 * whatever is built.
 * @param still by vertex: 1 where it stays, and all edges to it; null where none has to
 */
export async function mendSlim(
	mesh: CutMesh,
	lattice: Lattice,
	spacing: number,
	still: Uint8Array | null,
	mend: MendPart = mendPart
): Promise<CutMesh> {
	const { finer, ...cubes } = lattice;
	const { sheet, front, back, given } = sheetsOf(mesh);
	const triangles = sharedCopy(mesh.triangles);
	const count = mesh.front.length;
	const work: Whole = {
		front,
		back,
		volumes: new Map(mesh.volumes),
		raised: { by: 0 },
		fixed: still,
		mend: {
			positions: sharedCopy(mesh.positions),
			triangles,
			sheet: sharedCopy(sheet),
			given,
			gone: sharedCopy(new Uint8Array(count)),
			partOf: sharedCopy(new Int16Array(count)),
			still: sharedCopy(new Uint8Array(mesh.positions.length / 3)),
			spacing,
			lattice: cubes,
			fineness: finer ? fineness(finer) : 1
		}
	};
	const { nz } = lattice;
	const parts = Math.max(1, Math.min(PARTS, Math.floor(nz / LAYERS)));
	const ofLayer = Int16Array.from({ length: nz }, (_, layer) => Math.min(parts - 1, Math.floor((layer * parts) / nz)));
	await mendParts(work, lattice, ofLayer, mend);
	if (parts > 1) await mendParts(work, lattice, seamsOf(nz, parts), mend);
	const { fixed, raised, mend: whole } = work;
	bringBack(whole, whole.gone, fixed, raised.by, spacing).forEach((volume, s) => gain(work, s, volume));
	return withoutGone({ ...mesh, positions: work.mend.positions, triangles, volumes: work.volumes }, work.mend.gone);
}

/** How many of the smallest cells there are along a cube of the lattice. */
function fineness({ places }: Finer): number {
	let most = 1;
	// Places are sums of halves, quarters and so on.
	for (let i = 0; i < places.length; i++) while (!Number.isInteger(places[i]! * most)) most *= 2;
	return most;
}

/** By layer: the number of the place where two parts meet near which it lies; NONE elsewhere. */
function seamsOf(nz: number, parts: number): Int16Array {
	const near = new Int16Array(nz).fill(NONE);
	for (let k = 1; k < parts; k++) {
		const first = Math.ceil((k * nz) / parts);
		near.fill(k - 1, Math.max(0, first - NEAR), Math.min(nz, first + NEAR));
	}
	return near;
}

/** A mesh while it is mended: threads change its triangles where they are; those that are gone stay there until the end. */
interface Whole extends Pick<Sheets, 'front' | 'back'> {
	volumes: Map<number, number>;
	/** Volume that came below what is given. */
	raised: { by: number };
	/** By vertex: 1 where it always stays. */
	fixed: Uint8Array | null;
	mend: Omit<MendTask['mend'], 'part' | 'from' | 'to'>;
}

/** Mends the parts of a mesh, each by itself. @param ofLayer the part that a layer of cubes is in, NONE for none; what is in none stays, and all it touches */
async function mendParts(work: Whole, lattice: Lattice, ofLayer: Int16Array, mend: MendPart): Promise<void> {
	const spans = part(work, lattice, ofLayer);
	const all = await Promise.all(spans.map((span, part) => mend({ mend: { ...work.mend, part, ...span } })));
	for (const { gained } of all) gained.forEach((volume, s) => gain(work, s, volume));
}

/** What lies behind a sheet gains a volume, what lies before it loses it. */
function gain({ volumes, front, back, mend: { given }, ...work }: Whole, sheet: number, volume: number): void {
	if (front[sheet] === back[sheet]) return;
	for (const [label, by] of [
		[back[sheet]!, volume],
		[front[sheet]!, -volume]
	] as const) {
		const own = volumes.get(label);
		if (own !== undefined) volumes.set(label, own + by);
	}
	work.raised.by += given[sheet]! * volume;
}

/**
 * Tells the part of each triangle by the layer that its middle lies in. Vertices that several parts have, or a part and what is in none, stay.
 * @returns by part: its first triangle, and the one after its last
 */
function part({ fixed, mend: { positions: p, triangles, gone, partOf, still } }: Whole, l: Lattice, ofLayer: Int16Array): Span[] {
	if (fixed) still.set(fixed);
	else still.fill(0);
	const spans: Span[] = Array.from({ length: ofLayer.reduce((most, k) => Math.max(most, k), NONE) + 1 }, () => ({ from: 0, to: 0 }));
	const owner = new Int16Array(still.length).fill(NOBODY);
	let last = NONE;
	for (let t = 0; t < partOf.length; t++) {
		if (gone[t]) {
			partOf[t] = NONE;
			continue;
		}
		const u = triangles[3 * t]!;
		const v = triangles[3 * t + 1]!;
		const w = triangles[3 * t + 2]!;
		const z = (p[3 * u + 2]! + p[3 * v + 2]! + p[3 * w + 2]!) / 3;
		const k = ofLayer[Math.min(l.nz - 1, Math.max(0, Math.floor((z - l.z0) / l.dz)))]!;
		partOf[t] = k;
		if (k !== last) {
			reach(spans[last], t);
			if (spans[k]?.to === 0) spans[k].from = t;
			last = k;
		}
		if (owner[u] === NOBODY) owner[u] = k;
		else if (owner[u] !== k) still[u] = 1;
		if (owner[v] === NOBODY) owner[v] = k;
		else if (owner[v] !== k) still[v] = 1;
		if (owner[w] === NOBODY) owner[w] = k;
		else if (owner[w] !== k) still[w] = 1;
	}
	reach(spans[last], partOf.length);
	return spans;
}

type Span = Pick<MendTask['mend'], 'from' | 'to'>;

function reach(span: Span | undefined, to: number): void {
	if (span) span.to = to;
}

/** A mesh without some of its triangles, and without vertices that nothing is made of any more; the others keep their order. */
function withoutGone(mesh: CutMesh, gone: Uint8Array): CutMesh {
	const kept = new Uint32Array(gone.length);
	let count = 0;
	for (let t = 0; t < gone.length; t++) if (!gone[t]) kept[count++] = t;
	const out = withTriangles(mesh, kept.subarray(0, count));
	out.positions = numberAnew(mesh.positions, out.triangles);
	return out;
}

/** Numbers the corners of triangles anew, by only the vertices that they have, in their order. @returns the places of these */
function numberAnew(all: Float64Array, corners: Uint32Array): Float64Array {
	const number = new Uint32Array(all.length / 3);
	for (let c = 0; c < corners.length; c++) number[corners[c]!] = 1;
	const positions = new Float64Array(all.length);
	let used = 0;
	for (let v = 0; v < number.length; v++) {
		if (number[v] === 0) continue;
		positions[3 * used] = all[3 * v]!;
		positions[3 * used + 1] = all[3 * v + 1]!;
		positions[3 * used + 2] = all[3 * v + 2]!;
		number[v] = used++;
	}
	for (let c = 0; c < corners.length; c++) corners[c] = number[corners[c]!]!;
	return positions.slice(0, 3 * used);
}

interface Sheets {
	/** By triangle. */
	sheet: Int32Array;
	/** By sheet: labels on both sides; 1 where it is given and the ground lies behind it, -1 where that lies before it. */
	front: number[];
	back: number[];
	given: Int8Array;
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
				given.push(surface[t] !== TERRAIN ? 0 : mesh.back[t] === AIR ? -1 : 1);
			}
		}
		sheet[t] = number;
	}
	return { sheet, front, back, given: Int8Array.from(given) };
}
