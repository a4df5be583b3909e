import type { Bound, FieldData, GradientDatum, GroupDatum } from '../fields/data';
import { gradientAt, inBlock, type Field } from '../fields/field';
import type { Steps } from '../fields/steps';
import { NearestPoint } from '../geometry/nearest';
import { normalize, scale } from '../geometry/vector';
import type { ContactPoint, Observation } from '../units/contacts';
import { fitEllipsoid, normalAt, placesOn, type Ellipsoid } from './ellipsoid';
import { note, rangeOf, tryFit } from './fit-sequence';
import type { Intrusion } from './intrusion';
import { carriedOn, endsInside } from './open-body';

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
const meanRadius = (e: Ellipsoid) => Math.cbrt(e.radii[0] * e.radii[1] * e.radii[2]);

/** By place, whatever the order in which they came. */
export const byPlace = (a: Observation, b: Observation) =>
	a.x - b.x || a.y - b.y || a.z - b.z || a.unit - b.unit || (a.hole < b.hole ? -1 : a.hole > b.hole ? 1 : 0);

/**
 * A closed body. Its first shape is the ellipsoid that fits it, where there is one; else it interpolates signed distances to the contacts, sampled along all holes: between holes the nearest
 * contact is farther away than the boundary, so distances are believed up to a share of the hole spacing. That shape tells how the
 * boundary lies at each contact; contacts with these directions, and the holes as bounds, give the shape that is kept (points with
 * normals, Wendland 2005, ch. 16; the field fades to nothing far away, so the body closes).
 */
export function* fitBody(
	{ input, name, unit, hidden, cut, findings, shape }: Intrusion,
	contacts: readonly ContactPoint[],
	observed: readonly Observation[]
): Steps<Field | null> {
	const reach = 0.35 * spacingOfHoles(contacts, rangeOf(input));
	const seen = denser(observed, reach / 2);
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
	const told = (input.bounds ?? []).filter((b) => b.surface === unit);
	const whole =
		cut.faults.length || contacts.length > MOST_FOR_ELLIPSOID
			? null
			: fitEllipsoid(contacts, [
					...observed.map((o) => ({ ...o, inside: o.unit === unit })),
					...told.map((b) => ({ ...b, hole: b.source, inside: b.sense > 0 }))
				]);
	// One that goes on is no ellipsoid.
	const round = !input.column[unit]!.opens && whole && whole.misfit < MOST_MISFIT * meanRadius(whole) ? whole : null;
	if (round) points.push(...betweenContacts(round, nearest, rangeOf(input)));
	let field = round ? null : yield* firstShape();
	if (!round && !field) return null;
	const bounds: Bound[] = seen.map((o, i) => ({
		x: o.x,
		y: o.y,
		z: o.z,
		group: 0,
		sense: o.unit === unit ? 1 : -1,
		block: cut.block(o),
		source: o.hole,
		margin: MARGIN * Math.min(distances[i]!, 2 * reach)
	}));
	for (const b of told) bounds.push({ x: b.x, y: b.y, z: b.z, group: 0, sense: b.sense, block: cut.block(b), source: b.source });
	const { opens } = input.column[unit]!;
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
			const g = own ? gradientAt(own, c.x, c.y, c.z) : scale(normalAt(round!, c), -1);
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

/**
 * What the ellipsoid of a body says where no contact is near: places that count the less the worse it fits.
 */
function betweenContacts(e: Ellipsoid, contacts: NearestPoint, range: number): GroupDatum[] {
	const radius = meanRadius(e);
	const error = Math.max(e.misfit, LEAST_ERROR * radius);
	// The variance of a field whose slope is about 1 and whose covariance is cubic.
	const nugget = 14 * (error / range) ** 2;
	const apart = radius * Math.sqrt((4 * Math.PI) / ON_ELLIPSOID);
	return placesOn(e, ON_ELLIPSOID)
		.filter((p) => contacts.distance(p.x, p.y, p.z) > apart / 2)
		.map((p) => ({ ...p, group: 0, block: 0, nugget }));
}

/** Observations with others between those of one unit that follow each other in a hole, no farther apart than `step`. */
function denser(observed: readonly Observation[], step: number): Observation[] {
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
			if (!b || b.unit !== a.unit) return;
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
