import type { Bound, ValueDatum } from '../fields/data';
import { fromBlocks, gradientAt, plus, valueAt, type Field } from '../fields/field';
import { fieldOrNone, type FitOptions } from '../fields/fit';
import { together, valuesSteps, type Steps } from '../fields/steps';
import { NearestPoint } from '../geometry/nearest';
import { quantileSorted } from '../statistics/spread';
import {
	FEWEST_HOLES,
	reliefInside,
	holePlaces,
	isWorstNearby,
	MOST as MOST_OFF,
	TURNS,
	turnsOf,
	type HoleDatum,
	type Left
} from './neighbours';

/** Below this slope between two contacts, as a share of what the distance between them asks for, one shape does not fit all contacts. */
const STRAINED = 0.5;
/** Pairs of contacts of two neighbouring units that are asked for it. */
const ASKED = 100;
/**
 * Where a unit is missing its base is thought this share of its thickness nearby above where it would be, so that it ends between the
 * holes: at ten elevenths of the way, for the thickness falls in a straight line there, and that of a lens in a curve. Volumes of 16 lenses drawn at
 * random are off by -0.4 % in the mean (at -0.25 by -4.3 %; of 24 at 0 by 4.7 %), those of 32 wedges by -0.4 % (-0.6 %).
 */
export const MISSING = -0.1;
/** Holes nearby that tell how thick a missing unit would be. */
const NEARBY = 3;
/** Contacts around one that tell how much the others know of it. */
const AROUND = 6;
const ROUNDS = 8;
const PEELS = 6;
const LAST_PEELS = 2;
/** A shape that rises by this share of the way up a hole is upright there. */
const UPRIGHT = 0.5;
/** What is off by less than so many times the spread of the contacts about their shape is not odd. */
const WITHIN = 2;

/** A place where a unit is missing: the contact of its neighbours, which lies where its base would, or where a hole passes a sheet. */
export interface Gap {
	group: number;
	/** How far the field is above its level there, in thicknesses of the unit nearby. */
	by: number;
	x: number;
	y: number;
	z: number;
	block: number;
	hole: string;
}

type Placed = Pick<HoleDatum, 'hole' | 'x' | 'y' | 'z'>;

interface PlaceInBlock {
	x: number;
	y: number;
	z: number;
	block: number;
}

/** Places at which a surface may lie no farther off the shape than its contacts do. */
export interface Held {
	places: readonly PlaceInBlock[] | ((group: number, shape: Field) => Steps<readonly PlaceInBlock[]>);
	/** By group: the sense of values on whose side only contacts count, not where it ends. */
	sense: (group: number) => number;
	/** By how much it may lie farther, of so much as its contacts are off the shape in all, and how far apart places are held at once, length units. */
	by: (spread: number) => number;
	apart: number;
}
/** How often surfaces are held, and at how many places at once. */
const HELD_ROUNDS = 5;
const MOST_HELD = 30;

/** Pairs of contacts that follow each other in a hole and whose groups are neighbours, the one of the lower number first. */
function pairs(points: readonly HoleDatum[]): [HoleDatum, HoleDatum][] {
	const byHole = new Map<string, HoleDatum[]>();
	for (const p of points) byHole.set(p.hole, [...(byHole.get(p.hole) ?? []), p]);
	const out: [HoleDatum, HoleDatum][] = [];
	for (const list of byHole.values()) {
		const sorted = list.sort((a, b) => b.z - a.z);
		for (let i = 1; i < sorted.length; i++) {
			const [a, b] = [sorted[i - 1]!, sorted[i]!];
			if (Math.abs(a.group - b.group) === 1 && a.block === b.block) out.push(a.group < b.group ? [a, b] : [b, a]);
		}
	}
	return out;
}

const byGroup = (list: readonly [HoleDatum, HoleDatum][]): [HoleDatum, HoleDatum][][] => {
	const out: [HoleDatum, HoleDatum][][] = [];
	for (const p of list) (out[p[0].group] ??= []).push(p);
	return out.filter(Boolean);
};
const apart = ([a, b]: readonly [HoleDatum, HoleDatum]): number => Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z);
const median = (values: readonly number[]): number => quantileSorted(Float64Array.from(values).sort(), 0.5);

/** Median distance between contacts that follow each other in a hole, length units. */
export const usualThickness = (points: readonly HoleDatum[]): number => {
	const all = pairs(points).map(apart);
	return all.length ? median(all) : 0;
};

/** How much the distances between contacts vary from hole to hole: 1.4826 times the median of what they are off their own median, length units; 0 when too few are known. */
export function thicknessSpread(points: readonly HoleDatum[]): number {
	const off = byGroup(pairs(points))
		.filter((g) => g.length > 3)
		.flatMap((g) => {
			const usual = median(g.map(apart));
			return g.map((p) => Math.abs(apart(p) - usual));
		});
	return off.length ? 1.4826 * median(off) : 0;
}

/** Contacts that need not lie on one shape: each with an error of how much the thickness varies. */
export function loosened(points: readonly HoleDatum[], spread: number): HoleDatum[] {
	if (!(spread > 0)) return [...points];
	const nugget = (spread / Math.max(reliefInside(points), spread)) ** 2;
	return points.map((p) => ({ ...p, nugget: (p.nugget ?? 0) + nugget }));
}

/** Whether one shape with a level for each contact does not fit: between two contacts it is much flatter than the distance between them asks for. @param least slope, as a share of that */
export function isStrained(field: Field, points: readonly HoleDatum[], least = STRAINED): boolean {
	const seen = fromBlocks(field);
	return byGroup(pairs(points)).some((all) => {
		// A part of them tells as much as all.
		const g = all.filter((_, i) => i % Math.ceil(all.length / ASKED) === 0);
		const step = (field.levels[g[0]![0].group]! - field.levels[g[0]![1].group]!) * field.unit;
		// Across the layers, not along the hole.
		const across = median(
			g.map((p) => {
				const [a, b] = p;
				const n = gradientAt(seen(a.block), (a.x + b.x) / 2, (a.y + b.y) / 2, (a.z + b.z) / 2);
				const size = Math.hypot(...n);
				return size > 0 ? Math.abs(n[0] * (a.x - b.x) + n[1] * (a.y - b.y) + n[2] * (a.z - b.z)) / size : apart(p);
			})
		);
		return step < least * across;
	});
}

/**
 * Fields of contacts that share a shape and are each off it by as much as their holes show: f_g = f + δ_g, where f is fitted to all contacts
 * with the spread of the thickness as their error, and δ_g interpolates what is left on the contacts of group g. So thickness varies from
 * place to place; a surface that comes to lie above a younger one is not there, so units pinch out and no two cross. Where a hole lacks a unit
 * its thickness goes on below nothing, and it ends between the holes.
 * What a hole shows of a contact is weighed against the other holes first (see `oddOnes`).
 * @param shape the field of all contacts, without a local part
 * @returns by group, the field whose level is that of the shape, null for a group without contacts; and contacts that are not believed
 */
export function* varyingFields(
	shape: Field,
	data: {
		points: readonly HoleDatum[];
		gaps: readonly Gap[];
		bounds: readonly Bound[];
		faultCount: number;
		groupCount: number;
		/** Holes that are believed whatever the others say. */
		certain: ReadonlySet<string>;
		/** Where surfaces that end may lie no farther off the shape than their contacts do. */
		held?: Held;
	},
	options: FitOptions
): Steps<{ fields: (Field | null)[]; left: Left[] }> {
	const { center, unit, metric, follow } = shape;
	const dying = shape.bounded.reduce((mask, z) => mask | (1 << z.fault), 0);
	const known = yield* valuesSteps(shape, data.points);
	const missing = yield* valuesSteps(shape, data.gaps);
	const valueOf = new Map(data.points.map((p, i) => [p, known[i]!]));
	const thickness = thicknessNearby(data.points, valueOf, unit);
	const left: Left[] = [];
	const residual: FitOptions = { ...options, drift: 'none', frame: { center, unit, metric, follow } };
	const fit = (values: ValueDatum[]) =>
		fieldOrNone({ groupCount: 0, faultCount: data.faultCount, points: [], values, gradients: [], bounds: [] }, residual);
	const places = holePlaces(data.points);
	const turn = turnsOf(places);
	const one = function* (g: number): Steps<Field | null> {
		const level = shape.levels[g]!;
		const own = data.points.filter((p) => p.group === g);
		if (own.length === 0 || !Number.isFinite(level)) return null;
		const datum = (p: { x: number; y: number; z: number; block: number }, value: number, nugget?: number): ValueDatum => ({
			x: p.x,
			y: p.y,
			z: p.z,
			block: p.block & ~dying,
			value: value * unit,
			...(nugget ? { nugget } : {})
		});
		const off = own.map((p) => level - valueOf.get(p)!);
		const spread = Math.max(Math.sqrt(off.reduce((s, v) => s + v * v, 0) / off.length) * unit, 1e-6 * unit);
		const all = own.map((p, i) => datum(p, off[i]!, p.error ? (p.error / spread) ** 2 : undefined));
		const ends = data.gaps.flatMap((gap, i) =>
			gap.group === g ? [datum(gap, level - missing[i]! + (gap.by * thickness(gap)) / unit)] : []
		);
		const { odd, limit } = yield* oddOnes(own, all, ends, fit, places, turn, unit, 1e-4 * options.range);
		for (const [i, by] of yield* turnedAgainst(g, own, off)) if (!odd.has(i)) odd.set(i, by);
		for (const i of odd.keys()) if (data.certain.has(own[i]!.hole)) odd.delete(i);
		for (const [i, by] of odd) left.push({ hole: own[i]!.hole, off: by, at: [own[i]!.x, own[i]!.y, own[i]!.z] });
		const unbelieved = new Set([...odd.keys()].map((i) => own[i]!.hole));
		const values = [...all.filter((_, i) => !odd.has(i)), ...ends];
		const showing = new Set(own.filter((_, i) => !odd.has(i)).map((p) => p.hole));
		const doubted = yield* oddBounds(g, level, values, limit, showing, own);
		for (const [hole, b] of doubted) left.push({ hole, off: b.by, at: b.at });
		const bounds = data.bounds.filter((b) => b.group === g && !unbelieved.has(b.source) && !doubted.has(b.source));
		const asked = yield* valuesSteps(shape, bounds);
		const held = ends.length ? data.held : undefined;
		const sure = all.filter((_, i) => !odd.has(i));
		const over = typeof held?.places === 'function' ? yield* held.places(g, shape) : (held?.places ?? []);
		let holding = held ? HELD_ROUNDS : 0;
		let found: Field | null = null;
		for (let round = 0; round < ROUNDS; round++) {
			const next: Field | null = yield* fit(values);
			if (!next) break;
			found = next;
			// First it is held where nobody has it otherwise, else bounds would be held against a surface that ran off.
			const runs: ValueDatum[] = held && holding-- > 0 ? yield* runningOff(found, held, over, g, sure, ends, unit, dying) : [];
			if (runs.length) {
				values.push(...runs);
				round--;
				continue;
			}
			const worst = new Map<string, { b: Bound; i: number; by: number }>();
			const more = yield* valuesSteps(
				found,
				bounds.map((b) => ({ ...b, block: b.block & ~dying }))
			);
			bounds.forEach((b, i) => {
				const by = (b.margin ?? 0) / unit - b.sense * (asked[i]! + more[i]! - level);
				const key = `${b.source}\t${b.sense}`;
				if (by > 1e-6 && by > (worst.get(key)?.by ?? 0)) worst.set(key, { b, i, by });
			});
			if (worst.size === 0) break;
			for (const key of [...worst.keys()].sort()) {
				const { b, i } = worst.get(key)!;
				values.push(datum(b, level - asked[i]! + (b.sense * (b.margin ?? 0)) / unit));
			}
		}
		return found && plus(shape, found, 1);
	};
	/**
	 * Contacts that are upside down in their hole where the shape, which all others make, is not: a wrong code above one contact makes
	 * another one of it. The surface through both would turn over and run off below.
	 * @returns by number, how far each is off the shape, length units
	 */
	function* turnedAgainst(g: number, own: readonly HoleDatum[], off: readonly number[]): Steps<Map<number, number>> {
		const seen = new Map<string, Bound[]>();
		for (const b of data.bounds) if (b.group === g) (seen.get(b.source) ?? seen.set(b.source, []).get(b.source)!).push(b);
		const turned = own.flatMap((p, i) => {
			const beside = seen.get(p.hole) ?? [];
			const next = (by: 1 | -1) =>
				beside.filter((b) => by * (b.z - p.z) > 0).reduce<Bound | null>((a, b) => (a && by * (a.z - b.z) <= 0 ? a : b), null);
			const [above, below] = [next(1), next(-1)];
			return above && below && above.sense === -1 && below.sense === 1 ? [{ i, above, below }] : [];
		});
		const values = yield* valuesSteps(
			shape,
			turned.flatMap(({ above, below }) => [above, below])
		);
		return new Map(
			turned.flatMap(({ i, above, below }, k): [number, number][] => {
				const rise = (values[2 * k]! - values[2 * k + 1]!) * unit;
				const far = Math.hypot(above.x - below.x, above.y - below.y, above.z - below.z);
				return rise > UPRIGHT * far ? [[i, Math.abs(off[i]!) * unit]] : [];
			})
		);
	}
	/**
	 * What holes without a contact of a group saw that is far off where the contacts of the others have it, by hole: two wrong codes may hide
	 * all contacts of a hole, and what is left of it then reaches far.
	 */
	function* oddBounds(
		g: number,
		level: number,
		values: readonly ValueDatum[],
		limit: number,
		showing: ReadonlySet<string>,
		own: readonly HoleDatum[]
	): Steps<Map<string, { by: number; at: Left['at'] }>> {
		const out = new Map<string, { by: number; at: Left['at'] }>();
		const asked = data.bounds.filter((b) => b.group === g && !showing.has(b.source) && !data.certain.has(b.source));
		if (!(limit < Infinity) || asked.length === 0) return out;
		const known = yield* fit([...values]);
		if (!known) return out;
		const [ofShape, more] = [
			yield* valuesSteps(shape, asked),
			yield* valuesSteps(
				known,
				asked.map((b) => ({ ...b, block: b.block & ~dying }))
			)
		];
		const far = remotenessAmong(own);
		asked.forEach((b, i) => {
			const by = -b.sense * (ofShape[i]! + more[i]! - level) * unit;
			if (by > limit && by > limit * far({ ...b, hole: b.source }) && by > (out.get(b.source)?.by ?? 0))
				out.set(b.source, { by, at: [b.x, b.y, b.z] });
		});
		return out;
	}
	const fields = yield* together(Array.from({ length: data.groupCount }, (_, g) => one(g)));
	return { fields, left };
}

/**
 * Places at which a surface has run off its shape: farther on one side than any of its contacts is, or farther on the other one than these
 * and the places where it ends. A smooth field that falls steeply towards one hole rises beyond the next.
 * @returns what holds it there: the nearest that is known
 */
function* runningOff(
	found: Field,
	{ sense, by, apart }: Held,
	places: readonly PlaceInBlock[],
	g: number,
	known: readonly ValueDatum[],
	ends: readonly ValueDatum[],
	unit: number,
	dying: number
): Steps<ValueDatum[]> {
	const turned = (list: readonly ValueDatum[]) => list.map((v) => sense(g) * v.value);
	const own = turned(known);
	const slack = by(Math.max(...own) - Math.min(...own));
	const most = Math.max(...own) + slack;
	const least = Math.min(...own, ...turned(ends)) - slack;
	const seen = places.map((p) => ({ ...p, block: p.block & ~dying }));
	const off = Array.from(yield* valuesSteps(found, seen), (v, i) => {
		const value = sense(g) * v * unit;
		return { at: seen[i]!, by: Math.max(value - most, least - value) };
	}).filter((o) => o.by > 0);
	const taken: typeof off = [];
	for (const o of off.sort((a, b) => b.by - a.by)) {
		if (taken.length === MOST_HELD) break;
		if (taken.every((t) => Math.hypot(t.at.x - o.at.x, t.at.y - o.at.y, t.at.z - o.at.z) > apart)) taken.push(o);
	}
	const all = [...known, ...ends];
	const nearest = new NearestPoint(all);
	return taken.map(({ at }) => ({ ...at, value: all[nearest.nearest(at.x, at.y, at.z).index]!.value }));
}

/** Contacts of one surface, held against what the other holes say of it. */
export interface Odd {
	/** By number, how far those that are odd are off, length units. */
	odd: Map<number, number>;
	/** What is farther off is odd, length units; Infinity where they are too few. */
	limit: number;
	/** How far each lies above what the others say, length units. */
	off: number[];
}
/** What is odd besides what is far off. */
export interface OddOptions {
	/** By number, how far off one is odd however little the others tell of it, length units. */
	beyond?: (i: number) => number;
	/** What is off by less than so many times the spread of the values is not odd. */
	within?: number;
	/** Where the others tell less only the usual error grows, not what is let be everywhere. */
	onlyErrors?: boolean;
}

/**
 * Contacts of one surface that are far off what the other holes say of it: holes are left out in turns, as in `weigh`, and what is more than
 * six times the usual error off goes, the worst among neighbours first.
 * @param least what is off by less is not odd, length units
 */
export function* oddOnes(
	own: readonly HoleDatum[],
	values: readonly ValueDatum[],
	ends: readonly ValueDatum[],
	fit: (values: ValueDatum[]) => Steps<Field | null>,
	places: ReadonlyMap<string, { x: number; y: number }>,
	turn: (hole: string) => number,
	unit: number,
	least: number,
	{ beyond = () => Infinity, within = WITHIN, onlyErrors = false }: OddOptions = {}
): Steps<Odd> {
	let out = new Map<number, number>();
	let limit = Infinity;
	let off: number[] = [];
	if (own.length < FEWEST_HOLES) return { odd: out, limit, off };
	const far = remotenessAmong(own);
	/** How far each is off what the holes of the other turns say, with what is known of where the unit is missing or without it. */
	function* errorsOf(without: ReadonlyMap<number, number>, missing: readonly ValueDatum[]): Steps<number[]> {
		const fields = yield* together(
			Array.from({ length: TURNS }, (_, t) => fit([...values.filter((_, i) => turn(own[i]!.hole) !== t && !without.has(i)), ...missing]))
		);
		const seen = fields.map((f) => f && fromBlocks(f));
		return values.map((v, i) => {
			const t = turn(own[i]!.hole);
			return fields[t] ? v.value - valueAt(seen[t]!(v.block), v.x, v.y, v.z) * unit : 0;
		});
	}
	for (let round = 0; round < PEELS; round++) {
		off = yield* errorsOf(out, ends);
		const errors = off.map(Math.abs);
		// At the rim the others tell less: what is no farther off than contacts differ from each other anyway is let be.
		const middle = median(values.map((v) => v.value));
		const spread = 1.4826 * median(values.map((v) => Math.abs(v.value - middle)));
		const usual = MOST_OFF * 1.4826 * median(errors.filter((_, i) => !out.has(i)));
		limit = Math.max(usual, within * spread, least);
		const remote = onlyErrors ? usual : limit;
		const isOff = errors.map((e, i) => e > limit && e > Math.min(remote * far(own[i]!), beyond(i)));
		// Where the unit ends beside a hole it is the end that is off, not the hole, which the other contacts bear out.
		if (ends.length && isOff.includes(true)) (yield* errorsOf(out, [])).forEach((e, i) => (isOff[i] &&= Math.abs(e) > limit));
		const worst = new Map<string, number>();
		errors.forEach((e, i) => isOff[i] && !out.has(i) && worst.set(own[i]!.hole, Math.max(worst.get(own[i]!.hole) ?? 0, e)));
		const next = new Map<number, number>();
		errors.forEach(
			(e, i) => isOff[i] && (out.has(i) || (round < PEELS - LAST_PEELS && isWorstNearby(own[i]!.hole, worst, places))) && next.set(i, e)
		);
		const same = next.size === out.size && [...next.keys()].every((i) => out.has(i));
		out = next;
		if (same) break;
	}
	return { odd: out, limit, off };
}

/**
 * How much less the others tell of a contact than of most: the square, as the error of a smooth surface grows, of its mean distance to the
 * nearest contacts of other holes, as a share of what is usual; 1 at least.
 */
function remotenessAmong(own: readonly HoleDatum[]): (p: Placed) => number {
	const mean = (p: Placed): number => {
		const near = new Float64Array(AROUND).fill(Infinity);
		for (const o of own) {
			if (o.hole === p.hole) continue;
			let d = Math.sqrt((o.x - p.x) ** 2 + (o.y - p.y) ** 2 + (o.z - p.z) ** 2);
			for (let k = 0; k < AROUND; k++) {
				const nearer = near[k]!;
				if (d >= nearer) continue;
				near[k] = d;
				d = nearer;
			}
		}
		return near.reduce((s, d) => s + d, 0) / AROUND;
	};
	const step = Math.ceil(own.length / ASKED);
	const usual = median(own.filter((_, i) => i % step === 0).map(mean));
	return (p) => Math.max(1, (mean(p) / usual) ** 2);
}

/** Mean thickness, length units, of a unit in the holes nearest to where it is missing. */
function thicknessNearby(points: readonly HoleDatum[], valueOf: ReadonlyMap<HoleDatum, number>, unit: number): (gap: Gap) => number {
	const known = pairs(points).map(([a, b]) => ({ group: b.group, x: b.x, y: b.y, thickness: (valueOf.get(a)! - valueOf.get(b)!) * unit }));
	return (gap) => {
		const near = known
			.filter((k) => (k.group === gap.group || (gap.group === 0 && k.group === 1)) && k.thickness > 0)
			.map((k) => ({ ...k, far: Math.hypot(k.x - gap.x, k.y - gap.y) }))
			.sort((a, b) => a.far - b.far)
			.slice(0, NEARBY);
		return near.length ? near.reduce((s, k) => s + k.thickness, 0) / near.length : 0;
	};
}
