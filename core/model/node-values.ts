import type { BlockField } from '../fields/field';
import { evaluateInBlock } from '../fields/field-kernel';
import { nodePositions, type Lattice } from '../mesh/lattice';
import { standIn } from './coarse';
import { NodeSets } from './node-sets';

/**
 * A piece of work on the values of one field at the nodes of a lattice. They lie in room that threads share, and what is found is
 * written there, so nothing of that size is sent about.
 */
export type NodesTask = {
	seen: BlockField;
	lattice: Lattice;
	values: Float64Array;
	/** What to do: a first look at all nodes, for the levels that matter; or the values at some nodes. */
	work: { levels: readonly number[] } | { nodes: Uint32Array };
};

/** What came of it. */
export interface NodesResult {
	/** Nodes that need not be asked any more, as bits of a set; null when none was looked at. */
	known: Uint32Array | null;
	/** Evaluations of the field. */
	evaluations: number;
}

/** Runs pieces of work; the default does it on the spot, hosts give one that uses threads. */
export type RunNodes = (task: NodesTask) => NodesResult | Promise<NodesResult>;

/** What a worker thread runs. A first look makes all values not numbers but those that it can tell. */
export function runNodesTask({ seen, lattice, values, work }: NodesTask): NodesResult {
	if ('levels' in work) {
		values.fill(NaN);
		const known = new Uint32Array(NodeSets.lengthOf(lattice));
		return { known, evaluations: standIn(seen, work.levels, lattice, values, known) };
	}
	const { nodes } = work;
	const found = evaluateInBlock(seen, nodePositions(lattice, nodes));
	for (let i = 0; i < nodes.length; i++) values[nodes[i]!] = found[i]!;
	return { known: null, evaluations: nodes.length };
}

/** Nodes of one piece. */
const SIZE = 8192;

/** The values at nodes, cut into pieces of work. What is found does not depend on them. */
export function valuesTasks(task: Omit<NodesTask, 'work'>, nodes: Uint32Array): NodesTask[] {
	const out: NodesTask[] = [];
	for (let from = 0; from < nodes.length; from += SIZE) out.push({ ...task, work: { nodes: nodes.slice(from, from + SIZE) } });
	return out;
}
