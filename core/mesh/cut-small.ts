import type { ChunkTask, SmallTetrahedra } from './chunk';
import { TetrahedronCutter } from './cut-tetrahedron';
import { SmallVertices } from './cut-vertices';
import type { DecisionTree } from './decision-tree';
import type { MeshBuilder } from './mesh-builder';

/** Cuts the smaller tetrahedra of a part. */
export function cutSmall(task: ChunkTask, part: SmallTetrahedra, tree: DecisionTree, mesh: MeshBuilder, volumes: Float64Array): void {
	const { chunk: l } = task;
	const most = [l.nx, l.ny, l.nz];
	const cutter = new TetrahedronCutter(task, tree, mesh, volumes);
	cutter.vertices = new SmallVertices(cutter, mesh, part);
	const { nodes, corner } = cutter;
	for (let t = 0; t < part.tetrahedra.length; t += 4) {
		for (let c = 0; c < 4; c++) {
			const node = (nodes[c] = part.tetrahedra[t + c]!);
			for (let x = 0; x < 3; x++) corner[3 * c + x] = part.places[3 * node + x]!;
		}
		const e = (c: number, x: number) => corner[3 * c + x]! - corner[x]!;
		const six =
			e(1, 0) * (e(2, 1) * e(3, 2) - e(2, 2) * e(3, 1)) +
			e(1, 1) * (e(2, 2) * e(3, 0) - e(2, 0) * e(3, 2)) +
			e(1, 2) * (e(2, 0) * e(3, 1) - e(2, 1) * e(3, 0));
		cutter.rightHanded = six > 0;
		cutter.volume = (Math.abs(six) * l.dx * l.dy * l.dz) / 6;
		let sides: number[] | null = null;
		for (let c = 0; c < 4; c++)
			for (let x = 0; x < 3; x++)
				for (const high of [0, 1]) {
					const wall = high ? most[x]! : 0;
					if (![0, 1, 2, 3].every((o) => o === c || corner[3 * o + x] === wall)) continue;
					sides ??= [-1, -1, -1, -1];
					sides[c] = 2 * x + high;
				}
		cutter.sides = sides;
		cutter.cut();
	}
}
