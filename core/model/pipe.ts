import { Matrix, solve } from 'ml-matrix';
import { normalize, scale, type Vec3 } from '../geometry/vector';

type Place = { x: number; y: number; z: number };
/** A place known to be inside or outside. */
export type SeenPlace = Place & { hole: string; inside: boolean };

/** A surface of the second order round an axis that is more or less upright, open at its ends: the first shape of a body. */
export interface Pipe {
	middle: Vec3;
	/** Length that is 1 in the coordinates of the coefficients. */
	size: number;
	/** Of x² + y², x² − y², x y, x z, y z, z², x, y, z, 1: positive inside. */
	coefficients: readonly number[];
	/** How far the boundary lies from where other holes would have put it: root mean square, length units. */
	misfit: number;
	/** By hole that is off: how far it lies from where the others would have put it, at most. */
	off: ReadonlyMap<string, number>;
}

/** Holes inside that are needed, and holes outside beside them. */
const LEAST_INSIDE = 3;
const LEAST_OUTSIDE = 6;
/** A body that more holes are in tells its shape by itself. */
export const MOST_INSIDE = 60;
/** What is farther from the axis, in radii, says nothing of the boundary. */
const NEAR = 2.8;
/** Weights that hold the coefficients back: a round upright pipe is likely, one that widens like a bowl is not; how it widens downwards is nearly free. */
const HELD = [1e-3, 0.02, 0.02, 0.02, 0.02, 0.08, 0.01, 0.01, 4e-3, 1e-3] as const;
const ROUNDS = 100;
const LONGEST_STEP = 5;
const SETTLED = 1e-6;
const UPRIGHT = [-1, 0, 0, 0, 0, 0, 0, 0, 0, 1] as const;
/** Groups of holes that are left out in turn, at most. */
const GROUPS = 16;
/** Share of the height of a body at its top, and its bottom, that may be roof or floor. */
const ENDS = 0.3;
/** What lies nearer to each other, as a share of the radius, has one elevation. */
const SAME = 1e-6;
/** Places along holes that the wall is fitted to. */
const MOST_PLACES = 4000;
/** Its error is never taken for less than this share of its radius. */
const LEAST_ERROR = 0.03;
/** A body that lies farther than this share of its radius from its pipe is another shape. */
export const MOST_MISFIT = 0.14;

/**
 * The pipe that parts what is inside from what is outside with the widest margin: logistic regression on the terms of a surface of the
 * second order (Hastie, Tibshirani & Friedman 2009, ch. 4.4, by Newton's method, held back by a ridge), each hole with the same weight;
 * a contact lies inside and outside in equal parts. Roof and floor are no part of it: its wall is looked for between them first, then where holes
 * leave the body inside that wall they are told.
 * @returns null where too few holes are inside or outside, or what parts them is no pipe
 */
export function fitPipe(boundary: readonly (Place & { hole: string })[], known: readonly SeenPlace[]): Pipe | null {
	const count = new Set(known.flatMap((o) => (o.inside ? [o.hole] : []))).size;
	if (count < LEAST_INSIDE || count > MOST_INSIDE) return null;
	// Sums do not depend on the order of the rows.
	const contacts = [...boundary].sort(byPlace);
	const seen = [...known].sort(byPlace);
	const spans = spansOf(seen);
	const inTrunk = trunkOf(spans);
	const trunk = fitWall(contacts.filter(inTrunk), seen.filter(inTrunk));
	if (!trunk) return fitWall(contacts, seen);
	const isEnd = endsOf(spans, trunk);
	return fitWall(
		contacts.filter((c) => !isEnd(c)),
		seen.filter((o) => o.inside || !isEnd(o))
	);
}

/** From where to where a hole is inside, and the nearest that is seen outside above and below. */
interface Span {
	top: SeenPlace;
	bottom: SeenPlace;
	above: SeenPlace | null;
	below: SeenPlace | null;
}

function spansOf(seen: readonly SeenPlace[]): Map<string, Span> {
	const spans = new Map<string, Span>();
	for (const o of seen) {
		if (!o.inside) continue;
		const span = spans.get(o.hole);
		if (!span) spans.set(o.hole, { top: o, bottom: o, above: null, below: null });
		else if (o.z > span.top.z) span.top = o;
		else if (o.z < span.bottom.z) span.bottom = o;
	}
	for (const o of seen) {
		const span = spans.get(o.hole);
		if (!span || o.inside) continue;
		if (o.z >= span.top.z && (span.above === null || o.z < span.above.z)) span.above = o;
		if (o.z <= span.bottom.z && (span.below === null || o.z > span.below.z)) span.below = o;
	}
	return spans;
}

/** Whether a place is on a level at which the body has no roof or floor yet. Where holes are inside to their ends there is none. */
function trunkOf(spans: ReadonlyMap<string, Span>): (p: Place) => boolean {
	const all = [...spans.values()];
	const [low, high] = [Math.min(...all.map((s) => s.bottom.z)), Math.max(...all.map((s) => s.top.z))];
	const goesOn = (side: 'above' | 'below') => all.filter((s) => !s[side]).length >= LEAST_INSIDE;
	const upper = goesOn('above') ? Infinity : high - ENDS * (high - low);
	const lower = goesOn('below') ? -Infinity : low + ENDS * (high - low);
	return (p) => p.z <= upper && p.z >= lower;
}

/** Whether a place in a hole belongs to the roof or the floor of a body, or lies beyond: the hole leaves the body where the trunk goes on. */
function endsOf(spans: ReadonlyMap<string, Span>, trunk: Pipe): (p: Place & { hole: string }) => boolean {
	const leaves = (last: Place, next: Place | null) =>
		next !== null && distanceInside(trunk, { x: (last.x + next.x) / 2, y: (last.y + next.y) / 2, z: (last.z + next.z) / 2 }) > trunk.misfit;
	const ends = new Map(
		[...spans].map(([hole, { top, bottom, above, below }]) => [
			hole,
			{ roof: leaves(top, above) ? top.z : Infinity, floor: leaves(bottom, below) ? bottom.z : -Infinity }
		])
	);
	const same = SAME * trunk.size;
	return ({ hole, z }) => {
		const end = ends.get(hole);
		return end !== undefined && (z >= end.roof - same || z <= end.floor + same);
	};
}

/** The wall of a pipe through contacts, between places that are all beside it or in it. */
function fitWall(contacts: readonly (Place & { hole: string })[], seen: readonly SeenPlace[]): Pipe | null {
	const inside = seen.filter((o) => o.inside);
	if (holesOf(inside).length < LEAST_INSIDE) return null;
	const middle = (['x', 'y', 'z'] as const).map((c) => inside.reduce((s, o) => s + o[c], 0) / inside.length) as unknown as Vec3;
	const away = (p: Place) => Math.hypot(p.x - middle[0], p.y - middle[1]);
	// The radius of a disc that is as wide.
	const size = Math.sqrt((2 * inside.reduce((s, o) => s + away(o) ** 2, 0)) / inside.length);
	if (!(size > 0)) return null;
	const around = seen.filter((o) => away(o) <= NEAR * size);
	const all = fewer(around);
	if (holesOf(all.filter((o) => !o.inside)).length < LEAST_OUTSIDE) return null;
	const frame = { middle, size };
	const whole = parting(frame, contacts, all);
	if (!whole) return null;
	const holes = holesOf(all);
	const groupOf = new Map(holes.map((hole, i) => [hole, i % GROUPS]));
	const offs = new Map<string, number>();
	for (let group = 0; group < Math.min(GROUPS, holes.length); group++) {
		const isOther = (p: { hole: string }) => groupOf.get(p.hole) !== group;
		const without = parting(frame, contacts.filter(isOther), all.filter(isOther), whole.coefficients);
		if (!without) return null;
		const off = new Map<string, number>();
		const take = (hole: string, by: number) => off.set(hole, Math.max(off.get(hole) ?? 0, by));
		for (const c of contacts) if (!isOther(c)) take(c.hole, Math.abs(distanceInside(without, c)));
		for (const o of around) {
			if (isOther(o)) continue;
			const d = distanceInside(without, o);
			if (d > 0 !== o.inside) take(o.hole, Math.abs(d));
		}
		for (const [hole, by] of off) offs.set(hole, by);
	}
	return {
		...whole,
		misfit: Math.max(
			LEAST_ERROR * radiusOf(whole),
			offs.size ? Math.sqrt([...offs.values()].reduce((s, d) => s + d * d, 0) / offs.size) : 0
		),
		off: offs
	};
}

/** Places along holes, at most so many in all: every hole keeps the same share of its own. */
function fewer(seen: readonly SeenPlace[]): readonly SeenPlace[] {
	const step = Math.ceil(seen.length / MOST_PLACES);
	if (step === 1) return seen;
	const met = new Map<string, number>();
	return seen.filter(({ hole }) => {
		const n = met.get(hole) ?? 0;
		met.set(hole, n + 1);
		return n % step === 0;
	});
}

/** About half its width. */
export const radiusOf = ({ size }: Pick<Pipe, 'size'>): number => size;

const holesOf = (seen: readonly { hole: string }[]): string[] => [...new Set(seen.map((o) => o.hole))].sort();
const byPlace = (a: Place, b: Place): number => a.x - b.x || a.y - b.y || a.z - b.z;

type Parting = Omit<Pipe, 'misfit' | 'off'>;

const terms = ({ middle, size }: Pick<Pipe, 'middle' | 'size'>, p: Place): number[] => {
	const [x, y, z] = [(p.x - middle[0]) / size, (p.y - middle[1]) / size, (p.z - middle[2]) / size];
	return [x * x + y * y, x * x - y * y, x * y, x * z, y * z, z * z, x, y, z, 1];
};

/** @param first coefficients to begin with */
function parting(
	frame: Pick<Pipe, 'middle' | 'size'>,
	contacts: readonly (Place & { hole: string })[],
	seen: readonly SeenPlace[],
	first: readonly number[] = UPRIGHT
): Parting | null {
	const ofHole = new Map<string, number>();
	for (const o of seen) ofHole.set(o.hole, (ofHole.get(o.hole) ?? 0) + 1);
	const rows = [
		...seen.map((o) => ({ of: terms(frame, o), side: o.inside ? 1 : -1, weight: 1 / ofHole.get(o.hole)! })),
		...contacts.flatMap((c) => [1, -1].map((side) => ({ of: terms(frame, c), side, weight: 0.5 })))
	];
	const n = HELD.length;
	const found = [...first];
	const bend = new Float64Array(n * n);
	for (let round = 0; round < ROUNDS; round++) {
		const slope = found.map((v, i) => -HELD[i]! * v);
		bend.fill(0);
		for (let i = 0; i < n; i++) bend[i * n + i] = HELD[i]!;
		for (const { of, side, weight } of rows) {
			let value = 0;
			for (let i = 0; i < n; i++) value += of[i]! * found[i]!;
			const doubt = 1 / (1 + Math.exp(side * value));
			const steep = weight * doubt * (1 - doubt);
			for (let i = 0; i < n; i++) {
				slope[i]! += weight * side * doubt * of[i]!;
				for (let j = 0; j <= i; j++) bend[i * n + j]! += steep * of[i]! * of[j]!;
			}
		}
		for (let i = 0; i < n; i++) for (let j = 0; j < i; j++) bend[j * n + i] = bend[i * n + j]!;
		const step = solve(Matrix.from1DArray(n, n, bend), Matrix.columnVector(slope)).to1DArray();
		if (!step.every(Number.isFinite)) return null;
		const longest = Math.max(...step.map(Math.abs));
		const by = Math.min(1, LONGEST_STEP / longest);
		step.forEach((s, i) => (found[i]! += by * s));
		if (longest < SETTLED) break;
	}
	// Across, it is an ellipse: bounded, with something inside.
	const [both, differ, cross] = found as [number, number, number];
	if (!(both < 0) || !(Math.hypot(differ, cross / 2) < 0.9 * -both)) return null;
	return { ...frame, coefficients: found };
}

function slopeAt({ middle, size, coefficients: c }: Parting, p: Place): Vec3 {
	const [x, y, z] = [(p.x - middle[0]) / size, (p.y - middle[1]) / size, (p.z - middle[2]) / size];
	return scale(
		[
			2 * (c[0]! + c[1]!) * x + c[2]! * y + c[3]! * z + c[6]!,
			2 * (c[0]! - c[1]!) * y + c[2]! * x + c[4]! * z + c[7]!,
			c[3]! * x + c[4]! * y + 2 * c[5]! * z + c[8]!
		],
		1 / size
	);
}

const valueAt = (pipe: Parting, p: Place): number => terms(pipe, p).reduce((s, v, i) => s + v * pipe.coefficients[i]!, 0);

/** About how far inside a place is, to the first order (Taubin 1991); less than 0 outside. */
export function distanceInside(pipe: Parting, p: Place): number {
	const slope = Math.hypot(...slopeAt(pipe, p));
	return slope > 0 ? valueAt(pipe, p) / slope : Infinity;
}

/** Direction to the inside at a place. */
export const inwardAt = (pipe: Parting, p: Place): Vec3 => normalize(slopeAt(pipe, p));

/**
 * Places on a pipe.
 * @param levels elevations
 * @param round places on each, spread evenly by the angle from its middle there; none where it has nothing inside
 */
export function placesOnPipe(pipe: Pipe, levels: readonly number[], round: number): Place[] {
	const { middle, size, coefficients: c } = pipe;
	return levels.flatMap((z) => {
		const h = (z - middle[2]) / size;
		// The middle of the ellipse, where the slope across is 0.
		const [bx, by] = [c[3]! * h + c[6]!, c[4]! * h + c[7]!];
		const [p, q, r] = [2 * (c[0]! + c[1]!), c[2]!, 2 * (c[0]! - c[1]!)];
		const det = p * r - q * q;
		const [mx, my] = [(q * by - r * bx) / det, (q * bx - p * by) / det];
		const at = (x: number, y: number) => ({ x: middle[0] + size * x, y: middle[1] + size * y, z });
		const top = valueAt(pipe, at(mx, my));
		if (!(top > 0)) return [];
		return Array.from({ length: round }, (_, k) => {
			const [ux, uy] = [Math.cos((2 * Math.PI * k) / round), Math.sin((2 * Math.PI * k) / round)];
			const bent = -((c[0]! + c[1]!) * ux * ux + c[2]! * ux * uy + (c[0]! - c[1]!) * uy * uy);
			const far = Math.sqrt(top / bent);
			return at(mx + far * ux, my + far * uy);
		});
	});
}
