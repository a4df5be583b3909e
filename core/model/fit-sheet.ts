import type { Bound, FieldData, GradientDatum } from '../fields/data';
import type { Field } from '../fields/field';
import { valuesSteps, type Steps } from '../fields/steps';
import { add, dot, scale, subtract, type Vec3 } from '../geometry/vector';
import { quantileSorted } from '../statistics/spread';
import type { Observation } from '../units/contacts';
import { note, rangeOf, tryFit, type SheetWalls } from './fit-sequence';
import type { Place } from './ends-at';
import type { Intrusion } from './intrusion';
import { meanOf, nearestOf, type Intercept } from './intercepts';
import { noteLeft, noteTwins, withTwinErrors, type HoleDatum, type Left } from './neighbours';
import { lengthSaid } from './ground';
import { notePassingAlone, passingAlone } from './odd-intercepts';
import { acrossAll, axesOn, type Lie } from './sheet-lie';
import { passingHoles, thinWalls, type Placed } from './thinning';
import { loosened, varyingFields, type Gap, type Held } from './vary';

/** The thickness of a sheet varies when its spread is more than this share of it. */
const VARIES = 0.05;
const FEWEST_ACROSS = 8;
/** Fewer tell it where one thickness for all presses the walls together, whichever hole is left aside. */
const FEWEST_PRESSED = 3;
/** Walls of one field that are nearer to each other than this share of the thickness are pressed together by what contradicts it. */
const STRAINED = 0.7;
/** What contradicts the walls by less than this share of the thickness does not press them together. */
const SLIGHT = 0.1;
/** Holes that are left aside for it at most, and how many are asked each time. */
const MOST_LEFT = 3;
const MOST_ASKED = 5;
/** Error of how neighbouring intercepts tell a sheet to lie. */
const SHEET_NUGGET = 0.1;
/** Intercepts around one that tell how a sheet lies there; more are asked where these lie on a line: spread across it by less than this share. */
const NEIGHBOURS = 6;
const ON_A_LINE = 0.02;

/** A sheet, and where holes pass it without meeting it. */
interface FittedSheet {
	walls: SheetWalls;
	misses: Place[];
}

/**
 * A sheet: one field with a level for each wall, so that the walls follow each other and never meet; how it lies comes from the
 * intercepts around each intercept. Contacts that are seen from one side only (a line on the map) lie on a level of their own
 * between the walls, unless they tell their wall. Where a hole passes without meeting it, it thins out (see `thinWalls`), or keeps its
 * thickness and the hole is left aside.
 */
export function* fitSheet(
	intrusion: Intrusion,
	intercepts: readonly Intercept[],
	lie: Lie,
	seen: readonly Observation[]
): Steps<FittedSheet | null> {
	const { input, name, unit, cut, findings, shape } = intrusion;
	const hidden = [...intrusion.hidden, ...intrusion.unlogged];
	const middles = intercepts.map((i) => i.middle);
	if (middles.length < 3) return null;
	const { normal: whole, within, wall } = lie;
	const wallOf = new Map(intercepts.map((i, k) => [i, wall[k]]));
	const inside = new Set(seen.filter((o) => o.unit === unit).map((o) => o.hole));
	const normals = middles.map((m) => {
		for (let count = NEIGHBOURS; count < 2 * intercepts.length; count *= 2) {
			const near = nearestOf(intercepts, m, (i) => i.middle, count);
			// Those that met one wall tell how that lies, wherever the other one is; those nearly on a line tell little.
			const byWall = [-1, 0, 1].map((w) => near.filter((i) => wallOf.get(i) === w).map((i) => i.middle));
			const across = near.length > 3 ? acrossAll(byWall.filter((g) => g.length > 0)) : null;
			if (across && across.breadth > ON_A_LINE) return dot(across.normal, whole) < 0 ? scale(across.normal, -1) : across.normal;
		}
		return whole;
	});
	const met: HoleDatum[] = [];
	intercepts.forEach((crossing, i) => {
		for (const c of crossing.contacts) {
			const at: Vec3 = [c.x, c.y, c.z];
			if (c.wall !== undefined) {
				const block = cut.block(c);
				const half = (c.thickness ?? 0) / 2;
				for (const group of c.wall === 0 ? [0, 1] : [c.wall === 1 ? 0 : 1]) {
					const [x, y, z] = add(at, scale(normals[i]!, group === 0 ? half : -half));
					met.push({ x, y, z, group, block, hole: c.hole });
				}
				continue;
			}
			const group = within[i] ? (dot(subtract(at, within[i]), normals[i]!) > 0 ? 0 : 1) : 2;
			met.push({ x: c.x, y: c.y, z: c.z, group, block: cut.block(c), hole: c.hole });
		}
	});
	if (![0, 1].every((g) => met.some((p) => p.group === g))) return null;
	const points = withTwins(intrusion, met, whole);
	const gradients: GradientDatum[] = middles.map((m, i) => ({
		x: m[0],
		y: m[1],
		z: m[2],
		gradient: normals[i]!,
		block: cut.block({ x: m[0], y: m[1], z: m[2] })
	}));
	const data: FieldData = { groupCount: 3, faultCount: cut.faults.length, bounded: cut.zones, points, values: [], gradients, bounds: [] };
	const first = yield* tryFit(input, name, data, cut.faults, [], { orientationNugget: SHEET_NUGGET, ...shape });
	if (!first || !(first.levels[0]! > first.levels[1]!)) return null;
	const middle = (first.levels[0]! + first.levels[1]!) / 2;
	const placed = seen.map((o) => ({ ...o, block: cut.block(o) }));
	const values = yield* valuesSteps(first, placed);
	const passing = yield* passingHoles(first, middle, placed, inside, hidden);
	const names = new Set(passing.map((p) => p.hole));
	const meets = middles.map(([x, y, z]) => ({ x, y, z }));
	notePassingAlone(name, passingAlone(passing, meets, whole), new Set(input.certain), findings);
	const bounds = besideWalls(placed, unit, values, middle, names);
	const across = Float64Array.from(
		intercepts.flatMap(({ contacts: [a, b] }, i) =>
			a && b && a.wall === undefined ? [Math.abs(dot(subtract([a.x, a.y, a.z], [b.x, b.y, b.z]), normals[i]!))] : []
		)
	).sort();
	const step = (first.levels[0]! - first.levels[1]!) * first.unit;
	const thick = across.length < FEWEST_PRESSED ? step : quantileSorted(across, 0.5);
	const varying = () => varyingSheet(intrusion, data, points, across, placed, inside, whole, step);
	if (across.length >= FEWEST_ACROSS) {
		const varied = yield* varying();
		if (varied) return varied;
	}
	const all = yield* besideBounds(intrusion, first, { ...data, bounds }, points, Math.max(step, thick));
	if (!all && across.length >= FEWEST_PRESSED && across.length < FEWEST_ACROSS) {
		const varied = yield* varying();
		if (varied) return varied;
	}
	const field = all ?? first;
	if (!(field.levels[0]! > field.levels[1]!))
		note(
			findings,
			'crossed-contacts',
			`the walls of ${name} come out in the wrong order`,
			'Look for intercepts that belong to another sheet.'
		);
	const walls: [number, number] = [field.levels[0]!, field.levels[1]!];
	const plain = { walls: { baseField: field, footField: null, walls }, misses: passing };
	if (passing.length === 0 || !(walls[0] > walls[1])) return plain;
	if (input.column[unit]!.thinsOut === false) {
		note(
			findings,
			'sheet-not-thinned',
			`${name} keeps its thickness though ${names.size === 1 ? `the hole ${passing[0]!.hole} passes` : `${names.size} holes pass`} it without meeting it`,
			'Let it thin out, or check what was logged there.'
		);
		return plain;
	}
	const crossed = yield* passingHoles(
		field,
		(walls[0] + walls[1]) / 2,
		placed.filter((o) => names.has(o.hole)),
		inside,
		hidden
	);
	const [baseField, footField] = yield* thinWalls(
		field,
		walls,
		points.filter((p) => p.group < 2),
		crossed,
		whole,
		input.extent,
		cut.zones,
		{ range: rangeOf(input), ...shape }
	);
	return { walls: { baseField, footField, walls }, misses: passing };
}

/**
 * The sheet with what holes say beside its contacts. Where that presses its walls together though the contacts keep them apart, a hole of those
 * that contradict them most is left aside: the one without which it is thickest, until it is as thick as it was, or no longer.
 * @param first the sheet of its contacts alone
 * @param thick how far apart its walls are, length units
 * @returns null where it can not be made so
 */
function* besideBounds(
	{ input, name, cut, findings, shape }: Intrusion,
	first: Field,
	data: FieldData,
	points: readonly HoleDatum[],
	thick: number
): Steps<Field | null> {
	const options = { orientationNugget: SHEET_NUGGET, ...shape };
	const stepOf = (f: Field | null) => (f ? (f.levels[0]! - f.levels[1]!) * f.unit : -Infinity);
	const isPressed = (f: Field | null) => !(stepOf(f) > STRAINED * thick);
	const all = yield* tryFit(input, name, data, cut.faults, findings, options);
	if (!isPressed(all)) return all;
	const values = yield* valuesSteps(first, data.bounds);
	const off = new Map<string, Left>();
	const certain = new Set(input.certain);
	data.bounds.forEach(({ source, sense, group, x, y, z }, i) => {
		const by = -sense * (values[i]! - first.levels[group]!) * first.unit;
		if (source && !certain.has(source) && by > Math.max(SLIGHT * thick, off.get(source)?.off ?? 0))
			off.set(source, { hole: source, off: by, at: [x, y, z] });
	});
	const without = (holes: ReadonlySet<string>): FieldData => ({
		...data,
		points: points.filter((p) => !holes.has(p.hole)),
		bounds: data.bounds.filter((b) => !holes.has(b.source ?? ''))
	});
	const left: Left[] = [];
	while (left.length < MOST_LEFT) {
		const asked = [...off.values()].filter((o) => !left.includes(o)).sort((a, b) => b.off - a.off);
		let best: { field: Field | null; of: Left } | null = null;
		for (const of of asked.slice(0, MOST_ASKED)) {
			const data = without(new Set([...left, of].map((l) => l.hole)));
			const field = yield* tryFit(input, name, data, cut.faults, [], options);
			if (stepOf(field) > stepOf(best?.field ?? null)) best = { field, of };
		}
		if (!best) break;
		left.push(best.of);
		if (isPressed(best.field)) continue;
		// A twin that differs has been named.
		const named = new Set(findings.filter((f) => f.kind === 'twins-differ').map((f) => f.hole));
		noteLeft(
			left.filter((l) => !named.has(l.hole)),
			(by) => lengthSaid(input, by),
			findings
		);
		return best.field;
	}
	return null;
}

/**
 * On which side of which wall places lie: within both, or beyond the one on their side.
 * @param values of the sheet at the places
 * @param middle between its walls
 * @param passing holes that say nothing of a wall: they do not meet it
 */
const besideWalls = (
	places: readonly Placed<Observation>[],
	unit: number,
	values: ArrayLike<number>,
	middle: number,
	passing: ReadonlySet<string>
): Bound[] =>
	places.flatMap((o, i): Bound[] => {
		if (passing.has(o.hole)) return [];
		const at = { x: o.x, y: o.y, z: o.z, block: o.block, source: o.hole };
		if (o.unit === unit)
			return [
				{ ...at, group: 0, sense: -1 },
				{ ...at, group: 1, sense: 1 }
			];
		return [values[i]! > middle ? { ...at, group: 0, sense: 1 } : { ...at, group: 1, sense: -1 }];
	});

/**
 * The walls of a sheet whose thickness varies, as fields of their own: they share a shape and are off it as their contacts show (see
 * `varyingFields`). Where a hole passes without meeting it, its thickness goes on below nothing, and it ends between the holes.
 * @param across true thicknesses of its intercepts, the least first
 * @param normal across it as a whole, upward
 * @param step between its walls where they share one field, length units
 * @returns null where the thickness hardly varies, or too little is known of it
 */
function* varyingSheet(
	{ input, name, unit, hidden, unlogged, cut, findings, shape }: Intrusion,
	data: FieldData,
	points: readonly HoleDatum[],
	across: Float64Array,
	placed: readonly Placed<Observation>[],
	inside: ReadonlySet<string>,
	normal: Vec3,
	step: number
): Steps<FittedSheet | null> {
	const walls = points.filter((p) => p.group < 2);
	const thick = quantileSorted(across, 0.5);
	const spread = 1.4826 * quantileSorted(Float64Array.from(across, (t) => Math.abs(t - thick)).sort(), 0.5);
	if (!(spread > VARIES * thick) && !(step < STRAINED * thick)) return null;
	const loose = [...loosened(walls, Math.max(spread, VARIES * thick)), ...points.filter((p) => p.group === 2)];
	const options = { orientationNugget: SHEET_NUGGET, ...shape };
	const middle = yield* tryFit(input, name, { ...data, points: loose }, cut.faults, findings, options);
	if (!middle || middle.local || !(middle.levels[0]! > middle.levels[1]!)) return null;
	const between = (middle.levels[0]! + middle.levels[1]!) / 2;
	const passing = yield* passingHoles(middle, between, placed, inside, [...hidden, ...unlogged]);
	const thins = input.column[unit]!.thinsOut !== false;
	if (passing.length && !thins)
		note(
			findings,
			'sheet-not-thinned',
			`${name} keeps its thickness though ${passing.length === 1 ? `the hole ${passing[0]!.hole} passes` : `${passing.length} holes pass`} it without meeting it`,
			'Let it thin out, or check what was logged there.'
		);
	const gaps = thins
		? passing.flatMap((p): Gap[] => [
				{ ...p, group: 0, by: 0.5 },
				{ ...p, group: 1, by: -0.5 }
			])
		: [];
	const sides = yield* valuesSteps(middle, placed);
	const bounds = besideWalls(placed, unit, sides, between, new Set(passing.map((p) => p.hole)));
	const { fields, left } = yield* varyingFields(
		middle,
		{
			points: walls,
			gaps,
			bounds,
			faultCount: cut.faults.length,
			groupCount: 2,
			certain: new Set(input.certain),
			held: gaps.length ? alongSheet(walls, normal, thick, input, cut) : undefined
		},
		{ range: rangeOf(input), ...shape }
	);
	const [baseField, footField] = fields;
	if (!baseField || !footField) return null;
	noteLeft(left, (by) => lengthSaid(input, by), findings);
	return { walls: { baseField, footField, walls: [middle.levels[0]!, middle.levels[1]!] }, misses: passing };
}

/** What hole twins contradict each other in, with their errors (see `withTwinErrors`), measured across the sheet as contacts are by height. */
function withTwins({ input, name, findings }: Intrusion, points: readonly HoleDatum[], normal: Vec3): HoleDatum[] {
	const [along, down] = axesOn(normal);
	const turned = points.map((p): HoleDatum => {
		const at: Vec3 = [p.x, p.y, p.z];
		return { ...p, x: dot(at, along), y: dot(at, down), z: dot(at, normal) };
	});
	const certain = new Set(input.certain);
	const twins = withTwinErrors(turned, certain);
	const pairs = twins.pairs.map((pair) => {
		const [u, v, w] = pair.at;
		return { ...pair, at: add(add(scale(along, u), scale(down, v)), scale(normal, w)) };
	});
	const wall = ['the hanging wall', 'the footwall', 'a wall'];
	noteTwins(
		pairs,
		(g) => `${wall[g]} of ${name}`,
		certain,
		(by) => lengthSaid(input, by),
		findings
	);
	return points.map((p, i) => {
		const { error, nugget } = twins.points[i]!;
		return error ? { ...p, error, ...(nugget ? { nugget } : {}) } : p;
	});
}

/** Places on a sheet as a whole, along each of its sides, and at so much of its reach beside it, at which its walls may not run off. */
const ASKED = 31;
const ACROSS = [0, -0.08, 0.08, -0.25, 0.25];
/** Share of the thickness by which it may. */
const THICKER = 0.1;

/** Places all over a sheet, with the sides on which its walls may not run off there. */
function alongSheet(
	walls: readonly HoleDatum[],
	normal: Vec3,
	thick: number,
	{ extent: e }: Intrusion['input'],
	cut: Intrusion['cut']
): Held {
	const center = meanOf(walls.map((w): Vec3 => [w.x, w.y, w.z]));
	const [along, down] = axesOn(normal);
	const reach = Math.hypot(e.maxX - e.minX, e.maxY - e.minY, e.maxZ - e.minZ) / 2;
	const places = ACROSS.flatMap((off) =>
		Array.from({ length: ASKED * ASKED }, (_, i) => {
			const [u, v] = [(2 * (i % ASKED)) / (ASKED - 1) - 1, (2 * Math.floor(i / ASKED)) / (ASKED - 1) - 1];
			const on = add(scale(along, u * reach), scale(down, v * reach));
			const [x, y, z] = add(center, add(on, scale(normal, off * reach)));
			return { x, y, z, block: cut.block({ x, y, z }) };
		})
	).filter((p) => p.x >= e.minX && p.x <= e.maxX && p.y >= e.minY && p.y <= e.maxY && p.z >= e.minZ && p.z <= e.maxZ);
	return {
		places,
		sense: (group) => (group === 0 ? -1 : 1),
		by: () => THICKER * thick,
		apart: (2 * reach) / (ASKED - 1)
	};
}
