import { throughMask, type BoundedZone } from '../fields/bounded';
import type { ValueDatum } from '../fields/data';
import { plus, type Field } from '../fields/field';
import { fitSteps, type FitOptions } from '../fields/fit';
import { valuesSteps, type Steps } from '../fields/steps';
import type { Box } from '../geometry/box';
import { NearestPoint } from '../geometry/nearest';
import { add, scale, type Vec3 } from '../geometry/vector';
import type { Observation } from '../units/contacts';
import type { Depth } from './intrusion';
import { axesOn } from './sheet-lie';

/** A place, seen from its fault block. */
export type Placed<T> = T & { block: number };

/**
 * Holes with places on both sides of a sheet and none in it, and where each of them crosses its middle.
 * @param hidden places in what is younger than the sheet: where a hole crosses its middle there, it may have been there once; and where nobody knows
 */
export function* passingHoles(
	field: Field,
	middle: number,
	seen: readonly Placed<Observation>[],
	inside: ReadonlySet<string>,
	hidden: readonly Depth[] = []
): Steps<Placed<Observation>[]> {
	const unknown = new Map<string, number[]>();
	for (const o of hidden) unknown.set(o.hole, [...(unknown.get(o.hole) ?? []), o.depth]);
	const byHole = new Map<string, Placed<Observation>[]>();
	for (const o of seen) {
		if (inside.has(o.hole)) continue;
		const list = byHole.get(o.hole);
		if (list) list.push(o);
		else byHole.set(o.hole, [o]);
	}
	const places = [...byHole.values()].flatMap((list) => list.sort((a, b) => a.depth - b.depth));
	const values = yield* valuesSteps(field, places);
	/** Legs of holes that change sides. */
	const legs: { a: Placed<Observation>; b: Placed<Observation>; above: boolean; low: number; high: number }[] = [];
	for (let i = 1; i < places.length; i++) {
		const [a, b] = [places[i - 1]!, places[i]!];
		if (unknown.get(a.hole)?.some((d) => d > a.depth && d < b.depth)) continue;
		// Across a fault the sides may change without a crossing.
		if (a.hole === b.hole && a.block === b.block && values[i - 1]! >= middle !== values[i]! >= middle)
			legs.push({ a, b, above: values[i - 1]! >= middle, low: 0, high: 1 });
	}
	const at = ({ a, b, low, high }: (typeof legs)[number]) => {
		const t = (low + high) / 2;
		return { ...a, x: a.x + t * (b.x - a.x), y: a.y + t * (b.y - a.y), z: a.z + t * (b.z - a.z), depth: a.depth + t * (b.depth - a.depth) };
	};
	for (let round = 0; round < 30; round++) {
		const now = yield* valuesSteps(field, legs.map(at));
		legs.forEach((leg, k) => {
			const t = (leg.low + leg.high) / 2;
			if (now[k]! >= middle === leg.above) leg.low = t;
			else leg.high = t;
		});
	}
	return legs.map(at);
}

/** Contacts, and holes that pass, that are looked at: with the places beyond them few enough to be solved at once. */
const MOST = 500;
const MOST_FAR = 200;
const MOST_PASSING = 350;
const nearestFirst = <T extends { x: number; y: number; z: number }>(list: readonly T[], to: NearestPoint): T[] =>
	list
		.map((p) => ({ p, distance: to.distance(p.x, p.y, p.z) }))
		.sort((a, b) => a.distance - b.distance)
		.map((n) => n.p);

/** Places on the sheet beyond the data, along each of its sides. */
const BEYOND = 11;

/**
 * The two walls of a sheet as fields of their own, so that they meet where it thins out: a second field is 0 at its contacts and minus
 * its thickness where a hole passes it, and is taken off one wall and added to the other. So the sheet ends about halfway between a hole
 * that meets it and one that does not. Beyond all holes it goes on as the nearest of them has it.
 *
 * @param levels of the field at the upper and the lower wall
 * @param normal of the sheet as a whole
 * @returns fields of the upper and the lower wall, at these levels
 */
export function* thinWalls(
	field: Field,
	levels: readonly [number, number],
	contacts: readonly { x: number; y: number; z: number; block: number }[],
	passing: readonly { x: number; y: number; z: number; block: number }[],
	normal: Vec3,
	extent: Box,
	zones: readonly BoundedZone[],
	options: FitOptions
): Steps<[Field, Field]> {
	const thickness = (levels[0] - levels[1]) * field.unit;
	// Where there are too many, those count that lie nearest to the edge, and some of the others.
	const toPassing = new NearestPoint(passing);
	const sorted = nearestFirst(contacts, toPassing);
	const rest = sorted.slice(MOST);
	const met = [...sorted.slice(0, MOST), ...rest.filter((_, i) => i % Math.ceil(rest.length / MOST_FAR) === 0)];
	const near = nearestFirst(passing, new NearestPoint(contacts)).slice(0, MOST_PASSING);
	const through = throughMask(zones);
	const values: ValueDatum[] = [...met.map((p) => ({ p, value: 0 })), ...near.map((p) => ({ p, value: -thickness }))].map(
		({ p, value }) => ({ x: p.x, y: p.y, z: p.z, block: p.block & through, value })
	);
	const all = values.slice();
	const known = new NearestPoint(all);
	const apart = all.map((v) => known.distance(v.x, v.y, v.z, (i) => all[i] !== v)).sort((a, b) => a - b);
	const clear = apart[Math.floor(0.9 * apart.length)]! || 0;
	const center = [0, 1, 2].map((c) => all.reduce((s, v) => s + [v.x, v.y, v.z][c]!, 0) / all.length) as unknown as Vec3;
	const [along, down] = axesOn(normal);
	const reach = Math.hypot(extent.maxX - extent.minX, extent.maxY - extent.minY, extent.maxZ - extent.minZ) / 2;
	for (let i = 0; i < BEYOND; i++)
		for (let j = 0; j < BEYOND; j++) {
			const [u, v] = [(2 * i) / (BEYOND - 1) - 1, (2 * j) / (BEYOND - 1) - 1];
			const [x, y, z] = add(center, add(scale(along, u * reach), scale(down, v * reach)));
			const { index, distance } = known.nearest(x, y, z);
			if (distance > 1.5 * clear) values.push({ ...all[index]!, x, y, z });
		}
	const { field: thinner } = yield* fitSteps(
		{ groupCount: 1, faultCount: 0, points: [], values, gradients: [], bounds: [] },
		{ ...options, drift: 'none', frame: field }
	);
	return [plus(field, thinner, -1), plus(field, thinner, 1)];
}
