import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { cubeCount, latticeOf, nodeCount, nodeOfCube, regularCount, type Lattice } from '../mesh/lattice';
import { refineLattice } from '../mesh/refine';
import { NodeSets, type NodeSet } from './node-sets';

/** Corners of all cells: of cubes that are whole, and of smaller tetrahedra. */
function cellsOf(l: Lattice): number[][] {
	const [sx, sxy] = [l.nx + 1, (l.nx + 1) * (l.ny + 1)];
	const cells: number[][] = [];
	for (let cube = 0; cube < cubeCount(l); cube++) {
		const n = nodeOfCube(l, cube);
		if (!l.finer?.opened[cube]) cells.push([n, n + 1, n + sx, n + sx + 1, n + sxy, n + sxy + 1, n + sxy + sx, n + sxy + sx + 1]);
	}
	const t = l.finer?.tetrahedra ?? [];
	for (let i = 0; i < t.length; i += 4) cells.push([t[i]!, t[i + 1]!, t[i + 2]!, t[i + 3]!]);
	return cells;
}

const lattices: Lattice[] = [3, 31, 32, 33, 70].map((nx) => latticeOf({ minX: 0, minY: 0, minZ: 0, maxX: nx, maxY: 4, maxZ: 3 }, 1));
const wanted = new Uint8Array(cubeCount(lattices[3]!));
wanted[40] = 2;
lattices.push({ ...lattices[3]!, finer: refineLattice(lattices[3]!, wanted)! });

/** The nodes of a set, by asking for all of them. */
const nodesOf = (sets: NodeSets, set: NodeSet | null): number[] => (set ? [...sets.ask(set, sets.none())] : []);

describe('sets of nodes', () => {
	it('are the corners of the cells of a set with a corner on the side, as cell by cell', () => {
		fc.assert(
			fc.property(
				fc.constantFrom(...lattices),
				fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 60, maxLength: 60 }),
				fc.double({ min: -1, max: 1, noNaN: true }),
				(l, numbers, shift) => {
					const sets = new NodeSets(l);
					const cells = cellsOf(l);
					const value = (salt: number) =>
						Float64Array.from({ length: nodeCount(l) }, (_, n) => numbers[(n * 7 + salt * 13) % 60]! + 0.6 * Math.sin(n / 9 + salt));
					const [first, second] = [value(1), value(2)];
					const within = (all: readonly number[][], v: Float64Array, level: number, above: boolean) =>
						all.filter((cell) => cell.some((n) => v[n]! >= level === above));
					const corners = (all: readonly number[][]) => [...new Set(all.flat())].sort((a, b) => a - b);
					const { above, below } = sets.sides(sets.all(), first, shift, true, true);
					const over = within(cells, first, shift, true);
					expect(nodesOf(sets, above)).toEqual(corners(over));
					expect(nodesOf(sets, below)).toEqual(corners(within(cells, first, shift, false)));
					if (!above) return;
					// Within a set, a cell counts when all of its corners are in it.
					const held = new Set(corners(over));
					const inside = cells.filter((cell) => cell.every((n) => held.has(n)));
					expect(nodesOf(sets, sets.sides(above, second, 0, false, true).below)).toEqual(corners(within(inside, second, 0, false)));
				}
			),
			{ numRuns: 120, seed: 8 }
		);
	});

	it('are asked for once', () => {
		const l = lattices[5]!;
		const sets = new NodeSets(l);
		const marks = Float64Array.from({ length: nodeCount(l) }, (_, n) => (n % 3 === 0 ? n : NaN));
		const asked = sets.known(marks);
		const missing = sets.ask(sets.all(), asked);
		expect([...missing]).toEqual(Array.from(marks, (m, n) => (m === m ? -1 : n)).filter((n) => n >= 0));
		expect(missing.at(-1)).toBeGreaterThan(regularCount(l));
		expect(sets.ask(sets.all(), asked)).toHaveLength(0);
	});

	it('are nothing on a side that no node is on, or that is not wanted', () => {
		const l = lattices[0]!;
		const sets = new NodeSets(l);
		const zero = new Float64Array(nodeCount(l));
		expect(sets.sides(sets.all(), zero, 1, true, true).above).toBeNull();
		expect(sets.sides(sets.all(), zero, -1, true, true).below).toBeNull();
		expect(sets.sides(sets.all(), zero, -1, false, false)).toEqual({ above: null, below: null });
	});
});
