import { describe, expect, it } from 'vitest';
import { p10, p4, p6, p7, p8 } from '../../bench/grounds';
import { random } from '../../bench/problems';
import { sampled, type Truth } from '../../bench/sampled';
import { elevationGrid } from '../mesh/grid-over';
import { FAULT } from '../mesh/cut-lattice';
import { openEdges, solidOf, surfaceOf, surfacesIn, unitsIn, volumeOf } from '../mesh/extract';
import { misfits } from '../mesh/misfit';
import { buildModel } from './build';
import { runNodesTask, type RunNodes } from './node-values';
import { fitGround } from './fit-ground';
import type { GroundInput } from './ground';

// What must always hold, on grounds with everything in them: layers, erosion, bodies, sheets, faults that end and die out.
const GROUNDS: [string, () => Truth][] = [
	['P4', p4],
	['P6', p6],
	['P7', p7],
	['P8', p8],
	['P10', p10]
];
const SPACING = 100;
const build = async (input: GroundInput, spacing = SPACING, nodes: RunNodes = runNodesTask) =>
	(await buildModel(fitGround(input), { spacing, nodes })).mesh;

function shuffled<T>(list: readonly T[], seed: number): T[] {
	const r = random(seed);
	const out = [...list];
	for (let i = out.length - 1; i > 0; i--) {
		const j = Math.floor(r() * (i + 1));
		[out[i], out[j]] = [out[j]!, out[i]!];
	}
	return out;
}

/** The same ground somewhere else, in another unit of length. */
function moved(input: GroundInput, by: readonly [number, number], unit: number): GroundInput {
	const at = <P extends { x: number; y: number; z: number }>(p: P): P => ({
		...p,
		x: p.x * unit + by[0],
		y: p.y * unit + by[1],
		z: p.z * unit
	});
	const { extent: e } = input;
	return {
		...input,
		extent: {
			minX: e.minX * unit + by[0],
			maxX: e.maxX * unit + by[0],
			minY: e.minY * unit + by[1],
			maxY: e.maxY * unit + by[1],
			minZ: e.minZ * unit,
			maxZ: e.maxZ * unit
		},
		contacts: input.contacts.map((c) => ({ ...at(c), depth: c.depth * unit })),
		observations: input.observations.map((o) => ({ ...at(o), depth: o.depth * unit })),
		orientations: input.orientations.map(at),
		faults: input.faults.map((f) => ({
			...f,
			trace: f.trace.map(([x, y]) => [x * unit + by[0], y * unit + by[1]] as [number, number]),
			halfWidth: f.halfWidth * unit,
			...(f.tips
				? {
						tips: {
							elevation: f.tips.elevation * unit,
							halfLength: f.tips.halfLength * unit,
							halfHeight: f.tips.halfHeight * unit,
							reach: f.tips.reach * unit
						}
					}
				: {})
		}))
	};
}

describe.each(GROUNDS)('the model of %s', (_id, truth) => {
	const input = sampled(truth());

	it('is closed, consistently turned, and as large as its box; neighbours share their vertices', async () => {
		const mesh = await build(input);
		let sum = 0;
		for (const u of unitsIn(mesh)) {
			const solid = solidOf(mesh, u);
			expect(openEdges(solid)).toBe(0);
			expect(volumeOf(solid)).toBeGreaterThan(0);
			expect(Math.abs(volumeOf(solid) / mesh.volumes.get(u)! - 1)).toBeLessThan(1e-9);
			sum += volumeOf(solid);
		}
		expect(Math.abs(sum / 4e9 - 1)).toBeLessThan(1e-9);
		// Every triangle has three vertices and an area.
		for (let t = 0; t < mesh.triangles.length; t += 3) expect(new Set(mesh.triangles.subarray(t, t + 3)).size).toBe(3);
	});

	it('is the same for any order of the rows', async () => {
		const [a, b] = [
			await build(input),
			await build({
				...input,
				contacts: shuffled(input.contacts, 3),
				observations: shuffled(input.observations, 4),
				orientations: shuffled(input.orientations, 5)
			})
		];
		expect(b.triangles).toEqual(a.triangles);
		expect(b.positions).toEqual(a.positions);
	});

	it('has the same shape to 1 mm at seven-digit northings, and in feet', async () => {
		// At this spacing no plane of the grounds lies on nodes, where a rounding would choose the triangles.
		const spacing = 118;
		const here = await build(input, spacing);
		for (const [by, unit] of [
			[[412_000, 7_234_000], 1],
			[[0, 0], 1 / 0.3048]
		] as const) {
			const there = await build(moved(input, by, unit), spacing * unit);
			for (const [u, v] of here.volumes) expect(Math.abs(there.volumes.get(u)! / unit ** 3 / v - 1)).toBeLessThan(1e-9);
			// Heights of all surfaces on a grid of lines from above.
			const grid = { x0: 13, y0: 17, dx: 47, dy: 47, nx: 42, ny: 42 };
			const far = { x0: grid.x0 * unit + by[0], y0: grid.y0 * unit + by[1], dx: grid.dx * unit, dy: grid.dy * unit, nx: 42, ny: 42 };
			for (const s of surfacesIn(here).filter((x) => x < FAULT)) {
				const [a, b] = [elevationGrid(surfaceOf(here, s), grid), elevationGrid(surfaceOf(there, s), far)];
				let most = 0;
				a.values.forEach((z, k) => {
					// A line along the rim of a surface may meet it here and miss it there.
					if (!Number.isNaN(z) && !Number.isNaN(b.values[k]!)) most = Math.max(most, Math.abs(z - b.values[k]! / unit));
				});
				expect(most).toBeLessThan(1e-3);
			}
		}
	});

	it('does not depend on how the work is cut into pieces', async () => {
		const pieces: RunNodes = async (task) => {
			if ('levels' in task.work) return runNodesTask(task);
			// Pieces of odd sizes, the last first, each when others had their turn.
			const { nodes } = task.work;
			for (let to = nodes.length; to > 0; to = Math.max(0, to - 777)) {
				await new Promise((later) => setImmediate(later));
				runNodesTask({ ...task, work: { nodes: nodes.slice(Math.max(0, to - 777), to) } });
			}
			return { known: null, evaluations: nodes.length };
		};
		const [a, b] = [await build(input), await build(input, SPACING, pieces)];
		expect(b.positions).toEqual(a.positions);
		expect(b.triangles).toEqual(a.triangles);
	});

	it('honours all contacts in the box within 2 % of the spacing', async () => {
		const mesh = await build(input, 50);
		const { extent: e } = input;
		const inBox = input.contacts.filter(
			(c) => c.x >= e.minX && c.x <= e.maxX && c.y >= e.minY && c.y <= e.maxY && c.z >= e.minZ && c.z <= e.maxZ
		);
		const list = misfits(mesh, inBox);
		expect(list.length).toBeGreaterThan(50);
		for (const m of list) expect(m.distance, JSON.stringify(inBox[m.contact])).toBeLessThan(1);
	});
});

describe('data that can not be modelled as they are', () => {
	const input = sampled(p10());
	const kinds = (i: GroundInput) => fitGround(i).findings.map((f) => f.kind);

	it('an intrusion that no hole meets is named, and the rest is modelled', async () => {
		const without = {
			...input,
			contacts: input.contacts.filter((c) => c.surface !== 0),
			observations: input.observations.filter((o) => o.unit !== 0)
		};
		expect(kinds(without)).toContain('intrusion-not-met');
		expect(unitsIn(await build(without))).toEqual([1, 2, 3, 4]);
	});
	it('a sheet with two intercepts is built as a body, and said so', () => {
		const holes = [...new Set(input.contacts.filter((c) => c.surface === 0).map((c) => c.hole))].slice(0, 2);
		const few = {
			...input,
			column: input.column.map((u, i) => (i === 0 ? { ...u, form: 'sheet' as const } : u)),
			contacts: input.contacts.filter((c) => c.surface !== 0 || holes.includes(c.hole)),
			observations: input.observations.filter((o) => o.unit !== 0 || holes.includes(o.hole))
		};
		expect(kinds(few)).toContain('sheet-as-body');
	});
	it('a fault with data on one side only offsets nothing and is named', () => {
		const aside = {
			...input,
			faults: [
				{
					...input.faults[0]!,
					trace: [
						[-4000, 0],
						[-4000, 2000]
					] as [number, number][]
				}
			]
		};
		expect(kinds(aside)).toContain('fault-one-sided');
	});
	it('a surface with one contact is drawn through it, and said so', async () => {
		const layer = input.contacts.filter((c) => c.surface === 2)[0]!;
		const one = { ...input, faults: [], contacts: [...input.contacts.filter((c) => c.surface !== 2), layer] };
		expect(kinds(one)).toContain('one-contact');
		expect(surfacesIn(await build(one))).toContain(2);
	});
	it('holes that contradict each other are named', () => {
		const c = input.contacts.find((x) => x.surface === 2)!;
		const twin = { ...input, contacts: [...input.contacts, { ...c, x: c.x + 0.4, z: c.z - 120, hole: 'TWIN' }] };
		expect(fitGround(twin).findings.some((f) => f.kind === 'contradicting-contacts' && f.message.includes('TWIN'))).toBe(true);
	});
	it('a body that is told to be one is closed, though its intercepts look like a sheet', async () => {
		const sheet = sampled(p7());
		const mesh = await build({ ...sheet, column: sheet.column.map((u, i) => (i === 0 ? { ...u, form: 'body' as const } : u)) });
		expect(openEdges(solidOf(mesh, 0))).toBe(0);
		expect(surfaceOf(mesh, 0).triangles.length).toBeGreaterThan(0);
	});
});
