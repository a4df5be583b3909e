import type { Bound, FieldData, GradientDatum, GroupDatum } from '../fields/data';
import { gradientAt, inBlock, type Field } from '../fields/field';
import type { Steps } from '../fields/steps';
import { NearestPoint } from '../geometry/nearest';
import { normalize, scale, type Vec3 } from '../geometry/vector';
import type { ContactPoint, Observation } from '../units/contacts';
import { fitEllipsoid, normalAt, placesOn, type Ellipsoid } from './ellipsoid';
import { note, rangeOf, tryFit } from './fit-sequence';
import type { GroundInput } from './ground';
import type { Depth, Intrusion } from './intrusion';
import { strayOfBody } from './odd-body';
import { carriedOn, endsInside } from './open-body';
import { distanceInside, inwardAt, placesOnPipe, radiusOf, type Pipe } from './pipe';
import { robustPipe } from './robust-pipe';

/** Samples of a body along the holes, at most, for its first shape; and how often the shape is made rounder by its own boundary. */
const SAMPLES = 700;
const ROUNDS = 3;
/** A place in a hole lies at least this share of its distance from the nearest contact inside or outside. */
const MARGIN = 0.5;
/** A body with more contacts tells its shape by itself; places on the ellipsoid of one with fewer, and their least error as a share of its radius. */
const MOST_FOR_ELLIPSOID = 200;
const ON_ELLIPSOID = 100;
const LEAST_ERROR = 0.01;
/** A body that lies farther than this share of its radius from its ellipsoid is another shape. */
const MOST_MISFIT = 0.12;
/** An ellipsoid counts, not the pipe, where the misfit of the pipe is so many times its own, each as a share of the radius. */
const MUCH_BETTER = 1.3;
/** A contact farther from the wall of a pipe, in its misfits, is on an end of it. Places on a pipe: levels, and round. */
const ON_END = 2;
const LEVELS_ON_PIPE = 4;
const ROUND_PIPE = 24;
const meanRadius = (e: Ellipsoid) => Math.cbrt(e.radii[0] * e.radii[1] * e.radii[2]);

/** By place, whatever the order in which they came. */
export const byPlace = (a: Observation, b: Observation) =>
	a.x - b.x || a.y - b.y || a.z - b.z || a.unit - b.unit || (a.hole < b.hole ? -1 : a.hole > b.hole ? 1 : 0);

/**
 * A closed body. Its first shape is the pipe or the ellipsoid that fits it (of one that goes on, the pipe), if any; else it interpolates
 * signed distances to the contacts, sampled along all holes: between holes the nearest contact is farther away than the boundary, so
 * distances are believed up to a share of the hole spacing. That shape tells how the boundary lies at each contact; contacts with these
 * directions, and the holes as bounds, give the shape that is kept (points with normals, Wendland 2005, ch. 16; the field fades to nothing
 * far away, so the body closes).
 * @param met its contacts; where there is none, it ends midway between what is inside and what is nearest outside
 */
export function* fitBody(
	{ input, name, unit, hidden, unlogged, cut, findings, shape }: Intrusion,
	met: readonly ContactPoint[],
	logged: readonly Observation[]
): Steps<Field | null> {
	const reach = 0.35 * (met.length ? spacingOfHoles(met, rangeOf(input)) : 2 * median(midway(logged, unit).map((m) => m.half)));
	const along = denser(logged, reach / 2, unlogged);
	const stray = strayOfBody(name, unit, met, along, new Set(input.certain), findings);
	const told = (input.bounds ?? []).filter((b) => b.surface === unit);
	const near = met.filter((c) => !stray.contacts.has(c));
	const robust = cut.faults.length
		? null
		: robustPipe(
				name,
				unit,
				near,
				along.filter((o) => !stray.observations.has(o)),
				knownSides([], unit, told),
				new Set(input.certain),
				findings
			);
	const isStray = (o: Observation) => stray.observations.has(o) || !!robust?.observations.has(o);
	const contacts = near.filter((c) => !robust?.contacts.has(c));
	const observed = logged.filter((o) => !isStray(o));
	const seen = along.filter((o) => !isStray(o));
	const step = Math.max(1, Math.ceil(seen.length / SAMPLES));
	const values = contacts.map((c) => ({ x: c.x, y: c.y, z: c.z, value: 0, block: 0 }));
	const nearest = new NearestPoint(contacts);
	const distances = seen.map((o) => nearest.distance(o.x, o.y, o.z));
	seen.forEach((o, i) => {
		if (i % step !== 0 && o.unit !== unit) return;
		const d = distances[i]!;
		if (d > 1e-6) values.push({ x: o.x, y: o.y, z: o.z, value: (o.unit === unit ? 1 : -1) * reach * Math.tanh(d / reach), block: 0 });
	});
	const empty: FieldData = { groupCount: 1, faultCount: 0, points: [], values: [], gradients: [], bounds: [] };
	function* firstShape(): Steps<Field | null> {
		const first = yield* tryFit(input, name, { ...empty, values }, [], findings, shape);
		if (first) first.levels[0] = 0;
		return first;
	}
	const parted = { ...empty, faultCount: cut.faults.length, bounded: cut.zones };
	const blockOf = contacts.map(cut.block);
	const points: GroupDatum[] = contacts.map((c, i) => ({ x: c.x, y: c.y, z: c.z, group: 0, block: blockOf[i]! }));
	const { opens } = input.column[unit]!;
	const pipe = robust && guideOfPipe(robust.pipe, seen, unit);
	const guide = opens || cut.faults.length ? pipe : better(pipe, guideOfEllipsoid(contacts, observed, unit, told));
	if (guide) points.push(...guide.places(nearest, rangeOf(input)));
	// Where no hole meets the boundary, it lies somewhere between holes.
	else if (contacts.length === 0)
		points.push(
			...midway(seen, unit).map(({ x, y, z, half }) => ({ x, y, z, group: 0, block: 0, nugget: nuggetOf(half / 2, rangeOf(input)) }))
		);
	let field = guide ? null : yield* firstShape();
	if (!guide && !field) return null;
	const bounds: Bound[] = seen.map((o, i) => ({
		x: o.x,
		y: o.y,
		z: o.z,
		group: 0,
		sense: o.unit === unit ? 1 : -1,
		block: cut.block(o),
		source: o.hole,
		margin: MARGIN * Math.min(distances[i]!, 2 * reach, guide?.away(o) ?? Infinity)
	}));
	for (const b of told) bounds.push({ x: b.x, y: b.y, z: b.z, group: 0, sense: b.sense, block: cut.block(b), source: b.source });
	// A hole that goes on in something younger does not end here.
	const all = [...observed, ...hidden];
	const closed = (['down', 'up'] as const)
		.filter((side) => opens !== side && opens !== 'both')
		.map((side) => ({ side, holes: new Set(endsInside(all, unit, side === 'down').map((o) => o.hole)) }));
	for (const { side, holes } of closed)
		// A hole that begins inside began at the ground: the terrain cuts the body.
		if (side === 'down' && holes.size > 0)
			note(
				findings,
				'body-closes',
				`${holes.size} ${holes.size === 1 ? 'hole ends' : 'holes end'} inside ${name}: below them it is closed without evidence`,
				'Let it go on downwards in its row of the column, if it does.'
			);
	let beyond: ReturnType<typeof carriedOn> | null = null;
	for (let turn = 0; turn < ROUNDS + (opens ? 1 : 0); turn++) {
		if (opens && turn === ROUNDS && field) beyond = carriedOn(field, all, unit, opens, input.extent, reach);
		const shaped = field;
		const now = new Map(shaped ? [...new Set(blockOf)].map((block) => [block, inBlock(shaped, block)]) : []);
		const gradients = contacts.flatMap((c, i): GradientDatum[] => {
			const own = now.get(blockOf[i]!);
			const g = own ? gradientAt(own, c.x, c.y, c.z) : guide!.inward(c);
			return Math.hypot(...g) > 1e-6 ? [{ x: c.x, y: c.y, z: c.z, gradient: normalize(g), block: blockOf[i]! }] : [];
		});
		const rounder = yield* tryFit(
			input,
			name,
			{ ...parted, points: [...points, ...(beyond?.points ?? [])], gradients: [...gradients, ...(beyond?.gradients ?? [])], bounds },
			cut.faults,
			turn === ROUNDS - 1 ? findings : [],
			{ drift: 'none', ...shape }
		);
		if (!rounder) break;
		field = rounder;
	}
	return field ?? (yield* firstShape());
}

/** A simple body that tells where a boundary is likely to lie between contacts. */
interface Guide {
	/** How badly it fits, as a share of its radius. */
	off: number;
	/** Places on it where no contact is near, that count the less the worse it fits. */
	places(contacts: NearestPoint, range: number): GroupDatum[];
	/** Unit vector to the inside. */
	inward(p: Place): Vec3;
	/** How far a place may lie from the boundary. */
	away(p: Place): number;
}
type Place = Pick<Observation, 'x' | 'y' | 'z'>;
type Told = NonNullable<GroundInput['bounds']>;

/** Of a body that has both, the pipe counts unless the ellipsoid fits much better: that is not told by what lies between contacts. */
const better = (pipe: Guide | null, ellipsoid: Guide | null): Guide | null =>
	pipe && ellipsoid ? (pipe.off < MUCH_BETTER * ellipsoid.off ? pipe : ellipsoid) : (pipe ?? ellipsoid);

/** The ellipsoid of a body, unless it has many contacts, or another shape. */
function guideOfEllipsoid(contacts: readonly ContactPoint[], observed: readonly Observation[], unit: number, told: Told): Guide | null {
	if (contacts.length > MOST_FOR_ELLIPSOID) return null;
	const e = fitEllipsoid(contacts, knownSides(observed, unit, told));
	const radius = e ? meanRadius(e) : 0;
	if (!e || e.misfit >= MOST_MISFIT * radius) return null;
	return {
		off: e.misfit / radius,
		places: weakPlaces(
			placesOn(e, ON_ELLIPSOID),
			Math.max(e.misfit, LEAST_ERROR * radius),
			radius * Math.sqrt((4 * Math.PI) / ON_ELLIPSOID)
		),
		inward: (p) => scale(normalAt(e, p), -1),
		away: () => Infinity
	};
}

/** The pipe of a body. */
function guideOfPipe(pipe: Pipe, seen: readonly Observation[], unit: number): Guide {
	const heights = seen.filter((o) => o.unit === unit).map((o) => o.z);
	const [low, high] = [Math.min(...heights), Math.max(...heights)];
	const levels = Array.from({ length: LEVELS_ON_PIPE }, (_, k) => low + ((high - low) * (k + 0.5)) / LEVELS_ON_PIPE);
	const apart = (2 * Math.PI * radiusOf(pipe)) / ROUND_PIPE;
	return {
		off: pipe.misfit / radiusOf(pipe),
		places: weakPlaces(placesOnPipe(pipe, levels, ROUND_PIPE), pipe.misfit, apart),
		// What is far from its wall lies on an end.
		inward: (p) => (Math.abs(distanceInside(pipe, p)) > ON_END * pipe.misfit ? [0, 0, 0] : inwardAt(pipe, p)),
		away: (p) => Math.abs(distanceInside(pipe, p))
	};
}

/** Of a place that is known to an error only: the variance of a field whose slope is about 1 and whose covariance is cubic. */
const nuggetOf = (error: number, range: number): number => 14 * (error / range) ** 2;

/** Places midway between what is inside and what is nearest outside in another hole, with half their distance. */
function midway(seen: readonly Observation[], unit: number): (Place & { half: number })[] {
	const outside = seen.filter((o) => o.unit !== unit);
	const nearest = new NearestPoint(outside);
	return seen.flatMap((o) => {
		if (o.unit !== unit) return [];
		const { index, distance } = nearest.nearest(o.x, o.y, o.z, (i) => outside[i]!.hole !== o.hole);
		const p = outside[index];
		return p ? [{ x: (o.x + p.x) / 2, y: (o.y + p.y) / 2, z: (o.z + p.z) / 2, half: distance / 2 }] : [];
	});
}

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] ?? NaN;

const knownSides = (observed: readonly Observation[], unit: number, told: Told) => [
	...observed.map((o) => ({ ...o, inside: o.unit === unit })),
	...told.map((b) => ({ ...b, hole: b.source, inside: b.sense > 0 }))
];

/** Places that are there where no contact is near, with their error, length units. @param apart how far they lie from each other */
const weakPlaces =
	(places: readonly Place[], error: number, apart: number) =>
	(contacts: NearestPoint, range: number): GroupDatum[] => {
		const nugget = nuggetOf(error, range);
		return places.filter((p) => contacts.distance(p.x, p.y, p.z) > apart / 2).map((p) => ({ ...p, group: 0, block: 0, nugget }));
	};

/** Observations with others between those of one unit that follow each other in a hole, no farther apart than `step`, where the hole is known. */
function denser(observed: readonly Observation[], step: number, unlogged: readonly Depth[]): Observation[] {
	const gaps = new Map<string, number[]>();
	for (const { hole, depth } of unlogged) gaps.set(hole, [...(gaps.get(hole) ?? []), depth]);
	const byHole = new Map<string, Observation[]>();
	for (const o of observed) {
		const list = byHole.get(o.hole);
		if (list) list.push(o);
		else byHole.set(o.hole, [o]);
	}
	const out: Observation[] = [];
	for (const list of byHole.values()) {
		list.sort((a, b) => a.depth - b.depth || a.unit - b.unit);
		// Where one unit ends and another begins two places have one depth: the one that goes on comes first.
		for (let i = 1; i + 1 < list.length; i++) {
			const [before, a, b] = [list[i - 1]!, list[i]!, list[i + 1]!];
			if (a.depth === b.depth && before.unit === b.unit && before.unit !== a.unit) [list[i], list[i + 1]] = [b, a];
		}
		list.forEach((a, i) => {
			out.push(a);
			const b = list[i + 1];
			if (!b || b.unit !== a.unit || gaps.get(a.hole)?.some((d) => d > a.depth && d < b.depth)) return;
			const n = Math.ceil((b.depth - a.depth) / step);
			for (let k = 1; k < n; k++)
				out.push({
					...a,
					x: a.x + ((b.x - a.x) * k) / n,
					y: a.y + ((b.y - a.y) * k) / n,
					z: a.z + ((b.z - a.z) * k) / n,
					depth: a.depth + ((b.depth - a.depth) * k) / n
				});
		});
	}
	return out.sort(byPlace);
}

/** Median distance from a contact to the nearest one in another hole; the fallback when all are in one hole. */
function spacingOfHoles(contacts: readonly ContactPoint[], fallback: number): number {
	const places = new NearestPoint(contacts);
	const nearest = contacts.map((a) => places.distance(a.x, a.y, a.z, (i) => contacts[i]!.hole !== a.hole)).sort((a, b) => a - b);
	const median = nearest[nearest.length >> 1]!;
	return Number.isFinite(median) && median > 0 ? median : fallback / 10;
}
