import { valueAt, type Field } from '../fields/field';
import { sharedInBlock } from '../fields/compute';
import { conjugateGradients } from '../linear/conjugate-gradients';
import type { Lattice } from '../mesh/lattice';
import { Locator } from '../mesh/locate';
import type { ContactPoint } from '../units/contacts';
import type { FieldSource, Walk } from './walk';

/** What became of a contact point on the lattice. */
export const HELD = 0;
/** It has an error or is the middle of a sheet: nothing is forced onto it. */
export const SOFT = 1;
/** It lies outside the box. */
export const BEYOND = 2;
/** Its surface does not come to where it lies: a younger surface, a fault or a limit cuts it off. */
export const CUT_OFF = 3;
/** The field is far off: the point contradicts others. */
export const CONTRADICTED = 4;

/** A field is believed to honour a point when it is this near on the lattice, as a share of the spacing. */
const NEAR = 0.25;
/**
 * Variance of what may be left beside that of what moves: points side by side that differ make no spikes. Asked for twice, a lone
 * point is left with less than a five-hundredth of what it was off.
 */
const SOFTNESS = 0.01;
const ROUNDS = 2;
/** Where the solver stops: share of what was asked for, and steps. */
const PRECISION = 1e-13;
const STEPS = 1000;

/** What a contact asks for: a level in its tetrahedron. */
interface Tie {
	source: FieldSource;
	level: number;
	nodes: Uint32Array;
	weights: Float64Array;
}

/**
 * Moves node values so little that the surfaces on the lattice, flat in each tetrahedron, pass through their contacts as the fields
 * do: each contact asks for one value in its tetrahedron; of all changes that give them the least is made (regularised least norm,
 * Tikhonov 1963). Nodes of cells without contacts stay as they are.
 *
 * @param values of the fields at the nodes, by source; changed in place
 * @param contacts with surfaces as indexes into all units
 * @returns what became of each contact
 */
export function honourContacts(
	l: Lattice,
	{ root, sources }: { root: Walk; sources: readonly FieldSource[] },
	values: ReadonlyMap<number, Float64Array>,
	contacts: readonly ContactPoint[],
	spacing: number
): Uint8Array {
	const locator = new Locator(l);
	const found = new Uint8Array(contacts.length);
	const ties: Tie[] = [];
	// In an order of their own, not that of the rows.
	const order = contacts.map((_, i) => i).sort((a, b) => byPlace(contacts[a]!, contacts[b]!));
	for (const i of order) {
		const c = contacts[i]!;
		if ((c.error ?? 0) > 0 || (c.thickness ?? 0) > 0) found[i] = SOFT;
		else if (!locator.find(c.x, c.y, c.z)) found[i] = BEYOND;
		else {
			const tie = tieOf(root, c, values, locator, NEAR * spacing);
			if (typeof tie === 'number') found[i] = tie;
			else ties.push(tie);
		}
	}
	meet(ties, sources, values);
	return found;
}

const byPlace = (a: ContactPoint, b: ContactPoint): number => a.x - b.x || a.y - b.y || a.z - b.z || a.surface - b.surface;

/** Moves the values so that the ties are met. */
function meet(ties: readonly Tie[], sources: readonly FieldSource[], values: ReadonlyMap<number, Float64Array>): void {
	const moved = new Moved(sources, values);
	// Four a tie.
	const slots = new Int32Array(4 * ties.length);
	const weights = new Float64Array(4 * ties.length);
	ties.forEach(({ source, nodes, weights: own }, t) => {
		weights.set(own, 4 * t);
		for (let k = 0; k < 4; k++) slots[4 * t + k] = moved.slotOf(source, nodes[k]!);
	});
	const now = Float64Array.from(moved.first);
	const slotValues = new Float64Array(now.length);
	/** What each tie has of values at the slots, with `more` times its own; and the other way round. */
	const onTies = (v: Float64Array, own: Float64Array, more: number): Float64Array => {
		const out = new Float64Array(ties.length);
		for (let t = 0, o = 0; t < out.length; t++, o += 4)
			out[t] =
				weights[o]! * v[slots[o]!]! +
				weights[o + 1]! * v[slots[o + 1]!]! +
				weights[o + 2]! * v[slots[o + 2]!]! +
				weights[o + 3]! * v[slots[o + 3]!]! +
				more * own[t]!;
		return out;
	};
	const onSlots = (y: Float64Array): Float64Array => {
		slotValues.fill(0);
		for (let o = 0; o < slots.length; o++) slotValues[slots[o]!] = slotValues[slots[o]!]! + weights[o]! * y[o >> 2]!;
		return slotValues;
	};
	const levels = Float64Array.from(ties, (t) => t.level);
	for (let round = 0; round < ROUNDS; round++) {
		const off = onTies(now, levels, -1).map((v) => -v);
		const by = onSlots(conjugateGradients((y) => onTies(onSlots(y), y, SOFTNESS), off, PRECISION, STEPS));
		for (let s = 0; s < now.length; s++) now[s] = now[s]! + by[s]!;
	}
	moved.write(now);
}

/**
 * Values of fields at nodes that are moved. Where a field has the same value in several fault blocks (beyond the tip line of a fault
 * that dies out), it is one value, so that nothing is parted there.
 */
class Moved {
	readonly first: number[] = [];
	private readonly at: { node: number; members: Float64Array[] }[] = [];
	private readonly known = new Map<Float64Array, Map<number, number>>();
	private readonly blocksOf = new Map<Field, Float64Array[]>();

	constructor(
		sources: readonly FieldSource[],
		private readonly values: ReadonlyMap<number, Float64Array>
	) {
		for (const s of sources) {
			const own = values.get(s.id);
			if (own) this.blocksOf.set(s.field, [...(this.blocksOf.get(s.field) ?? []), own]);
		}
	}

	slotOf(source: FieldSource, node: number): number {
		const own = this.values.get(source.id)!;
		let slots = this.known.get(own);
		if (!slots) this.known.set(own, (slots = new Map()));
		const before = slots.get(node);
		if (before !== undefined) return before;
		const members = this.blocksOf.get(source.field)!.filter((v) => v[node] === own[node]);
		const slot = this.first.push(own[node]!) - 1;
		this.at.push({ node, members });
		for (const m of members) {
			if (!this.known.has(m)) this.known.set(m, new Map());
			this.known.get(m)!.set(node, slot);
		}
		return slot;
	}

	write(now: Float64Array): void {
		this.at.forEach(({ node, members }, slot) => {
			for (const m of members) m[node] = now[slot]!;
		});
	}
}

/** The question that a contact of a surface lies on: of those that lead to where it is the one whose level is nearest. */
function tieOf(
	root: Walk,
	c: ContactPoint,
	values: ReadonlyMap<number, Float64Array>,
	{ nodes, weights }: Locator,
	near: number
): Tie | typeof CUT_OFF | typeof CONTRADICTED {
	let best: { distance: number; source: FieldSource; level: number } | null = null;
	const visit = (walk: Walk): void => {
		if (!('question' in walk)) return;
		const { source, level, surface: own } = walk.question;
		// On which side of a fault it is, the fault itself tells.
		if (own.kind === 'fault')
			return visit(valueAt(sharedInBlock(source.field, source.block), c.x, c.y, c.z) >= level ? walk.above : walk.below);
		const v = values.get(source.id);
		let here = -level;
		for (let k = 0; k < 4; k++) here += v ? weights[k]! * v[nodes[k]!]! : NaN;
		if (Number.isNaN(here)) return;
		const distance = Math.abs(here) * source.field.unit;
		if (own.unit === c.surface && (!best || distance < best.distance)) best = { distance, source, level };
		// Near a level the flat picture may have it on the wrong side.
		if (here >= 0 || distance < near) visit(walk.above);
		if (here < 0 || distance < near) visit(walk.below);
	};
	visit(root);
	const tie = best as { distance: number; source: FieldSource; level: number } | null;
	if (!tie) return CUT_OFF;
	if (tie.distance > near) return CONTRADICTED;
	return { source: tie.source, level: tie.level, nodes: nodes.slice(), weights: weights.slice() };
}
