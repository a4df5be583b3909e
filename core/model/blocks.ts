import { OUTSIDE, withTriangles, type SolidMesh } from '../mesh/cut-lattice';
import { AIR_LEAF, OUTSIDE_LEAF } from '../mesh/labels';
import type { Ground } from './fit-ground';
import type { Leaf } from './walk';
import { faultsOf } from './whole';

/** A part of the ground that faults cut out: on which side of each fault it lies that reaches it. */
export interface FaultBlock {
	/** The sides, as in "north+ dyke-": plus is the hanging wall. Empty where no fault cuts. */
	id: string;
	name: string;
	sides: { fault: string; hanging: boolean }[];
}

/**
 * The fault blocks of a ground. Faults that die out part nothing, so they make no blocks; what is younger than a fault, and what lies
 * beyond the fault that it ends on, is not on either side of it.
 * @returns the blocks in the order of their faults, and the number of its block for each leaf
 */
export function blocksOf(ground: Ground, leaves: readonly Leaf[]): { blocks: FaultBlock[]; ofLeaf: number[] } {
	const faults = faultsOf(ground);
	const through = faults.reduce((mask, f, k) => (f.zone ? mask : mask | (1 << k)), 0);
	const known = new Map<string, FaultBlock>();
	const ids = leaves.map((leaf) => {
		const sides = faults.flatMap((f, k) =>
			((leaf.asked & through) >>> k) & 1 ? [{ fault: f.id, hanging: ((leaf.block >>> k) & 1) === 1 }] : []
		);
		const id = sides.map((s) => `${s.fault}${s.hanging ? '+' : '-'}`).join(' ');
		if (!known.has(id)) {
			const nameOf = (s: FaultBlock['sides'][number]) => `${s.hanging ? 'above' : 'below'} ${faults.find((f) => f.id === s.fault)!.name}`;
			known.set(id, { id, sides, name: sides.length ? sides.map(nameOf).join(', ') : 'not cut by faults' });
		}
		return id;
	});
	const blocks = [...known.values()].sort((a, b) => a.sides.length - b.sides.length || (a.id < b.id ? -1 : 1));
	const number = new Map(blocks.map((b, i) => [b.id, i]));
	return { blocks, ofLeaf: ids.map((id) => number.get(id)!) };
}

/** Numbers of the blocks on one side of each triangle; −1 for the air and the outside. */
export function blockNumbers(leaves: Uint16Array, ofLeaf: readonly number[]): Int16Array {
	const out = new Int16Array(leaves.length);
	for (let t = 0; t < out.length; t++) out[t] = leaves[t] === AIR_LEAF || leaves[t] === OUTSIDE_LEAF ? -1 : ofLeaf[leaves[t]!]!;
	return out;
}

/** A mesh with the block on both sides of each triangle. */
export interface BlockMesh extends SolidMesh {
	frontBlock: Int16Array;
	backBlock: Int16Array;
}

/** What is left of a model when some blocks are not looked at: they count as outside, and what is left stays closed. Volumes stay as they were. */
export function withoutBlocks(mesh: BlockMesh, hidden: ReadonlySet<number>): SolidMesh {
	if (hidden.size === 0) return mesh;
	const front = mesh.front.slice();
	const back = mesh.back.slice();
	const kept: number[] = [];
	for (let t = 0; t < front.length; t++) {
		const [inFront, inBack] = [hidden.has(mesh.frontBlock[t]!), hidden.has(mesh.backBlock[t]!)];
		if (inFront) front[t] = OUTSIDE;
		if (inBack) back[t] = OUTSIDE;
		if ((inFront || front[t]! < 0) && (inBack || back[t]! < 0)) continue;
		kept.push(t);
	}
	return withTriangles({ ...mesh, front, back }, kept);
}
