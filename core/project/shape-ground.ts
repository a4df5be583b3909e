import type { Feature } from 'geojson';
import type { Checked } from '../tables/finding';
import type { Finding } from '../tables/finding';
import { eachPosition } from '../formats/layer';
import { planeNormal } from '../geometry/angles';
import { elevationGrid, gridOver } from '../mesh/grid-over';
import { sampleRaster, type Raster } from '../grids/raster';
import type { TriangleMesh } from '../mesh/extract';
import type { GroundInput, MadeBase, PlaceBound } from '../model/ground';
import type { Limit } from '../model/limits';
import { fail } from '../problem';
import type { Table } from '../tables/table';
import { sequencesOf, unitOrCode, type Lumping, type StratigraphicColumn } from '../units/column';
import { SAME_DEPTH } from '../holes/path';
import type { ContactPoint, Observation } from '../units/contacts';
import { TELLS, WALLS, wordsOf, type ContactLine, type Shaping, type Tells } from './shaping';

/** Things of a project that its shaping can name. */
export interface Things {
	grids: ReadonlyMap<string, Raster>;
	surfaces: ReadonlyMap<string, TriangleMesh>;
	layers: ReadonlyMap<string, readonly Feature[]>;
}

export const NO_THINGS: Things = { grids: new Map(), surfaces: new Map(), layers: new Map() };

/** Data for one column: of the ground, or of a division. */
export interface PlacedData {
	contacts: ContactPoint[];
	observations: Observation[];
	bounds: PlaceBound[];
}

/** Nodes of the grid that stands in for a surface from a file, along the longer side of the extent. */
const NODES = 256;
/** Steps along a line that is draped on the terrain, on the longer side of the extent. */
const STEPS = 200;

/** The surface at the top of a unit, as the index of the unit whose base it is; −1 when nothing can lie on it. */
function topOf(column: StratigraphicColumn, unit: number): number {
	const sequences = sequencesOf(column);
	const own = sequences.findIndex((s) => s.units.includes(unit));
	const s = sequences[own]!;
	const at = s.units.indexOf(unit);
	if (at > 0) return s.units[at - 1]!;
	for (let i = own - 1; i >= 0; i--) if (sequences[i]!.kind === 'strata') return sequences[i]!.base;
	return -1;
}

/** Puts one statement about a unit where it belongs. @returns false when the column has no such surface */
function tell(
	out: PlacedData,
	column: StratigraphicColumn,
	unit: number,
	tells: Tells,
	at: { x: number; y: number; z: number },
	from: { source: string; table: string; row: number; error: number; thickness?: number | undefined }
): boolean {
	const basement = column.length - 1;
	if (tells === 'inside') out.observations.push({ unit, ...at, hole: from.source, depth: 0, table: from.table });
	else if (tells === 'above' || tells === 'below') {
		if (unit === basement) return false;
		// "Above" an intrusion means outside of it.
		const outside = column[unit]!.contact === 'intrusive';
		out.bounds.push({ ...at, surface: unit, sense: outside || tells === 'below' ? -1 : 1, source: from.source, table: from.table });
	} else if (WALLS[tells] !== undefined) {
		const wall = WALLS[tells]!;
		if (column[unit]!.contact !== 'intrusive' || (wall === 0 && !(from.thickness! > 0))) return false;
		out.contacts.push({
			surface: unit,
			...at,
			hole: from.source,
			depth: 0,
			table: from.table,
			row: from.row,
			wall,
			...(wall === 0 ? { thickness: from.thickness! } : {})
		});
	} else {
		const surface = tells === 'base' || column[unit]!.contact === 'intrusive' ? unit : topOf(column, unit);
		if (surface < 0 || surface === basement) return false;
		out.contacts.push({
			surface,
			...at,
			hole: from.source,
			depth: 0,
			table: from.table,
			row: from.row,
			...(from.error > 0 ? { error: from.error } : {})
		});
	}
	return true;
}

const heightOf = (terrain: Raster | null, x: number, y: number, top: number) => (terrain ? sampleRaster(terrain, x, y) : top);

/** What tables of contacts at places say of the units of a column. Rows of other units are left to other columns. */
export function fromContactTables(
	out: PlacedData,
	findings: Finding[],
	tables: readonly Table[],
	checked: Checked,
	column: StratigraphicColumn,
	lumping: Lumping,
	terrain: Raster | null,
	top: number
): void {
	const index = new Map(column.map((u, i) => [u.id, i]));
	for (const t of tables) {
		if (t.kind !== 'contactPoints') continue;
		const { easting, northing, elevation, error, thickness } = t.numbers;
		for (let row = 0; row < t.rowCount; row++) {
			if (checked.out[t.name]![row]) continue;
			const code = t.text['code']![row]!;
			const unit = index.get(unitOrCode(lumping, code));
			if (unit === undefined) continue;
			const [x, y] = [easting![row]!, northing![row]!];
			const z = Number.isFinite(elevation?.[row]) ? elevation![row]! : heightOf(terrain, x, y, top);
			const said = (t.text['tells']?.[row] ?? '')
				.trim()
				.toLowerCase()
				.replace(/[\s_-]*wall$/, '');
			const tells = (TELLS as readonly string[]).includes(said) ? (said as Tells) : 'base';
			const ok = tell(
				out,
				column,
				unit,
				tells,
				{ x, y, z },
				{
					source: `${t.name} ${row}`,
					table: t.name,
					row,
					error: Number.isFinite(error?.[row]) ? error![row]! : 0,
					thickness: thickness?.[row]
				}
			);
			if (!ok)
				findings.push({
					rule: 'place-unused',
					severity: 'noted',
					table: t.name,
					row,
					column: 'tells',
					hole: '',
					message:
						tells === 'middle'
							? `the middle of ${column[unit]!.name} needs its thickness, and ${column[unit]!.name} has to be a sheet`
							: `the model has no ${wordsOf(tells)} of ${column[unit]!.name}`,
					hint: 'The place is not used. Correct what it tells, or how the unit meets what is older.'
				});
		}
	}
}

/** What drawn lines and layers say of the units of a column. @throws ProblemError `unknown-layer`, `line-of-basement` */
export function fromLines(
	out: PlacedData,
	lines: readonly ContactLine[],
	things: Things,
	column: StratigraphicColumn,
	terrain: Raster | null,
	extent: GroundInput['extent']
): void {
	const index = new Map(column.map((u, i) => [u.id, i]));
	const step = Math.max(extent.maxX - extent.minX, extent.maxY - extent.minY) / STEPS;
	for (const line of lines) {
		const unit = index.get(line.unit);
		if (!line.on || unit === undefined) continue;
		let n = 0;
		for (const [x, y, z] of placesOf(line, things, step)) {
			if (x < extent.minX || x > extent.maxX || y < extent.minY || y > extent.maxY) continue;
			const ok = tell(
				out,
				column,
				unit,
				line.tells,
				{ x, y, z: z ?? heightOf(terrain, x, y, extent.maxZ) },
				{ source: `${line.name} ${n++}`, table: line.name, row: -1, error: line.error, thickness: line.thickness }
			);
			if (!ok)
				fail(
					'line-of-basement',
					`"${line.name}" tells of the ${wordsOf(line.tells)} of ${column[unit]!.name}, which the model has no surface for`,
					'Choose the unit whose base, top or boundary it is.',
					'lines'
				);
		}
	}
}

type Place = [number, number, number | null];

/** Places of a line: its vertices, and on long legs without elevations places between them, so that they follow the terrain. */
function placesOf(line: ContactLine, things: Things, step: number): Place[] {
	if (line.vertices?.length) return draped(line.vertices, step);
	if (!line.layer) return [];
	const { name, property, value } = line.layer;
	const features =
		things.layers.get(name) ??
		fail(
			'unknown-layer',
			`"${line.name}" takes its places from the layer "${name}", which is not there`,
			'Import the layer, or draw the line.',
			'lines'
		);
	return features
		.filter((f) => property === '' || String(f.properties?.[property] ?? '') === value)
		.flatMap((f) => {
			const out: Place[] = [];
			eachPosition(f.geometry, (p) => out.push([p[0]!, p[1]!, p[2] ?? null]));
			return f.geometry.type === 'LineString' || f.geometry.type === 'Polygon' ? draped(out, step) : out;
		});
}

function draped(vertices: readonly Place[], step: number): Place[] {
	return vertices.flatMap((a, i): Place[] => {
		const b = vertices[i + 1];
		if (!b || a[2] !== null || b[2] !== null) return [a];
		const parts = Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1]) / step));
		return Array.from({ length: parts }, (_, k): Place => [a[0] + (k / parts) * (b[0] - a[0]), a[1] + (k / parts) * (b[1] - a[1]), null]);
	});
}

/** Leaves out what its data set is not to shape, and adds the errors of data sets. */
export function bySettings<T extends { table?: string; error?: number }>(
	list: readonly T[],
	settings: Shaping['dataSets'],
	unitOf: (item: T) => string | undefined
): T[] {
	if (settings.length === 0) return [...list];
	const of = new Map(settings.map((s) => [s.table, s]));
	return list.flatMap((item) => {
		const s = of.get(item.table ?? '');
		if (!s) return [item];
		if (!s.on || s.off.includes(unitOf(item) ?? '')) return [];
		return [s.error > 0 && item.error === undefined ? { ...item, error: s.error } : item];
	});
}

/** Leaves out what intercepts that are set aside would say of their unit. */
export function withoutSetAside<T extends { hole: string; depth: number }>(
	list: readonly T[],
	setAside: Shaping['setAside'],
	unitOf: (item: T) => string | undefined
): T[] {
	if (setAside.length === 0) return [...list];
	const byHole = new Map<string, Shaping['setAside']>();
	for (const a of setAside) byHole.set(a.hole, [...(byHole.get(a.hole) ?? []), a]);
	return list.filter(
		(item) =>
			!byHole.get(item.hole)?.some((a) => a.unit === unitOf(item) && item.depth >= a.from - SAME_DEPTH && item.depth <= a.to + SAME_DEPTH)
	);
}

/** Elevations of a thing that is named. @throws ProblemError `unknown-surface` */
function elevations(named: string, things: Things, terrain: Raster | null, extent: GroundInput['extent'], where: string): Raster {
	if (named === 'terrain')
		return terrain ?? fail('no-terrain', 'the terrain is named, and the project has none', 'Import a terrain.', where);
	const grid = things.grids.get(named);
	if (grid) return grid;
	const mesh =
		things.surfaces.get(named) ??
		fail(
			'unknown-surface',
			`there is no grid or surface "${named}"`,
			`There are: ${['terrain', ...things.grids.keys(), ...things.surfaces.keys()].join(', ')}.`,
			where
		);
	return elevationGrid(mesh, gridOver(extent, Math.max(extent.maxX - extent.minX, extent.maxY - extent.minY) / NODES));
}

/** Limits of a model. @throws ProblemError `bad-limit`, `unknown-surface`, `no-terrain` */
export function limitsOf(shaping: Shaping, things: Things, terrain: Raster | null, extent: GroundInput['extent']): Limit[] {
	return shaping.limits
		.filter((l) => l.on)
		.map((l): Limit => {
			if (l.kind === 'outline') return { kind: 'outline', trace: l.trace ?? [] };
			if (l.kind === 'near')
				return {
					kind: 'near',
					distance: l.distance ?? fail('bad-limit', 'a distance from the data needs a distance', undefined, 'limits')
				};
			const named =
				l.surface ??
				fail('bad-limit', `a limit ${l.kind} a surface needs the name of one`, 'Choose the terrain, a grid or a surface.', 'limits');
			if (l.kind === 'inside')
				return {
					kind: 'inside',
					mesh:
						things.surfaces.get(named) ??
						fail(
							'unknown-surface',
							`there is no surface "${named}"`,
							`There are: ${[...things.surfaces.keys()].join(', ') || 'none'}.`,
							'limits'
						)
				};
			const raster = elevations(named, things, terrain, extent, 'limits');
			return l.kind === 'covered' ? { kind: 'covered', raster } : { kind: l.kind, raster, by: l.by };
		});
}

/** Bases that are given. @throws ProblemError `unknown-surface`, `no-terrain` */
export function madeOf(shaping: Shaping, things: Things, terrain: Raster | null, extent: GroundInput['extent']): MadeBase[] {
	return shaping.made
		.filter((m) => m.on)
		.map((m): MadeBase => {
			const thickness = m.thickness
				? (things.grids.get(m.thickness) ??
					fail(
						'unknown-surface',
						`there is no grid of thickness "${m.thickness}"`,
						`There are: ${[...things.grids.keys()].join(', ') || 'none'}.`,
						'made'
					))
				: null;
			const bare = { unit: m.unit, by: m.by, thickness, follows: null };
			if (m.surface) return { ...bare, raster: elevations(m.surface, things, terrain, extent, 'made') };
			if (m.follows) return { ...bare, raster: null, follows: m.follows };
			if (!m.plane)
				return fail(
					'bad-surface',
					`the base of ${m.unit} is to be made, and nothing says from what`,
					'Name a surface, a unit or a plane.',
					'made'
				);
			const n = planeNormal(m.plane.dip, m.plane.dipAzimuth);
			const { x, y, z } = m.plane;
			const at = (px: number, py: number) => z - (n[0] * (px - x) + n[1] * (py - y)) / n[2];
			const [w, h] = [extent.maxX - extent.minX, extent.maxY - extent.minY];
			return {
				...bare,
				raster: {
					x0: extent.minX,
					y0: extent.minY,
					dx: w,
					dy: h,
					nx: 2,
					ny: 2,
					values: Float32Array.of(
						at(extent.minX, extent.minY),
						at(extent.maxX, extent.minY),
						at(extent.minX, extent.maxY),
						at(extent.maxX, extent.maxY)
					)
				}
			};
		});
}
