import { rasterOf } from '../formats/raster-pack';
import { UNKNOWN } from '../palette';
import { traceLength, type Trace } from '../sections/section';
import type { Pack } from '../formats/pack';
import type { Feature } from 'geojson';
import { numbersOf, readingColumn, unpackReadings, describeReadings, packReadings, type Readings } from '../datasets/readings';
import { MOST_CELLS } from '../grids/frame';
import type { Raster } from '../grids/raster';
import { gridOver } from '../mesh/grid-over';
import type { SolidMesh } from '../mesh/cut-lattice';
import { fail } from '../problem';
import type { Unit } from '../units/column';
import type { Described, Given, Product, ProjectFacts, RowsFacts } from './recipe';

const packOf = (g: Given): Pack => g.pack ?? fail('not-built', `${g.name} is not built yet`, 'Build it first.');

/** The mesh of a pack of solids. */
export const meshOfPack = ({ info, arrays }: Pack): SolidMesh => ({
	...(arrays as unknown as Omit<SolidMesh, 'volumes'>),
	volumes: new Map((info as { volumes: [number, number][] }).volumes)
});

/** The mesh of a result of form solids. @throws ProblemError `not-built` */
export const solidsOf = (g: Given): SolidMesh => meshOfPack(packOf(g));

/** A result or source of form grid. @throws ProblemError `not-built` */
export const gridOf = (g: Given): Raster => rasterOf(packOf(g));

/** The rows of a table, or of what was made of one. @throws ProblemError `not-built` */
export const readingsIn = (g: Given): Readings => unpackReadings(packOf(g));

/** Unit of measure of a column of an input; '' where it has none. */
export function unitOf(r: Readings, key: string): string {
	const column = r.columns.find((c) => c.key === key);
	return column && column.type !== 'text' ? column.unit : '';
}

/** Numbers of a column of an input. @throws ProblemError `unknown-column`, `not-numbers` */
export const numbersIn = (g: Given, r: Readings, key: string): Float64Array => numbersOf(r, key, g.name);

/** Texts of a column of an input; numbers as they are written. @throws ProblemError `unknown-column` */
export function textsIn(g: Given, r: Readings, key: string): string[] {
	const c = readingColumn(r, key, g.name);
	return c.type === 'text' ? c.values : Array.from(c.values, (v) => (Number.isNaN(v) ? '' : String(v)));
}

/** Rows with places as a product: what is told of them stands in the report. */
export const productOfReadings = (r: Readings, report: Record<string, unknown>): Product => ({
	pack: packReadings(r),
	report: { ...report, table: describeReadings(r) }
});

/** What is known of rows that were made, from their report. */
export const rowsOfReport = (report: Readonly<Record<string, unknown>>): RowsFacts | undefined => report['table'] as RowsFacts | undefined;

/** Lines and faces of an input. @throws ProblemError `not-built` */
export const featuresOf = (g: Given): Feature[] => (packOf(g).info['features'] ?? []) as Feature[];

/** The line of a section. @throws ProblemError `section-trace` when it has none */
export function traceOf(g: Described): Trace {
	const trace = (g.state['trace'] ?? []) as Trace;
	if (trace.length < 2 || !(traceLength(trace) > 0))
		fail('section-trace', `the section ${g.name} has no line yet`, 'Draw it on the map, or choose another.', g.role);
	return trace;
}

/** The units of a model by their numbers. */
export const unitsByNumber = (g: Given): Unit[] =>
	(packOf(g).info['units'] as string[]).map(
		(id) => g.units.find((u) => u.id === id) ?? { id, name: id, color: UNKNOWN, contact: 'conformable' }
	);

/** @throws ProblemError `unknown-unit` */
export function refuseUnknown(g: Described, id: string): void {
	if (!g.units.some((u) => u.id === id)) fail('unknown-unit', `${g.name} has no unit "${id}"`, 'Choose one of its units.', 'unit');
}

/** Number of a unit in a model. @throws ProblemError `unknown-unit` when it was not there when the model was built */
export function unitNumber(g: Given, id: string): number {
	const i = (packOf(g).info['units'] as string[]).indexOf(id);
	return i >= 0
		? i
		: fail('unknown-unit', `${g.name} was built without the unit "${id}"`, 'Build the model, or choose another unit.', 'unit');
}

/**
 * The nodes of a grid over a model.
 * @param cell side of its cells; without it, a two hundredth of the longer side
 * @throws ProblemError `too-fine`
 */
export function frameOver(mesh: SolidMesh, cell?: number): Omit<Raster, 'values'> {
	const b = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity };
	const p = mesh.positions;
	for (let i = 0; i < p.length; i += 3) {
		b.minX = Math.min(b.minX, p[i]!);
		b.maxX = Math.max(b.maxX, p[i]!);
		b.minY = Math.min(b.minY, p[i + 1]!);
		b.maxY = Math.max(b.maxY, p[i + 1]!);
	}
	const side = cell ?? Math.max(b.maxX - b.minX, b.maxY - b.minY) / 200;
	refuseTooFine(((b.maxX - b.minX) * (b.maxY - b.minY)) / side ** 2, side, MOST_CELLS, 'cell');
	return gridOver(b, side);
}

/** @param where parameter that says how wide cells are. @throws ProblemError `too-fine` */
export function refuseTooFine(cells: number, width: number, most: number, where: string): void {
	if (cells > most)
		fail(
			'too-fine',
			`cells of ${width} make ${Math.round(cells).toLocaleString('en')} cells; the most is ${most.toLocaleString('en')}`,
			'Use wider cells.',
			where
		);
}

/** A cell that shows a project well: a round two hundredth of its longer side. */
export function proposeCell({ extent }: ProjectFacts): number {
	if (!extent) return 10;
	const wanted = Math.max(extent.maxX - extent.minX, extent.maxY - extent.minY) / 200;
	const ten = 10 ** Math.floor(Math.log10(wanted));
	return ([1, 2, 5, 10].find((f) => f * ten >= wanted) ?? 10) * ten;
}

/** What can be said of any grid: cells with a value, least, greatest, mean. */
export function gridReport(r: Raster): Record<string, unknown> {
	let [known, least, most, sum] = [0, Infinity, -Infinity, 0];
	for (const v of r.values) {
		if (!Number.isFinite(v)) continue;
		known++;
		least = Math.min(least, v);
		most = Math.max(most, v);
		sum += v;
	}
	const cellArea = Math.abs(r.dx * r.dy);
	return known
		? { cells: r.values.length, known, least, most, mean: sum / known, area: known * cellArea }
		: { cells: r.values.length, known, least: null, most: null, mean: null, area: 0 };
}
