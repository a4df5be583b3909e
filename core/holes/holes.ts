import type { Checked } from '../tables/finding';
import type { Table } from '../tables/table';
import type { Vec3 } from '../geometry/vector';
import { sampleRaster, type Raster } from '../grids/raster';
import { fail } from '../problem';
import { holePath, pathThrough, type Path, type Station } from './path';

/** One logged interval of a hole, with the row it came from. */
export interface Interval {
	from: number;
	to: number;
	code: string;
	table: string;
	row: number;
}

/** A hole with everything that is logged in it; only rows that are in use. */
export interface Hole {
	name: string;
	path: Path;
	/** By depth. */
	intervals: Interval[];
	/** Row of the collar table. */
	row: number;
}

/**
 * Puts collars, surveys and intervals together. Rows that are held back or excluded take no part.
 * A collar without elevation takes it from the terrain. A hole that can not be given a path (see `holePath`) is drawn vertical and named in `bent`.
 */
export function assembleHoles(tables: readonly Table[], checked: Checked, terrain: Raster | null): { holes: Hole[]; bent: string[] } {
	const uses = (t: Table, row: number) => checked.out[t.name]![row] === 0;
	const stations = groupStations(tables, uses);
	const points = groupPathPoints(tables, uses);
	const intervals = groupIntervals(tables, uses);
	const holes: Hole[] = [];
	const bent: string[] = [];
	const seen = new Set<string>();
	for (const table of tables) {
		if (table.kind !== 'collars') continue;
		const { easting, northing, elevation, totalDepth, azimuth, inclination } = table.numbers;
		table.text['hole']!.forEach((name, row) => {
			if (!uses(table, row) || seen.has(name)) return;
			seen.add(name);
			const [x, y] = [easting![row]!, northing![row]!];
			const stated = elevation?.[row] ?? NaN;
			const collar = [x, y, Number.isNaN(stated) && terrain ? sampleRaster(terrain, x, y) : stated] as const;
			const az = azimuth?.[row];
			const inc = inclination?.[row];
			const fallback =
				az !== undefined && inc !== undefined && Number.isFinite(az) && Number.isFinite(inc)
					? { azimuth: az, inclination: inc }
					: { azimuth: 0, inclination: -90 };
			let path: Path;
			try {
				const through = points.get(name);
				path = through
					? pathThrough(collar, totalDepth![row]!, through)
					: holePath(collar, totalDepth![row]!, stations.get(name) ?? [], fallback);
			} catch {
				bent.push(name);
				path = holePath(collar, totalDepth![row]!, [], fallback);
			}
			const own = intervals.get(name) ?? [];
			own.sort((a, b) => a.from - b.from);
			holes.push({ name, path, intervals: own, row });
		});
	}
	holes.sort((a, b) => (a.name < b.name ? -1 : 1));
	return { holes, bent };
}

type Uses = (t: Table, row: number) => boolean;

/** Rows of some tables by hole. */
function group<T>(
	tables: readonly Table[],
	uses: Uses,
	wanted: (t: Table) => boolean,
	read: (t: Table, row: number) => T | null
): Map<string, T[]> {
	const byHole = new Map<string, T[]>();
	for (const table of tables) {
		if (!wanted(table)) continue;
		for (let row = 0; row < table.rowCount; row++) {
			if (!uses(table, row)) continue;
			const item = read(table, row);
			if (item === null) continue;
			const name = table.text['hole']![row]!;
			const list = byHole.get(name);
			if (list) list.push(item);
			else byHole.set(name, [item]);
		}
	}
	return byHole;
}

const groupStations = (tables: readonly Table[], uses: Uses): Map<string, Station[]> =>
	group(
		tables,
		uses,
		(t) => t.kind === 'surveys' && t.numbers['azimuth'] !== undefined && t.numbers['inclination'] !== undefined,
		({ numbers }, row) => ({
			depth: numbers['depth']![row]!,
			azimuth: numbers['azimuth']![row]!,
			inclination: numbers['inclination']![row]!
		})
	);

function groupPathPoints(tables: readonly Table[], uses: Uses): Map<string, { at: Vec3; depth?: number }[]> {
	const points = group(
		tables,
		uses,
		(t) => t.kind === 'surveys' && t.numbers['azimuth'] === undefined && t.numbers['easting'] !== undefined,
		({ numbers }, row) => {
			const at = [numbers['easting']![row]!, numbers['northing']![row]!, numbers['elevation']![row]!] as const;
			const depth = numbers['depth']?.[row];
			return { at, ...(depth !== undefined && !Number.isNaN(depth) ? { depth } : {}) };
		}
	);
	for (const list of points.values()) list.sort((a, b) => (a.depth !== undefined && b.depth !== undefined ? a.depth - b.depth : 0));
	return points;
}

/** Which table and which of its columns say what a hole is made of. An empty column is that of the codes. */
export interface LogSource {
	table: string;
	column: string;
}

/**
 * The same holes with what another log says of them: any table of intervals with any of its columns of text.
 * @throws ProblemError `unknown-log`
 */
export function holesByLog(holes: readonly Hole[], tables: readonly Table[], checked: Checked, log: LogSource): Hole[] {
	const table =
		tables.find((t) => t.name === log.table) ??
		fail(
			'unknown-log',
			`there is no table "${log.table}" to take the log from`,
			`The tables are: ${tables.map((t) => t.name).join(', ')}.`,
			'log'
		);
	const key = log.column === '' ? 'code' : Object.keys(table.text).find((k) => k === log.column || table.headers[k] === log.column);
	const { from, to } = table.numbers;
	if (!key || !table.text[key] || !table.text['hole'] || !from || !to)
		return fail(
			'unknown-log',
			`${log.table} has no column "${log.column || 'code'}" of intervals along holes`,
			'Choose a table with holes, depths from and to, and a column of text.',
			'log'
		);
	const byHole = group(
		[table],
		(t, row) => checked.out[t.name]![row] === 0,
		() => true,
		(t, row) =>
			t.text[key]![row] && from[row]! < to[row]! ? { from: from[row]!, to: to[row]!, code: t.text[key]![row]!, table: t.name, row } : null
	);
	return holes.map((h) => ({ ...h, intervals: (byHole.get(h.name) ?? []).sort((a, b) => a.from - b.from) }));
}

const groupIntervals = (tables: readonly Table[], uses: Uses): Map<string, Interval[]> =>
	group(
		tables,
		uses,
		// A version of a log takes the place of another only where a model asks for it.
		(t) => t.kind === 'intervals' && !t.versionOf,
		(t, row) => ({ from: t.numbers['from']![row]!, to: t.numbers['to']![row]!, code: t.text['code']![row]!, table: t.name, row })
	);
