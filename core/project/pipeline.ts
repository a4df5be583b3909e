import { checkTables, type Checked, type CheckOptions } from '../checks/check';
import { assembleHoles, type Hole } from '../holes/holes';
import { planeAngles } from '../geometry/angles';
import { planeInCore } from '../holes/oriented-core';
import { directionAt, positionAt, type Path } from '../holes/path';
import { fail } from '../problem';
import { sampleRaster, type Raster } from '../grids/raster';
import type { Box } from '../geometry/box';
import type { Table } from '../tables/table';
import { contactsOf, type Contacts } from '../units/contacts';
import { unitOfCode, type Lumping, type StratigraphicColumn } from '../units/column';
import { fitFaults, faultZones } from '../model/faults';
import type { FaultSpec, GroundInput, Orientation } from '../model/ground';

/** Tables checked, and holes put together from what is in use. */
export interface CheckedHoles {
	checked: Checked;
	holes: Hole[];
	bent: string[];
}

/** @throws ProblemError `no-collars` when there is no collar table */
export function checkHoles(tables: readonly Table[], options: CheckOptions): CheckedHoles {
	if (!tables.some((t) => t.kind === 'collars')) fail('no-collars', 'there is no collar table', 'Import the collars: without them nobody knows where the holes are.', 'tables');
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
	return { checked, holes, bent };
}

export interface Interpretation {
	extent: Box;
	column: StratigraphicColumn;
	lumping: Lumping;
	faults: FaultSpec[];
	terrain: Raster | null;
}

/** From holes and an interpretation to what the engine takes: contacts by the column's logic, orientations with their unit. */
export function groundInput(tables: readonly Table[], checkedHoles: CheckedHoles, i: Interpretation): { input: GroundInput; contacts: Contacts } {
	const bare: GroundInput = { extent: i.extent, column: i.column, contacts: [], observations: [], orientations: [], faults: i.faults, terrain: i.terrain };
	const zones = faultZones(fitFaults(bare));
	const contacts = contactsOf(checkedHoles.holes, i.lumping, i.column, zones);
	return { input: { ...bare, contacts: contacts.points, observations: contacts.observations, orientations: orientationsOf(tables, checkedHoles, i) }, contacts };
}

/**
 * Orientations in use, those measured in holes placed and turned by the path of their hole. One without elevation takes it from the
 * terrain; one without a known unit keeps −1 and shapes nothing.
 */
export function orientationsOf(tables: readonly Table[], { checked, holes }: CheckedHoles, i: Pick<Interpretation, 'column' | 'lumping' | 'terrain' | 'extent'>): Orientation[] {
	const unitIndex = new Map(i.column.map((u, k) => [u.id, k]));
	const pathOf = new Map(holes.map((h) => [h.name, h.path]));
	const out: Orientation[] = [];
	for (const table of tables) {
		if (table.kind !== 'orientations' && table.kind !== 'holeOrientations') continue;
		const { numbers } = table;
		for (let row = 0; row < table.rowCount; row++) {
			if (checked.out[table.name]![row]) continue;
			const seen = table.kind === 'orientations' ? placed(numbers, row, i) : inHole(numbers, row, pathOf.get(table.text['hole']![row]!));
			if (!seen) continue;
			const code = table.text['code']?.[row] ?? '';
			const unit = unitIndex.get(unitOfCode(i.lumping, code) ?? code) ?? -1;
			out.push({ ...seen, polarity: numbers['polarity']?.[row] === -1 ? -1 : 1, unit });
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
