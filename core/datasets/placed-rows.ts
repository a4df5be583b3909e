import type { Feature, Geometry, Position } from 'geojson';
import { sampleRaster, type Raster } from '../grids/raster';
import type { Hole } from '../holes/holes';
import { positionAt, samplePath, type Path } from '../holes/path';
import { formatDate } from '../tables/dates';
import { roleOf } from '../tables/kinds';
import type { Table } from '../tables/table';

/** Greatest distance between vertices along a bent hole, project units. */
const STEP = 5;

/**
 * The rows of a table in use as features where they lie in space: a hole as the line that it runs, an interval as its part of that line, a
 * reading or a place as a point. Rows of holes that are not in use, and rows without a place, are left out. Properties are named by the
 * headers of the columns, in project units; dates are ISO text.
 * @param out 1 for each row that is not in use
 */
export function placedRows(table: Table, out: ArrayLike<number>, holes: readonly Hole[], terrain: Raster | null): Feature<Geometry>[] {
	const paths = new Map(holes.map((h) => [h.name, h.path]));
	const features: Feature<Geometry>[] = [];
	const columns = Object.entries(table.headers);
	for (let row = 0; row < table.rowCount; row++) {
		if (out[row]) continue;
		const geometry = geometryOf(table, row, paths, terrain);
		if (!geometry) continue;
		const properties: Record<string, unknown> = {};
		for (const [key, header] of columns) {
			const v = table.numbers[key]?.[row];
			if (v === undefined) properties[header] = table.text[key]?.[row] ?? null;
			else properties[header] = Number.isNaN(v) ? null : roleOf(table.kind, key)?.type === 'date' ? formatDate(v) : v;
		}
		features.push({ type: 'Feature', geometry, properties });
	}
	return features;
}

function geometryOf(table: Table, row: number, paths: ReadonlyMap<string, Path>, terrain: Raster | null): Geometry | null {
	const { from, to, depth, waterDepth, easting, northing, elevation } = table.numbers;
	const hole = table.text['hole']?.[row];
	const path = hole === undefined ? undefined : paths.get(hole);
	const line = (coordinates: Position[]): Geometry => ({ type: 'LineString', coordinates });
	if (table.kind === 'collars') return path ? line(partOf(path, 0, path.totalDepth)) : null;
	if (path && from && to) return Number.isFinite(from[row]!) && to[row]! > from[row]! ? line(partOf(path, from[row]!, to[row]!)) : null;
	if (path) {
		const at = depth?.[row] ?? waterDepth?.[row] ?? 0;
		return Number.isFinite(at) ? { type: 'Point', coordinates: [...positionAt(path, at)] } : null;
	}
	if (!easting || !northing || !Number.isFinite(easting[row]!) || !Number.isFinite(northing[row]!)) return null;
	const z =
		elevation && Number.isFinite(elevation[row]!) ? elevation[row]! : terrain ? sampleRaster(terrain, easting[row]!, northing[row]!) : NaN;
	return { type: 'Point', coordinates: [easting[row]!, northing[row]!, ...(Number.isFinite(z) ? [z] : [])] };
}

/** The line of a hole between two depths: both ends, and what bends between them. */
function partOf(path: Path, from: number, to: number): Position[] {
	const { depths, xyz } = samplePath(path, STEP);
	const between: Position[] = [];
	for (let i = 0; i < depths.length; i++)
		if (depths[i]! > from + 1e-6 && depths[i]! < to - 1e-6) between.push([xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!]);
	return [[...positionAt(path, from)], ...between, [...positionAt(path, to)]];
}

/** The same as rows of a table: the columns, and x, y and z of where each row begins, its middle and its end. */
export function placedTable(features: readonly Feature<Geometry>[]): { header: string[]; rows: (string | number)[][] } {
	const names = [...new Set(features.flatMap((f) => Object.keys(f.properties ?? {})))];
	const ends = features.some((f) => f.geometry.type === 'LineString');
	const places = ends ? ['x from', 'y from', 'z from', 'x middle', 'y middle', 'z middle', 'x to', 'y to', 'z to'] : ['x', 'y', 'z'];
	const unique = (name: string): string => (names.includes(name) ? unique(`${name} (place)`) : name);
	const rounded = (p: Position): (string | number)[] => [0, 1, 2].map((c) => (p[c] === undefined ? '' : Number(p[c].toFixed(3))));
	return {
		header: [...names, ...places.map(unique)],
		rows: features.map((f) => {
			const own = names.map((n) => (f.properties?.[n] ?? '') as string | number);
			if (f.geometry.type === 'LineString')
				return [...own, ...[f.geometry.coordinates[0]!, middleOf(f.geometry.coordinates), f.geometry.coordinates.at(-1)!].flatMap(rounded)];
			const at = rounded((f.geometry as { coordinates: Position }).coordinates);
			return [...own, ...(ends ? [...at, ...at, ...at] : at)];
		})
	};
}

/** The place half way along a line. */
function middleOf(line: readonly Position[]): Position {
	const lengths = line.slice(1).map((p, i) => Math.hypot(p[0]! - line[i]![0]!, p[1]! - line[i]![1]!, p[2]! - line[i]![2]!));
	let left = lengths.reduce((s, l) => s + l, 0) / 2;
	for (let i = 0; i < lengths.length; i++) {
		if (left <= lengths[i]!)
			return [0, 1, 2].map((c) => line[i]![c]! + (lengths[i]! > 0 ? left / lengths[i]! : 0) * (line[i + 1]![c]! - line[i]![c]!));
		left -= lengths[i]!;
	}
	return line.at(-1)!;
}
