import { NetCDFReader } from 'netcdfjs';
import { fail } from '../problem';
import type { ReadRaster } from './geotiff';
import { epsgOfWkt } from './vectors';

const MOST_CELLS = 50_000_000;

/** Whether these are netCDF bytes, of the classic format or in HDF5. */
export const isNetCdf = (b: Uint8Array): boolean => (b[0] === 0x43 && b[1] === 0x44 && b[2] === 0x46 && b[3]! <= 5) || isHdf(b);
const isHdf = (b: Uint8Array): boolean => b[0] === 0x89 && b[1] === 0x48 && b[2] === 0x44 && b[3] === 0x46;

type Variable = NetCDFReader['variables'][number];

/**
 * Reads the first variable on two axes of a netCDF file (classic format, OGC 10-092r3), with its scale, offset and mark of no value (CF
 * conventions). Axes are variables named like their dimensions, and must have equal steps. Of further dimensions the first value counts.
 * @throws ProblemError `not-a-grid`, `raster-too-large`, `not-read`
 */
export function readNetCdf(bytes: Uint8Array, name: string): ReadRaster {
	if (isHdf(bytes))
		return fail('not-read', `${name} is netCDF 4, which is HDF5 inside`, 'Write it in the classic format of netCDF, or as GeoTIFF.', name);
	const file = new NetCDFReader(bytes as unknown as ConstructorParameters<typeof NetCDFReader>[0]);
	const attribute = (v: Variable, key: string): unknown =>
		(v.attributes as unknown as { name: string; value: unknown }[]).find((a) => a.name === key)?.value;
	const number = (v: Variable, key: string): number | null => {
		const value = attribute(v, key);
		const first = Array.isArray(value) ? value[0] : value;
		return typeof first === 'number' && Number.isFinite(first) ? first : null;
	};
	const axisNamed = (dimension: number) =>
		file.variables.find((v) => v.dimensions.length === 1 && v.dimensions[0] === dimension && v.name === file.dimensions[dimension]!.name);
	const grid = file.variables.find((v) => v.dimensions.length >= 2 && v.type !== 'char' && v.dimensions.slice(-2).every(axisNamed));
	if (!grid)
		return fail('not-a-grid', `${name} has no variable on two axes`, 'Axes are variables that are named like their dimensions.', name);
	const [rows, columns] = grid.dimensions.slice(-2).map((d) => axisNamed(d)!) as [Variable, Variable];
	const axis = (v: Variable) => {
		const values = (file.getDataVariable(v) as number[]).map((x) => x * (number(v, 'scale_factor') ?? 1) + (number(v, 'add_offset') ?? 0));
		const step = (values[values.length - 1]! - values[0]!) / (values.length - 1);
		if (!(Math.abs(step) > 0) || values.some((x, i) => !(Math.abs(x - values[0]! - i * step) < 0.05 * Math.abs(step))))
			fail(
				'not-a-grid',
				`the axis ${v.name} of ${name} has no equal steps`,
				'Sample it anew on a lattice, or bring it in as a table of places.',
				name
			);
		return { start: Math.min(values[0]!, values[values.length - 1]!), step: Math.abs(step), count: values.length, turned: step < 0 };
	};
	const [y, x] = [axis(rows), axis(columns)];
	if (x.count * y.count > MOST_CELLS)
		return fail(
			'raster-too-large',
			`${name} has ${(x.count * y.count).toLocaleString('en')} cells; the most is ${MOST_CELLS.toLocaleString('en')}`,
			'Clip or coarsen it first.',
			name
		);
	const data = (file.getDataVariable(grid) as unknown[]).flat() as number[];
	if (data.length < x.count * y.count)
		return fail('damaged-file', `${name} has fewer values than cells`, 'The file is damaged; choose another copy.', name);
	const none = [number(grid, '_FillValue'), number(grid, 'missing_value')];
	const [scale, offset] = [number(grid, 'scale_factor') ?? 1, number(grid, 'add_offset') ?? 0];
	const values = new Float32Array(x.count * y.count);
	for (let r = 0; r < y.count; r++) {
		for (let c = 0; c < x.count; c++) {
			const v = data[(y.turned ? y.count - 1 - r : r) * x.count + (x.turned ? x.count - 1 - c : c)]!;
			// The usual mark of no value where none is named is near 9.97e36.
			values[r * x.count + c] = none.includes(v) || Math.abs(v) > 9.9e36 ? NaN : v * scale + offset;
		}
	}
	const mapping = file.variables.find((v) => v.name === attribute(grid, 'grid_mapping'));
	const wkt = mapping && (attribute(mapping, 'crs_wkt') ?? attribute(mapping, 'spatial_ref'));
	const degrees = /^degrees?_?(east|e)$/i.test(String(attribute(columns, 'units') ?? ''));
	const epsg = typeof wkt === 'string' ? epsgOfWkt(wkt) : degrees ? 4326 : null;
	const others = file.variables.filter((v) => v !== grid && v.dimensions.length >= 2).map((v) => v.name);
	return {
		raster: { x0: x.start, y0: y.start, dx: x.step, dy: y.step, nx: x.count, ny: y.count, values },
		epsg,
		system: typeof wkt === 'string' && epsg === null ? (/\["([^"]*)"/.exec(wkt)?.[1] ?? null) : null,
		notes: [
			...(others.length ? [`read is the variable ${grid.name}; left out: ${others.slice(0, 8).join(', ')}`] : []),
			...(grid.dimensions.length > 2
				? [
						`of ${grid.name} the first of its ${grid.dimensions.length - 2 > 1 ? 'layers' : file.dimensions[grid.dimensions[0]!]!.name} is read`
					]
				: [])
		]
	};
}
