import { orientationTensor } from '../directions/stereonet';
import { cross, dot, normalize, scale, subtract, type Vec3 } from '../geometry/vector';
import { SAME_DEPTH } from '../holes/path';
import type { Observation } from '../units/contacts';
import { fitPipe, MOST_MISFIT } from './pipe';
import { meanOf, type Intercept } from './intercepts';

/** Intercepts thinner than this share of their spread are those of a sheet. */
const SHEET = 0.15;
/** Thinner than this share they are always. */
const THIN_SHEET = 0.1;
/** One that is thicker, up to this share, is a sheet where no more holes pass it than this share of those that meet it. */
const THICK_SHEET = 0.4;
const FEW_PASS = 0.2;
/** Holes that cross both walls, at least, to tell how thick a sheet is. */
const FEWEST_CROSSING = 2;
/** Holes that meet one wall only, on each side, to tell how thick a sheet is. */
const FEWEST_OF_WALL = 2;
/** Intercepts, at least, where one hole alone crosses both walls and tells how thick a sheet is. */
const FEWEST_WITH_ONE = 4;
const LIE_ROUNDS = 3;
/** A length in a hole tells how thick a sheet is as this many of the middle one do, at most. */
const LONGEST_COUNTED = 3;

/** How the intercepts of a sheet lie as a whole. */
export interface Lie {
	/** Across it, upward: the hanging wall is the upper one. */
	normal: Vec3;
	/** By intercept: a place inside, where one is known. */
	within: (Vec3 | null)[];
	/** By intercept: 1 for one that met the hanging wall only, −1 the footwall, 0 for others. */
	wall: number[];
}

/** The plane through intercepts. Contacts with one wall tell how that lies, wherever the other one is. */
export function lieOf(intercepts: readonly Intercept[], seen: readonly Observation[], unit: number): Lie {
	const inside = new Map<string, Observation[]>();
	for (const o of seen) if (o.unit === unit) (inside.get(o.hole) ?? inside.set(o.hole, []).get(o.hole)!).push(o);
	const within = intercepts.map(({ middle, contacts: [c, other] }): Vec3 | null => {
		if (other) return middle;
		// The other side of it is told by the nearest place in the hole that lies inside.
		const near = (inside.get(c!.hole) ?? [])
			.filter((o) => Math.abs(o.depth - c!.depth) > SAME_DEPTH)
			.sort((p, q) => Math.abs(p.depth - c!.depth) - Math.abs(q.depth - c!.depth))[0];
		return near ? [near.x, near.y, near.z] : null;
	});
	let normal: Vec3 = acrossAll([intercepts.map((i) => i.middle)])?.normal ?? [0, 0, 1];
	let wall: number[] = [];
	for (let round = 0; round < LIE_ROUNDS; round++) {
		wall = intercepts.map((i, k) => (i.contacts.length === 1 && within[k] ? Math.sign(dot(subtract(i.middle, within[k]), normal)) : 0));
		const groups = [-1, 0, 1].map((w) => intercepts.filter((_, k) => wall[k] === w).map((i) => i.middle)).filter((g) => g.length > 1);
		if (groups.length < 2) break;
		normal = acrossAll(groups)?.normal ?? normal;
	}
	return { normal, within, wall };
}

/**
 * Thin, measured across its intercepts, against their spread; a thick one, too, where hardly any hole passes the plane through them without
 * meeting it, so that it goes through the ground. What a pipe parts from the holes beside it is none, unless it is very thin. Where few holes
 * cross both walls, those that meet one tell how far apart these are.
 * @param open depths at which a hole does not say what is there: it may meet the sheet there
 */
export function isSheet(
	intercepts: readonly Intercept[],
	{ normal, wall }: Lie,
	seen: readonly Observation[],
	unit: number,
	open: readonly { hole: string; depth: number }[]
): boolean {
	const places = intercepts.map((i) => i.middle);
	if (places.length < 3) return false;
	const center = meanOf(places);
	const off = (p: Vec3) => dot(subtract(p, center), normal);
	const median = (list: number[]) => list.sort((a, b) => a - b)[list.length >> 1]!;
	/**
	 * The middle of lengths in holes, where each counts by its length, up to a few times the middle one: of a body that some holes cross,
	 * and many short rows that are wrong, the long ones tell how thick it is; a single long one among many short ones does not.
	 */
	const thickness = (list: number[]): number => {
		const most = LONGEST_COUNTED * median(list);
		const counted = list.map((l) => Math.min(l, most));
		let left = counted.reduce((a, b) => a + b, 0) / 2;
		return list.find((_, i) => (left -= counted[i]!) < 0) ?? list.at(-1)!;
	};
	const crossing = intercepts.filter((i) => i.contacts.length === 2);
	const met = ([1, -1] as const).map((w) => places.filter((_, k) => wall[k] === w).map(off));
	let thick: number;
	const across = crossing.map(({ contacts: [a, b] }) => Math.abs(off([a!.x, a!.y, a!.z]) - off([b!.x, b!.y, b!.z])));
	const bothMet = met.every((m) => m.length >= FEWEST_OF_WALL);
	if (crossing.length >= FEWEST_CROSSING) thick = thickness(across);
	else if (bothMet) {
		thick = median(met[0]!) - median(met[1]!);
		if (!(thick > 0)) return false;
	} else if (crossing.length === 1 && places.length >= FEWEST_WITH_ONE) thick = across[0]!;
	else return false;
	const inside = seen.filter((o) => o.unit === unit);
	// Holes that are inside from end to end cross no wall, and tell how thick it is at least.
	const within = new Map<string, number[]>();
	const walled = new Set(intercepts.map((i) => i.contacts[0]!.hole));
	for (const o of inside) if (!walled.has(o.hole)) (within.get(o.hole) ?? within.set(o.hole, []).get(o.hole)!).push(off([o.x, o.y, o.z]));
	if (2 * crossing.length < intercepts.length || within.size > 0) {
		// Where most holes met one wall only, it is as thick as they saw it to be at least.
		const reached = intercepts.map(({ contacts: [a, b] }) => {
			if (b) return Math.abs(off([a!.x, a!.y, a!.z]) - off([b.x, b.y, b.z]));
			const from = off([a!.x, a!.y, a!.z]);
			return inside.reduce((most, o) => (o.hole === a!.hole ? Math.max(most, Math.abs(off([o.x, o.y, o.z]) - from)) : most), 0);
		});
		const through = [...within.values()].map((list) => Math.max(...list) - Math.min(...list));
		// Where more holes show places inside than walls, long ones may be a further sheet that holes follow.
		const middle = within.size < intercepts.length ? thickness : median;
		thick = Math.max(thick, middle([...reached, ...through]));
	}
	const spread = Math.sqrt(places.reduce((s, p) => s + dot(subtract(p, center), subtract(p, center)), 0) / places.length);
	if (thick < THIN_SHEET * spread) return true;
	if (!(thick < THICK_SHEET * spread) || isPipe(intercepts, seen, unit)) return false;
	if (thick < SHEET * spread) return true;
	const holes = new Set(inside.map((o) => o.hole));
	const silent = new Map<string, number[]>();
	for (const { hole, depth } of open) (silent.get(hole) ?? silent.set(hole, []).get(hole)!).push(depth);
	const passing = new Set<string>();
	const above = new Map<string, Observation>();
	for (const o of seen.filter((o) => !holes.has(o.hole)).sort((p, q) => p.depth - q.depth)) {
		const before = above.get(o.hole);
		const passes = before && off([before.x, before.y, before.z]) > 0 !== off([o.x, o.y, o.z]) > 0;
		if (passes && !silent.get(o.hole)?.some((d) => d > before.depth && d < o.depth)) passing.add(o.hole);
		above.set(o.hole, o);
	}
	return passing.size <= FEW_PASS * holes.size;
}

/** Whether a body that is hardly longer than it is wide parts the holes that meet a unit from those beside. */
function isPipe(intercepts: readonly Intercept[], seen: readonly Observation[], unit: number): boolean {
	const pipe = fitPipe(
		intercepts.flatMap((i) => i.contacts),
		seen.map((o) => ({ ...o, inside: o.unit === unit }))
	);
	return pipe !== null && pipe.misfit < MOST_MISFIT * pipe.size;
}

/** Normal of parallel planes, one through each group of places, with how much they spread across a line, as a share of along it; null without any spread. */
export function acrossAll(groups: readonly (readonly Vec3[])[]): { normal: Vec3; breadth: number } | null {
	const off = groups.flatMap((g) => {
		const center = meanOf(g);
		return g.map((p) => subtract(p, center));
	});
	if (!off.some((v) => Math.hypot(...v) > 0)) return null;
	const { values, axes } = orientationTensor(off);
	return { normal: upward(axes[2]), breadth: values[1] / values[0] };
}

/** Two directions on a sheet, square to each other: along it, level but where the sheet is, and down it. */
export function axesOn(normal: Vec3): [Vec3, Vec3] {
	const along = normalize(Math.abs(normal[2]) > 0.9 ? cross(normal, [0, 1, 0]) : cross(normal, [0, 0, 1]));
	return [along, cross(normal, along)];
}

const upward = (n: Vec3): Vec3 => (n[2] < 0 || (n[2] === 0 && (n[0] < 0 || (n[0] === 0 && n[1] < 0))) ? scale(n, -1) : n);
