import type { Raster } from '../grids/raster';
import { fail } from '../problem';
import { guessMapping } from '../tables/mapping';
import { readDelimited } from '../tables/delimited';
import { numberReader } from '../tables/numbers';

const MOST_CELLS = 50_000_000;
/** Numbers that stand for no value in files of grids; a number beyond 10^30 does, too. */
const MARKS = [-9999, -99999, -32768, -999999];
/** How far a place may lie off the lattice, as a share of its cell. */
const OFF = 0.05;

/**
 * Reads a grid that is written as lines of x, y and z, in any order and with places left out. Columns are found by their headers, or
 * are the first three. Marks of no value are left without one, and counted.
 * @throws ProblemError `not-a-grid` when the places do not lie on a lattice, `raster-too-large`
 */
export function readXyz(bytes: Uint8Array, name: string): { raster: Raster; notes: string[] } {
	const raw = readDelimited(bytes, name);
	const read = numberReader(raw.reading);
	const mapping = guessMapping(raw, 'places');
	const of = (role: string) => raw.header.findIndex((h) => mapping[h] === role);
	const named = ['easting', 'northing', 'elevation'].map(of);
	const columns = named.includes(-1) ? [0, 1, 2] : named;
	if (raw.header.length < 3)
		return fail('not-a-grid', `${name} has fewer than three columns`, 'A grid as text has lines of x, y and z.', name);
	const [x, y, z] = columns.map((c) => Float64Array.from(raw.columns[c]!, read)) as [Float64Array, Float64Array, Float64Array];
	const bad = x.findIndex((v, i) => !Number.isFinite(v) || !Number.isFinite(y[i]!));
	if (bad >= 0)
		return fail('not-a-grid', `${name}, line ${raw.lines[bad]}: x and y must be numbers`, 'A grid as text has lines of x, y and z.', name);
	const [ax, ay] = [axisOf(x), axisOf(y)];
	if (!ax || !ay)
		return fail(
			'not-a-grid',
			`the places of ${name} do not lie on a lattice of equal steps`,
			'Bring it in as a table of places, or as a layer of points; a grid is made of it elsewhere.',
			name
		);
	if (ax.count * ay.count > MOST_CELLS)
		return fail(
			'raster-too-large',
			`${name} has ${(ax.count * ay.count).toLocaleString('en')} cells; the most is ${MOST_CELLS.toLocaleString('en')}`,
			'Clip or coarsen it first.',
			name
		);
	const values = new Float32Array(ax.count * ay.count).fill(NaN);
	let marks = 0;
	for (let i = 0; i < x.length; i++) {
		if (Math.abs(z[i]!) >= 1e30 || MARKS.includes(z[i]!)) marks++;
		else values[Math.round((y[i]! - ay.start) / ay.step) * ax.count + Math.round((x[i]! - ax.start) / ax.step)] = z[i]!;
	}
	return {
		raster: { x0: ax.start, y0: ay.start, dx: ax.step, dy: ay.step, nx: ax.count, ny: ay.count, values },
		notes: marks
			? [
					`${marks} cells hold a mark of no value (${[...new Set(z.filter((v) => MARKS.includes(v) || Math.abs(v) >= 1e30))].slice(0, 3).join(', ')}) and have none`
				]
			: []
	};
}

/** First value, step and number of values on an axis; null when they are not evenly spaced. */
function axisOf(values: Float64Array): { start: number; step: number; count: number } | null {
	const sorted = Float64Array.from(new Set(values)).sort();
	if (sorted.length < 2) return null;
	const span = sorted[sorted.length - 1]! - sorted[0]!;
	let step = Infinity;
	// Differences below a millionth of the span are the rounding of one coordinate.
	for (let i = 1; i < sorted.length; i++) if (sorted[i]! - sorted[i - 1]! > 1e-6 * span) step = Math.min(step, sorted[i]! - sorted[i - 1]!);
	const count = Math.round(span / step) + 1;
	step = span / (count - 1);
	const off = (v: number) => Math.abs((v - sorted[0]!) / step - Math.round((v - sorted[0]!) / step));
	return sorted.every((v) => off(v) < OFF) ? { start: sorted[0]!, step, count } : null;
}
