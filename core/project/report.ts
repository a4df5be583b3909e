import { countFindings } from '../checks/check';
import type { Finding } from '../tables/finding';
import { Nearby, NearestPoint } from '../geometry/nearest';
import { AIR, OUTSIDE, type SolidMesh } from '../mesh/cut-lattice';
import { misfits, misfitSummary, type Misfit } from '../mesh/misfit';
import { extract, partsOf, solidOf, unitsIn, volumeOf } from '../mesh/extract';
import { holesByLog, type Hole, type LogSource } from '../holes/holes';
import { backFlag, flagStep, type BackFlag } from '../model/back-flag';
import { blockNumbers, blocksOf } from '../model/blocks';
import type { BuiltModel } from '../model/build';
import type { Evaluate } from '../model/evaluate';
import type { Ground } from '../model/fit-ground';
import { AGAINST_NEIGHBOURS } from '../model/ground';
import { BEYOND } from '../model/honour';
import { faultOffsets } from '../model/offsets';
import { verdictOf } from '../model/verdict';
import { allContacts, columnUnitOf, faultsOf, unitsOf } from '../model/whole';
import type { ContactPoint } from '../units/contacts';
import type { Table } from '../tables/table';
import type { Lumping, StratigraphicColumn } from '../units/column';
import { contactFindings } from './honoured';
import type { CheckedHoles } from './pipeline';
import type { Shaping } from './shaping';

/** What a build has to say about itself; the same from the web, the API and the command line. */
export interface ModelReport {
	spacing: number;
	/** Volume of the box. */
	box: number;
	cells: number;
	triangles: number;
	/** Share by which the volumes of all units and the air differ from the box. */
	volumeError: number;
	/** With the volumes of the connected parts, the greatest first, twenty at most. */
	volumes: UnitVolume[];
	/** Area of each surface, how much of it lies within `support` of one of its contacts, and how well it honours them. */
	surfaces: { unit: string; name: string; contacts: number; measured: number; rms: number; max: number; area: number; supported: number }[];
	/** Distance from a contact up to which a surface is taken to be supported by data. */
	support: number;
	/** Loose parts that were too small to keep, with their volume. */
	specks: { dropped: number; volume: number };
	/** Parts of the ground that faults cut out, with their volumes; one when no fault goes through. */
	blocks: { id: string; name: string; volume: number }[];
	/** How far the model agrees with the logs along the holes; null when nothing was logged. */
	agreement: Agreement | null;
	/** The same for the parts of each unit that is divided, with the log of the division. */
	partAgreements: { division: string; name: string; agreement: Agreement }[];
	/** Throws of the contacts along the faults. */
	offsets: { fault: string; unit: string; places: number; least: number; mean: number; most: number }[];
	/** How far faults pass from the places that they are said to pass through, root mean square; faults without such places are not in it. */
	faultMisfits: { id: string; name: string; places: number; misfit: number }[];
	/** The verdict on the model, then findings of the engine; what is held is an error. */
	findings: { kind: string; severity: string; message: string; hint: string; hole?: string }[];
}

interface UnitVolume {
	unit: string;
	name: string;
	color: string;
	/** Of a unit that is divided the sum of its parts. */
	volume: number;
	parts: number[];
	/** Id of the unit of the column that this is a part of: its volume is in that one, too. */
	partOf?: string;
}

export interface Agreement {
	/** Length that was compared, and the share of it on which log and model have the same unit. */
	compared: number;
	share: number;
	/** By logged unit: lengths that the model gives to each unit; null is above the terrain or outside the extent. */
	units: { unit: string; logged: number; agreed: number; modelled: { unit: string | null; length: number }[] }[];
	/** Where they differ, the longest first. */
	mismatches: { hole: string; from: number; to: number; logged: string; modelled: string; x: number; y: number; z: number }[];
}

/** How a comparison of the logs with the model reads. */
export function agreementOf(flag: BackFlag, all: StratigraphicColumn): Agreement | null {
	const width = all.length + 1;
	const id = (i: number) => all[i]?.id ?? null;
	const units = all.flatMap((u, i) => {
		const row = Array.from(flag.lengths.subarray(i * width, (i + 1) * width));
		const logged = row.reduce((a, b) => a + b, 0);
		return logged > 0
			? [{ unit: u.id, logged, agreed: row[i]!, modelled: row.flatMap((length, k) => (length > 0 ? [{ unit: id(k), length }] : [])) }]
			: [];
	});
	if (units.length === 0) return null;
	return {
		compared: flag.compared,
		share: flag.compared > 0 ? flag.agreed / flag.compared : 0,
		units,
		mismatches: flag.mismatches.map((m) => ({ ...m, logged: all[m.logged]!.id, modelled: all[m.modelled]!.id }))
	};
}

/** Throws along each fault, by contact. */
function offsetsOf(ground: Ground): ModelReport['offsets'] {
	return ground.faults.flatMap((f, k) => {
		const all = faultOffsets(ground, k);
		return [...new Set(all.map((o) => o.surface))]
			.sort((a, b) => a - b)
			.map((surface) => {
				const throws = all.filter((o) => o.surface === surface).map((o) => o.throw);
				return {
					fault: f.id,
					unit: ground.input.column[surface]!.id,
					places: throws.length,
					least: Math.min(...throws),
					mean: throws.reduce((a, b) => a + b, 0) / throws.length,
					most: Math.max(...throws)
				};
			});
	});
}

/** Volumes of all units; those of the parts of a divided unit make up that of the unit. */
function volumesOf(ground: Ground, mesh: SolidMesh): UnitVolume[] {
	const columnUnit = columnUnitOf(ground);
	const { column } = ground.input;
	return unitsOf(ground).map((u, i) => {
		const members = [...columnUnit.keys()].filter((k) => k === i || (i < column.length && columnUnit[k] === i));
		const solid =
			members.length > 1
				? extract(mesh, (t) => sideOf(members.includes(mesh.back[t]!), members.includes(mesh.front[t]!)))
				: solidOf(mesh, i);
		return {
			unit: u.id,
			name: u.name,
			color: u.color,
			volume: members.reduce((s, k) => s + (mesh.volumes.get(k) ?? 0), 0),
			parts: partsOf(solid).slice(0, 20),
			...(i >= column.length ? { partOf: column[columnUnit[i]!]!.id } : {})
		};
	});
}

function blockVolumes(ground: Ground, { mesh, leaves }: BuiltModel): ModelReport['blocks'] {
	const { blocks, ofLeaf } = blocksOf(ground, leaves);
	const [front, back] = [blockNumbers(mesh.frontLeaf, ofLeaf), blockNumbers(mesh.backLeaf, ofLeaf)];
	return blocks.flatMap(({ id, name }, b) => {
		const volume = volumeOf(extract(mesh, (t) => sideOf(back[t] === b, front[t] === b)));
		return volume > 0 ? [{ id, name, volume }] : [];
	});
}

const sideOf = (inBack: boolean, inFront: boolean): number => (inBack === inFront ? 0 : inBack ? 1 : -1);

/** Twice the usual distance between neighbouring contacts of other holes, but no less than the spacing. */
function supportOf(contacts: readonly ContactPoint[], spacing: number): number {
	if (contacts.length < 2) return spacing;
	const places = new NearestPoint(contacts);
	const asked = contacts.filter((_, i) => i % Math.ceil(contacts.length / 500) === 0);
	const nearest = asked
		.map((a) => places.distance(a.x, a.y, a.z, (i) => contacts[i]!.hole !== a.hole))
		.filter(Number.isFinite)
		.sort((a, b) => a - b);
	return nearest.length ? Math.max(spacing, Number((2 * nearest[nearest.length >> 1]!).toPrecision(2))) : spacing;
}

/** Area of a surface, and the part of it within a distance of its contacts. */
function areaOf(mesh: SolidMesh, surface: number, contacts: readonly ContactPoint[], support: number): { area: number; supported: number } {
	const p = mesh.positions;
	const near = new Nearby(contacts, support);
	let area = 0;
	let supported = 0;
	for (let t = 0; t < mesh.surface.length; t++) {
		if (mesh.surface[t] !== surface) continue;
		const [a, b, c] = [3 * mesh.triangles[3 * t]!, 3 * mesh.triangles[3 * t + 1]!, 3 * mesh.triangles[3 * t + 2]!];
		const at = (v: number, k: number) => p[v + k]! - p[a + k]!;
		const own =
			Math.hypot(
				at(b, 1) * at(c, 2) - at(b, 2) * at(c, 1),
				at(b, 2) * at(c, 0) - at(b, 0) * at(c, 2),
				at(b, 0) * at(c, 1) - at(b, 1) * at(c, 0)
			) / 2;
		area += own;
		const middle = (k: number) => (p[a + k]! + p[b + k]! + p[c + k]!) / 3;
		if (near.isNear(middle(0), middle(1), middle(2))) supported += own;
	}
	return { area, supported };
}

/** How the logs and the model agree: as a whole, and by division. */
export interface Flags {
	whole: BackFlag;
	parts: { id: string; name: string; flag: BackFlag }[];
}

/**
 * Compares the logs with the model: the log of the column with its units, and the log of each division with its parts.
 * @param tables checked, from which the logs are taken
 */
export async function flagsOf(
	ground: Ground,
	tables: readonly Table[],
	{ holes, checked }: CheckedHoles,
	lumping: Lumping,
	shaping: Shaping | undefined,
	spacing: number,
	evaluate?: Evaluate
): Promise<Flags> {
	const by = (log: LogSource | null | undefined): Hole[] =>
		log ? holesByLog(holes, tables, checked, { table: log.table, column: log.column }) : holes;
	const step = flagStep(spacing);
	const whole = await backFlag(ground, by(shaping?.log), lumping, step, evaluate);
	const parts: Flags['parts'] = [];
	for (const d of ground.divisions) {
		const spec = shaping?.divisions.find((x) => x.id === d.id);
		if (spec)
			parts.push({
				id: d.id,
				name: d.name,
				flag: await backFlag(ground, by(spec.log ?? shaping?.log), spec.lumping, step, evaluate, undefined, d)
			});
	}
	return { whole, parts };
}

/** @param flags comparison of the logs with the model, when there are holes */
export function reportOf(
	ground: Ground,
	built: BuiltModel,
	spacing: number,
	flags: Flags | null
): { report: ModelReport; misfits: Misfit[] } {
	const { lattice: l, mesh } = built;
	const units = unitsOf(ground);
	const contacts = allContacts(ground);
	// Outside the box there is no surface to be off from.
	const list = misfits(mesh, contacts).map((m) => (built.contacts[m.contact] === BEYOND ? { ...m, distance: null } : m));
	const support = supportOf(contacts, spacing);
	const box = l.nx * l.dx * (l.ny * l.dy) * (l.nz * l.dz);
	const volumes = volumesOf(ground, mesh);
	const agreement = flags ? agreementOf(flags.whole, units) : null;
	const offNeighbours = new Set(ground.findings.flatMap((f) => (f.kind === AGAINST_NEIGHBOURS && f.hole ? [f.hole] : [])));
	const verdict = verdictOf(
		ground.input,
		(agreement?.units ?? [])
			.map((u) => {
				const named = agreement!.mismatches.filter((m) => m.logged === u.unit && offNeighbours.has(m.hole));
				return {
					name: units.find((x) => x.id === u.unit)!.name,
					logged: u.modelled.reduce((s, m) => s + (m.unit === null ? 0 : m.length), 0),
					agreed: u.agreed,
					volume: volumes.find((v) => v.unit === u.unit)?.volume ?? 0,
					named: { length: named.reduce((s, m) => s + m.to - m.from, 0), holes: new Set(named.map((m) => m.hole)).size }
				};
			})
			.filter((u) => u.logged > 0)
	);
	let sum = (mesh.volumes.get(AIR) ?? 0) + (mesh.volumes.get(OUTSIDE) ?? 0);
	for (const u of unitsIn(mesh)) sum += mesh.volumes.get(u)!;
	return {
		misfits: list,
		report: {
			spacing,
			box,
			cells: l.nx * l.ny * l.nz,
			triangles: mesh.front.length,
			volumeError: Math.abs(sum / box - 1),
			support,
			specks: built.specks,
			volumes,
			surfaces: units.flatMap((u, i) => {
				const own = list.filter((m) => contacts[m.contact]!.surface === i);
				if (own.length === 0) return [];
				const s = misfitSummary(own);
				return [
					{
						unit: u.id,
						name: u.contact === 'intrusive' ? `boundary of ${u.name}` : `base of ${u.name}`,
						contacts: own.length,
						measured: s.count,
						rms: s.rms,
						max: s.max,
						...areaOf(
							mesh,
							i,
							contacts.filter((c) => c.surface === i),
							support
						)
					}
				];
			}),
			blocks: blockVolumes(ground, built),
			agreement,
			partAgreements: (flags?.parts ?? []).flatMap(({ id, name, flag }) => {
				const agreement = agreementOf(flag, units);
				return agreement ? [{ division: id, name, agreement }] : [];
			}),
			offsets: offsetsOf(ground),
			faultMisfits: faultsOf(ground).flatMap(({ id, name, misfit }) =>
				misfit === null ? [] : [{ id, name, misfit, places: ground.input.faults.find((f) => f.id === id)?.places?.length ?? 0 }]
			),
			findings: [
				...verdict,
				...ground.findings,
				...contactFindings(contacts, list, built.contacts, spacing, units, ground.input.lengthUnit ?? 'm')
			].map(({ kind, severity, message, hint, hole }) => ({ kind, severity, message, hint, ...(hole ? { hole } : {}) }))
		}
	};
}

/** Rows held back and noted, by rule. */
export const findingCounts = (findings: readonly Finding[]) => ({
	held: new Set(findings.filter((f) => f.severity === 'held').map((f) => `${f.table}\t${f.row}`)).size,
	noted: findings.filter((f) => f.severity === 'noted').length,
	byRule: countFindings(findings)
});
