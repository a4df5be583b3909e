import { rasterOf } from '../formats/raster-pack';
import { describe, expect, it } from 'vitest';
import { readPack, writePack } from '../formats/pack';
import type { FaultSpec, GroundInput } from '../model/ground';
import { expectClosedSolids } from '../mesh/for-tests';
import { context as plain, dipping, extent, fieldsOf, given, level, modelOf, parted, places, unit } from './for-tests';
import { solidsOf } from './opened';
import { describeParameters, withFirstValues } from './parameters';
import type { Scheme } from '../units/scheme';
import { FORMS, QUESTIONS, type Given, type Product } from './recipe';
import { recipeFor, recipeNamed, recipeOf, RECIPES } from './register';

const context = { ...plain, project: { ...plain.project, extent } };
const run = async (id: string, inputs: Given[], parameters: Record<string, unknown>) => recipeOf(id)!.run(inputs, parameters, context);

describe('the register', () => {
	it('has recipes of one shape, each with an id of its own, a form that is known, and parameters that can be asked for', () => {
		expect(new Set(RECIPES.map((r) => r.id)).size).toBe(RECIPES.length);
		for (const r of RECIPES) {
			expect([r.id, r.form === null || FORMS.includes(r.form)]).toEqual([r.id, true]);
			expect(r.about.length).toBeGreaterThan(20);
			for (const role of Object.values(r.roles)) expect(role.forms ?? role.kinds).toBeDefined();
			if (!r.step) expect(describeParameters(r.parameters).map((p) => p.name)).toEqual(Object.keys(r.parameters.fields));
		}
	});

	it('answers each question that screens ask by themselves with one recipe, and a question is no id of one', () => {
		for (const question of QUESTIONS) {
			expect(RECIPES.filter((r) => r.answers === question)).toHaveLength(1);
			expect(recipeOf(question)).toBeUndefined();
			expect(recipeNamed(question)).toBe(recipeFor(question));
		}
		expect(recipeNamed('constructor')).toBeUndefined();
		expect(recipeNamed('surface-geology')).toBe(recipeFor('units-at-surface'));
	});

	it('proposes parameters that its own schema takes', async () => {
		const column = (key: string, type: 'number' | 'date' | 'text') => ({ key, label: key, type, unit: '' });
		const rows = { rows: 10, columns: [column('v', 'number'), column('t', 'date'), column('hole', 'text')], box: null };
		for (const r of RECIPES.filter((x) => !x.step)) {
			const state = { schemes: [{ id: 's', name: 'S', ranks: ['Group'], units: [] }] };
			const inputs = Object.keys(r.roles).map((role) => ({ ...fieldsOf(role, level), pack: null, rows, state }));
			const parameters = withFirstValues(r.parameters, { ...r.suggest?.(inputs, context.project) });
			await expect(r.parameters.validate(parameters, { strict: true })).resolves.toBeDefined();
			expect(JSON.parse(JSON.stringify(parameters))).toEqual(parameters);
		}
	});

	it('tells bounds, units and choices of parameters', () => {
		const [members, spacing] = describeParameters(recipeOf('doubt')!.parameters);
		expect(members).toMatchObject({ type: 'number', whole: true, least: 2, most: 1000 });
		expect(spacing).toMatchObject({ type: 'number', unit: 'length', least: 0 });
		const [of, measured] = describeParameters(recipeOf('thickness')!.parameters);
		expect(of).toMatchObject({ type: 'choice', unitsOf: 'model' });
		expect(Object.keys(measured!.words!)).toEqual(['vertical', 'across']);
	});
});

describe('grids of a model', () => {
	const at = (p: Product, x: number, y: number) => {
		const r = rasterOf(p.pack);
		return r.values[Math.round((y - r.y0) / r.dy) * r.nx + Math.round((x - r.x0) / r.dx)]!;
	};

	it('are the thickness along the vertical and across the layering of a dipping unit', async () => {
		// A slab of 90 along the vertical that dips with 0.3: across it 90 cos(atan 0.3).
		const slab: GroundInput = {
			...parted(['top', 'slab'], (x) => -60 - 0.3 * x),
			column: ['top', 'slab', 'foot'].map((id) => unit(id, '#888888'))
		};
		slab.contacts = [0, 1].flatMap((surface) =>
			places.map(([x, y], i) => ({ ...slab.contacts[i]!, surface, x, y, z: -40 - 0.2 * x - 90 * surface }))
		);
		const m = await modelOf('model', slab);
		const vertical = await run('thickness', [m], { unit: 'slab', measured: 'vertical', cell: 20 });
		expect(at(vertical, 210, 190)).toBeCloseTo(90, 1);
		expect(vertical.report['known']).toBe(30 * 20);
		const across = await run('thickness', [m], { unit: 'slab', measured: 'across', cell: 20 });
		expect(at(across, 210, 190)).toBeCloseTo(90 * Math.cos(Math.atan(0.2)), 1);
	});

	it('are the depth below a terrain, and unknown where it is not known', async () => {
		const m = await modelOf('model', level);
		// A terrain that covers the western half only, and rises north.
		const terrain: Given = {
			...given('terrain', 'terrain', level, {
				pack: {
					info: { x0: 5, y0: 5, dx: 10, dy: 10, nx: 30, ny: 40 },
					arrays: { values: Float32Array.from({ length: 1200 }, (_, n) => 0.1 * (5 + 10 * Math.floor(n / 30))) }
				},
				report: {}
			}),
			form: 'grid'
		} as Given;
		const depth = await run('depth-to-unit', [m, terrain], { unit: 'b', side: 'top', cell: 20 });
		expect(at(depth, 110, 210)).toBeCloseTo(120 + 21, 1);
		expect(at(depth, 510, 210)).toBeNaN();
		expect(depth.report['known']).toBe(15 * 20);
		const base = await run('unit-elevation', [m], { unit: 'a', side: 'base', cell: 20 });
		expect(at(base, 300, 200)).toBeCloseTo(-120, 1);
	});

	it('are refused for units that are not there and for cells that are too many', async () => {
		const m = await modelOf('model', level, 100);
		expect(() => recipeOf('thickness')!.refuse!([m], { unit: 'x', measured: 'vertical', cell: 10 })).toThrow('no unit "x"');
		await expect(run('thickness', [m], { unit: 'x', measured: 'vertical', cell: 10 })).rejects.toThrow('without the unit');
		await expect(run('thickness', [m], { unit: 'a', measured: 'vertical', cell: 0.01 })).rejects.toThrow('cells of 0.01');
	});
});

describe('geology at the surface', () => {
	it('covers the map with units, each by name and colour', async () => {
		const g = await run(
			'surface-geology',
			[
				await modelOf(
					'model',
					parted(['a', 'b'], (x) => 60 - 0.4 * x)
				)
			],
			{}
		);
		const areas = g.report['areas'] as { unit: string; area: number }[];
		expect(areas.map((a) => a.unit)).toEqual(['a', 'b']);
		expect(areas.reduce((s, a) => s + a.area, 0)).toBeCloseTo(600 * 400, 3);
		// The contact comes to the surface at x = 150.
		expect(areas[1]!.area / (150 * 400)).toBeCloseTo(1, 1);
		expect((g.pack.info['features'] as { properties: object }[])[0]!.properties).toEqual({ unit: 'a', name: 'A', color: '#c08040' });
	});
});

describe('a model at a rank', () => {
	const unitOf = (id: string, name: string, rank: number, parent = '') => ({
		...{ id, name, rank, parent, top: null, base: null, error: null, color: rank ? '' : '#aa2244', lithology: '' }
	});
	const scheme: Scheme = {
		id: 's',
		name: 'Rocks',
		ranks: ['Group', 'Formation'],
		units: [unitOf('g', 'Great Group', 0), unitOf('a', 'A', 1, 'g'), unitOf('b', 'B', 1, 'g')]
	};
	const schemes = (list: Scheme[]) => ({ ...fieldsOf('schemes', level), kind: 'schemes', state: { schemes: list }, pack: null, units: [] });

	it('is closed solids of what units are parts of; what the scheme does not know stays by itself', async () => {
		const three: GroundInput = {
			...level,
			column: [...level.column, unit('c', '#446688')],
			contacts: [0, 1].flatMap((surface) => level.contacts.map((c) => ({ ...c, surface, z: c.z - 60 * surface })))
		};
		const made = await run('solids-at-rank', [await modelOf('model', three), schemes([scheme])], { rank: 's 0' });
		expect(made.report['units']).toMatchObject([{ id: 's/g', name: 'Great Group', color: '#aa2244' }, { name: 'C' }]);
		expect(made.report['volumes']).toMatchObject([
			{ unit: 'Great Group', of: 'A, B' },
			{ unit: 'C', of: 'C' }
		]);
		const volumes = made.report['volumes'] as { volume: number }[];
		expect(volumes[0]!.volume / (600 * 400 * 180)).toBeCloseTo(1, 6);
		const pack = readPack(writePack(made.pack));
		expectClosedSolids(solidsOf({ ...fieldsOf('first', level), pack }), 600 * 400 * 300, 1e-9);
		// What was made is a model itself: geology at the surface knows its units by name.
		const again = { ...fieldsOf('model', level), pack, units: pack.info['described'] as never };
		expect((await run('surface-geology', [again], {})).report['areas']).toEqual([{ unit: 's/g', area: expect.closeTo(240_000, 3) }]);
	});

	it('takes a rank by its name, and refuses one that is not there, or no scheme at all', async () => {
		const recipe = recipeOf('solids-at-rank')!;
		const m = await modelOf('model', level, 100);
		expect(() => recipe.refuse!([m, schemes([scheme])], { rank: 'formation' })).not.toThrow();
		expect(() => recipe.refuse!([m, schemes([scheme])], { rank: 'Member' })).toThrow('no rank "Member"');
		expect(() => recipe.refuse!([m, schemes([])], { rank: 's 0' })).toThrow('no scheme of ranks');
		expect(recipe.suggest!([m, schemes([scheme])], context.project)).toEqual({ rank: 's 0' });
		expect(recipe.called!([m, schemes([scheme])], { rank: 's 1' })).toBe('Ground at Formation');
	});
});

describe('crossed models', () => {
	it('are closed solids of pairs that fill the box, each pair where the formula says it is', async () => {
		const crossed = await run('crossed-models', [fieldsOf('first', level), fieldsOf('second', dipping)], { spacing: 20 });
		const mesh = solidsOf({ ...fieldsOf('first', level), name: 'Crossed', pack: readPack(writePack(crossed.pack)) });
		expectClosedSolids(mesh, 600 * 400 * 300, 1e-9);
		const of = (first: string, second: string) =>
			(crossed.report['volumes'] as { first: string; second: string; volume: number }[]).find(
				(v) => v.first === first && v.second === second
			)!.volume;
		// The dipping plane passes through −120 at x = 200: above both lies min(120, 60 + 0.3 x).
		expect(of('a', 'm') / (400 * (200 * 90 + 400 * 120))).toBeCloseTo(1, 2);
		expect(of('a', 'n') / (400 * 0.5 * 200 * 60)).toBeCloseTo(1, 2);
		expect(of('b', 'm') / (400 * 0.5 * 400 * 120)).toBeCloseTo(1, 2);
		expect((crossed.pack.info['described'] as { name: string }[]).map((d) => d.name)).toEqual(['A × M', 'A × N', 'B × M', 'B × N']);
	});

	it('of a model with itself have its own solids only: nothing is counted twice', async () => {
		const fault: FaultSpec = {
			id: 'f',
			name: 'F',
			trace: [
				[300, 0],
				[310, 400]
			],
			dip: 70,
			dipAzimuth: 90,
			youngestCut: 'a',
			halfWidth: 0,
			on: true
		};
		const faulted = parted(['a', 'b'], (x) => (x < 305 ? -120 : -170), { faults: [fault] });
		const crossed = await run('crossed-models', [fieldsOf('first', faulted), fieldsOf('second', faulted)], { spacing: 20 });
		const rows = crossed.report['volumes'] as { first: string; second: string; volume: number }[];
		expect(rows.map((r) => `${r.first}${r.second}`)).toEqual(['aa', 'bb']);
		const own = await modelOf('model', faulted, 20);
		const volumes = new Map((own.pack!.info as { volumes: [number, number][] }).volumes);
		expect(rows[0]!.volume / volumes.get(0)!).toBeCloseTo(1, 9);
	});

	it('are the same whichever way round, but for the names', async () => {
		const volumes = async (a: GroundInput, b: GroundInput) =>
			(
				(await run('crossed-models', [fieldsOf('first', a), fieldsOf('second', b)], { spacing: 25 })).report['volumes'] as {
					first: string;
					second: string;
					volume: number;
				}[]
			)
				.map((v) => [[v.first, v.second].sort().join(), v.volume] as const)
				.sort(([x], [y]) => (x < y ? -1 : 1));
		const [one, other] = [await volumes(level, dipping), await volumes(dipping, level)];
		expect(one.map(([n]) => n)).toEqual(other.map(([n]) => n));
		one.forEach(([, v], i) => expect(v / other[i]![1]).toBeCloseTo(1, 3));
	});
});
