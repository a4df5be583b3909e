/** A grid of 3 by 2 cells as a classic netCDF file, written by the letter of the format (OGC 10-092r3): packed as short numbers, rows from the north. */
export function classicGrid({
	x = [100, 110, 120],
	y = [2010, 2000],
	cells = [0, 10, -1, 20, 30, 40]
}: { x?: number[]; y?: number[]; cells?: number[] } = {}): number[] {
	const int = (v: number) => [(v >>> 24) & 255, (v >>> 16) & 255, (v >>> 8) & 255, v & 255];
	const padded = (b: number[]) => [...b, ...new Array<number>((4 - (b.length % 4)) % 4).fill(0)];
	const text = (s: string) => [...int(s.length), ...padded([...s].map((c) => c.charCodeAt(0)))];
	const double = (v: number) => [...new Uint8Array(new Float64Array([v]).buffer)].reverse();
	const short = (v: number) => [(v >> 8) & 255, v & 255];
	const attribute = (name: string, type: number, count: number, data: number[]) => [
		...text(name),
		...int(type),
		...int(count),
		...padded(data)
	];
	const data = [x.flatMap(double), y.flatMap(double), padded(cells.flatMap(short))];
	const wkt = 'PROJCS["x",AUTHORITY["EPSG","32628"]]';
	const head = (starts: number[]) => [
		...[0x43, 0x44, 0x46, 1],
		...int(0),
		...int(10),
		...int(2),
		...text('x'),
		...int(x.length),
		...text('y'),
		...int(y.length),
		...int(0),
		...int(0),
		...int(11),
		...int(4),
		...text('x'),
		...int(1),
		...int(0),
		...int(0),
		...int(0),
		...int(6),
		...int(data[0]!.length),
		...int(starts[0]!),
		...text('y'),
		...int(1),
		...int(1),
		...int(0),
		...int(0),
		...int(6),
		...int(data[1]!.length),
		...int(starts[1]!),
		...text('crs'),
		...int(0),
		...int(12),
		...int(1),
		...attribute(
			'crs_wkt',
			2,
			wkt.length,
			[...wkt].map((c) => c.charCodeAt(0))
		),
		...int(3),
		...int(4),
		...int(starts[2]!),
		...text('depth'),
		...int(2),
		...int(1),
		...int(0),
		...int(12),
		...int(4),
		...attribute('scale_factor', 6, 1, double(0.5)),
		...attribute('add_offset', 6, 1, double(-100)),
		...attribute('_FillValue', 3, 1, short(-1)),
		...attribute('grid_mapping', 2, 3, [99, 114, 115]),
		...int(3),
		...int(data[2]!.length),
		...int(starts[2]!)
	];
	const size = head([0, 0, 0]).length;
	return [...head([size, size + data[0]!.length, size + data[0]!.length + data[1]!.length]), ...data.flat()];
}
