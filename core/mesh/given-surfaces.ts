import { areaFromAbove } from './vertex-places';

/** Distance by which a surface may move at once while it is mended, as a share of the spacing. */
export const TOLERANCE = 0.004;
/** A surface that is given may move by this share of that. */
export const GIVEN = 0.5;
/** And may come to lie lower by this share of that, in the mean. */
const LOWERED = 0.004;
/** Surfaces that move by less than this share of it can not come through others. */
export const NOTHING = 1e-6;

/** What is given, of a mesh that is mended. */
interface Given {
	positions: Float64Array;
	triangles: Uint32Array;
	/** By triangle: number of the sheet that it is a part of. */
	sheet: Int32Array;
	/** By sheet: 1 or -1 where it is given, with what it is given for behind or before it: that may lose next to nothing, and gain nothing. */
	given: Int8Array;
}

/** Area of what is given, seen from above, with a share for each vertex that moves and that nothing else has: by these volume can be brought back. */
function areaGiven({ positions, triangles, sheet, given }: Given, own: Uint32Array, still: Uint8Array): number {
	if (given.every((g) => g === 0)) return 0;
	const others = new Uint8Array(positions.length / 3);
	for (const t of own) if (given[sheet[t]!] === 0) for (let c = 3 * t; c < 3 * t + 3; c++) others[triangles[c]!] = 1;
	let area = 0;
	for (const t of own) {
		if (given[sheet[t]!] === 0) continue;
		const [a, b, c] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
		let alone = 0;
		for (const v of [a, b, c]) if (!others[v] && !still[v]) alone++;
		area += (Math.abs(areaFromAbove(positions, a, b, c)) * alone) / 3;
	}
	return area;
}

/** Sees to it that what a surface is given for keeps its volume while the surface is mended, or loses so little of it that it can be brought back. */
export class EvenVolume {
	/** Volume that came to it. */
	private raised = 0;
	private readonly most: number;
	private readonly least: number;
	/** Whether something was not done only for that. */
	isUneven = false;

	/** @param own the triangles of the part that is mended @param still by vertex: 1 where it stays */
	constructor(mesh: Given, own: Uint32Array, still: Uint8Array, spacing: number) {
		const area = areaGiven(mesh, own, still);
		this.most = NOTHING * TOLERANCE * spacing * area;
		this.least = -LOWERED * GIVEN * TOLERANCE * spacing * area;
	}

	/** Whether so much more volume leaves it with what it had, or little less. */
	allows(more: number): boolean {
		const now = this.raised + more;
		if (now <= this.most && now >= this.least) return true;
		this.isUneven = true;
		return false;
	}

	add(more: number): void {
		this.raised += more;
	}
}

/**
 * Brings back a volume that went from what a surface is given for: its vertices that nothing else has are lifted, all by as much. Nothing lies
 * above it that they could come through. Not when hardly any such vertex is left: then it stays where it came to lie.
 * @param gone by triangle: 1 where it is no more
 * @param fixed by vertex: 1 where it stays; null where none has to
 * @param raised volume that came to it, negative where it went
 * @returns by sheet: volume that came behind it
 */
export function bringBack(mesh: Given, gone: Uint8Array, fixed: Uint8Array | null, raised: number, spacing: number): Float64Array {
	const { positions, triangles, sheet, given } = mesh;
	const came = new Float64Array(given.length);
	if (raised === 0) return came;
	const moves = new Uint8Array(positions.length / 3).fill(1);
	if (fixed) for (let v = 0; v < moves.length; v++) if (fixed[v]) moves[v] = 0;
	for (let t = 0; t < gone.length; t++)
		if (!gone[t] && given[sheet[t]!] === 0) for (let c = 3 * t; c < 3 * t + 3; c++) moves[triangles[c]!] = 0;
	/** By sheet: volume that comes behind it for each unit of length. */
	const rate = new Float64Array(given.length);
	for (let t = 0; t < gone.length; t++) {
		const s = sheet[t]!;
		if (gone[t] || given[s] === 0) continue;
		const [a, b, c] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
		rate[s] = rate[s]! + (areaFromAbove(positions, a, b, c) * (moves[a]! + moves[b]! + moves[c]!)) / 3;
	}
	const by = -raised / rate.reduce((sum, r, s) => sum + given[s]! * r, 0);
	if (!(Math.abs(by) <= GIVEN * TOLERANCE * spacing)) return came;
	for (let t = 0; t < gone.length; t++) {
		if (gone[t] || given[sheet[t]!] === 0) continue;
		for (let c = 3 * t; c < 3 * t + 3; c++) {
			const v = triangles[c]!;
			if (moves[v] === 0) continue;
			moves[v] = 0;
			positions[3 * v + 2] = positions[3 * v + 2]! + by;
		}
	}
	return came.map((_, s) => rate[s]! * by);
}
