import type { Raster } from '../grids/raster';
import { fail } from '../problem';

/** Whether a text begins as an ASCII grid. */
export const isAsc = (text: string): boolean => /^\s*ncols\s+\d+/i.test(text.slice(0, 200));

const MOST_CELLS = 50_000_000;

/**
 * Reads an ASCII grid (the form with ncols and nrows that GDAL and others write): header, then rows from north to south.
 * @throws ProblemError `not-an-asc`, `raster-too-large`, `asc-cut-off`, `empty-raster`
 */
export function readAsc(bytes: Uint8Array, name: string): Raster {
	const text = new TextDecoder('latin1').decode(bytes);
	if (!isAsc(text)) return fail('not-an-asc', `${name} is no ASCII grid`, 'It should begin with ncols.', name);
	const head = new Map<string, number>();
	const pattern = /[ \t]*([a-z_]+)[ \t]+(\S+)[ \t]*\r?\n/giy;
	for (let m = pattern.exec(text); m; m = pattern.exec(text)) head.set(m[1]!.toLowerCase(), Number(m[2]));
	// The pattern stops before the first row, which begins with a number.
	const start = text.search(/(?:^|\n)[ \t]*[-+.\d]/);
	const of = (key: string) => head.get(key) ?? NaN;
	const [nx, ny] = [of('ncols'), of('nrows')];
	const dx = head.has('dx') ? of('dx') : of('cellsize');
	const dy = head.has('dy') ? of('dy') : of('cellsize');
	const x0 = head.has('xllcenter') ? of('xllcenter') : of('xllcorner') + dx / 2;
	const y0 = head.has('yllcenter') ? of('yllcenter') : of('yllcorner') + dy / 2;
	if (![nx, ny].every(Number.isInteger) || ![dx, dy, x0, y0].every(Number.isFinite) || !(dx > 0 && dy > 0))
		return fail(
			'not-an-asc',
			`${name} does not say its size, corner and cell size`,
			'ncols, nrows, xllcorner, yllcorner and cellsize are needed.',
			name
		);
	if (nx * ny > MOST_CELLS)
		return fail(
			'raster-too-large',
			`${name} has ${(nx * ny).toLocaleString('en')} cells; the most is ${MOST_CELLS.toLocaleString('en')}`,
			'Clip or coarsen it first.',
			name
		);
	if (nx < 2 || ny < 2) return fail('empty-raster', `${name} is ${nx} × ${ny} cells; at least 2 × 2 are needed`, undefined, name);
	const noData = head.get('nodata_value');
	const values = new Float32Array(nx * ny).fill(NaN);
	let n = 0;
	let filled = 0;
	for (let i = Math.max(0, start), from = -1; i <= text.length; i++) {
		const blank = i === text.length || text.charCodeAt(i) <= 32;
		if (!blank && from < 0) from = i;
		if (!blank || from < 0) continue;
		const v = Number(text.slice(from, i));
		from = -1;
		if (n >= nx * ny) break;
		const row = ny - 1 - Math.floor(n / nx);
		if (Number.isFinite(v) && v !== noData) {
			values[row * nx + (n % nx)] = v;
			filled++;
		}
		n++;
	}
	if (n < nx * ny) return fail('asc-cut-off', `${name} holds ${n} of ${nx * ny} values`, 'The file is cut off; send it again.', name);
	if (filled === 0) return fail('empty-raster', `${name} holds no values`, undefined, name);
	return { x0, y0, dx, dy, nx, ny, values };
}

/** Writes an ASCII grid. Cells that are not square are written with dx and dy. */
export function writeAsc(r: Raster): string {
	const out = [`ncols ${r.nx}`, `nrows ${r.ny}`, `xllcorner ${r.x0 - r.dx / 2}`, `yllcorner ${r.y0 - r.dy / 2}`];
	// A number that the grid does not have stands for no value.
	let empty = -9999;
	while (r.values.includes(empty)) empty = 10 * empty - 9;
	out.push(...(r.dx === r.dy ? [`cellsize ${r.dx}`] : [`dx ${r.dx}`, `dy ${r.dy}`]), `NODATA_value ${empty}`);
	for (let j = r.ny - 1; j >= 0; j--) {
		const row: string[] = [];
		for (let i = 0; i < r.nx; i++) {
			const v = r.values[j * r.nx + i]!;
			row.push(String(Number.isNaN(v) ? empty : v));
		}
		out.push(row.join(' '));
	}
	return out.join('\n') + '\n';
}
