import { describe, expect, it } from 'vitest';
import { p10, p7, p8 } from '../../bench/grounds';
import { p2, surfaceError } from '../../bench/problems';
import { sampled, type Truth } from '../../bench/sampled';
import { asCut, slimShares } from '../../bench/slim';
import { openEdges, solidOf, surfaceOf, unitsIn, volumeOf } from '../mesh/extract';
import { longestEdge } from '../mesh/for-tests';
import { NearestTriangle } from '../mesh/nearest-triangle';
import { buildModel } from './build';
import { fitGround } from './fit-ground';
import compute, { inTasks, type ComputeTask, type Run } from './compute';

const GROUNDS: [string, () => Truth][] = [
	['P7', p7],
	['P8', p8],
	['P10', p10]
];

const sameNumbers = (a: ArrayLike<number>, b: ArrayLike<number>): boolean =>
	a.length === b.length && Array.prototype.every.call(a, (v, i) => v === b[i]);

describe('the coarse look at fields', () => {
	it.each(GROUNDS)('changes nothing in the model of %s', async (_id, truth) => {
		const ground = fitGround(sampled(truth()));
		const every = await buildModel(ground, { spacing: 50, everyNode: true });
		const looked = await buildModel(ground, { spacing: 50 });
		expect(looked.mesh.triangles.length).toBe(every.mesh.triangles.length);
		// Where one cut meets another, a side far from the level may be given by another value: the last bits of a vertex, no more.
		let most = 0;
		for (let i = 0; i < every.mesh.positions.length; i++)
			most = Math.max(most, Math.abs(every.mesh.positions[i]! - looked.mesh.positions[i]!));
		expect(most).toBeLessThan(1e-9);
		expect(sameNumbers(looked.mesh.triangles, every.mesh.triangles)).toBe(true);
		expect(looked.evaluations).toBeLessThan(every.evaluations);
	});
});

describe('finer parts', () => {
	const input = sampled(p10());
	const ground = fitGround(input);

	it('of a surface, of a unit and where data are dense keep solids closed and volumes whole', async () => {
		const units = input.column.map((u) => u.id);
		for (const finer of [
			{ surfaces: [{ unit: units[1]!, spacing: 50 }], units: [], dense: false },
			{ surfaces: [], units: [{ unit: units[2]!, spacing: 50 }], dense: false },
			{ surfaces: [], units: [], dense: true }
		]) {
			const { mesh, lattice } = await buildModel(ground, { spacing: 100, finer });
			expect(lattice.finer).toBeDefined();
			let sum = 0;
			for (const u of unitsIn(mesh)) {
				const solid = solidOf(mesh, u);
				expect(openEdges(solid)).toBe(0);
				expect(Math.abs(volumeOf(solid) / mesh.volumes.get(u)! - 1)).toBeLessThan(1e-9);
				sum += mesh.volumes.get(u)!;
			}
			expect(Math.abs(sum / 4e9 - 1)).toBeLessThan(1e-9);
		}
	});

	it('halve the edges of the surface that was meant, and only near it', async () => {
		const unit = input.column[1]!.id;
		const plain = await buildModel(ground, { spacing: 100 });
		const fine = await buildModel(ground, { spacing: 100, finer: { surfaces: [{ unit, spacing: 25 }], units: [], dense: false } });
		expect(longestEdge(surfaceOf(fine.mesh, 1))).toBeLessThan(0.35 * longestEdge(surfaceOf(plain.mesh, 1)));
		const { opened } = fine.lattice.finer!;
		expect(opened.reduce((n, o) => n + o, 0)).toBeLessThan(0.7 * opened.length);
	});

	it('have next to no slim triangles, and lie as they were cut', async () => {
		const unit = input.column[1]!.id;
		const options = { spacing: 100, finer: { surfaces: [{ unit, spacing: 50 }], units: [], dense: false } };
		const cut = (await buildModel(ground, { ...options, mend: asCut })).mesh;
		const { mesh } = await buildModel(ground, options);
		// Most were slim because a cut ran past a node: without mending there would be nothing to see.
		expect(slimShares(cut)[0]).toBeGreaterThan(0.1);
		expect(slimShares(cut)[1]).toBeGreaterThan(0.01);
		expect(slimShares(mesh)[0]).toBeLessThan(0.03);
		expect(slimShares(mesh)[1]).toBeLessThan(0.0006);
		expect(longestEdge(surfaceOf(mesh, 1))).toBeLessThan(1.3 * longestEdge(surfaceOf(cut, 1)));
		const surface = new NearestTriangle(surfaceOf(cut, 1));
		const { positions: p } = surfaceOf(mesh, 1);
		let most = 0;
		for (let i = 0; i < p.length; i += 3) most = Math.max(most, surface.distance(p[i]!, p[i + 1]!, p[i + 2]!));
		// 0.4 % of the longest edge there, three times at most.
		expect(most).toBeLessThan(1.2);
		for (const [u, volume] of mesh.volumes) expect(Math.abs(volume / cut.volumes.get(u)! - 1)).toBeLessThan(1e-4);
	});

	it('bring a surface as near to the truth as the whole model at that spacing would', async () => {
		const p = p2();
		const g = fitGround(p.input);
		// Contacts pull the surface towards them at any spacing: to see what the cells do alone, they ask for nothing.
		const alone = { ...g, input: { ...g.input, contacts: g.input.contacts.map((c) => ({ ...c, error: 1 })) } };
		const rms = (mesh: Awaited<ReturnType<typeof buildModel>>['mesh']) => surfaceError(p, surfaceOf(mesh, 1).positions, 1);
		// As they are cut: which of their vertices stay when slim triangles go changes a mean of vertices, not where the surface lies.
		const parts = { surfaces: [{ unit: p.input.column[1]!.id, spacing: 50 }], units: [], dense: false };
		const whole = rms((await buildModel(alone, { spacing: 50, mend: asCut })).mesh);
		const finer = rms((await buildModel(alone, { spacing: 200, finer: parts, mend: asCut })).mesh);
		expect(finer).toBeLessThan(1.15 * whole + 0.01);
		expect(rms((await buildModel(g, { spacing: 200, finer: parts })).mesh)).toBeLessThan(1.1 * finer);
	});

	it('are the same by tasks that end in any order', async () => {
		const finer = { surfaces: [], units: [{ unit: input.column[2]!.id, spacing: 50 }], dense: false };
		const here = await buildModel(ground, { spacing: 100, finer });
		let n = 0;
		const run = (async (task: ComputeTask) => {
			await new Promise((done) => setTimeout(done, (n++ * 7) % 5));
			return compute(structuredClone(task));
		}) as unknown as Run;
		const there = await buildModel(ground, { spacing: 100, finer, ...inTasks(run) });
		for (const key of ['positions', 'triangles', 'front', 'back', 'surface', 'frontLeaf', 'backLeaf'] as const)
			expect(sameNumbers(there.mesh[key], here.mesh[key])).toBe(true);
		expect(there.mesh.volumes).toEqual(here.mesh.volumes);
		expect(there.evaluations).toBe(here.evaluations);
	});
});
