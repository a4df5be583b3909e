import { describe, expect, it } from 'vitest';
import type { ContactKind, Unit } from '../units/column';
import type { ContactPoint, Observation } from '../units/contacts';
import { buildModel } from './build';
import { validateFiner } from './finer';
import { fitGround } from './fit-ground';
import type { FaultSpec, GroundFinding, GroundInput } from './ground';
import { insideLimits } from './limits';
import { problemOf } from '../for-tests';

const extent = { minX: 0, minY: 0, minZ: -300, maxX: 1000, maxY: 1000, maxZ: 0 };
const unit = (id: string, contact: ContactKind = 'conformable', more: Partial<Unit> = {}): Unit => ({
	id,
	name: id.toUpperCase(),
	color: '#888888',
	contact,
	...more
});
const places = [150, 400, 650, 900].flatMap((x) => [150, 400, 650, 900].map((y) => [x, y] as const));
const contact = (surface: number, x: number, y: number, z: number, hole: string): ContactPoint => ({
	surface,
	x,
	y,
	z,
	hole,
	depth: -z,
	table: 'log',
	row: 0
});
/** Contacts of a surface in all holes. */
const level = (surface: number, z: (x: number, y: number) => number) => places.map(([x, y], i) => contact(surface, x, y, z(x, y), `H${i}`));
const seen = (u: number, z: number, holes = places): Observation[] =>
	holes.map(([x, y], i) => ({ unit: u, x, y, z, hole: `H${i}`, depth: -z, table: 'log' }));
const ground = (more: Partial<GroundInput>): GroundInput => ({
	extent,
	column: [unit('a'), unit('b'), unit('c')],
	contacts: [],
	observations: [],
	orientations: [],
	faults: [],
	terrain: null,
	...more
});
const kinds = (input: GroundInput): string[] => fitGround(input).findings.map((f) => f.kind);
const findingOf = (input: GroundInput, kind: string): GroundFinding => {
	const found = fitGround(input).findings.find((f) => f.kind === kind);
	expect(found, `no ${kind} among ${kinds(input).join(', ') || 'nothing'}`).toBeDefined();
	return found!;
};
const fault = (more: Partial<FaultSpec> = {}): FaultSpec => ({
	id: 'f',
	name: 'Gully Fault',
	trace: [
		[520, 0],
		[520, 1000]
	],
	dip: 80,
	dipAzimuth: 90,
	youngestCut: 'a',
	halfWidth: 1,
	on: true,
	...more
});
const flat = [...level(0, () => -80), ...level(1, () => -160)];
const observed = [...seen(0, -40), ...seen(1, -120), ...seen(2, -220)];
const whole = ground({ contacts: flat, observations: observed });

describe('what the engine has to say of its data', () => {
	it('is nothing where all is well', () => expect(kinds(whole)).toEqual([]));

	it('names a unit that no hole met, and models the others', () => {
		const input = ground({ contacts: level(0, () => -80), observations: [...seen(0, -40), ...seen(2, -220)] });
		const f = findingOf(input, 'unit-not-seen');
		expect(f.message).toContain('B was not met');
		expect(fitGround(input).sequences[0]!.present).toEqual([0, 2]);
	});

	it('names a sequence of which nothing was met', () => {
		const input = ground({
			column: [unit('till', 'erosional'), unit('a'), unit('b'), unit('c')],
			contacts: flat.map((c) => ({ ...c, surface: c.surface + 1 })),
			observations: observed.map((o) => ({ ...o, unit: o.unit + 1 }))
		});
		expect(findingOf(input, 'unit-not-seen').message).toContain('TILL and what belongs to it');
		expect(fitGround(input).sequences.map((s) => s.absent)).toEqual([true, false]);
	});

	it('names a base that no hole reaches: within a sequence, and at the bottom of one', () => {
		const inside = ground({ contacts: level(0, () => -80), observations: [...seen(0, -40), ...seen(1, -120)] });
		expect(findingOf(inside, 'base-not-reached').message).toContain('base of B');
		const below = ground({
			column: [unit('a'), unit('fill', 'erosional'), unit('c')],
			contacts: level(0, () => -80),
			observations: [...seen(0, -40), ...seen(1, -120)]
		});
		expect(findingOf(below, 'base-not-reached').message).toContain('no hole reaches the base of FILL');
	});

	it('names a surface that is known from one contact only, inside a sequence and at its base', () => {
		const inside = ground({ contacts: [...level(0, () => -80), contact(1, 500, 500, -160, 'H1')], observations: observed });
		expect(findingOf(inside, 'one-contact').hint).toContain('follows the other contacts');
		const base = ground({
			column: [unit('till', 'erosional'), unit('b'), unit('c')],
			contacts: [contact(0, 500, 500, -50, 'H1'), ...level(1, () => -160)],
			observations: [...seen(0, -20, [[500, 500]]), ...seen(1, -120), ...seen(2, -220)]
		});
		expect(findingOf(base, 'one-contact').hint).toContain('horizontal');
	});

	it('names contacts that come out in the wrong order', () => {
		const crossed = ground({ contacts: [...level(0, () => -160), ...level(1, () => -80)] });
		expect(findingOf(crossed, 'crossed-contacts').message).toContain('the bases of A and B');
	});

	it('names two contacts of one surface at one place that differ, with the place and the hole', () => {
		const f = findingOf(
			ground({ contacts: [...flat, contact(0, 150.1, 150, -130, 'TWIN')], observations: observed }),
			'contradicting-contacts'
		);
		expect(f.message).toContain('50 apart in height in H0 and TWIN');
		expect(f).toMatchObject({ hole: 'TWIN', at: [150, 150, -80] });
		// Where the ground is steep, neighbours may differ; and a fault is no contradiction for holes at a distance.
		expect(kinds(ground({ contacts: [...flat, contact(0, 160, 150, -80.5, 'NEAR')], observations: observed }))).toEqual([]);
	});

	it('names holes that would force surfaces across each other, and is not ruled by them', () => {
		const wrong: Observation[] = [
			{ unit: 2, x: 150, y: 150, z: -79, hole: 'W', depth: 79, table: 'log' },
			{ unit: 0, x: 150, y: 150, z: -161, hole: 'X', depth: 161, table: 'log' }
		];
		const input = ground({ contacts: flat, observations: [...observed, ...wrong] });
		expect(fitGround(input).findings.map((f) => [f.kind, f.hole])).toEqual([
			['against-neighbours', 'W'],
			['against-neighbours', 'X']
		]);
	});

	it('names a fault with data on one side, and one of which the data do not tell the offset', () => {
		const west = { contacts: flat.filter((c) => c.x < 500), observations: observed.filter((o) => o.x < 500) };
		expect(findingOf(ground({ ...west, faults: [fault()] }), 'fault-one-sided').message).toContain('one side of Gully Fault');
		// Contacts of A on one side only, of B on the other.
		const parted = ground({
			contacts: [...level(0, () => -80).filter((c) => c.x < 500), ...level(1, () => -160).filter((c) => c.x > 500)],
			observations: observed,
			faults: [fault()]
		});
		expect(findingOf(parted, 'offset-unknown').message).toContain('offset across Gully Fault');
	});

	it('names an intrusion that no hole meets, and one of which only the middle is known', () => {
		const column = [unit('dyke', 'intrusive'), unit('b'), unit('c')];
		expect(
			findingOf(ground({ column, contacts: level(1, () => -160), observations: [...seen(1, -120), ...seen(2, -220)] }), 'intrusion-not-met')
				.message
		).toContain('no hole meets a contact of DYKE');
		const middles = [
			[300, 300],
			[310, 300]
		].map(([x, y], i): ContactPoint => ({ ...contact(0, x!, y!, -100, `M${i}`), wall: 0, thickness: 4 }));
		expect(
			findingOf(
				ground({ column, contacts: [...middles, ...level(1, () => -160)], observations: [...seen(1, -120), ...seen(2, -220)] }),
				'intrusion-not-met'
			).message
		).toContain('only the middle');
	});

	it('says which division it is about, and leaves a unit undivided where its parts can not be had', () => {
		const parts = {
			id: 'd',
			name: 'Parts of C',
			unit: 'c',
			column: [unit('soft'), unit('hard')],
			contacts: [] as ContactPoint[],
			observations: [] as Observation[],
			orientations: [],
			faults: []
		};
		const cases: [object, string][] = [
			[{}, 'no-contacts'],
			[{ unit: 'chalk' }, 'unknown-unit'],
			[{ column: [unit('a'), unit('hard')] }, 'doubled-unit']
		];
		for (const [more, kind] of cases) {
			const g = fitGround({ ...whole, divisions: [{ ...parts, ...more }] });
			expect(g.divisions).toEqual([]);
			const f = g.findings.find((x) => x.kind === kind)!;
			expect(f.message).toMatch(/^Parts of C: /);
			expect(f.hint).toMatch(/The unit stays undivided\.$/);
		}
		const good = { ...parts, contacts: level(0, () => -220), observations: [...seen(0, -190), ...seen(1, -260)] };
		const twice = fitGround({ ...whole, divisions: [good, { ...good, id: 'e', name: 'Again', column: [unit('x'), unit('y')] }] });
		expect(twice.divisions.map((d) => d.id)).toEqual(['d']);
		expect(twice.findings.map((f) => f.kind)).toContain('divided-twice');
		expect(twice.divisions[0]!.ground.findings).toEqual([]);
	});

	it('never stops the build of what can be modelled', async () => {
		const input = ground({
			column: [unit('dyke', 'intrusive'), unit('a'), unit('b'), unit('c')],
			contacts: level(1, () => -80),
			observations: [...seen(1, -40), ...seen(2, -120)],
			faults: [
				fault({
					trace: [
						[-500, 0],
						[-500, 1000]
					]
				})
			]
		});
		const g = fitGround(input);
		expect(g.findings.length).toBeGreaterThan(1);
		const { mesh } = await buildModel(g, { spacing: 100 });
		const sum = [...mesh.volumes.values()].reduce((s, v) => s + v, 0);
		expect(sum / (1000 * 1000 * 300)).toBeCloseTo(1, 9);
	});
});

describe('what the engine refuses, with a way out', () => {
	it.each([
		['an extent without a volume', { extent: { ...extent, maxZ: -300 } }, 'zero-extent'],
		['no contacts at all', { contacts: [] }, 'no-contacts'],
		['a trend of an unknown unit', { trends: [{ unit: 'chalk' }] }, 'trend-unit'],
		['a trend that follows an unknown unit', { trends: [{ unit: 'a', follows: 'chalk' }] }, 'trend-unit'],
		['a trend that follows its own sequence', { trends: [{ unit: 'a', follows: 'b' }] }, 'trend-circle'],
		[
			'a trend without lengths',
			{ trends: [{ unit: 'a', anisotropy: { dip: 10, dipAzimuth: 90, pitch: 0, ratios: [1, 0, 1] as [number, number, number] } }] },
			'bad-trend'
		],
		[
			'a trend past the vertical',
			{ trends: [{ unit: 'a', anisotropy: { dip: 100, dipAzimuth: 90, pitch: 0, ratios: [1, 1, 1] as [number, number, number] } }] },
			'bad-trend'
		],
		['a trend that follows a terrain that is not there', { trends: [{ unit: 'a', follows: 'terrain' }] }, 'no-terrain'],
		['a given base of an unknown unit', { made: [{ unit: 'chalk', raster: null, follows: null, by: 0, thickness: null }] }, 'made-unit'],
		['a given base inside a sequence', { made: [{ unit: 'a', raster: null, follows: null, by: 0, thickness: null }] }, 'made-inside']
	])('%s', (_, more, kind) => {
		const problem = problemOf(() => fitGround({ ...whole, ...more }));
		expect(problem?.kind).toBe(kind);
		expect(problem?.message.length).toBeGreaterThan(20);
	});

	it('trends and given bases that follow each other in a circle', () => {
		const column = [unit('top', 'erosional'), unit('mid', 'erosional'), unit('b'), unit('c')];
		const input = ground({ column, contacts: [...level(0, () => -40), ...level(1, () => -90), ...level(2, () => -160)] });
		expect(
			problemOf(() =>
				fitGround({
					...input,
					trends: [
						{ unit: 'top', follows: 'mid' },
						{ unit: 'mid', follows: 'top' }
					]
				})
			)?.kind
		).toBe('trend-circle');
		const made = (u: string, follows: string) => ({ unit: u, raster: null, follows, by: 10, thickness: null });
		expect(problemOf(() => fitGround({ ...input, made: [made('top', 'mid'), made('mid', 'top')] }))?.kind).toBe('trend-circle');
		expect(problemOf(() => fitGround({ ...input, made: [made('top', 'top')] }))?.kind).toBe('made-unit');
		expect(problemOf(() => fitGround({ ...input, made: [made('top', 'mid')] }))).toBeNull();
	});

	it('finer parts of units that are none, or that are no finer', () => {
		const parts = (more: object) => ({ surfaces: [], units: [], dense: false, ...more });
		expect(problemOf(() => validateFiner(parts({ surfaces: [{ unit: 'chalk', spacing: 5 }] }), 20, ['a']))).toMatchObject({
			kind: 'unknown-unit',
			where: 'finer.surfaces.0.unit'
		});
		expect(problemOf(() => validateFiner(parts({ units: [{ unit: 'a', spacing: 20 }] }), 20, ['a']))).toMatchObject({
			kind: 'bad-spacing',
			where: 'finer.units.0.spacing'
		});
		expect(problemOf(() => validateFiner(parts({ units: [{ unit: 'a', spacing: 10 }] }), 20, ['a']))).toBeNull();
	});

	it('limits that bound nothing', () => {
		const of = (limit: NonNullable<GroundInput['limits']>[number]) =>
			problemOf(() => insideLimits({ ...whole, limits: [limit] }, 10))?.kind;
		expect(
			of({
				kind: 'outline',
				trace: [
					[0, 0],
					[1, 1]
				]
			})
		).toBe('bad-limit');
		expect(of({ kind: 'near', distance: 0 })).toBe('bad-limit');
		const open = { positions: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), triangles: Uint32Array.of(0, 1, 2) };
		expect(of({ kind: 'inside', mesh: open })).toBe('bad-limit');
		expect(insideLimits(whole, 10)).toBeNull();
	});
});

describe('limits', () => {
	const inside = (limits: NonNullable<GroundInput['limits']>) => insideLimits({ ...whole, limits }, 50)!;
	const raster = { x0: 0, y0: 0, dx: 1000, dy: 1000, nx: 2, ny: 2, values: Float32Array.of(-100, -100, -100, -100) };

	it('tell how far inside a place is, and the nearest one counts', () => {
		const square: [number, number][] = [
			[100, 100],
			[900, 100],
			[900, 900],
			[100, 900]
		];
		expect(inside([{ kind: 'outline', trace: square }])(500, 130, 0)).toBeCloseTo(30, 9);
		expect(inside([{ kind: 'outline', trace: square }])(500, 70, 0)).toBeCloseTo(-30, 9);
		expect(inside([{ kind: 'under', raster, by: 0 }])(500, 500, -120)).toBeCloseTo(20, 6);
		expect(inside([{ kind: 'over', raster, by: -50 }])(500, 500, -120)).toBeCloseTo(30, 6);
		expect(inside([{ kind: 'near', distance: 60 }])(150, 150, -100)).toBeCloseTo(40, 9);
		const both = inside([
			{ kind: 'outline', trace: square },
			{ kind: 'under', raster, by: 0 }
		]);
		expect(both(500, 130, -110)).toBeCloseTo(10, 6);
		expect(both(500, 130, -10)).toBeLessThan(0);
	});
});
