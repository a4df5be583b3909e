import { describe, expect, it } from 'vitest';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import { unitAt } from '../model/walk';
import { OUTSIDE } from '../mesh/cut-lattice';
import type { Table } from '../tables/table';
import type { Raster } from '../grids/raster';
import { ProblemError } from '../problem';
import type { Interpretation } from './pipeline';
import { NO_THINGS, type Things } from './shape-ground';
import { plainShaping, shapingSchema, thingsNamedBy, validateShaping, type Shaping } from './shaping';
import { table, unit, places, collars, lithology, weathering, ground, terrain } from './for-tests';

describe('contacts beside the holes', () => {
	it('tables of places give contacts, tops, places inside and bounds, with their errors', () => {
		const points = table(
			'points',
			'contactPoints',
			'easting,northing,elevation,unit,tells,error\n500,500,-45,cover,base,3\n500,520,-44,slate,top,\n500,540,-10,cover,inside,\n500,560,-20,cover,above,\n500,580,-70,cover,below,\n500,600,-70,nonsense,base,\n'
		);
		const input = ground({}, [collars, lithology, points]);
		expect(input.contacts.filter((c) => c.table === 'points').map((c) => [c.surface, c.z, c.error])).toEqual([
			[0, -45, 3],
			[0, -44, undefined]
		]);
		expect(input.observations.filter((o) => o.hole.startsWith('points')).map((o) => [o.unit, o.z])).toEqual([[0, -10]]);
		expect(input.bounds!.map((b) => [b.surface, b.z, b.sense])).toEqual([
			[0, -20, 1],
			[0, -70, -1]
		]);
		const at = unitAt(fitGround(input));
		expect([at(500, 580, -69.9), at(500, 560, -20.1)]).toEqual([1, 0]);
	});
	it('lines lie on the terrain where they have no elevations, and at theirs where they have', () => {
		const line = {
			id: 'l1',
			name: 'outcrop',
			on: true,
			unit: 'cover',
			tells: 'base' as const,
			error: 0,
			vertices: [
				[300, 200, null],
				[300, 800, null]
			] as [number, number, number | null][]
		};
		const input = ground(
			{ lines: [line, { ...line, id: 'l2', name: 'typed', vertices: [[500, 500, -33]] }, { ...line, id: 'l3', name: 'off', on: false }] },
			[collars, lithology],
			{ terrain }
		);
		const own = input.contacts.filter((c) => c.table === 'outcrop');
		expect(own.length).toBeGreaterThan(100);
		for (const c of own) expect(c.z).toBeCloseTo(26, 6);
		expect(input.contacts.filter((c) => c.table === 'typed').map((c) => c.z)).toEqual([-33]);
		expect(input.contacts.some((c) => c.table === 'off')).toBe(false);
	});
	it('features of a layer are chosen by a property', () => {
		const things: Things = {
			...NO_THINGS,
			layers: new Map([
				[
					'map',
					[
						{ type: 'Feature', properties: { kind: 'a' }, geometry: { type: 'Point', coordinates: [200, 200, -42] } },
						{ type: 'Feature', properties: { kind: 'b' }, geometry: { type: 'Point', coordinates: [250, 200, -99] } }
					]
				]
			])
		};
		const line = {
			id: 'l1',
			name: 'mapped',
			on: true,
			unit: 'cover',
			tells: 'base' as const,
			error: 2,
			layer: { name: 'map', property: 'kind', value: 'a' }
		};
		const input = ground({ lines: [line] }, [collars, lithology], { things });
		expect(input.contacts.filter((c) => c.table === 'mapped').map((c) => [c.x, c.z, c.error])).toEqual([[200, -42, 2]]);
		expect(() => ground({ lines: [line] })).toThrow('which is not there');
		expect(() => ground({ lines: [{ ...line, unit: 'slate' }] }, [collars, lithology], { things })).toThrow('no surface for');
	});
	it('data sets are turned off, as a whole or for a unit, and get errors', () => {
		const set = { table: 'lithology', on: true, off: [] as string[], error: 0 };
		const off = ground({ dataSets: [{ ...set, on: false }] });
		// What its holes saw goes with its contacts.
		expect([off.contacts, off.observations]).toEqual([[], []]);
		expect(ground({ dataSets: [{ ...set, off: ['cover'] }] }).contacts).toEqual([]);
		expect(new Set(ground({ dataSets: [{ ...set, error: 5 }] }).contacts.map((c) => c.error))).toEqual(new Set([5]));
	});
	it('an error of a log lets the surface pass on the wrong side of what its holes saw, by its size', () => {
		const odd = table(
			'lithology',
			'intervals',
			`hole,from,to,code\n${places.map((_, i) => `H${i},0,${i === 5 ? 46 : 40},cover\nH${i},${i === 5 ? 46 : 40},150,slate`).join('\n')}\n`
		);
		const [x, y] = places[5]!;
		const unitJustAbove = (error: number) =>
			unitAt(fitGround(ground({ dataSets: [{ table: 'lithology', on: true, off: [], error }] }, [collars, odd])))(x, y, -45);
		expect([unitJustAbove(0), unitJustAbove(8)]).toEqual([0, 1]);
	});
	it('an error lets the surface pass a point that lies off, without it the point is honoured', () => {
		const odd = (error: number) =>
			table('odd', 'contactPoints', `easting,northing,elevation,unit,error\n500,500,-52,cover,${error || ''}\n`);
		const offOf = (error: number) => {
			const at = unitAt(fitGround(ground({ dataSets: [] }, [collars, lithology, odd(error)])));
			let [low, high] = [-100, 0];
			for (let i = 0; i < 40; i++) {
				const m = (low + high) / 2;
				if (at(500, 500, m) === 0) high = m;
				else low = m;
			}
			return low + 52;
		};
		expect(Math.abs(offOf(0))).toBeLessThan(0.01);
		expect(offOf(20)).toBeGreaterThan(3);
		expect(offOf(20)).toBeLessThan(12.5);
	});
});

describe('any log and any surface', () => {
	it('the column can be made from another column of another table', () => {
		const column = [unit('weathered'), unit('fresh')];
		const input = ground({ log: { table: 'weathering', column: 'grade' } }, [collars, lithology, weathering], {
			column,
			lumping: { W: 'weathered', F: 'fresh' }
		});
		expect(new Set(input.contacts.map((c) => c.z))).toEqual(new Set([-80]));
		expect(() => ground({ log: { table: 'weathering', column: 'nothing' } }, [collars, lithology, weathering])).toThrow(
			'has no column "nothing"'
		);
		expect(() => ground({ log: { table: 'gone', column: '' } })).toThrow('no table "gone"');
	});
	it('a unit is divided by another log, and its parts add up', async () => {
		const division = {
			id: 'd',
			name: 'Weathering of the slate',
			on: true,
			unit: 'slate',
			log: { table: 'weathering', column: 'grade' },
			column: [unit('weathered'), unit('fresh')],
			lumping: { W: 'weathered', F: 'fresh' },
			faults: [],
			trends: []
		};
		const g = fitGround(ground({ divisions: [division] }, [collars, lithology, weathering]));
		const at = unitAt(g);
		expect([-10, -60, -100].map((z) => at(500, 500, z))).toEqual([0, 2, 3]);
		const { mesh } = await buildModel(g, { spacing: 50 });
		expect(mesh.volumes.get(2)! / 40e6).toBeCloseTo(1, 6);
	});
	it('a base is given: cover of a thickness below the terrain, a plane, the base of another unit moved down', async () => {
		const column = [unit('till', 'erosional'), unit('cover', 'erosional'), unit('gravel', 'erosional'), unit('slate')];
		const made = [
			{ unit: 'till', on: true, by: -6, surface: 'terrain' },
			{ unit: 'gravel', on: true, by: -12, follows: 'cover' }
		];
		const at = unitAt(fitGround(ground({ made }, [collars, lithology], { column, terrain })));
		// The terrain at 500 is 30, the base of the cover -40.
		expect([29, 25, 23, -39, -41, -51, -53].map((z) => at(500, 500, z))).toEqual([0, 0, 1, 1, 2, 2, 3]);
		const plane = unitAt(
			fitGround(
				ground(
					{ made: [{ unit: 'cover', on: true, by: 0, plane: { x: 500, y: 500, z: -70, dip: 45, dipAzimuth: 90 } }] },
					[collars, lithology],
					{ column: [unit('cover', 'erosional'), unit('slate')] }
				)
			)
		);
		expect([plane(500, 500, -69), plane(500, 500, -71), plane(450, 500, -19), plane(450, 500, -21)]).toEqual([0, 1, 0, 1]);
		expect(() =>
			fitGround(ground({ made: [{ unit: 'cover', on: true, by: 0, surface: 'terrain' }] }, [collars, lithology], { terrain }))
		).toThrow('not the base of a sequence');
		expect(() => ground({ made: [{ unit: 'cover', on: true, by: 0, surface: 'gone' }] })).toThrow('no grid or surface "gone"');
	});
	it('no holes with contacts are needed when a base is given', () => {
		const g = fitGround(
			ground(
				{
					made: [{ unit: 'cover', on: true, by: -10, surface: 'terrain' }],
					dataSets: [{ table: 'lithology', on: false, off: [], error: 0 }]
				},
				[collars, lithology],
				{ column: [unit('cover', 'erosional'), unit('slate')], terrain }
			)
		);
		expect([unitAt(g)(500, 500, 25), unitAt(g)(500, 500, 15)]).toEqual([0, 1]);
	});
	it('limits name surfaces and outlines', () => {
		const at = unitAt(
			fitGround(
				ground(
					{
						limits: [
							{
								kind: 'outline',
								on: true,
								by: 0,
								trace: [
									[0, 0],
									[500, 0],
									[500, 1000],
									[0, 1000]
								]
							},
							{ kind: 'over', on: true, by: -100, surface: 'terrain' },
							{ kind: 'near', on: false, by: 0, distance: 1 }
						]
					},
					[collars, lithology],
					{ terrain }
				)
			)
		);
		expect([at(400, 500, -60), at(600, 500, -60), at(400, 500, -75)]).toEqual([1, OUTSIDE, OUTSIDE]);
	});
	it('a model ends where its terrain is known, when it is said so', () => {
		const limited = (limits: Partial<Shaping>['limits']) =>
			unitAt(fitGround(ground({ limits: limits! }, [collars, lithology], { terrain: { ...terrain, values: half } })));
		// Nothing is known of the eastern half.
		const half = terrain.values.map((v, k) => (terrain.x0 + (k % terrain.nx) * terrain.dx > 600 ? NaN : v));
		const open = limited([]);
		const at = limited([{ kind: 'covered', on: true, by: 0, surface: 'terrain' }]);
		expect([at(400, 500, -60), open(900, 500, -60), at(900, 500, -60)]).toEqual([1, 1, OUTSIDE]);
	});
	it('trends are applied and their mistakes named', () => {
		const column = [unit('till', 'erosional'), unit('cover'), unit('slate')];
		const follow = { unit: 'cover', follows: 'till' };
		expect(() => fitGround(ground({ trends: [follow] }, [collars, lithology], { column }))).not.toThrow();
		expect(() => fitGround(ground({ trends: [{ unit: 'cover', follows: 'slate' }] }, [collars, lithology], { column }))).toThrow(
			'own sequence'
		);
		expect(() =>
			fitGround(
				ground(
					{
						trends: [
							{ unit: 'cover', follows: 'till' },
							{ unit: 'till', follows: 'cover' }
						]
					},
					[collars, lithology],
					{ column }
				)
			)
		).toThrow('circle');
		expect(() => fitGround(ground({ trends: [{ unit: 'cover', follows: 'terrain' }] }, [collars, lithology], { column }))).toThrow(
			'there is none'
		);
	});
});

describe('a shaping', () => {
	const column = [unit('cover'), unit('slate')];
	const check = (s: Partial<Shaping>) => () => validateShaping({ ...plainShaping(), ...s }, column);
	const division = {
		id: 'd',
		name: 'D',
		on: true,
		unit: 'slate',
		log: null,
		column: [unit('a'), unit('b')],
		lumping: {},
		faults: [],
		trends: []
	};
	it.each([
		['a division of a unit that is not there', { divisions: [{ ...division, unit: 'x' }] }, 'no unit of the column'],
		['two divisions of one unit', { divisions: [division, { ...division, id: 'e', column: [unit('c'), unit('d')] }] }, 'two divisions'],
		['a part with the id of a unit', { divisions: [{ ...division, column: [unit('cover'), unit('b')] }] }, 'id of another unit'],
		['a line of no unit', { lines: [{ id: 'l', name: 'L', on: true, unit: 'x', tells: 'base' as const, error: 0 }] }, 'which is no unit'],
		[
			'a line without places',
			{ lines: [{ id: 'l', name: 'L', on: true, unit: 'cover', tells: 'base' as const, error: 0 }] },
			'has no places'
		],
		[
			'an outline of two corners',
			{
				limits: [
					{
						kind: 'outline' as const,
						on: true,
						by: 0,
						trace: [
							[0, 0],
							[1, 1]
						] as [number, number][]
					}
				]
			},
			'three corners'
		]
	])('with %s is refused', (_, s, message) => expect(check(s as Partial<Shaping>)).toThrow(message));
	it('names what it takes things from', () => {
		expect(
			[
				...thingsNamedBy({
					...plainShaping(),
					log: { table: 'w', column: '' },
					limits: [{ kind: 'under', on: true, by: 0, surface: 'g' }],
					made: [{ unit: 'cover', on: true, by: 0, surface: 's', thickness: 't' }]
				})
			].sort()
		).toEqual(['g', 's', 't', 'w']);
		expect(
			shapingSchema.isValidSync({ ...plainShaping(), trends: [{ unit: 'a', anisotropy: { dip: 0, dipAzimuth: 0, ratios: [1, 1, 0] } }] })
		).toBe(false);
	});
});

describe('a shape that names what is not there', () => {
	const line = { id: 'l', name: 'Trace', unit: 'cover', tells: 'base' as const };
	const problemOf = (
		shaping: object,
		more: Partial<Interpretation> = {},
		tables?: Table[]
	): { kind: string; where?: string | undefined; hint?: string | undefined } | null => {
		try {
			ground(shaping as Partial<Shaping>, tables, more);
		} catch (error) {
			if (error instanceof ProblemError) return error.problem;
			throw error;
		}
		return null;
	};

	it.each([
		['a layer', { lines: [{ ...line, layer: { name: 'gone' } }] }, 'unknown-layer', 'lines'],
		['a terrain for a limit', { limits: [{ kind: 'under', surface: 'terrain' }] }, 'no-terrain', 'limits'],
		['a surface for a limit', { limits: [{ kind: 'over', surface: 'gone' }] }, 'unknown-surface', 'limits'],
		['a mesh that encloses', { limits: [{ kind: 'inside', surface: 'gone' }] }, 'unknown-surface', 'limits'],
		['a limit without a surface', { limits: [{ kind: 'under' }] }, 'bad-limit', 'limits'],
		['a limit without a distance', { limits: [{ kind: 'near' }] }, 'bad-limit', 'limits'],
		['a surface for a base', { made: [{ unit: 'cover', surface: 'gone' }] }, 'unknown-surface', 'made'],
		['a grid of thickness', { made: [{ unit: 'cover', surface: 'gone', thickness: 'gone too' }] }, 'unknown-surface', 'made'],
		['nothing for a base', { made: [{ unit: 'cover' }] }, 'bad-surface', 'made'],
		[
			'the top of the youngest unit',
			{ lines: [{ ...line, tells: 'top' as const, vertices: [[500, 500, 0]] }] },
			'line-of-basement',
			'lines'
		],
		['the base of the lowest unit', { lines: [{ ...line, unit: 'slate', vertices: [[500, 500, 0]] }] }, 'line-of-basement', 'lines'],
		[
			'what lies above the lowest unit',
			{ lines: [{ ...line, unit: 'slate', tells: 'above' as const, vertices: [[500, 500, 0]] }] },
			'line-of-basement',
			'lines'
		]
	])('%s is refused where it is named', (_, shaping, kind, where) => expect(problemOf(shaping)).toMatchObject({ kind, where }));

	it('says what there is instead', () => {
		const grid: Raster = { x0: 0, y0: 0, dx: 1000, dy: 1000, nx: 2, ny: 2, values: new Float32Array(4) };
		const things: Things = {
			...NO_THINGS,
			grids: new Map([
				['Rockhead', grid],
				['Isopachs', grid]
			])
		};
		expect(problemOf({ limits: [{ kind: 'over', surface: 'gone' }] }, { things })!.hint).toBe('There are: terrain, Rockhead, Isopachs.');
		expect(problemOf({ made: [{ unit: 'cover', surface: 'Rockhead', thickness: 'gone' }] }, { things })!.hint).toBe(
			'There are: Rockhead, Isopachs.'
		);
		expect(problemOf({ limits: [{ kind: 'inside', surface: 'gone' }] }, { things })!.hint).toBe('There are: none.');
	});

	it('is not looked for by what is turned off', () => {
		expect(
			problemOf({
				lines: [{ ...line, on: false, layer: { name: 'gone' } }],
				limits: [{ kind: 'under', on: false, surface: 'gone' }],
				made: [{ unit: 'cover', on: false }]
			})
		).toBeNull();
	});

	it('needs collars before all else', () => expect(problemOf({}, {}, [lithology])).toMatchObject({ kind: 'no-collars', where: 'tables' }));
});
