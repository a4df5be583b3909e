import { describe, expect, it } from 'vitest';
import { p3 } from '../../bench/problems';
import { cutDyke } from '../../bench/grounds';
import { sampled } from '../../bench/sampled';
import { extract, openEdges, volumeOf } from '../mesh/extract';
import { reportOf } from '../project/report';
import { blockNumbers, blocksOf, withoutBlocks } from './blocks';
import { buildModel, type BuiltModel } from './build';
import { compareModels, type ComparedModel } from './compare';
import { fitGround, type Ground } from './fit-ground';
import type { GroundInput } from './ground';
import { faultsOf, unitsOf } from './whole';

const extent = { minX: 0, minY: 0, minZ: -300, maxX: 600, maxY: 600, maxZ: 0 };
const places = [100, 300, 500].flatMap((x) => [100, 300, 500].map((y) => [x, y] as const));
/** Two level contacts, the upper one at `top`. */
const layers = (top: number, more: Partial<GroundInput> = {}): GroundInput => ({
	extent,
	column: ['a', 'b', 'c'].map((id) => ({ id, name: id, color: '#888888', contact: 'conformable' as const })),
	contacts: places.flatMap(([x, y], i) =>
		[top, -200].map((z, surface) => ({ surface, x, y, z, hole: `H${i}`, depth: -z, table: 'log', row: i }))
	),
	observations: [],
	orientations: [],
	faults: [],
	terrain: null,
	...more
});
async function built(input: GroundInput): Promise<ComparedModel & { built: BuiltModel; ground: Ground }> {
	const ground = fitGround(input);
	const b = await buildModel(ground, { spacing: 50 });
	return {
		mesh: b.mesh,
		units: unitsOf(ground).map((u) => u.id),
		faults: faultsOf(ground).map((f) => f.id),
		contacts: input.contacts,
		built: b,
		ground
	};
}

describe('two models compared', () => {
	it('differ by nothing when they are the same', async () => {
		const m = await built(layers(-100));
		const c = compareModels(m, m);
		expect(c.contacts).toEqual([]);
		for (const v of c.volumes) expect(v.after).toBe(v.before);
		for (const s of c.surfaces) expect([s.mean, s.most].every((d) => d < 1e-9)).toBe(true);
	});

	it('tell how far a surface moved, which way, what that did to the volumes, and which contacts are others', async () => {
		// Neither lies on nodes of the lattice, where a cut keeps a hair's breadth away from them, to either side.
		const before = await built(layers(-110));
		const after = await built(layers(-98));
		const c = compareModels(before, after);
		const upper = c.surfaces.find((s) => s.id === 'a')!;
		expect(upper.mean).toBeCloseTo(12, 2);
		expect(upper.up).toBeCloseTo(12, 2);
		expect(upper.most).toBeCloseTo(12, 1);
		expect(c.surfaces.find((s) => s.id === 'b')!.most).toBeLessThan(0.03);
		const a = c.volumes.find((v) => v.unit === 'a')!;
		expect(a.before! - a.after!).toBeCloseTo(12 * 600 * 600, -3);
		expect(c.contacts).toHaveLength(9);
		for (const p of c.contacts) {
			expect(p).toMatchObject({ change: 'moved', unit: 'a' });
			expect(p.by).toBeCloseTo(12, 9);
		}
		// Told at the vertices, too; nothing where there is no surface.
		const p = after.mesh.positions;
		let told = 0;
		c.moved.forEach((d, v) => {
			if (Math.abs(p[3 * v + 2]! + 98) < 0.01) expect(d).toBeCloseTo(12, 1);
			if (!Number.isNaN(d)) told++;
		});
		expect(told).toBeGreaterThan(100);
		expect(told).toBeLessThan(c.moved.length);
	});

	it('match units by their ids, whatever their number, and find what is new and what is gone', async () => {
		const before = await built(layers(-100));
		const more = layers(-100);
		const after = await built({
			...more,
			column: [...more.column.slice(0, 2), { id: 'new', name: 'new', color: '#888888', contact: 'conformable' }, more.column[2]!],
			contacts: [
				...more.contacts.slice(2),
				...places.map(([x, y], i) => ({ surface: 2, x, y, z: -250, hole: `H${i}`, depth: 250, table: 'log', row: i }))
			]
		});
		const c = compareModels(before, after);
		expect(c.volumes.find((v) => v.unit === 'new')).toMatchObject({ before: null });
		expect(c.volumes.find((v) => v.unit === 'c')!.after! / c.volumes.find((v) => v.unit === 'c')!.before!).toBeCloseTo(0.5, 2);
		expect(c.surfaces.map((s) => s.id).sort()).toEqual(['a', 'b']);
		expect(c.contacts.filter((p) => p.change === 'added').map((p) => p.unit)).toEqual(Array.from({ length: 9 }, () => 'new'));
		expect(c.contacts.filter((p) => p.change === 'removed').map((p) => `${p.hole} ${p.unit}`)).toEqual(['H0 a', 'H0 b']);
		const back = compareModels(after, before);
		expect(back.volumes.find((v) => v.unit === 'new')).toMatchObject({ after: null });
	});
});

describe('fault blocks', () => {
	it('are named by the sides of the faults, fill the ground, and are closed when looked at alone', async () => {
		for (const input of [p3().input, sampled(cutDyke())]) {
			const { built: b, ground } = await built(input);
			const { blocks, ofLeaf } = blocksOf(ground, b.leaves);
			expect(blocks.length).toBeGreaterThan(1);
			expect(new Set(blocks.map((x) => x.id)).size).toBe(blocks.length);
			const mesh = { ...b.mesh, frontBlock: blockNumbers(b.mesh.frontLeaf, ofLeaf), backBlock: blockNumbers(b.mesh.backLeaf, ofLeaf) };
			let sum = 0;
			for (let k = 0; k < blocks.length; k++) {
				const alone = withoutBlocks(mesh, new Set(blocks.flatMap((_, o) => (o === k ? [] : [o]))));
				// All units of the block as one body.
				const body = extract(alone, (t) => (alone.back[t]! >= 0 === alone.front[t]! >= 0 ? 0 : alone.back[t]! >= 0 ? 1 : -1));
				expect(openEdges(body)).toBe(0);
				sum += volumeOf(body);
			}
			const { extent: e } = input;
			expect(Math.abs(sum / ((e.maxX - e.minX) * (e.maxY - e.minY) * (e.maxZ - e.minZ)) - 1)).toBeLessThan(1e-9);
			const { report } = reportOf(ground, b, 50, null);
			expect(report.blocks.reduce((s, x) => s + x.volume, 0) / sum).toBeCloseTo(1, 9);
		}
	});

	it('are all shown when none is hidden, and are one where no fault goes through', async () => {
		const { built: b, ground } = await built(layers(-100));
		const { blocks, ofLeaf } = blocksOf(ground, b.leaves);
		expect(blocks).toEqual([{ id: '', name: 'not cut by faults', sides: [] }]);
		const mesh = { ...b.mesh, frontBlock: blockNumbers(b.mesh.frontLeaf, ofLeaf), backBlock: blockNumbers(b.mesh.backLeaf, ofLeaf) };
		expect(withoutBlocks(mesh, new Set())).toBe(mesh);
		expect(withoutBlocks(mesh, new Set([0])).triangles.length).toBe(0);
	});
});
