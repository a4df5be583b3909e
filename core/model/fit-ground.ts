import { inBlock } from '../fields/field';
import { finish, together, type Steps } from '../fields/steps';
import { boxIsSolid } from '../geometry/box';
import { fail, ProblemError } from '../problem';
import { sequencesOf, validateColumn } from '../units/column';
import type { Observation } from '../units/contacts';
import { faultDistance } from './fault-field';
import { fitFaults, type FittedFault } from './faults';
import { besideSheet, endsOf, noteEnds, type Met } from './ends-at';
import { fitIntrusion, type FittedIntrusion } from './fit-intrusion';
import { note, rangeOf, type FittedSequence } from './fit-sequence';
import { fitStrata } from './fit-strata';
import { lengthSaid, type FaultSide, type GroundFinding, type GroundInput } from './ground';
import { Trends } from './trends';

/** All that is needed to say which unit is where. Numbers and typed arrays only. */
export interface Ground {
	input: GroundInput;
	faults: FittedFault[];
	sequences: FittedSequence[];
	divisions: FittedDivision[];
	findings: GroundFinding[];
}

/** A unit that is divided, with the ground of its parts. */
export interface FittedDivision {
	id: string;
	name: string;
	/** Index into the column of the unit that is divided, and of its first part among all units. */
	unit: number;
	firstUnit: number;
	ground: Ground;
	/** Faults of the ground that cut the unit: they are the first ones of the division, in this order. */
	shared: number[];
}

/**
 * Fits all fields of a ground: faults first, then for each sequence one field for its base and one for the contacts inside.
 * What can not be modelled is left out with a finding; the rest is modelled.
 * @throws ProblemError when there is nothing to model (`no-contacts`, `zero-extent`, `empty-column`) or a fault is malformed
 */
export const fitGround = (input: GroundInput): Ground => finish(groundSteps(input));

/** The same, step by step: fields that do not need each other are fitted side by side, and what threads can do is handed out. */
export function* groundSteps(input: GroundInput): Steps<Ground> {
	refuseEmpty(input);
	const sides: FaultSide[] = [];
	const first = yield* groundOnce(input, fitFaults(input), sides);
	const others = sides.filter((s) => s.sense !== 0);
	if (others.length === 0 || input.faultSides) return first;
	// What contradicts its side of a fault moves the fault, and all is fitted anew.
	const active = input.faults.filter((f) => f.on);
	const moved = new Set(others.map((s) => s.fault));
	const bent = { ...input, faultSides: [...sides, ...sidesHeld(input, first.faults, moved, sides)] };
	const faults = fitFaults(bent);
	const second = yield* groundOnce(besideFaults(bent, faults, moved), faults, []);
	for (const id of moved) {
		const own = others.filter((s) => s.fault === id);
		const holes = [...new Set(own.map((s) => s.hole))].sort();
		const before = inBlock(first.faults.find((f) => f.id === id)!.field, 0);
		const by = Math.max(...own.map((s) => Math.abs(faultDistance(before, s.x, s.y, s.z))));
		second.findings.unshift({
			kind: 'fault-moved',
			severity: 'noted',
			message: `${active.find((f) => f.id === id)!.name} passes on the other side of ${holes.length} ${holes.length === 1 ? 'hole' : 'holes'} than it was drawn (${holes.slice(0, 5).join(', ')}), by up to ${lengthSaid(input, by)}`,
			hint: 'Their contacts fit there. Move its trace, change its dip, or give it places at depth; or say that it is known better than that.'
		});
	}
	return second;
}

/** @throws ProblemError (see `fitGround`) */
function refuseEmpty(input: GroundInput): void {
	validateColumn(input.column);
	if (!boxIsSolid(input.extent))
		fail('zero-extent', 'the extent has no volume', 'Give a greatest value above the least in each direction.', 'extent');
	if (input.contacts.length === 0 && !input.made?.length)
		fail(
			'no-contacts',
			'no hole shows a contact between two units',
			'Import logged intervals, give their codes units, and put the units in order.',
			'contacts'
		);
}

/** How near to a fault that was moved nobody knows on which side a place is, at least, as a share of how far it may be off. */
const ON_IT = 0.05;

/** A ground without what lies in the zones of faults that were moved: it was taken for what is beside them where they were drawn. */
function besideFaults(input: GroundInput, faults: readonly FittedFault[], moved: ReadonlySet<string>): GroundInput {
	const zones = faults.flatMap((f) =>
		moved.has(f.id) ? [{ block: inBlock(f.field, 0), half: Math.max(f.halfWidth, ON_IT * f.reach), cut: f.youngestCut }] : []
	);
	const isBeside = (unit: number, p: { x: number; y: number; z: number }) =>
		zones.every((z) => unit < z.cut || Math.abs(faultDistance(z.block, p.x, p.y, p.z)) > z.half);
	return {
		...input,
		contacts: input.contacts.filter((c) => isBeside(c.surface, c)),
		observations: input.observations.filter((o) => isBeside(o.unit, o))
	};
}

/** Places near the faults that move, and fit where they are: they stay on their sides. */
function sidesHeld(
	input: GroundInput,
	faults: readonly FittedFault[],
	moved: ReadonlySet<string>,
	sides: readonly FaultSide[]
): FaultSide[] {
	const known = new Set(sides.map((s) => `${s.fault} ${s.x} ${s.y} ${s.z}`));
	return faults.flatMap((f): FaultSide[] => {
		if (!moved.has(f.id)) return [];
		const b = inBlock(f.field, 0);
		return [...input.contacts, ...input.observations].flatMap((p): FaultSide[] => {
			const d = faultDistance(b, p.x, p.y, p.z);
			return Math.abs(d) < 3 * f.reach && !known.has(`${f.id} ${p.x} ${p.y} ${p.z}`)
				? [{ fault: f.id, x: p.x, y: p.y, z: p.z, sense: d >= 0 ? 1 : -1, hole: `${p.hole} ${p.z}` }]
				: [];
		});
	});
}

/** @param sides gets what does not fit on its side of a fault as that was drawn */
function* groundOnce(input: GroundInput, faults: FittedFault[], sides: FaultSide[]): Steps<Ground> {
	const findings: GroundFinding[] = oneSidedFaults(input, faults);
	const sequences = sequencesOf(input.column);
	const trends = new Trends(input, sequences, faults);
	const fitted: FittedSequence[] = [];
	const met: (Met | null)[] = [];
	const own = sequences.map((): GroundFinding[] => []);
	const groups = trends.groups();
	const intrusion = (i: number, beyond?: ReadonlySet<Observation>) =>
		fitIntrusion(input, sequences[i]!, sequences, i, faults, own[i]!, trends.shapeOf(i, fitted), beyond);
	for (const group of groups) {
		const done = yield* together(
			group.map((i): Steps<FittedIntrusion> => {
				const s = sequences[i]!;
				return s.kind === 'intrusion'
					? intrusion(i)
					: alone(fitStrata(input, s, sequences, i, faults, own[i]!, trends.shapeOf(i, fitted), trends.baseOf(i, fitted), sides));
			})
		);
		done.forEach((d, g) => {
			fitted[group[g]!] = d.sequence;
			met[group[g]!] = d.met;
		});
	}
	// Youngest first: what ends at a sheet is fitted anew without the holes beyond that one, which say nothing of it.
	for (const [i, s] of sequences.entries()) {
		if (s.kind !== 'intrusion') continue;
		const ends = yield* endsOf(i, met, input.column, fitted, faults);
		if (ends.length) {
			const beyond = new Set<Observation>();
			for (const e of ends) {
				const v = yield* besideSheet(fitted[e.at]!, faults, input.observations);
				input.observations.forEach((o, k) => (e.above ? v[k]! < 0 : v[k]! > 0) && beyond.add(o));
			}
			const before = own[i]!.splice(0);
			const { sequence } = yield* intrusion(i, beyond);
			if (sequence.walls && !sequence.others) fitted[i] = { ...sequence, ends };
			else own[i]!.splice(0, Infinity, ...before);
		}
		noteEnds(i, input.column, fitted, own[i]!);
	}
	const ofSequences = groups.flat().flatMap((i) => own[i]!);
	const named = new Set(ofSequences.map(pairOf));
	findings.unshift(...contradictions(input).filter((f) => !named.has(pairOf(f))));
	findings.push(...ofSequences);
	return { input, faults, sequences: fitted, divisions: yield* divisionSteps(input, faults, findings), findings };
}

/** What is no sheet, and where holes meet it says nothing further. */
function* alone(steps: Steps<FittedSequence>): Steps<FittedIntrusion> {
	return { sequence: yield* steps, met: null };
}

/** Grounds of the units that are divided. One that can not be had is left undivided, with a finding. */
function* divisionSteps(input: GroundInput, faults: readonly FittedFault[], findings: GroundFinding[]): Steps<FittedDivision[]> {
	let firstUnit = input.column.length;
	const taken = new Set(input.column.map((u) => u.id));
	const out: FittedDivision[] = [];
	for (const d of input.divisions ?? []) {
		const unit = input.column.findIndex((u) => u.id === d.unit);
		const shared = faults.flatMap((f, k) => (f.youngestCut <= unit ? [k] : []));
		const first = d.column[0]?.id ?? '';
		const active = input.faults.filter((f) => f.on);
		try {
			if (unit < 0) fail('unknown-unit', 'the unit that it divides is not in the column');
			if (out.some((o) => o.unit === unit))
				fail(
					'divided-twice',
					`${input.column[unit]!.name} is divided by another division already`,
					'Divide one of its parts, or turn one of the two off.'
				);
			const doubled = d.column.find((u) => taken.has(u.id));
			if (doubled) fail('doubled-unit', `its unit "${doubled.id}" has the id of another unit`, 'Rename one of them.');
			const { contacts, absences = [], unknown = [], observations, orientations, column } = d;
			const ground: Ground = yield* groundSteps({
				extent: input.extent,
				...(input.lengthUnit ? { lengthUnit: input.lengthUnit } : {}),
				terrain: input.terrain,
				column,
				contacts,
				observations,
				absences,
				unknown,
				orientations,
				bounds: d.bounds ?? [],
				trends: d.trends ?? [],
				faults: [...shared.map((k) => ({ ...active[k]!, youngestCut: first })), ...d.faults],
				...(input.certain ? { certain: input.certain } : {}),
				...(input.faultSides ? { faultSides: input.faultSides } : {})
			});
			for (const u of column) taken.add(u.id);
			out.push({ id: d.id, name: d.name, unit, firstUnit, ground, shared });
			firstUnit += column.length;
			for (const f of ground.findings) findings.push({ ...f, message: `${d.name}: ${f.message}` });
		} catch (error) {
			if (!(error instanceof ProblemError)) throw error;
			note(
				findings,
				error.problem.kind,
				`${d.name}: ${error.problem.message}`,
				`${error.problem.hint ?? ''} The unit stays undivided.`.trim()
			);
		}
	}
	return out;
}

const pairOf = (f: GroundFinding): string => JSON.stringify([f.hole, f.other].sort());

/** Two contacts of one surface nearly above each other at very different heights, or of two surfaces at one place. */
function contradictions(input: GroundInput): GroundFinding[] {
	const near = rangeOf(input) * 1e-3;
	// Walls of intrusions lie side by side on the map.
	const sorted = input.contacts
		.filter((c) => input.column[c.surface]?.contact !== 'intrusive')
		.sort((a, b) => a.x - b.x || a.y - b.y || a.z - b.z);
	const findings: GroundFinding[] = [];
	for (let i = 0; i < sorted.length && findings.length < 50; i++)
		for (let j = i + 1; j < sorted.length && sorted[j]!.x - sorted[i]!.x <= near; j++) {
			const [a, b] = [sorted[i]!, sorted[j]!];
			if (a.hole === b.hole || a.surface !== b.surface || Math.abs(a.y - b.y) > near) continue;
			const apart = Math.hypot(a.x - b.x, a.y - b.y);
			const high = Math.abs(a.z - b.z);
			if (high > 5 * near && high > 10 * apart)
				findings.push({
					kind: 'contradicting-contacts',
					severity: 'noted',
					message: `the base of ${input.column[a.surface]!.name} lies ${lengthSaid(input, high)} apart in height in ${a.hole} and ${b.hole}, which are ${lengthSaid(input, apart)} apart`,
					hint: 'Check the collars and logs of the two holes, or exclude one of the intervals.',
					at: [a.x, a.y, a.z],
					hole: b.hole,
					other: a.hole
				});
		}
	return findings;
}

/** Faults with all contacts on one side: they cut the ground, but nothing says by how much. */
function oneSidedFaults(input: GroundInput, faults: readonly FittedFault[]): GroundFinding[] {
	return faults.flatMap((f): GroundFinding[] => {
		const b = inBlock(f.field, 0);
		const cut = input.contacts.filter((c) => c.surface >= f.youngestCut);
		const hanging = cut.filter((c) => faultDistance(b, c.x, c.y, c.z) >= 0).length;
		if (hanging > 0 && hanging < cut.length) return [];
		return [
			{
				kind: 'fault-one-sided',
				severity: 'noted',
				message: `all contacts lie on one side of ${f.name}`,
				hint: 'The fault is drawn, but it offsets nothing. Check its trace and the unit it cuts up to.'
			}
		];
	});
}
