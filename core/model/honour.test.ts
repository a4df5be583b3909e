import { describe, expect, it } from 'vitest';
import { p10, p4, p6, p7, p8 } from '../../bench/grounds';
import { p2 } from '../../bench/problems';
import { sampled } from '../../bench/sampled';
import { misfits } from '../mesh/misfit';
import { openEdges, solidOf, surfaceOf, unitsIn } from '../mesh/extract';
import { contactFindings, HONOURED } from '../project/honoured';
import type { ContactPoint } from '../units/contacts';
import { buildModel } from './build';
import { fitGround } from './fit-ground';
import type { GroundInput } from './ground';
import { BEYOND, CONTRADICTED, CUT_OFF, HELD, SOFT } from './honour';
import { unitsOf } from './whole';

const inBox = ({ extent: e }: GroundInput, c: ContactPoint) =>
	c.x >= e.minX && c.x <= e.maxX && c.y >= e.minY && c.y <= e.maxY && c.z >= e.minZ && c.z <= e.maxZ;
async function built(input: GroundInput, spacing: number, more: object = {}) {
	const ground = fitGround(input);
	const model = await buildModel(ground, { spacing, ...more });
	const list = misfits(model.mesh, input.contacts);
	return { ...model, list, findings: contactFindings(input.contacts, list, model.contacts, spacing, unitsOf(ground), 'm') };
}

describe('contacts on the lattice', () => {
	it.each([
		['folds', () => p2().input],
		['a fault that dies out', () => sampled(p4())],
		['a stock', () => sampled(p6())],
		['a dyke that is thin beside the cells', () => sampled(p7())],
		['a channel', () => sampled(p8())],
		['two faults and a dyke', () => sampled(p10())]
	])('of %s are all honoured within 2 %% of a coarse spacing', async (_, make) => {
		const input = make();
		const { mesh, list, contacts } = await built(input, 100);
		const off = list.filter((m) => inBox(input, input.contacts[m.contact]!) && (m.distance === null || m.distance > HONOURED * 100));
		expect(off.map((m) => ({ ...input.contacts[m.contact]!, distance: m.distance, fate: contacts[m.contact] }))).toEqual([]);
		expect(unitsIn(mesh).reduce((n, u) => n + openEdges(solidOf(mesh, u)), 0)).toBe(0);
	});

	it('are honoured in finer parts, too, and where parts of two sizes meet', async () => {
		const { input } = p2();
		const { list } = await built(input, 100, {
			finer: { surfaces: [{ unit: input.column[1]!.id, spacing: 25 }], units: [], dense: false }
		});
		for (const m of list) if (inBox(input, input.contacts[m.contact]!)) expect(m.distance!).toBeLessThan(HONOURED * 100);
	});

	it('change the surface near them only, and by no more than it was off', async () => {
		const { input } = p2();
		const ground = fitGround(input);
		const here = surfaceOf((await buildModel(ground, { spacing: 50 })).mesh, 1);
		// The same fields with contacts that ask for nothing.
		const soft = { ...ground, input: { ...input, contacts: input.contacts.map((c) => ({ ...c, error: 1 })) } };
		const plain = surfaceOf((await buildModel(soft, { spacing: 50 })).mesh, 1);
		const heights = (m: typeof here) => {
			const out = new Map<string, number>();
			// Vertices on upright edges of the lattice keep their place on the map.
			for (let v = 0; v < m.positions.length; v += 3)
				if (m.positions[v]! % 50 === 0 && m.positions[v + 1]! % 50 === 0)
					out.set(`${m.positions[v]},${m.positions[v + 1]}`, m.positions[v + 2]!);
			return out;
		};
		const [a, b] = [heights(here), heights(plain)];
		const own = input.contacts.filter((c) => c.surface === 1);
		let [moved, most] = [0, 0];
		for (const [place, z] of a) {
			// A vertex may have gone into its neighbour in one of them.
			if (!b.has(place)) continue;
			const by = Math.abs(z - b.get(place)!);
			most = Math.max(most, by);
			if (by < 1e-6) continue;
			moved++;
			const [x, y] = place.split(',').map(Number) as [number, number];
			expect(Math.min(...own.map((c) => Math.hypot(c.x - x, c.y - y)))).toBeLessThan(110);
		}
		expect(moved).toBeGreaterThan(20);
		expect(moved).toBeLessThan(a.size);
		expect(most).toBeLessThan(15);
	});

	it('side by side that differ a little make no spike', async () => {
		const { input } = p2();
		const c = input.contacts.find((p) => p.surface === 1 && p.x > 600 && p.x < 1400 && p.y > 600 && p.y < 1400)!;
		const twins = [1, 2, 3, 4, 5, 6].map((k): ContactPoint => ({
			...c,
			x: c.x + 0.8 * k,
			z: c.z + (k % 2 ? 0.7 : -0.7),
			hole: `TWIN${k}`
		}));
		const { mesh } = await built({ ...input, contacts: [...input.contacts, ...twins] }, 100);
		const near = surfaceOf(mesh, 1).positions;
		for (let v = 0; v < near.length; v += 3)
			if (Math.hypot(near[v]! - c.x, near[v + 1]! - c.y) < 100) expect(Math.abs(near[v + 2]! - c.z)).toBeLessThan(90);
	});

	it('do not depend on the order of the rows', async () => {
		const input = sampled(p10());
		const turned = { ...input, contacts: [...input.contacts].reverse() };
		const [a, b] = [await built(input, 100), await built(turned, 100)];
		expect(b.mesh.positions).toEqual(a.mesh.positions);
		expect([...b.contacts].reverse()).toEqual([...a.contacts]);
	});
});

describe('contacts that are not honoured', () => {
	const { input } = p2();
	const at = (surface: number, x: number, y: number, z: number, hole: string, more: Partial<ContactPoint> = {}): ContactPoint => ({
		surface,
		x,
		y,
		z,
		hole,
		depth: -z,
		table: 'log',
		row: 0,
		...more
	});
	const first = input.contacts.find((c) => c.surface === 1 && c.x > 500 && c.y > 500)!;

	it('are told by reason, with their holes', async () => {
		const contacts = [...input.contacts, at(1, first.x, first.y, first.z + 12, 'SOFT', { error: 50 }), at(1, 2500, 900, first.z, 'AWAY')];
		const { contacts: fates, findings } = await built({ ...input, contacts }, 50);
		expect(fates[contacts.length - 2]).toBe(SOFT);
		expect(fates[contacts.length - 1]).toBe(BEYOND);
		const of = (kind: string) => findings.find((f) => f.kind === kind);
		expect(of('contacts-soft')).toMatchObject({ severity: 'noted', hole: 'SOFT' });
		expect(of('contacts-soft')!.message).toMatch(
			/^one contact with an error or a thickness of its own lies more than 1 m off: .* in SOFT$/
		);
		expect(of('contacts-beyond')!.message).toMatch(/outside the extent: .* in AWAY$/);
		expect(findings.every((f) => f.hint.length > 10)).toBe(true);
	});

	it('because their surface is cut off', async () => {
		// A cover of 150 m takes away what would be there.
		const column = [{ id: 'cover', name: 'Cover', color: '#888888', contact: 'erosional' as const }, ...input.column];
		const moved = input.contacts.map((c) => ({ ...c, surface: c.surface + 1 }));
		const base = input.contacts.filter((c) => c.surface === 0).map((c) => at(0, c.x, c.y, -560, c.hole));
		const { contacts: fates, findings } = await built(
			{ ...input, column, contacts: [...base, ...moved], observations: [], orientations: [] },
			100
		);
		expect([...fates].filter((f) => f === CUT_OFF).length).toBeGreaterThan(10);
		expect(findings.find((f) => f.kind === 'contacts-cut-off')!.message).toMatch(/cuts it off: .* and \d+ more$/);
	});

	it('in words for one and for many, each reason once', () => {
		const points = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => at(0, k, 0, 0, `H${k}`));
		const units = [{ id: 'a', name: 'A', color: '#888888', contact: 'conformable' as const }];
		const off = (distances: (number | null)[], fates: number[]) =>
			contactFindings(
				points,
				distances.map((distance, contact) => ({ contact, distance })),
				fates,
				50,
				units,
				'm'
			);
		expect(off([0.9, 1], [HELD, HELD])).toEqual([]);
		const mixed = off([3, 9, null, 4], [CONTRADICTED, HELD, CUT_OFF, CONTRADICTED]);
		expect(mixed.map((f) => f.kind)).toEqual(['contacts-cut-off', 'contacts-contradicted', 'contacts-crowded']);
		expect(mixed[1]!.message).toBe('2 contacts lie more than 1 m from the surface, for others contradict them: A in H3, A in H0');
		expect(mixed[1]).toMatchObject({ hole: 'H3', at: [3, 0, 0] });
		expect(mixed[2]!.message).toContain('one contact lies more than 1 m from the surface');
		expect(
			off(
				points.map(() => 5),
				points.map(() => HELD)
			)[0]!.message
		).toMatch(/A in H0, A in H1, A in H2, A in H3, A in H4, A in H5 and 2 more$/);
	});
});
