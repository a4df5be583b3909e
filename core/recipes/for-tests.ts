import { packOfRaster } from '../formats/raster-pack';
import type { Feature } from 'geojson';
import { describeReadings, packReadings, type ReadingColumn, type Readings } from '../datasets/readings';
import { packValue, readPack, writePack } from '../formats/pack';
import type { Raster } from '../grids/raster';
import { blockNumbers, blocksOf } from '../model/blocks';
import { buildModel } from '../model/build';
import computePiece, { inTasks } from '../model/compute';
import { fitGround } from '../model/fit-ground';
import type { GroundInput } from '../model/ground';
import { faultsOf, unitsOf } from '../model/whole';
import { withFirstValues } from './parameters';
import type { Given, Product, RecipeContext } from './recipe';
import { recipeOf } from './register';

export const context: RecipeContext = {
	project: { name: 'Test', lengthUnit: 'm', crs: 0, extent: { minX: 0, minY: 0, minZ: -100, maxX: 1000, maxY: 1000, maxZ: 100 } },
	ground: null,
	progress: () => {},
	tasks: inTasks(async (task) => structuredClone(await computePiece(structuredClone(task))) as never)
};
export const number = (key: string, values: number[], type: 'number' | 'date' = 'number'): ReadingColumn => ({
	key,
	label: key,
	type,
	unit: '',
	values: Float64Array.from(values)
});
export const text = (key: string, values: string[]): ReadingColumn => ({ key, label: key, type: 'text', values });
export const readings = (places: (readonly [number, number])[], columns: ReadingColumn[], z = 0): Readings => ({
	rowCount: places.length,
	row: Uint32Array.from(places, (_, i) => i),
	x: Float64Array.from(places, (p) => p[0]),
	y: Float64Array.from(places, (p) => p[1]),
	z: new Float64Array(places.length).fill(z),
	columns
});
export const base = { state: {}, report: {}, units: [] };
export const table = (role: string, r: Readings, name = 'Readings'): Given => ({
	...base,
	id: name,
	role,
	kind: 'table',
	name,
	rows: describeReadings(r),
	pack: packReadings(r)
});
export const grid = (role: string, r: Raster, name: string): Given => ({
	...base,
	id: name,
	role,
	kind: 'grid',
	name,
	pack: packOfRaster(r)
});
export const layer = (role: string, features: Feature[], name = 'Lines'): Given => ({
	...base,
	id: name,
	role,
	kind: 'layer',
	name,
	pack: { info: { features }, arrays: {} }
});
export const flat = (value: number | ((x: number, y: number) => number), n = 20, d = 50, x0 = 25, y0 = 25): Raster => ({
	x0,
	y0,
	dx: d,
	dy: d,
	nx: n,
	ny: n,
	values: Float32Array.from({ length: n * n }, (_, k) =>
		typeof value === 'number' ? value : value(x0 + (k % n) * d, y0 + Math.floor(k / n) * d)
	)
});
export async function run(id: string, inputs: Given[], parameters: Record<string, unknown> = {}, preview = false): Promise<Product> {
	const r = recipeOf(id)!;
	const own = (await r.parameters.validate(withFirstValues(r.parameters, parameters), { strict: true })) as Record<string, unknown>;
	r.refuse?.(inputs, own);
	r.estimate?.(inputs, own, context.project);
	return r.run(inputs, own, { ...context, ...(preview ? { preview } : {}) });
}
export const square = (a: number, b: number, name = 'inside'): Feature => ({
	type: 'Feature',
	properties: { name },
	geometry: {
		type: 'Polygon',
		coordinates: [
			[
				[a, a],
				[b, a],
				[b, b],
				[a, b],
				[a, a]
			]
		]
	}
});

export const corners = [
	[100, 100],
	[900, 100],
	[100, 900],
	[900, 900],
	[500, 500]
] as const;
/** Five readings with a name. */
export const some = readings([...corners], [number('v', [1, 2, 3, 4, 2.5]), text('name', ['a', 'b', 'c', 'd', 'e'])]);
/** Of the small models: 600 by 400, 300 deep. */
export const extent = { minX: 0, minY: 0, minZ: -300, maxX: 600, maxY: 400, maxZ: 0 };
export const places = [50, 200, 350, 550].flatMap((x) => [50, 200, 350].map((y) => [x, y] as const));
export const unit = (id: string, color: string) => ({ id, name: id.toUpperCase(), color, contact: 'conformable' as const });

/** Two units parted by a plane. */
export const parted = (ids: [string, string], z: (x: number, y: number) => number, more: Partial<GroundInput> = {}): GroundInput => ({
	extent,
	column: [unit(ids[0], '#c08040'), unit(ids[1], '#4060a0')],
	contacts: places.map(([x, y], i) => ({ surface: 0, x, y, z: z(x, y), hole: `H${i}`, depth: -z(x, y), table: 'log', row: i })),
	observations: [],
	orientations: [],
	faults: [],
	terrain: null,
	...more
});
export const level = parted(['a', 'b'], () => -120);
export const dipping = parted(['m', 'n'], (x) => -60 - 0.3 * x);
export const given = (role: string, kind: string, input: GroundInput, product: Pick<Product, 'pack' | 'report'>): Given => ({
	id: kind,
	role,
	kind,
	name: 'Ground',
	state: {},
	report: product.report,
	units: input.column,
	pack: readPack(writePack(product.pack))
});
export const fieldsOf = (role: string, input: GroundInput): Given =>
	given(role, 'fields', input, { pack: packValue(fitGround(input)), report: {} });

export async function modelOf(role: string, input: GroundInput, spacing = 25): Promise<Given> {
	const ground = fitGround(input);
	const built = await buildModel(ground, { spacing });
	const { volumes, frontLeaf, backLeaf, ...arrays } = built.mesh;
	const { blocks, ofLeaf } = blocksOf(ground, built.leaves);
	return given(role, 'model', input, {
		pack: {
			info: {
				units: unitsOf(ground).map((u) => u.id),
				faults: faultsOf(ground).map((f) => ({ id: f.id, name: f.name })),
				hasTerrain: false,
				volumes: [...volumes],
				blocks
			},
			arrays: { ...arrays, frontBlock: blockNumbers(frontLeaf, ofLeaf), backBlock: blockNumbers(backLeaf, ofLeaf) }
		},
		report: {}
	});
}
