import { describe, expect, it } from 'vitest';
import { DecisionTree } from './decision-tree';
import { AIR_LEAF, OUTSIDE_LEAF, type Decision } from './labels';

/** Above the ground: air. Below it a fault parts two blocks, each with layers 1 and 2 on functions of its own. */
const root: Decision = {
	function: 0,
	above: { leaf: AIR_LEAF, label: -1 },
	below: {
		function: 1,
		above: { function: 2, above: { leaf: 1, label: 1 }, below: { leaf: 2, label: 2 } },
		below: { function: 3, above: { leaf: 3, label: 1 }, below: { leaf: 4, label: 2 } }
	}
};
const values = [
	[5, -1, -1, -1, -1, -1],
	[1, 1, 1, -1, -1, NaN],
	[NaN, 2, -2, NaN, 1e-9, NaN],
	[NaN, NaN, NaN, 3, -3, -3]
].map((v) => Float64Array.from(v));
const tree = new DecisionTree({ root, least: 1e-3, functions: values.map((v, surface) => ({ values: v, level: 0, surface })) });

describe('the decision of a part', () => {
	it('tells the leaf of each node, and of rows that have only one', () => {
		const { ofNode, ofRow } = tree.leavesOf(3, 2);
		expect([...ofNode]).toEqual([AIR_LEAF, 1, 2, 3, 4, 4]);
		expect([...ofRow]).toEqual([-1, -1, 4]);
	});

	it('keeps values off zero on their side, and counts what was not asked as below', () => {
		expect(tree.valueAt(2, 1)).toBe(2);
		expect(tree.valueAt(2, 4)).toBe(1e-3);
		expect(tree.valueAt(2, 0)).toBe(-1e-3);
		expect(new DecisionTree({ root, least: 1, functions: [{ values: null, level: 0, surface: 0 }] }).valueAt(0, 3)).toBe(-1);
	});

	it('knows what parts two leaves, and what else has to hold between them', () => {
		expect(tree.parting(2, 1)).toEqual({ above: 1, below: 2, function: 2, further: [] });
		expect(tree.parting(1, 4)).toEqual({
			above: 1,
			below: 4,
			function: 1,
			further: [
				{ function: 2, positive: true },
				{ function: 3, positive: false }
			]
		});
		expect(tree.parting(3, AIR_LEAF)).toEqual({
			above: AIR_LEAF,
			below: 3,
			function: 0,
			further: [
				{ function: 1, positive: false },
				{ function: 3, positive: true }
			]
		});
		expect(tree.parting(2, 1)).toBe(tree.parting(2, 1));
	});

	it('finds the leaf that four nodes agree on, or none', () => {
		expect(tree.singleLeaf(tree.root, Int32Array.of(4, 5, 4, 5))).toBe(4);
		expect(tree.singleLeaf(tree.root, Int32Array.of(1, 2, 1, 1))).toBe(-1);
		expect(tree.singleLeaf(~OUTSIDE_LEAF, Int32Array.of(0, 1, 2, 3))).toBe(OUTSIDE_LEAF);
	});
});
