import type { Chunk, ChunkTask } from './chunk';
import { CubesCutter } from './cut-cubes';
import { cutSmall } from './cut-small';
import { DecisionTree } from './decision-tree';
import { MeshBuilder } from './mesh-builder';

/** Cuts the tetrahedra of a part. */
export function cutChunk(task: ChunkTask): Chunk {
	const mesh = new MeshBuilder();
	const tree = new DecisionTree(task);
	const ofLeaf = new Float64Array(65536);
	if ('from' in task.part) new CubesCutter(task, task.part, tree, mesh, ofLeaf).run();
	else cutSmall(task, task.part, tree, mesh, ofLeaf);
	const volumes = new Map<number, number>();
	ofLeaf.forEach((volume, leaf) => {
		if (volume === 0) return;
		const label = tree.labelOfLeaf[leaf]!;
		volumes.set(label, (volumes.get(label) ?? 0) + volume);
	});
	return { ...mesh.finish(), volumes };
}
