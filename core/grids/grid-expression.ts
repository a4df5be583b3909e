import { compile, type Source, type WholeFunctions } from '../expressions/expression';
import { fail } from '../problem';
import type { Segments } from './barriers';
import { distanceTo } from './distance';
import type { Frame } from './frame';
import { resample } from './resample';
import { aspect, curvature, medianOf, shading, slope, smooth, upslopeArea } from './shape';
import type { Raster } from './raster';

/** Names that a grid goes by in an expression: its own, and in small letters with _ for everything else. */
export const plainName = (name: string): string =>
	name
		.trim()
		.toLowerCase()
		.replace(/[^\p{L}\p{N}]+/gu, '_')
		.replace(/^_+|_+$/g, '');

/** An expression in which a grid goes by another name. Text in quotes stays. */
export function renamedInExpression(expression: string, from: string, to: string): string {
	const wanted = plainName(from);
	const name = /^[\p{L}_][\p{L}\p{N}_]*$/u.test(plainName(to)) ? plainName(to) : `[${to.replaceAll(']', ')')}]`;
	return expression.replace(/'[^']*'|"[^"]*"|\[([^\]]+)\]|[\p{L}_][\p{L}\p{N}_]*(?!\s*\()/gu, (whole, bracketed: string | undefined) => {
		if (whole[0] === "'" || whole[0] === '"') return whole;
		return plainName(bracketed ?? whole) === wanted ? name : whole;
	});
}

/** What can be called on a grid, with what it needs beside it. */
export const GRID_FUNCTIONS = {
	slope: 'slope(grid): degrees from horizontal',
	aspect: 'aspect(grid): direction it falls to, degrees from north',
	curvature: 'curvature(grid): above 0 in hollows',
	smooth: 'smooth(grid, radius): weighted mean',
	median: 'median(grid, radius)',
	shade: 'shade(grid, azimuth, height): light of a sun, 0 to 1',
	upslope: 'upslope(grid): area that drains through each cell'
} as const;

const functionsOver = (f: Frame): WholeFunctions => {
	const on = (count: [number, number], run: (r: Raster, ...more: number[]) => Float32Array): WholeFunctions[string] => ({
		count,
		run: (values, ...more) => Float64Array.from(run({ ...f, values: Float32Array.from(values) }, ...more))
	});
	return {
		slope: on([1, 1], slope),
		aspect: on([1, 1], aspect),
		curvature: on([1, 1], curvature),
		smooth: on([2, 2], (r, radius) => smooth(r, radius!)),
		median: on([2, 2], (r, radius) => medianOf(r, Math.min(radius!, 50 * Math.max(Math.abs(f.dx), Math.abs(f.dy))))),
		shade: on([3, 3], (r, azimuth, height) => shading(r, azimuth!, height!)),
		upslope: on([1, 1], upslopeArea)
	};
};

/**
 * An expression over grids, at the cells of a frame: grids by name (in [brackets] where it is no plain word), `x` and `y`, and
 * `distance` to the lines that are given.
 * @returns values; yes is 1 and no is 0
 * @throws ProblemError `bad-expression`, `unknown-column`, `not-numbers`
 */
export function calculateGrid(
	expression: string,
	grids: readonly { name: string; raster: Raster }[],
	frame: Frame,
	lines: Segments | null
): Float32Array {
	if (!expression.trim()) fail('bad-expression', 'there is no expression', 'For example: terrain - depth', 'expression');
	const compiled = compile(expression, functionsOver(frame));
	const sources: Record<string, Source> = {};
	const n = frame.nx * frame.ny;
	for (const { name, raster } of grids) {
		const wanted = compiled.columns.filter((c) => c === name || plainName(c) === plainName(name));
		if (wanted.length === 0) continue;
		const values = resample(raster, frame, 'straight').values;
		for (const c of wanted) sources[c] ??= { type: 'number', values, unit: '' };
	}
	for (const c of compiled.columns) {
		if (Object.hasOwn(sources, c)) continue;
		if (c === 'x')
			sources[c] = { type: 'number', unit: '', values: Float64Array.from({ length: n }, (_, k) => frame.x0 + (k % frame.nx) * frame.dx) };
		else if (c === 'y')
			sources[c] = {
				type: 'number',
				unit: '',
				values: Float64Array.from({ length: n }, (_, k) => frame.y0 + Math.floor(k / frame.nx) * frame.dy)
			};
		else if (c === 'distance' && lines) sources[c] = { type: 'number', unit: '', values: distanceTo(lines, frame) };
		else
			fail(
				'unknown-column',
				c === 'distance' ? 'distance needs lines to be distant from' : `there is no grid "${c}" among those that are put in`,
				c === 'distance'
					? 'Choose them as "Lines".'
					: `They are ${grids.map((g) => plainName(g.name)).join(', ') || 'none'}; besides x, y, distance.`,
				'expression'
			);
	}
	const result = compiled.run(sources, n);
	if (result.type === 'text') return fail('not-numbers', 'the expression gives text, and a grid holds numbers', undefined, 'expression');
	return Float32Array.from(result.values as ArrayLike<number>, (v) => (Number.isFinite(v) ? v : NaN));
}
