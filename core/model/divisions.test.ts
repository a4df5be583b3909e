import { describe, expect, it } from 'vitest';
import type { Box } from '../geometry/box';
import { openEdges, solidOf, unitsIn } from '../mesh/extract';
import { OUTSIDE } from '../mesh/cut-lattice';
import type { Unit } from '../units/column';
import { buildModel } from './build';
import { unitsAt } from './classify';
import { fitGround } from './fit-ground';
import type { GroundInput, Division } from './ground';
import { unitAt } from './walk';
import { allContacts, columnUnitOf, unitsOf } from './whole';
import { agreementOf, reportOf } from '../project/report';
import type { Hole } from '../holes/holes';
import { holePath } from '../holes/path';
import { backFlag } from './back-flag';

const extent: Box = { minX: 0, minY: 0, minZ: -200, maxX: 1000, maxY: 1000, maxZ: 0 };
const unit = (id: string, contact: Unit['contact'] = 'conformable'): Unit => ({ id, name: id, color: '#888888', contact });
const places = [100, 300, 500, 700, 900].flatMap((x) => [100, 300, 500, 700, 900].map((y) => [x, y] as const));
/** Bases on a plane that dips east; `fall` is added east of a fault at 520. */
const contactsOn = (z: (x: number, y: number) => number, surface = 0) =>
	places.map(([x, y], i) => ({ surface, x, y, z: z(x, y), hole: `H${i}`, depth: -z(x, y), table: 'log', row: i }));
const observed = (of: (x: number, y: number, z: number) => number, from: number, to: number) =>
	places.flatMap(([x, y], i) =>
		[from, (from + to) / 2, to].flatMap((z) => (of(x, y, z) >= 0 ? [{ unit: of(x, y, z), x, y, z, hole: `H${i}`, depth: -z }] : []))
	);
const top = (x: number) => -60 - 0.05 * x;
const middle = (x: number) => -110 - 0.05 * x;
const ground = (more: Partial<GroundInput> = {}): GroundInput => ({
	extent,
	column: [unit('cover'), unit('slate')],
	contacts: contactsOn(top),
	observations: observed((x, _, z) => (z > top(x) ? 0 : 1), -5, -150),
	orientations: [],
	faults: [],
	terrain: null,
	...more
});
const division = (more: Partial<Division> = {}): Division => ({
	id: 'd1',
	name: 'Slate by hardness',
	unit: 'slate',
	column: [unit('soft'), unit('hard')],
	contacts: contactsOn(middle),
	observations: observed((x, _, z) => (z > top(x) ? -1 : z > middle(x) ? 0 : 1), -40, -170),
	orientations: [],
	faults: [],
	...more
});
const grid = () => {
	const out: number[] = [];
	for (let x = 15; x < 1000; x += 97) for (let y = 25; y < 1000; y += 111) for (let z = -195; z < 0; z += 13) out.push(x, y, z);
	return Float64Array.from(out);
};

describe('a divided unit', () => {
	it('has its parts inside it, watertight, with volumes that make up its own and nothing counted twice', async () => {
		const plain = fitGround(ground());
		const divided = fitGround(ground({ divisions: [division()] }));
		expect(divided.findings.filter((f) => f.kind !== 'one-contact')).toEqual([]);
		expect(unitsOf(divided).map((u) => u.id)).toEqual(['cover', 'slate', 'soft', 'hard']);
		expect([...columnUnitOf(divided)]).toEqual([0, 1, 1, 1]);
		expect(allContacts(divided).filter((c) => c.surface === 2)).toHaveLength(25);
		const [a, b] = [await buildModel(plain, { spacing: 25 }), await buildModel(divided, { spacing: 25 })];
		const { report } = reportOf(divided, b, 25, null);
		const volume = (id: string) => report.volumes.find((v) => v.unit === id)!.volume;
		expect(volume('slate')).toBeCloseTo(a.mesh.volumes.get(1)!, 3);
		expect(volume('soft') + volume('hard')).toBeCloseTo(volume('slate'), 3);
		expect(report.volumes.filter((v) => v.partOf).map((v) => [v.unit, v.partOf])).toEqual([
			['soft', 'slate'],
			['hard', 'slate']
		]);
		// Between two planes 50 apart.
		expect(volume('soft') / 50e6).toBeCloseTo(1, 3);
		expect(report.volumeError).toBeLessThan(1e-9);
		for (const u of unitsIn(b.mesh)) expect(openEdges(solidOf(b.mesh, u))).toBe(0);
		expect(report.surfaces.find((s) => s.unit === 'soft')!.max).toBeLessThan(0.5);
	});
	it('is compared with its own log: the parts by their codes, the rest by the units of the column', async () => {
		const g = fitGround(ground({ divisions: [division()] }));
		const hole = (x: number, wrong = 0): Hole => ({
			name: `L${x}`,
			row: 0,
			path: holePath([x, 500, 0], 180, []),
			// Logged from the base of the cover on; 10 of it the other way round where it is wrong.
			intervals: [
				{ from: -top(x), to: -middle(x) - wrong, code: 'S', table: 'hardness', row: 0 },
				{ from: -middle(x) - wrong, to: 180, code: 'H', table: 'hardness', row: 1 }
			]
		});
		const flag = await backFlag(g, [hole(200), hole(600, 10)], { S: 'soft', H: 'hard' }, 0.5, undefined, undefined, g.divisions[0]);
		const found = agreementOf(flag, unitsOf(g))!;
		expect(found.units.map((u) => u.unit)).toEqual(['soft', 'hard']);
		expect(found.compared).toBeCloseTo(180 + top(200) + 180 + top(600), 6);
		expect(found.compared * (1 - found.share)).toBeCloseTo(10, 0);
		expect(found.mismatches[0]).toMatchObject({ hole: 'L600', logged: 'hard', modelled: 'soft' });
		expect(found.mismatches[0]!.to - found.mismatches[0]!.from).toBeCloseTo(10, 0);
		// As a whole, both are the slate.
		const whole = agreementOf(await backFlag(g, [hole(600, 10)], { S: 'slate', H: 'slate' }, 0.5), unitsOf(g))!;
		expect(whole.share).toBeGreaterThan(0.99);
	});
	it('answers the same one by one and many at once, and its parts lie where their own logs say', async () => {
		const g = fitGround(ground({ divisions: [division()] }));
		const xyz = grid();
		const many = await unitsAt(g, xyz);
		const one = unitAt(g);
		for (let i = 0; i < many.length; i++) {
			const [x, y, z] = [xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!];
			expect(one(x, y, z)).toBe(many[i]);
			expect(many[i]).toBe(z > top(x) ? 0 : z > middle(x) ? 2 : 3);
		}
	});
	it('is cut by the faults of the ground that cut it, and by its own only inside', async () => {
		const own = {
			id: 'own',
			name: 'Own',
			trace: [
				[0, 480],
				[1000, 480]
			] as [number, number][],
			dip: 90,
			dipAzimuth: 0,
			youngestCut: 'soft',
			halfWidth: 0,
			on: true
		};
		const main = {
			...own,
			id: 'main',
			name: 'Main',
			trace: [
				[520, 0],
				[520, 1000]
			] as [number, number][],
			dipAzimuth: 90,
			youngestCut: 'cover'
		};
		const fall = (x: number) => (x > 520 ? -30 : 0);
		const drop = (y: number) => (y > 480 ? -12 : 0);
		const g = fitGround(
			ground({
				faults: [main],
				contacts: contactsOn((x) => top(x) + fall(x)),
				observations: [],
				divisions: [division({ contacts: contactsOn((x, y) => middle(x) + fall(x) + drop(y)), observations: [], faults: [own] })]
			})
		);
		const one = unitAt(g);
		for (const [x, y] of [
			[200, 200],
			[200, 800],
			[800, 200],
			[800, 800]
		] as const) {
			const [base, inside] = [top(x) + fall(x), middle(x) + fall(x) + drop(y)];
			expect([base + 3, base - 3, inside + 3, inside - 3].map((z) => one(x, y, z))).toEqual([0, 2, 2, 3]);
		}
		// Just across its own fault the cover is not offset.
		expect([one(200, 475, top(200) - 1), one(200, 485, top(200) - 1), one(200, 475, top(200) + 1), one(200, 485, top(200) + 1)]).toEqual([
			2, 2, 0, 0
		]);
		const built = await buildModel(g, { spacing: 50 });
		for (const u of unitsIn(built.mesh)) expect(openEdges(solidOf(built.mesh, u))).toBe(0);
	});
	it.each([
		['names a unit that is not there', { unit: 'gone' }, 'unknown-unit'],
		['has no contacts', { contacts: [] }, 'no-contacts'],
		['uses the id of another unit', { column: [unit('cover'), unit('hard')] }, 'doubled-unit']
	])('that %s stays whole, with a finding', (_, more, kind) => {
		const g = fitGround(ground({ divisions: [division(more)] }));
		expect(g.divisions).toEqual([]);
		expect(g.findings.map((f) => f.kind)).toContain(kind);
		expect(unitAt(g)(500, 500, -190)).toBe(1);
	});
});

describe('limits of a model', () => {
	const volumeIn = async (limits: GroundInput['limits'], spacing = 25) => {
		const g = fitGround(ground({ limits: limits! }));
		const { mesh, lattice: l } = await buildModel(g, { spacing });
		for (const u of unitsIn(mesh)) expect(openEdges(solidOf(mesh, u))).toBe(0);
		const total = [...mesh.volumes.values()].reduce((a, b) => a + b, 0);
		expect(total / (l.nx * l.dx * l.ny * l.dy * l.nz * l.dz)).toBeCloseTo(1, 9);
		const xyz = grid();
		const many = await unitsAt(g, xyz);
		const one = unitAt(g);
		for (let i = 0; i < many.length; i += 7) expect(one(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!)).toBe(many[i]);
		return { inside: total - (mesh.volumes.get(OUTSIDE) ?? 0), units: many };
	};
	it('an outline on the map cuts the model along it', async () => {
		const { inside, units } = await volumeIn([
			{
				kind: 'outline',
				trace: [
					[200, 200],
					[800, 200],
					[800, 800],
					[200, 800]
				]
			}
		]);
		expect(inside / (600 * 600 * 200)).toBeCloseTo(1, 2);
		expect(units[0]).toBe(OUTSIDE);
	});
	it('surfaces above and below bound it', async () => {
		const flat = { x0: 0, y0: 0, dx: 1000, dy: 1000, nx: 2, ny: 2, values: Float32Array.of(-40, -40, -40, -40) };
		const { inside } = await volumeIn([
			{ kind: 'under', raster: flat, by: 0 },
			{ kind: 'over', raster: flat, by: -100 }
		]);
		expect(inside / (1000 * 1000 * 100)).toBeCloseTo(1, 6);
	});
	it('a closed mesh bounds it: a ball', async () => {
		// An octahedron made round.
		let faces: [number, number, number][][] = [];
		for (const sx of [1, -1])
			for (const sy of [1, -1])
				for (const sz of [1, -1])
					faces.push(
						sx * sy * sz > 0
							? [
									[sx, 0, 0],
									[0, sy, 0],
									[0, 0, sz]
								]
							: [
									[sx, 0, 0],
									[0, 0, sz],
									[0, sy, 0]
								]
					);
		const half = (a: number[], b: number[]): [number, number, number] => {
			const m = [0, 1, 2].map((c) => a[c]! + b[c]!);
			const l = Math.hypot(...m);
			return m.map((v) => v / l) as [number, number, number];
		};
		for (let n = 0; n < 4; n++)
			faces = faces.flatMap(([a, b, c]) => [
				[a!, half(a!, b!), half(a!, c!)],
				[half(a!, b!), b!, half(b!, c!)],
				[half(a!, c!), half(b!, c!), c!],
				[half(a!, b!), half(b!, c!), half(a!, c!)]
			]);
		const known = new Map<string, number>();
		const positions: number[] = [];
		const triangles = faces.flat().map((p) => {
			const key = p.map((v) => v.toFixed(9)).join();
			if (!known.has(key)) {
				known.set(key, positions.length / 3);
				positions.push(500 + 90 * p[0], 500 + 90 * p[1], -100 + 90 * p[2]);
			}
			return known.get(key)!;
		});
		const mesh = { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
		const { inside } = await volumeIn([{ kind: 'inside', mesh }], 12.5);
		expect(inside / ((4 / 3) * Math.PI * 90 ** 3)).toBeGreaterThan(0.97);
		expect(inside / ((4 / 3) * Math.PI * 90 ** 3)).toBeLessThan(1.005);
		const open = { ...mesh, triangles: mesh.triangles.slice(3) };
		await expect(buildModel(fitGround(ground({ limits: [{ kind: 'inside', mesh: open }] })), { spacing: 50 })).rejects.toThrow(
			'not closed'
		);
	});
	it('a distance from the data keeps what is near them', async () => {
		const { units } = await volumeIn([{ kind: 'near', distance: 60 }], 50);
		const xyz = grid();
		const data = [...ground().contacts, ...ground().observations];
		for (let i = 0; i < units.length; i++) {
			const near = Math.min(...data.map((p) => Math.hypot(p.x - xyz[3 * i]!, p.y - xyz[3 * i + 1]!, p.z - xyz[3 * i + 2]!)));
			expect(units[i] === OUTSIDE).toBe(near > 60);
		}
	});
});
