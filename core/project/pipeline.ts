import { checkTables, type CheckOptions } from '../checks/check';
import type { Checked } from '../tables/finding';
import { assembleHoles, holesByLog, type Hole, type LogSource } from '../holes/holes';
import { planeAngles } from '../geometry/angles';
import { planeInCore } from '../holes/oriented-core';
import { directionAt, positionAt, type Path } from '../holes/path';
import { fail } from '../problem';
import { sampleRaster, type Raster } from '../grids/raster';
import type { Box } from '../geometry/box';
import { isOfHoles, tableKind } from '../tables/kinds';
import type { Table } from '../tables/table';
import { contactsOf, type Absence, type ContactPoint, type Contacts, type Observation, type Stretch } from '../units/contacts';
import { unitOrCode, type Lumping, type StratigraphicColumn } from '../units/column';
import { fitFaults, faultZones } from '../model/faults';
import type { Division, FaultSpec, GroundInput, Orientation, PlaceBound } from '../model/ground';
import { bySettings, fromContactTables, fromLines, limitsOf, madeOf, withoutSetAside, type PlacedData, type Things } from './shape-ground';
import { plainShaping, type Shaping } from './shaping';

/** Tables checked, and holes put together from what is in use. */
export interface CheckedHoles {
	checked: Checked;
	holes: Hole[];
	bent: string[];
	/** What their lengths are in. */
	lengthUnit: string;
}

/**
 * Without any table of holes there are none: contacts, lines and given bases make a model by themselves.
 * @throws ProblemError `no-collars` when there are tables of holes and no collars
 */
export function checkHoles(tables: readonly Table[], options: CheckOptions): CheckedHoles {
	if (!tables.some((t) => t.kind === 'collars') && tables.some((t) => isOfHoles(t.kind)))
		fail('no-collars', 'there is no collar table', 'Import the collars: without them nobody knows where the holes are.', 'tables');
	const checked = checkTables(tables, options);
	const { holes, bent } = assembleHoles(tables, checked, options.around?.terrain ?? null);
	for (const hole of bent)
		checked.findings.push({
			rule: 'impossible-path',
			severity: 'noted',
			table: tables.find((t) => t.kind === 'surveys')?.name ?? '',
			row: -1,
			hole,
			message: `the survey of ${hole} turns straight back on itself`,
			hint: 'Mend azimuth or inclination; until then the hole is drawn without its survey.'
		});
	return { checked, holes, bent, lengthUnit: options.lengthUnit };
}

export interface Interpretation {
	extent: Box;
	column: StratigraphicColumn;
	lumping: Lumping;
	faults: FaultSpec[];
	terrain: Raster | null;
	shaping?: Shaping | undefined;
	/** What the shaping can name. Not left out: a line that takes its places from a layer would not find it. */
	things: Things;
}

/** Contacts of the column and, by id, of each division, with the bounds that lines and places give. */
export interface AllContacts extends Contacts {
	bounds: PlaceBound[];
	divisions: {
		id: string;
		points: ContactPoint[];
		absences: Absence[];
		unknown: Stretch[];
		observations: Observation[];
		bounds: PlaceBound[];
	}[];
}

/** From holes and an interpretation to contacts: by the logic of the column, from tables of contacts at places, from lines and layers. */
export function contactsOfAll(tables: readonly Table[], checkedHoles: CheckedHoles, i: Interpretation): AllContacts {
	const bare: GroundInput = {
		extent: i.extent,
		column: i.column,
		contacts: [],
		observations: [],
		orientations: [],
		faults: i.faults,
		terrain: i.terrain
	};
	const shaping = i.shaping ?? plainShaping();
	const { things } = i;
	const { checked } = checkedHoles;
	const place = (
		column: StratigraphicColumn,
		lumping: Lumping,
		log: LogSource | null | undefined,
		faults: GroundInput
	): Contacts & { bounds: PlaceBound[] } => {
		const holes = log ? holesByLog(checkedHoles.holes, tables, checked, { table: log.table, column: log.column }) : checkedHoles.holes;
		const zones = faultZones(fitFaults(faults), checkedHoles.lengthUnit);
		const found = contactsOf(holes, lumping, column, zones, new Set(shaping.certain));
		const data: PlacedData = { contacts: found.points, observations: found.observations, bounds: [] };
		fromContactTables(data, found.findings, tables, checked, column, lumping, i.terrain, i.extent.maxZ);
		fromLines(data, shaping.lines, things, column, i.terrain, i.extent);
		const surfaceOf = (c: ContactPoint) => column[c.surface]?.id;
		const unitOf = (o: { unit: number }) => column[o.unit]?.id;
		const points = bySettings(withoutSetAside(data.contacts, shaping.setAside, surfaceOf), shaping.dataSets, surfaceOf);
		const observations = bySettings(withoutSetAside(data.observations, shaping.setAside, unitOf), shaping.dataSets, unitOf);
		const bounds = bySettings(data.bounds, shaping.dataSets, (b) => column[b.surface]?.id);
		const absences = bySettings(withoutSetAside(found.absences, shaping.setAside, unitOf), shaping.dataSets, unitOf);
		return { ...found, points, absences, observations, bounds };
	};
	const whole = place(i.column, i.lumping, shaping.log, bare);
	const divisions = shaping.divisions
		.filter((d) => d.on)
		.map((d) => {
			const unit = i.column.findIndex((u) => u.id === d.unit);
			const cutting = i.faults.filter((f) => f.on && i.column.findIndex((u) => u.id === f.youngestCut) <= unit);
			const first = d.column[0]?.id ?? '';
			const { points, absences, unknown, observations, bounds, findings } = place(d.column, d.lumping, d.log ?? shaping.log, {
				...bare,
				column: d.column,
				faults: [...cutting.map((f) => ({ ...f, youngestCut: first })), ...d.faults]
			});
			// Codes that belong to other units are no trouble in a log that the division shares with the column.
			if (d.log) whole.findings.push(...findings);
			return { id: d.id, points, absences, unknown, observations, bounds };
		});
	return { ...whole, divisions };
}

/** From contacts and an interpretation to what the engine takes. */
export function groundOf(tables: readonly Table[], checkedHoles: CheckedHoles, contacts: AllContacts, i: Interpretation): GroundInput {
	const shaping = i.shaping ?? plainShaping();
	const { things } = i;
	const orientations = (column: StratigraphicColumn, lumping: Lumping) =>
		bySettings(orientationsOf(tables, checkedHoles, { ...i, column, lumping }), shaping.dataSets, (o) => column[o.unit]?.id);
	const divisions = shaping.divisions
		.filter((d) => d.on)
		.map((d): Division => {
			const own = contacts.divisions.find((c) => c.id === d.id);
			const { id, name, unit, column, lumping, faults } = d;
			return {
				id,
				name,
				unit,
				column,
				contacts: own?.points ?? [],
				absences: own?.absences ?? [],
				unknown: own?.unknown ?? [],
				observations: own?.observations ?? [],
				bounds: own?.bounds ?? [],
				orientations: orientations(column, lumping).filter((o) => o.unit >= 0),
				faults,
				trends: d.trends
			};
		});
	return {
		extent: i.extent,
		lengthUnit: checkedHoles.lengthUnit,
		column: i.column,
		faults: i.faults,
		terrain: i.terrain,
		contacts: contacts.points,
		observations: contacts.observations,
		absences: contacts.absences,
		unknown: contacts.unknown,
		bounds: contacts.bounds,
		orientations: orientations(i.column, i.lumping),
		trends: shaping.trends,
		limits: limitsOf(shaping, things, i.terrain, i.extent),
		made: madeOf(shaping, things, i.terrain, i.extent),
		...(shaping.certain?.length ? { certain: shaping.certain } : {}),
		divisions
	};
}

/** Both at once. */
export function groundInput(
	tables: readonly Table[],
	checkedHoles: CheckedHoles,
	i: Interpretation
): { input: GroundInput; contacts: AllContacts } {
	const contacts = contactsOfAll(tables, checkedHoles, i);
	return { input: groundOf(tables, checkedHoles, contacts, i), contacts };
}

/**
 * Orientations in use, those measured in holes placed and turned by the path of their hole. One without elevation takes it from the
 * terrain; one without a known unit keeps −1 and shapes nothing.
 */
export function orientationsOf(
	tables: readonly Table[],
	{ checked, holes }: CheckedHoles,
	i: Pick<Interpretation, 'column' | 'lumping' | 'terrain' | 'extent'>
): Orientation[] {
	const unitIndex = new Map(i.column.map((u, k) => [u.id, k]));
	const pathOf = new Map(holes.map((h) => [h.name, h.path]));
	const out: Orientation[] = [];
	for (const table of tables) {
		if (!tableKind(table.kind).directions) continue;
		const { numbers } = table;
		for (let row = 0; row < table.rowCount; row++) {
			if (checked.out[table.name]![row]) continue;
			const seen =
				tableKind(table.kind).at === 'map' ? placed(numbers, row, i) : inHole(numbers, row, pathOf.get(table.text['hole']![row]!));
			if (!seen) continue;
			const code = table.text['code']?.[row] ?? '';
			const unit = unitIndex.get(unitOrCode(i.lumping, code)) ?? -1;
			out.push({ ...seen, polarity: numbers['polarity']?.[row] === -1 ? -1 : 1, unit, table: table.name });
		}
	}
	return out;
}

type Seen = Pick<Orientation, 'x' | 'y' | 'z' | 'dip' | 'dipAzimuth'>;

/** Null for a row that gives a line, not a plane. */
function placed(numbers: Table['numbers'], row: number, i: Pick<Interpretation, 'terrain' | 'extent'>): Seen | null {
	const [dip, dipAzimuth] = [numbers['dip']?.[row] ?? NaN, numbers['dipAzimuth']?.[row] ?? NaN];
	if (Number.isNaN(dip) || Number.isNaN(dipAzimuth)) return null;
	const [x, y] = [numbers['easting']![row]!, numbers['northing']![row]!];
	const stated = numbers['elevation']?.[row] ?? NaN;
	const z = Number.isNaN(stated) ? (i.terrain ? sampleRaster(i.terrain, x, y) : i.extent.maxZ) : stated;
	return { x, y, z, dip, dipAzimuth };
}

function inHole(numbers: Table['numbers'], row: number, path: Path | undefined): Seen | null {
	if (!path) return null;
	const depth = numbers['depth']![row]!;
	const [x, y, z] = positionAt(path, depth);
	const [dip, dipAzimuth] = [numbers['dip']?.[row] ?? NaN, numbers['dipAzimuth']?.[row] ?? NaN];
	if (!Number.isNaN(dip) && !Number.isNaN(dipAzimuth)) return { x, y, z, dip, dipAzimuth };
	const normal = planeInCore(numbers['alpha']?.[row] ?? NaN, numbers['beta']?.[row] ?? NaN, directionAt(path, depth));
	return normal && Number.isFinite(normal[0]) ? { x, y, z, ...planeAngles(normal) } : null;
}

/** Box around collars and ends of holes, with a margin (share of the largest side), for a new project. */
export function extentOfHoles(holes: readonly Hole[], margin = 0.1): Box | null {
	if (holes.length === 0) return null;
	const b: Box = { minX: Infinity, minY: Infinity, minZ: Infinity, maxX: -Infinity, maxY: -Infinity, maxZ: -Infinity };
	for (const h of holes) {
		const [x, y, z] = h.path.collar;
		b.minX = Math.min(b.minX, x);
		b.maxX = Math.max(b.maxX, x);
		b.minY = Math.min(b.minY, y);
		b.maxY = Math.max(b.maxY, y);
		b.maxZ = Math.max(b.maxZ, z);
		b.minZ = Math.min(b.minZ, z - h.path.totalDepth);
	}
	const side = Math.max(b.maxX - b.minX, b.maxY - b.minY, b.maxZ - b.minZ, 1);
	const m = side * margin;
	const tidy = (v: number, up: boolean) => {
		const step = 10 ** Math.max(0, Math.floor(Math.log10(side)) - 2);
		return (up ? Math.ceil(v / step) : Math.floor(v / step)) * step;
	};
	return {
		minX: tidy(b.minX - m, false),
		minY: tidy(b.minY - m, false),
		minZ: tidy(b.minZ - m / 2, false),
		maxX: tidy(b.maxX + m, true),
		maxY: tidy(b.maxY + m, true),
		maxZ: tidy(b.maxZ + m / 2, true)
	};
}
