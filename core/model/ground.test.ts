import { describe, expect, it } from 'vitest';
import { p1, p3 } from '../../bench/problems';
import { inBlock } from '../fields/field';
import { planeNormal } from '../geometry/angles';
import type { Raster } from '../grids/raster';
import { AIR } from '../mesh/cut-lattice';
import { isGroundTop, openEdges, solidOf, surfaceOf, surfacesIn, unitsIn, volumeOf } from '../mesh/extract';
import { latticeOf, MOST_CELLS, niceSpacing, nodeCount, nodePositions } from '../mesh/lattice';
import { reportOf } from '../project/report';
import { contactsOf } from '../units/contacts';
import type { ContactKind, Unit } from '../units/column';
import { holePath } from '../holes/path';
import { buildModel, estimateBuild } from './build';
import { faultDistance } from './fault-field';
import { faultZones, fitFaults, validateFault } from './faults';
import { fitGround } from './fit-ground';
import type { FaultSpec, GroundInput } from './ground';
import { unitAt, walkOf } from './walk';

const box = { minX: 0, minY: 0, minZ: -500, maxX: 1000, maxY: 1000, maxZ: 0 };
const unit = (id: string, contact: ContactKind): Unit => ({ id, name: id, color: '#888888', contact });

/** A ground sampled by vertical holes on a 6 × 6 grid: `at` gives the index of the unit at a place. */
function sampled(column: Unit[], at: (x: number, y: number, z: number) => number, more: Partial<GroundInput> = {}): GroundInput {
	const holes = [];
	for (let i = 0; i < 6; i++)
		for (let j = 0; j < 6; j++) {
			const [x, y] = [80 + 168 * i, 80 + 168 * j];
			const intervals = [];
			let from = 0;
			let now = at(x, y, 0);
			for (let d = 1; d <= 500; d++) {
				const next = d === 500 ? -1 : at(x, y, -d);
				if (next === now) continue;
				intervals.push({ from, to: d, code: column[now]!.id, table: 'log', row: intervals.length });
				[from, now] = [d, next];
			}
			holes.push({ name: `${i}-${j}`, row: 0, path: holePath([x, y, 0], 500, []), intervals });
		}
	const contacts = contactsOf(holes, Object.fromEntries(column.map((u) => [u.id, u.id])), column);
	return {
		extent: box,
		column,
		contacts: contacts.points,
		observations: contacts.observations,
		orientations: [],
		faults: [],
		terrain: null,
		...more
	};
}
const share = (input: GroundInput, at: (x: number, y: number, z: number) => number) => {
	const model = unitAt(fitGround(input));
	let right = 0;
	let n = 0;
	for (let x = 55; x < 1000; x += 90)
		for (let y = 55; y < 1000; y += 90)
			for (let z = -480; z < 0; z += 24) {
				n++;
				if (model(x, y, z) === at(x, y, z)) right++;
			}
	return right / n;
};

describe('how contacts meet', () => {
	const tilted = (x: number, z: number) => (z > -120 - 0.3 * x ? 1 : z > -220 - 0.3 * x ? 2 : 3);
	it('an erosional base cuts what is older, and nothing older comes up through it', async () => {
		const column = [unit('cover', 'erosional'), unit('a', 'conformable'), unit('b', 'conformable'), unit('c', 'conformable')];
		const at = (x: number, _y: number, z: number) => (z > -150 ? 0 : tilted(x, z));
		const input = sampled(column, at);
		expect(share(input, at)).toBeGreaterThan(0.985);
		const { mesh } = await buildModel(fitGround(input), { spacing: 40 });
		for (const u of [1, 2, 3]) {
			const p = solidOf(mesh, u).positions;
			for (let i = 2; i < p.length; i += 3) expect(p[i]).toBeLessThan(-148);
		}
	});
	it('a dyke is where holes are in it, from top to bottom, and nowhere else; it makes no contact of the layers', () => {
		const column = [unit('dyke', 'intrusive'), unit('a', 'conformable'), unit('b', 'conformable')];
		// Between x = 350 and 650 stand the columns of holes at 416 and 584; its top lies at 30 m.
		const at = (x: number, _y: number, z: number) => (Math.abs(x - 500) < 150 && z < -30 ? 0 : z > -240 ? 1 : 2);
		const input = sampled(column, at);
		expect(new Set(input.contacts.map((c) => c.surface))).toEqual(new Set([0, 1]));
		const model = unitAt(fitGround(input));
		for (const y of [80, 416, 752])
			for (const z of [-100, -300, -480])
				expect([248, 416, 584, 752].map((x) => model(x, y, z))).toEqual([at(248, y, z), 0, 0, at(752, y, z)]);
	});
	it('a unit that no hole shows is left out and named, not drawn from nothing', async () => {
		const column = [unit('a', 'conformable'), unit('ghost', 'conformable'), unit('b', 'conformable')];
		const input = sampled(column, (_x, _y, z) => (z > -200 ? 0 : 2));
		const ground = fitGround(input);
		expect(ground.findings.map((f) => [f.kind, f.message])).toEqual([['unit-not-seen', 'ghost was not met in any hole']]);
		const at = unitAt(ground);
		for (const [z, u] of [
			[-50, 0],
			[-190, 0],
			[-210, 2],
			[-400, 2]
		] as const)
			expect(at(500, 500, z)).toBe(u);
	});
});

describe('a fault', () => {
	const spec: FaultSpec = {
		id: 'f',
		name: 'F',
		trace: [
			[500, 0],
			[500, 1000]
		],
		dip: 60,
		dipAzimuth: 90,
		youngestCut: 'a',
		halfWidth: 5,
		on: true
	};
	const column = [unit('cover', 'erosional'), unit('a', 'conformable'), unit('b', 'conformable')];
	const east = (x: number, z: number) => Math.sin(Math.PI / 3) * (x - 500) + Math.cos(Math.PI / 3) * z > 0;
	const faulted = (x: number, _y: number, z: number) => (z > -60 ? 0 : z > (east(x, z) ? -330 : -230) ? 1 : 2);
	const input = () => sampled(column, faulted, { faults: [spec] });

	it('offsets what it cuts and leaves alone what is younger', () => {
		const at = unitAt(fitGround(input()));
		for (const [x, z, u] of [
			[200, -30, 0],
			[800, -30, 0],
			[200, -150, 1],
			[200, -280, 2],
			[800, -280, 1],
			[800, -400, 2]
		] as const)
			expect(at(x, 500, z)).toBe(u);
		expect(share(input(), faulted)).toBeGreaterThan(0.97);
	});
	it('that is off does not exist', () => {
		expect(fitFaults({ ...input(), faults: [{ ...spec, on: false }] })).toEqual([]);
		expect(walkOf(fitGround({ ...input(), faults: [{ ...spec, on: false }] })).questions.some((q) => q.surface.kind === 'fault')).toBe(
			false
		);
	});
	it('has distances with the sign of the hanging wall', () => {
		const b = inBlock(fitFaults(input())[0]!.field, 0);
		for (const [x, z] of [
			[600, 0],
			[400, 0],
			[500, -100],
			[700, -300]
		] as const)
			expect(faultDistance(b, x, 500, z)).toBeCloseTo(Math.sin(Math.PI / 3) * (x - 500) + Math.cos(Math.PI / 3) * z, 3);
	});
	it('over relief is the plane that its trace and dip say', () => {
		// The trace of a plane that dips 40° to 120°, walked over a slope.
		const n = planeNormal(40, 120);
		const slope = (x: number, y: number) => 0.1 * x + 0.05 * y - 200;
		const terrain: Raster = {
			x0: -500,
			y0: -500,
			dx: 100,
			dy: 100,
			nx: 21,
			ny: 21,
			values: Float32Array.from({ length: 441 }, (_, k) => slope(-500 + 100 * (k % 21), -500 + 100 * Math.floor(k / 21)))
		};
		const trace = [100, 300, 500, 700, 900].map((y): [number, number] => {
			// n·(p − p0) = 0 with z on the slope, through (500, 500).
			const x = 500 - ((n[1] + 0.05 * n[2]) * (y - 500)) / (n[0] + 0.1 * n[2]);
			return [x, y];
		});
		const b = inBlock(fitFaults({ ...input(), terrain, faults: [{ ...spec, trace, dip: 40, dipAzimuth: 100 }] })[0]!.field, 0);
		const z0 = slope(500, 500);
		for (const [dx, dy, dz] of [
			[0, 0, 0],
			[100, 50, -80],
			[-200, 100, 30],
			[50, -300, -100]
		] as const)
			expect(Math.abs(faultDistance(b, 500 + dx, 500 + dy, z0 + dz) - (n[0] * dx + n[1] * dy + n[2] * dz))).toBeLessThan(0.5);
	});
	it('zones say where a boundary belongs to the fault, and which units it cuts', () => {
		const zones = faultZones(fitFaults(input()), 'm');
		expect([zones.count, zones.halfWidth(0), zones.cuts(0, 0), zones.cuts(0, 1), zones.cuts(0, 2)]).toEqual([1, 5, false, true, true]);
	});
	it.each<[string, Partial<FaultSpec>, string]>([
		['no trace', { trace: [] }, 'no vertices'],
		[
			'a trace of one place',
			{
				trace: [
					[1, 1],
					[1, 1]
				]
			},
			'one vertex'
		],
		['a flat dip', { dip: 0 }, 'must be above 0'],
		['an overhanging dip', { dip: 91 }, 'must be above 0'],
		['a unit that is not there', { youngestCut: 'nothing' }, 'names no unit']
	])('with %s is refused', (_, change, message) => expect(() => validateFault({ ...spec, ...change }, ['a', 'b'])).toThrow(message));
	it('a vertical one is allowed', () => expect(() => validateFault({ ...spec, dip: 90 }, ['a'])).not.toThrow());
	it('more than the engine has blocks for are refused', () => {
		expect(() => fitFaults({ ...input(), faults: Array.from({ length: 31 }, (_, i) => ({ ...spec, id: `f${i}` })) })).toThrow(
			'31 faults; the most is 30'
		);
	});
});

describe('terrain', () => {
	const hill = (x: number, y: number) => -40 - ((x - 500) ** 2 + (y - 500) ** 2) / 8000;
	const terrain: Raster = {
		x0: 0,
		y0: 0,
		dx: 50,
		dy: 50,
		nx: 21,
		ny: 21,
		values: Float32Array.from({ length: 441 }, (_, k) => hill(50 * (k % 21), 50 * Math.floor(k / 21)))
	};
	const input = () => ({ ...sampled([unit('a', 'conformable'), unit('b', 'conformable')], (_x, _y, z) => (z > -220 ? 0 : 1)), terrain });
	it('trims the model: air above, ground below, nothing lost', async () => {
		const ground = fitGround(input());
		const built = await buildModel(ground, { spacing: 50 });
		const at = unitAt(ground);
		expect([at(500, 500, -39), at(500, 500, -41), at(0, 0, -90)]).toEqual([AIR, 0, AIR]);
		let air = 0;
		for (let i = 0; i < 200; i++) for (let j = 0; j < 200; j++) air -= hill(5 * i + 2.5, 5 * j + 2.5) * 25;
		expect(built.mesh.volumes.get(AIR)! / air).toBeCloseTo(1, 2);
		expect(reportOf(ground, built, 50, null).report.volumeError).toBeLessThan(1e-9);
	});
	it('the face of the ground is one sheet over the whole map', async () => {
		const { mesh } = await buildModel(fitGround(input()), { spacing: 50 });
		let area = 0;
		for (let t = 0; t < mesh.front.length; t++) {
			if (!isGroundTop(mesh, t, true)) continue;
			const [a, b, c] = [0, 1, 2].map((k) => 3 * mesh.triangles[3 * t + k]!) as [number, number, number];
			const p = mesh.positions;
			area += ((p[b]! - p[a]!) * (p[c + 1]! - p[a + 1]!) - (p[c]! - p[a]!) * (p[b + 1]! - p[a + 1]!)) / 2;
		}
		expect(Math.abs(area)).toBeCloseTo(1e6, 3);
	});
});

describe('what is built', () => {
	it('each unit is closed and has the volume that is reported, at any spacing', async () => {
		const ground = fitGround(p3().input);
		for (const spacing of [173, 100]) {
			const built = await buildModel(ground, { spacing });
			const { report } = reportOf(ground, built, spacing, null);
			for (const u of unitsIn(built.mesh)) {
				const solid = solidOf(built.mesh, u);
				expect(openEdges(solid)).toBe(0);
				expect(volumeOf(solid)).toBeCloseTo(report.volumes[u]!.volume, 0);
			}
			expect(report.cells).toBe(built.lattice.nx * built.lattice.ny * built.lattice.nz);
			expect(report.surfaces.map((s) => s.name)).toEqual(['base of Unit 1', 'base of Unit 2', 'base of Unit 3']);
		}
	});
	it('surfaces lie between the units that they separate', async () => {
		const { mesh } = await buildModel(fitGround(p1().input), { spacing: 100 });
		expect(surfacesIn(mesh)).toEqual([0, 1, 2]);
		for (let t = 0; t < mesh.front.length; t++)
			if (mesh.surface[t]! < 3) expect([mesh.front[t], mesh.back[t]].sort()).toEqual([mesh.surface[t], mesh.surface[t]! + 1]);
		expect(surfaceOf(mesh, 7).triangles).toHaveLength(0);
	});
	it('stops when it is told to', async () => {
		const stop = new AbortController();
		const build = buildModel(fitGround(p1().input), { spacing: 50, signal: stop.signal, progress: () => stop.abort() });
		await expect(build).rejects.toThrow(/abort/i);
	});
	it('says how far it is, never back', async () => {
		const shares: number[] = [];
		await buildModel(fitGround(p1().input), { spacing: 100, progress: (_, s) => shares.push(s) });
		expect(shares.length).toBeGreaterThan(1);
		expect([...shares].sort((a, b) => a - b)).toEqual(shares);
		expect(shares.at(-1)).toBeLessThanOrEqual(1);
	});
});

describe('the lattice', () => {
	it('has whole cells that fill the box', () => {
		const l = latticeOf({ minX: 10, minY: 20, minZ: -300, maxX: 1010, maxY: 775, maxZ: 5 }, 40);
		expect([l.nx, l.ny, l.nz]).toEqual([25, 19, 8]);
		const p = nodePositions(l, Uint32Array.of(0, nodeCount(l) - 1, 1, l.nx + 1));
		expect([...p.slice(0, 3)]).toEqual([10, 20, -300]);
		[1010, 775, 5].forEach((v, c) => expect(p[3 + c]).toBeCloseTo(v, 9));
		expect([p[6], p[10]]).toEqual([50, 20 + 755 / 19]);
	});
	it('is refused when it has no size, no spacing, or too many cells, with one that would do', () => {
		expect(() => latticeOf({ ...box, maxX: 0 }, 10)).toThrow('no volume');
		expect(() => latticeOf(box, 0)).toThrow('greater than 0');
		expect(() => latticeOf(box, NaN)).toThrow('greater than 0');
		expect(() => latticeOf(box, 0.5)).toThrow('the most is');
		expect(() => latticeOf(box, niceSpacing(box, MOST_CELLS))).not.toThrow();
	});
	it('a proposed spacing has two digits and gives no more cells than asked for', () => {
		for (const cells of [1000, 50_000, 1e6]) {
			const s = niceSpacing(box, cells);
			expect(Number(s.toPrecision(2))).toBe(s);
			expect((1000 * 1000 * 500) / s ** 3).toBeLessThanOrEqual(cells * 1.001);
		}
	});
	it('costs more memory the finer it is', () => {
		const at = (s: number) => estimateBuild({ extent: box, column: [1, 2, 3] }, s);
		expect(at(10).bytes).toBeGreaterThan(at(20).bytes);
		expect(at(10).cells).toBe(100 * 100 * 50);
	});
});
