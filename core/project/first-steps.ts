import type { Box } from '../geometry/box';
import { outlying } from '../geometry/outlying';
import type { Raster } from '../grids/raster';
import type { Hole } from '../holes/holes';
import { proposeSpacing } from '../mesh/lattice';
import { proposeSection, type ProposedSection } from '../sections/propose-section';
import { unitColors } from '../styles/unit-colors';
import type { Table } from '../tables/table';
import { plainCode, proposeLumping, unitOfCode, type Lumping, type Unit } from '../units/column';
import { proposeColumn, type HoleLog, type OrderEvidence } from '../units/propose-column';
import { extentOfHoles } from './pipeline';

/** What is known so far. */
export interface KnownSoFar {
	holes: readonly Hole[];
	terrain: Raster | null;
	column: readonly Unit[];
	lumping: Lumping;
	extent: Box | null;
	/** Ids of units that divisions have. */
	taken: readonly string[];
	/** The section has a line. */
	hasSection: boolean;
	/** Mean dip azimuth of what was measured, degrees, where there is some. */
	dipAzimuth: number | null;
}

/** Units for codes that have none, in an order. */
interface UnitProposal {
	/** Whole, with what was there. */
	column: Unit[];
	lumping: Lumping;
	/** Ids of the new units. */
	added: string[];
	/** Codes that become one unit because only their spelling differs. */
	alike: string[][];
	/** Codes that say that nothing was seen; they get no unit. */
	left: string[];
	evidence: OrderEvidence[];
	contradicting: string[];
}

/** What a new project still needs before a model can be built, as far as its data propose it. */
export interface FirstSteps {
	units: UnitProposal | null;
	extent: Box | null;
	/** Spacing for the extent that there is or that is proposed, project units. */
	spacing: number | null;
	section: ProposedSection | null;
	/** Holes that lie so far from all others that extent and section leave them out. */
	far: string[];
	/** What is needed first, in words, with what to do. */
	missing: { what: string; hint: string }[];
}

/** Most units that are made in one press: a column of more is no column. */
const MOST_UNITS = 60;
const NOTHING_SEEN =
	/^(|n[/.]?[ars]\.?|none|nil|-+|\?+|unknown|no[ _-]?(core|recovery|sample|log|data|return)s?|not[ _-]?(logged|recovered|sampled|cored)|core[ _-]?loss|lost[ _-]?core|open[ _-]?hole|casing|void)$/i;

/** Proposes units, extent, spacing and a first section from the data alone. */
export function firstSteps(known: KnownSoFar): FirstSteps {
	const missing: FirstSteps['missing'] = [];
	if (known.holes.length === 0)
		missing.push(
			known.terrain
				? {
						what: 'holes',
						hint: 'A model can be made from the terrain and drawn lines alone; holes make it better. Bring in collars and logs.'
					}
				: { what: 'holes or a terrain', hint: 'Bring in the collars first, then logs, surveys and a terrain.' }
		);
	const logged = known.holes.some((h) => h.intervals.length > 0);
	if (known.holes.length && !logged) missing.push({ what: 'a log', hint: 'Bring in a table with hole, from, to and a code.' });
	const units = logged ? proposeUnits(known) : null;
	if (units === 'too many')
		missing.push({
			what: 'units',
			hint: `The log has more than ${MOST_UNITS} different codes without a unit: put those that belong together into units under Interpret.`
		});
	const out = outlying(known.holes.map((h) => [h.path.collar[0], h.path.collar[1]] as const));
	const together = known.holes.filter((_, i) => !out[i]);
	const extent = known.extent ? null : proposeExtent(known.holes, known.terrain);
	const box = known.extent ?? extent;
	const places = together.map((h) => [h.path.collar[0], h.path.collar[1]] as const);
	return {
		units: units === 'too many' ? null : units,
		extent,
		spacing: box ? proposeSpacing(box, places) : null,
		section: box && !known.hasSection ? proposeSection(places, box, known.dipAzimuth === null ? null : known.dipAzimuth + 90) : null,
		far: known.holes.filter((_, i) => out[i]).map((h) => h.name),
		missing
	};
}

/**
 * Mean dip azimuth of planes measured at the surface, degrees; null without one, or where they dip all ways.
 * @param out by table, which rows take no part
 */
export function meanDipAzimuth(tables: readonly Table[], out: Record<string, Uint8Array>): number | null {
	let [e, n, sum] = [0, 0, 0];
	for (const t of tables) {
		const { dip, dipAzimuth } = t.numbers;
		if (t.kind !== 'orientations' || !dip || !dipAzimuth) continue;
		for (let r = 0; r < t.rowCount; r++) {
			const steepness = Math.sin((dip[r]! * Math.PI) / 180);
			if (out[t.name]?.[r] || Number.isNaN(steepness) || Number.isNaN(dipAzimuth[r]!)) continue;
			e += steepness * Math.sin((dipAzimuth[r]! * Math.PI) / 180);
			n += steepness * Math.cos((dipAzimuth[r]! * Math.PI) / 180);
			sum += steepness;
		}
	}
	return Math.hypot(e, n) > sum / 2 ? ((Math.atan2(e, n) * 180) / Math.PI + 360) % 360 : null;
}

/** A box round holes, without those far away from all others, whose top is above the terrain there; without holes round the terrain. */
export function proposeExtent(holes: readonly Hole[], terrain: Raster | null): Box | null {
	const out = outlying(holes.map((h) => [h.path.collar[0], h.path.collar[1]] as const));
	const box = extentOfHoles(holes.filter((_, i) => !out[i]));
	if (!terrain) return box;
	const whole: Box = {
		minX: terrain.x0 - terrain.dx / 2,
		minY: terrain.y0 - terrain.dy / 2,
		minZ: -Infinity,
		maxX: terrain.x0 + (terrain.nx - 0.5) * terrain.dx,
		maxY: terrain.y0 + (terrain.ny - 0.5) * terrain.dy,
		maxZ: Infinity
	};
	const [min, max] = heightsWithin(terrain, box ?? whole);
	if (!Number.isFinite(max)) return box;
	const top = Math.ceil((max + 10) / 10) * 10;
	if (box) return { ...box, maxZ: Math.max(box.maxZ, top) };
	return { ...whole, minZ: Math.floor((min - Math.max(max - min, 10)) / 10) * 10, maxZ: top };
}

function heightsWithin(t: Raster, b: Box): [number, number] {
	let [min, max] = [Infinity, -Infinity];
	for (let j = 0; j < t.ny; j++) {
		const y = t.y0 + j * t.dy;
		if (y < b.minY || y > b.maxY) continue;
		for (let i = 0; i < t.nx; i++) {
			const x = t.x0 + i * t.dx;
			const z = t.values[j * t.nx + i]!;
			if (x < b.minX || x > b.maxX || Number.isNaN(z)) continue;
			min = Math.min(min, z);
			max = Math.max(max, z);
		}
	}
	return [min, max];
}

/** One unit for each code without one; codes whose spelling alone differs share theirs. @returns null when every code has its unit */
function proposeUnits({ holes, column, lumping, taken }: KnownSoFar): UnitProposal | 'too many' | null {
	const counts = new Map<string, number>();
	for (const h of holes) for (const i of h.intervals) counts.set(i.code, (counts.get(i.code) ?? 0) + 1);
	const codes = [...counts.keys()];
	const whole: Lumping = { ...lumping };
	for (const [code, unit] of Object.entries(proposeLumping(codes, column, lumping))) if (unit) whole[code] = unit;
	const open = codes.filter((c) => !unitOfCode(whole, c));
	const left = open.filter((c) => NOTHING_SEEN.test(c.trim()));
	const groups = new Map<string, string[]>();
	for (const code of open) {
		if (left.includes(code)) continue;
		const key = plainCode(code) || code;
		groups.set(key, [...(groups.get(key) ?? []), code]);
	}
	if (groups.size > MOST_UNITS) return 'too many';
	if (groups.size === 0 && Object.keys(whole).length === Object.keys(lumping).length) return null;
	const ids = new Set([...taken, ...column.map((u) => u.id)]);
	const made = new Map<string, Unit>();
	for (const [key, spellings] of groups) {
		spellings.sort((a, b) => counts.get(b)! - counts.get(a)! || (a < b ? -1 : 1));
		const unit: Unit = { id: freeId(key, ids), name: spellings[0]!.trim().slice(0, 200), color: '', contact: 'conformable' };
		made.set(unit.id, unit);
		for (const code of spellings) whole[code] = unit.id;
	}
	const logs: HoleLog[] = holes.map((h) => {
		const run = h.intervals.map((i) => unitOfCode(whole, i.code)).filter((u) => u !== null);
		return { hole: h.name, units: run.filter((u, i) => u !== run[i - 1]) };
	});
	const proposal = proposeColumn(
		logs.filter((l) => l.units.length > 0),
		column.map((u) => u.id)
	);
	const ordered = proposal.units.map(({ unit, contact }) => column.find((u) => u.id === unit) ?? { ...made.get(unit)!, contact });
	const colors = unitColors(ordered.map((u) => ({ name: u.name, color: u.color || undefined })));
	return {
		column: withBasement(ordered.map((u, i) => ({ ...u, color: colors[i]! }))),
		lumping: whole,
		added: [...made.keys()],
		alike: [...groups.values()].filter((g) => g.length > 1),
		left,
		evidence: proposal.evidence,
		contradicting: proposal.contradicting
	};
}

/** The lowest unit has no base; an intrusion can not be it. */
const withBasement = (units: Unit[]): Unit[] =>
	units.map((u, i) => (i === units.length - 1 && u.contact === 'intrusive' ? { ...u, contact: 'conformable' } : u));

function freeId(wanted: string, known: Set<string>): string {
	const base = wanted.replace(/[^a-z0-9]+/gi, '').slice(0, 34) || 'unit';
	let id = base;
	for (let n = 2; known.has(id); n++) id = `${base}-${n}`;
	known.add(id);
	return id;
}
