import { describe, expect, it } from 'vitest';
import { p1, p2, p3, shareRight, surfaceError } from '../../bench/problems';
import { planeNormal } from '../geometry/angles';
import { openEdges, solidOf, surfaceOf, unitsIn, volumeOf } from '../mesh/extract';
import { FAULT } from '../mesh/cut-lattice';
import { buildModel } from './build';
import { fitGround } from './fit-ground';
import type { GroundInput } from './ground';
import { unitsAt } from './classify';

/** Volume of the part of a box below the plane n·p = c, by clipping columns: exact for the mean over a fine grid is not needed, the plane crosses no top or bottom edge here. */
function volumeBelowPlane(
	height: (x: number, y: number) => number,
	box: { minX: number; minY: number; maxX: number; maxY: number; minZ: number; maxZ: number }
): number {
	const n = 2000;
	let sum = 0;
	for (let i = 0; i < n; i++)
		for (let j = 0; j < n; j++) {
			const x = box.minX + ((i + 0.5) * (box.maxX - box.minX)) / n;
			const y = box.minY + ((j + 0.5) * (box.maxY - box.minY)) / n;
			sum += Math.min(box.maxZ, Math.max(box.minZ, height(x, y))) - box.minZ;
		}
	return (sum * (box.maxX - box.minX) * (box.maxY - box.minY)) / (n * n);
}

describe('three parallel planes (P1)', () => {
	it('gives the planes to 0.01 m and the volumes to 0.01 %', async () => {
		const p = p1();
		const ground = fitGround(p.input);
		expect(ground.findings).toEqual([]);
		const { mesh } = await buildModel(ground, { spacing: 50 });
		for (let s = 0; s < 3; s++) expect(surfaceError(p, surfaceOf(mesh, s).positions, s)).toBeLessThan(0.01);
		const n = planeNormal(27, 113);
		const levels = [0, -110, -240];
		const below = levels.map((l) => volumeBelowPlane((x, y) => -320 + (l - n[0] * (x - 1000) - n[1] * (y - 1000)) / n[2], p.input.extent));
		const want = [4e9 - below[0]!, below[0]! - below[1]!, below[1]! - below[2]!, below[2]!];
		want.forEach((v, u) => expect(Math.abs(mesh.volumes.get(u)! / v - 1)).toBeLessThan(1e-4));
	});

	it('does not depend on the order of rows', async () => {
		const p = p1();
		const shuffled: GroundInput = {
			...p.input,
			contacts: [...p.input.contacts].reverse(),
			observations: [...p.input.observations].reverse()
		};
		const [a, b] = await Promise.all([p.input, shuffled].map((i) => buildModel(fitGround(i), { spacing: 100 })));
		expect(b!.mesh.positions).toEqual(a!.mesh.positions);
		expect(b!.mesh.triangles).toEqual(a!.mesh.triangles);
	});

	it('gives the same shape to 1 mm at seven-digit northings and in feet', async () => {
		const near = await buildModel(fitGround(p1().input), { spacing: 100 });
		const offset = { minX: 612000, minY: 7234000, minZ: -1000, maxX: 614000, maxY: 7236000, maxZ: 0 };
		const far = await buildModel(fitGround(p1(offset).input), { spacing: 100 });
		expect(far.mesh.positions.length).toBe(near.mesh.positions.length);
		for (let i = 0; i < near.mesh.positions.length; i += 3)
			for (let c = 0; c < 3; c++)
				expect(Math.abs(far.mesh.positions[i + c]! - near.mesh.positions[i + c]! - [612000, 7234000, 0][c]!)).toBeLessThan(1e-3);
		const f = 3.280839895;
		const { input } = p1();
		const feet: GroundInput = {
			...input,
			extent: { minX: 0, minY: 0, minZ: -1000 * f, maxX: 2000 * f, maxY: 2000 * f, maxZ: 0 },
			contacts: input.contacts.map((c) => ({ ...c, x: c.x * f, y: c.y * f, z: c.z * f })),
			observations: input.observations.map((o) => ({ ...o, x: o.x * f, y: o.y * f, z: o.z * f }))
		};
		const inFeet = await buildModel(fitGround(feet), { spacing: 100 * f });
		for (let i = 0; i < near.mesh.positions.length; i++)
			expect(Math.abs(inFeet.mesh.positions[i]! / f - near.mesh.positions[i]!)).toBeLessThan(1e-3);
	});
});

describe('plunging folds (P2)', () => {
	it('lies within 5 m RMS and puts 99 % of points into the right unit', async () => {
		const p = p2();
		const ground = fitGround(p.input);
		const { mesh } = await buildModel(ground, { spacing: 50 });
		for (let s = 0; s < 3; s++) expect(surfaceError(p, surfaceOf(mesh, s).positions, s)).toBeLessThan(5);
		expect(await shareRight(p, (xyz) => unitsAt(ground, xyz), 20_000)).toBeGreaterThan(0.99);
	});
});

describe('a normal fault (P3)', () => {
	it('offsets by the throw within 3 %, with no smear, watertight', async () => {
		const p = p3();
		const ground = fitGround(p.input);
		expect(await shareRight(p, (xyz) => unitsAt(ground, xyz), 20_000)).toBeGreaterThan(0.985);
		const { mesh } = await buildModel(ground, { spacing: 50 });
		for (let s = 0; s < 3; s++)
			expect(
				surfaceError(
					p,
					surfaceOf(mesh, s).positions,
					s,
					(x, _y, z) => Math.abs(planeNormal(65, 90)[0] * (x - 1000) + planeNormal(65, 90)[2] * z) < 1
				)
			).toBeLessThan(120 * 0.03);
		let sum = 0;
		for (const u of unitsIn(mesh)) {
			expect(openEdges(solidOf(mesh, u))).toBe(0);
			sum += volumeOf(solidOf(mesh, u));
		}
		expect(Math.abs(sum / 4e9 - 1)).toBeLessThan(1e-9);
		const faultFace = surfaceOf(mesh, FAULT).positions;
		const n = planeNormal(65, 90);
		for (let i = 0; i < faultFace.length; i += 3)
			expect(Math.abs(n[0] * (faultFace[i]! - 1000) + n[2] * faultFace[i + 2]!)).toBeLessThan(0.05);
	});
});

describe('an intrusion', () => {
	/** An ellipsoid that cuts layers, hit by vertical holes. */
	function stock(): { input: GroundInput; volume: number } {
		const [a, b, c] = [420, 360, 330];
		const inside = (x: number, y: number, z: number) => ((x - 1000) / a) ** 2 + ((y - 1000) / b) ** 2 + ((z + 500) / c) ** 2 < 1;
		const input: GroundInput = {
			extent: { minX: 0, minY: 0, minZ: -1000, maxX: 2000, maxY: 2000, maxZ: 0 },
			column: [
				{ id: 'upper', name: 'Upper', color: '#888888', contact: 'conformable' },
				{ id: 'stock', name: 'Stock', color: '#cc8888', contact: 'intrusive' },
				{ id: 'lower', name: 'Lower', color: '#666666', contact: 'conformable' }
			],
			contacts: [],
			observations: [],
			orientations: [],
			faults: [],
			terrain: null
		};
		for (let i = 0; i < 10; i++)
			for (let j = 0; j < 10; j++) {
				const [x, y] = [100 + 200 * i, 100 + 200 * j];
				let last = -1;
				for (let z = 0; z >= -1000; z -= 1) {
					const u = inside(x, y, z) ? 1 : z > -450 ? 0 : 2;
					const at = { x, y, hole: `H${i}-${j}`, depth: -z };
					if (last >= 0 && u !== last)
						input.contacts.push({ ...at, z: z + 0.5, surface: u === 1 || last === 1 ? 1 : 0, table: 't', row: 0 });
					if (u !== last || -z % 60 === 0) input.observations.push({ ...at, z, unit: u });
					last = u;
				}
			}
		return { input, volume: (4 / 3) * Math.PI * a * b * c };
	}

	it('has the volume of the ellipsoid within 4 % and no holes in the layers around it', async () => {
		const { input, volume } = stock();
		const { mesh } = await buildModel(fitGround(input), { spacing: 50 });
		expect(Math.abs(mesh.volumes.get(1)! / volume - 1)).toBeLessThan(0.04);
		for (const u of unitsIn(mesh)) expect(openEdges(solidOf(mesh, u))).toBe(0);
	});
});

describe('data that can not be honoured', () => {
	it('says what is missing when there are no contacts', () => {
		expect(() => fitGround({ ...p1().input, contacts: [] })).toThrow('no hole shows a contact');
	});

	it('draws a surface from one contact only and says so', async () => {
		const { input } = p1();
		const ground = fitGround({ ...input, contacts: input.contacts.slice(0, 1), observations: [] });
		expect(ground.findings.map((f) => f.kind)).toContain('one-contact');
		const { mesh } = await buildModel(ground, { spacing: 200 });
		const p = surfaceOf(mesh, input.contacts[0]!.surface).positions;
		for (let i = 2; i < p.length; i += 3) expect(p[i]).toBeCloseTo(input.contacts[0]!.z, 6);
	});

	it('names holes whose contacts contradict each other', () => {
		const { input } = p1();
		const c = input.contacts[0]!;
		const ground = fitGround({ ...input, contacts: [...input.contacts, { ...c, x: c.x + 0.5, z: c.z + 90, hole: 'TWIN' }] });
		const finding = ground.findings.find((f) => f.kind === 'contradicting-contacts')!;
		expect(finding.message).toContain('TWIN');
		expect(finding.message).toContain(c.hole);
	});

	it('survives all collars at one place', async () => {
		const { input } = p1();
		const ground = fitGround({
			...input,
			contacts: input.contacts.filter((c) => c.hole === 'H1').map((c) => ({ ...c, x: 1000, y: 1000 })),
			observations: []
		});
		const { mesh } = await buildModel(ground, { spacing: 200 });
		expect(unitsIn(mesh).length).toBeGreaterThan(1);
	});

	it('refuses a fault trace with one vertex', () => {
		const { input } = p3();
		expect(() => fitGround({ ...input, faults: [{ ...input.faults[0]!, trace: [[1000, 0]] }] })).toThrow('one vertex');
	});

	it('says that a fault with all contacts on one side offsets nothing', () => {
		const { input } = p3();
		const ground = fitGround({
			...input,
			faults: [
				{
					...input.faults[0]!,
					trace: [
						[-5000, 0],
						[-5000, 2000]
					]
				}
			]
		});
		expect(ground.findings.map((f) => f.kind)).toContain('fault-one-sided');
	});
});
