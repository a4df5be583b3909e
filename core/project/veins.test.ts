import { describe, expect, it } from 'vitest';
import { planeNormal } from '../geometry/angles';
import { surfaceOf } from '../mesh/extract';
import { expectClosedSolids } from '../mesh/for-tests';
import { misfits } from '../mesh/misfit';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import { listIntercepts } from '../model/intercepts';
import { unitAt } from '../model/walk';
import { readDelimited } from '../tables/delimited';
import type { TableKind } from '../tables/kinds';
import { guessMapping } from '../tables/mapping';
import { readTable, type Table } from '../tables/table';
import type { Unit } from '../units/column';
import { checkHoles, contactsOfAll, groundInput } from './pipeline';
import { NO_THINGS } from './shape-ground';
import { plainShaping, shapingSchema, validateShaping, type Shaping } from './shaping';

/** A vein of 6 m that dips 35° to the east through (500, 500, −350), in holes every 100 m; a second one 70 m above it in every other hole. */
const N = planeNormal(35, 90);
const HALF = 3;
const off = (x: number, y: number, z: number) => N[0] * (x - 500) + N[1] * (y - 500) + N[2] * (z + 350);
const extent = { minX: 0, minY: 0, minZ: -700, maxX: 1000, maxY: 1000, maxZ: 0 };
const units: Unit[] = [
	{ id: 'vein', name: 'Vein', color: '#888888', contact: 'intrusive', form: 'sheet' },
	{ id: 'host', name: 'Host', color: '#777777', contact: 'conformable' },
	{ id: 'floor', name: 'Floor', color: '#666666', contact: 'conformable' }
];
const table = (name: string, kind: TableKind, text: string): Table => {
	const raw = readDelimited(new TextEncoder().encode(text), name);
	return readTable(name, kind, raw, guessMapping(raw, kind), { lengthUnit: 'm' });
};
const places = [150, 350, 550, 750].flatMap((x) => [150, 350, 550, 750].map((y) => [x, y] as const));
const depthOf = (x: number, shift: number) => -(-350 + (shift - N[0] * (x - 500)) / N[2]);
/** @param second which holes cross a second vein above; @param missed holes that cross none */
function tablesOf(second: (i: number) => boolean, missed: readonly number[] = []): Table[] {
	const collars = places.map(([x, y], i) => `H${i},${x},${y},0,650`);
	const log = places.flatMap(([x], i) => {
		const cuts = [
			...(second(i) ? [[depthOf(x, 70 + HALF), depthOf(x, 70 - HALF)]] : []),
			...(missed.includes(i) ? [] : [[depthOf(x, HALF), depthOf(x, -HALF)]])
		].filter(([from]) => from! > 1);
		const rows: string[] = [];
		let at = 0;
		for (const [from, to] of cuts as [number, number][]) {
			rows.push(`H${i},${at},${from},host`, `H${i},${from},${to},vein`);
			at = to;
		}
		return [...rows, `H${i},${at},640,host`, `H${i},640,650,floor`];
	});
	return [
		table('collars', 'collars', `hole,easting,northing,elevation,total depth\n${collars.join('\n')}\n`),
		table('log', 'intervals', `hole,from,to,code\n${log.join('\n')}\n`)
	];
}
const options = { lengthUnit: 'm', settings: {}, around: { terrain: null, extent, column: [], lumping: {}, today: 20_000 } };
const lumping = { vein: 'vein', host: 'host', floor: 'floor' };
const interpretation = (shaping: Partial<Shaping> = {}, column = units) => ({
	extent,
	column,
	lumping,
	faults: [],
	terrain: null,
	shaping: shapingSchema.validateSync({ ...plainShaping(), ...shaping }) as Shaping,
	things: NO_THINGS
});
const ground = (tables: Table[], shaping: Partial<Shaping> = {}, column = units) =>
	groundInput(tables, checkHoles(tables, options), interpretation(shaping, column)).input;

/** Share of random places near the vein that are on the right side of its walls; nearer than 0.5 m nothing is asked. */
function shareRight(at: (x: number, y: number, z: number) => number): number {
	let [right, asked] = [0, 0];
	for (let i = 0; i < 4000; i++) {
		const [x, y, d] = [200 + 500 * ((i * 0.618034) % 1), 200 + 500 * ((i * 0.414214) % 1), 30 * ((i * 0.732051) % 1) - 15];
		if (Math.abs(Math.abs(d) - HALF) < 0.5) continue;
		asked++;
		if ((at(x, y, -depthOf(x, d)) === 0) === Math.abs(d) < HALF) right++;
	}
	return right / asked;
}

describe('a vein that crosses some holes twice', () => {
	const tables = tablesOf((i) => i % 2 === 1);

	it('has its intercepts listed, with how far each is off and which of a hole is the nearest', () => {
		const { points, observations } = contactsOfAll(tables, checkHoles(tables, options), interpretation());
		const list = listIntercepts(points, observations, 0);
		expect(list.filter((i) => i.ofHole === 1).length).toBeGreaterThanOrEqual(8);
		for (const i of list) expect(i.off!).toBeCloseTo(Math.abs(off(...i.middle)), 6);
		for (const i of list.filter((l) => l.ofHole === 2)) expect(i.nearest).toBe(i.off! < 35);
		expect(list.map((i) => i.hole)).toEqual([...list.map((i) => i.hole)].sort());
	});

	it('is shaped by those that belong to it, once the others are set aside', () => {
		const { points, observations } = contactsOfAll(tables, checkHoles(tables, options), interpretation());
		const setAside = listIntercepts(points, observations, 0)
			.filter((i) => !i.nearest)
			.map(({ hole, from, to }) => ({ unit: 'vein', hole, from, to }));
		expect(setAside.length).toBeGreaterThan(3);
		const input = ground(tables, { setAside });
		expect(input.contacts.filter((c) => c.surface === 0)).toHaveLength(32);
		expect(input.observations.filter((o) => o.unit === 0).every((o) => Math.abs(off(o.x, o.y, o.z)) < HALF + 1e-6)).toBe(true);
		expect(shareRight(unitAt(fitGround(input)))).toBeGreaterThan(0.995);
		// Left to itself it is told to be two: each is there, and neither pulls at the other.
		const both = fitGround(ground(tables));
		expect(both.sequences[0]!.others).toHaveLength(1);
		expect(shareRight(unitAt(both))).toBeGreaterThan(0.995);
	});

	it('refuses to set aside what is no unit', () => {
		expect(() => validateShaping({ ...plainShaping(), setAside: [{ unit: 'ore', hole: 'H1', from: 1, to: 2 }] }, units)).toThrow('no unit');
		expect(() => validateShaping({ ...plainShaping(), setAside: [{ unit: 'vein', hole: 'H1', from: 3, to: 2 }] }, units)).toThrow(
			'above its start'
		);
	});
});

describe('a vein that a hole passes', () => {
	// H5 stands amid the others.
	const tables = tablesOf(() => false, [5]);
	const [x, y] = places[5]!;
	const inVein = (column: Unit[]) => unitAt(fitGround(ground(tables, {}, column)))(x, y, -depthOf(x, 0)) === 0;

	it("ends there in an edge: closed solids, contacts honoured, the same by other holes' order", async () => {
		const input = ground(tables);
		const { mesh } = await buildModel(fitGround(input), { spacing: 40 });
		expectClosedSolids(mesh, 700e6, 1e-9);
		// 2 % of the spacing.
		for (const m of misfits(mesh, input.contacts)) if (input.contacts[m.contact]!.surface === 0) expect(m.distance!).toBeLessThan(0.8);
		const thick = await buildModel(fitGround({ ...input, column: [{ ...units[0]!, thinsOut: false }, ...units.slice(1)] }), {
			spacing: 40
		});
		expect(mesh.volumes.get(0)!).toBeLessThan(0.98 * thick.mesh.volumes.get(0)!);
		const shuffled = fitGround({ ...input, observations: [...input.observations].reverse(), contacts: [...input.contacts].reverse() });
		expect(shuffled.sequences[0]!.footField!.weights).toEqual(fitGround(input).sequences[0]!.footField!.weights);
	});

	it('thins out there, unless it may not', () => {
		expect(inVein(units)).toBe(false);
		// On the way to the holes around it that meet the vein it is there again, and beyond them as thick as ever.
		const at = unitAt(fitGround(ground(tables)));
		const inAt = (dy: number) => at(x, y + dy, -depthOf(x, 0)) === 0;
		expect([-170, -140, 140, 170].every(inAt)).toBe(true);
		expect([-40, -20, 20, 40].some(inAt)).toBe(false);
		const far = [150, 550, 750].flatMap((px) =>
			[150, 550, 750].map((py) => at(px, py, -depthOf(px, 0.8 * HALF)) === 0 && at(px, py, -depthOf(px, 1.2 * HALF)) !== 0)
		);
		expect(far.every(Boolean)).toBe(true);
		const kept: Unit[] = [{ ...units[0]!, thinsOut: false }, ...units.slice(1)];
		expect(inVein(kept)).toBe(true);
		const { findings } = fitGround(ground(tables, {}, kept));
		expect(findings.find((f) => f.kind === 'sheet-not-thinned')?.message).toContain('the hole H5 passes');
	});
});

describe('walls that are told', () => {
	const none = tablesOf(
		() => false,
		places.map((_, i) => i)
	);
	const rows = (tells: (i: number) => string, shift: (i: number) => number, more = '') =>
		places.map(([x, y], i) => `${x},${y},${-depthOf(x, shift(i))},vein,${tells(i)}${more}`).join('\n');
	/** Without holes that pass: they would thin the vein out. */
	const bare = (points: Table, column = units) => {
		const input = ground([...none, points], {}, column);
		return { ...input, observations: [] };
	};

	it('make the sheet between hanging wall and footwall', () => {
		const input = bare(
			table(
				'walls',
				'contactPoints',
				`easting,northing,elevation,unit,tells\n${rows(
					(i) => (i % 2 ? 'Hanging wall' : 'footwall'),
					(i) => (i % 2 ? HALF : -HALF)
				)}\n`
			)
		);
		expect(input.contacts.filter((c) => c.surface === 0).map((c) => c.wall)).toEqual(places.map((_, i) => (i % 2 ? 1 : -1)));
		expect(shareRight(unitAt(fitGround(input)))).toBeGreaterThan(0.98);
	});

	it('or from places midway with the thickness, in a table or as a line, whose misfit is that of the thickness', async () => {
		const points = table(
			'middles',
			'contactPoints',
			`easting,northing,elevation,unit,tells,thickness\n${rows(
				() => 'middle',
				() => 0,
				`,${2 * HALF}`
			)}\n`
		);
		const input = bare(points);
		const fitted = fitGround(input);
		expect(shareRight(unitAt(fitted))).toBeGreaterThan(0.995);
		const { mesh } = await buildModel(fitted, { spacing: 40 });
		expect(surfaceOf(mesh, 0).triangles.length).toBeGreaterThan(0);
		for (const m of misfits(mesh, input.contacts)) expect(m.distance!).toBeLessThan(0.8);
		const lines: Shaping['lines'] = [
			{
				id: 'l',
				name: 'drift',
				on: true,
				unit: 'vein',
				tells: 'middle',
				thickness: 2 * HALF,
				error: 0,
				vertices: places.map(([px, py]) => [px, py, -depthOf(px, 0)])
			}
		];
		expect(ground(none, { lines }).contacts.map(({ wall, thickness, z }) => [wall, thickness, z])).toEqual(
			input.contacts.map(({ wall, thickness, z }) => [wall, thickness, z])
		);
	});

	it('are not used where the unit is no sheet or the thickness is missing, and that is said', () => {
		const points = table(
			'bad',
			'contactPoints',
			'easting,northing,elevation,unit,tells,thickness\n500,500,-350,host,hanging,\n500,520,-350,vein,middle,\n500,540,-350,floor,base,\n'
		);
		const { findings, points: used } = contactsOfAll([...none, points], checkHoles([...none, points], options), interpretation());
		expect(findings.filter((f) => f.rule === 'place-unused').map((f) => [f.row, f.message])).toEqual([
			[0, 'the model has no hanging wall of Host'],
			[1, 'the middle of Vein needs its thickness, and Vein has to be a sheet'],
			[2, 'the model has no base of Floor']
		]);
		expect(used.some((c) => c.table === 'bad')).toBe(false);
		const line = (values: Partial<Shaping['lines'][number]>) =>
			validateShaping(
				{
					...plainShaping(),
					lines: [{ id: 'l', name: 'L', on: true, unit: 'vein', tells: 'hanging', error: 0, vertices: [[1, 2, 3]], ...values }]
				},
				units
			);
		expect(() => line({})).not.toThrow();
		expect(() => line({ unit: 'host' })).toThrow('no sheet');
		expect(() => line({ tells: 'middle' })).toThrow('without its thickness');
	});

	it('of a unit that is told to be a body, the middle lies inside', () => {
		const body: Unit[] = [{ ...units[0]!, form: 'body' }, ...units.slice(1)];
		const points = table(
			'mixed',
			'contactPoints',
			`easting,northing,elevation,unit,tells,thickness\n${[
				[60, 0, 0],
				[0, 60, 0],
				[0, 0, 60]
			]
				.flatMap((d) => [1, -1].map((k) => `${500 + k * d[0]!},${500 + k * d[1]!},${-350 + k * d[2]!},vein,base,`))
				.join('\n')}\n500,500,-350,vein,middle,6\n`
		);
		expect(unitAt(fitGround(bare(points, body)))(500, 500, -350)).toBe(0);
		const only = fitGround(
			bare(table('only', 'contactPoints', 'easting,northing,elevation,unit,tells,thickness\n500,500,-350,vein,middle,6\n'), body)
		);
		expect(only.findings.some((f) => f.message.includes('only the middle of Vein is known'))).toBe(true);
	});
});
