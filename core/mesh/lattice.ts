import { boxIsSolid, type Box } from '../geometry/box';
import { fail } from '../problem';

/** A regular lattice of nodes over a box; node (i, j, k) has index (k·(ny+1) + j)·(nx+1) + i, cube (i, j, k) has index (k·ny + j)·nx + i. */
export interface Lattice {
	nx: number;
	ny: number;
	nz: number;
	x0: number;
	y0: number;
	z0: number;
	dx: number;
	dy: number;
	dz: number;
	/** Cubes that are parted into smaller tetrahedra. */
	finer?: Finer;
}

/** Smaller tetrahedra in the place of some cubes of a lattice. Their further nodes are numbered after those of the lattice. */
export interface Finer {
	/** Lattice coordinates of the further nodes (a cube has edges of 1), 3 each. */
	places: Float64Array;
	/** Nodes of each tetrahedron, 4 in ascending order. */
	tetrahedra: Uint32Array;
	/** By cube: 1 where the list has its tetrahedra. */
	opened: Uint8Array;
}

/** Most cells of a lattice: node numbers are packed into vertex keys with 26 bits. */
export const MOST_CELLS = 60_000_000;

/**
 * The lattice whose cells are as near to cubes of edge `spacing` as whole numbers of cells allow.
 * @throws ProblemError `zero-extent`, `bad-spacing`, `too-fine`
 */
export function latticeOf(box: Box, spacing: number): Lattice {
	if (!boxIsSolid(box))
		fail('zero-extent', 'the extent has no volume', 'Give a greatest value above the least in each direction.', 'extent');
	if (!(spacing > 0)) fail('bad-spacing', 'the spacing must be greater than 0', undefined, 'spacing');
	const count = (low: number, high: number) => Math.max(1, Math.round((high - low) / spacing));
	const nx = count(box.minX, box.maxX);
	const ny = count(box.minY, box.maxY);
	const nz = count(box.minZ, box.maxZ);
	if (nx * ny * nz > MOST_CELLS)
		fail(
			'too-fine',
			`a spacing of ${spacing} needs ${(nx * ny * nz).toLocaleString('en')} cells; the most is ${MOST_CELLS.toLocaleString('en')}`,
			`Use a spacing of ${niceSpacing(box, MOST_CELLS)} or more, or a smaller extent.`,
			'spacing'
		);
	return {
		nx,
		ny,
		nz,
		x0: box.minX,
		y0: box.minY,
		z0: box.minZ,
		dx: (box.maxX - box.minX) / nx,
		dy: (box.maxY - box.minY) / ny,
		dz: (box.maxZ - box.minZ) / nz
	};
}

/** The spacing, rounded up to two digits, that gives about this many cells. */
export function niceSpacing(box: Box, cells: number): number {
	const s = Math.cbrt(((box.maxX - box.minX) * (box.maxY - box.minY) * (box.maxZ - box.minZ)) / cells);
	const digit = 10 ** Math.floor(Math.log10(s) - 1);
	return Number((Math.ceil(s / digit) * digit).toPrecision(2));
}

/** Cells that a proposed spacing makes at most, and parts of the distance between neighbouring holes that it resolves. */
const PROPOSED_CELLS = 2_000_000;
const PARTS = 8;

/**
 * A spacing that suits a box and the places of its data on the map: an eighth of the usual distance between neighbours, in round
 * numbers, as far as two million cells allow.
 * @param places easting and northing; holes at one place count once
 */
export function proposeSpacing(box: Box, places: readonly (readonly [number, number])[]): number {
	const finest = niceSpacing(box, PROPOSED_CELLS);
	const inside = [
		...new Map(
			places.filter(([x, y]) => x >= box.minX && x <= box.maxX && y >= box.minY && y <= box.maxY).map((p) => [p.join(), p])
		).values()
	];
	if (inside.length < 2) return niceSpacing(box, PROPOSED_CELLS / 8);
	// Of many places a part tells the distance as well.
	const asked = inside.filter((_, i) => i % Math.ceil(inside.length / 300) === 0);
	const nearest = asked
		.map((a) => inside.reduce((d, b) => (a === b ? d : Math.min(d, Math.hypot(a[0] - b[0], a[1] - b[1]))), Infinity))
		.sort((a, b) => a - b);
	const wanted = nearest[nearest.length >> 1]! / PARTS;
	return Math.max(finest, Number(wanted.toPrecision(wanted < 10 ? 1 : 2)));
}

export const cubeCount = (l: Lattice): number => l.nx * l.ny * l.nz;

/** Nodes of the regular lattice. */
export const regularCount = (l: Lattice): number => (l.nx + 1) * (l.ny + 1) * (l.nz + 1);

/** All nodes, those of smaller tetrahedra included. */
export const nodeCount = (l: Lattice): number => regularCount(l) + (l.finer ? l.finer.places.length / 3 : 0);

/** The lowest node of a cube. */
export function nodeOfCube(l: Lattice, cube: number): number {
	const i = cube % l.nx;
	const rest = (cube - i) / l.nx;
	const j = rest % l.ny;
	return (((rest - j) / l.ny) * (l.ny + 1) + j) * (l.nx + 1) + i;
}

/** Lattice coordinates of nodes, 3 × n: whole numbers for those of the regular lattice. */
export function latticePlaces(l: Lattice, nodes: Uint32Array): Float64Array {
	const sx = l.nx + 1;
	const sy = l.ny + 1;
	const first = regularCount(l);
	const out = new Float64Array(nodes.length * 3);
	for (let n = 0, o = 0; n < nodes.length; n++, o += 3) {
		const node = nodes[n]!;
		if (node >= first) {
			out.set(l.finer!.places.subarray(3 * (node - first), 3 * (node - first) + 3), o);
			continue;
		}
		const i = node % sx;
		const rest = (node - i) / sx;
		const j = rest % sy;
		out[o] = i;
		out[o + 1] = j;
		out[o + 2] = (rest - j) / sy;
	}
	return out;
}

/** Project coordinates of nodes, 3 × n. */
export function nodePositions(l: Lattice, nodes: Uint32Array): Float64Array {
	const out = latticePlaces(l, nodes);
	for (let o = 0; o < out.length; o += 3) {
		out[o] = l.x0 + out[o]! * l.dx;
		out[o + 1] = l.y0 + out[o + 1]! * l.dy;
		out[o + 2] = l.z0 + out[o + 2]! * l.dz;
	}
	return out;
}
