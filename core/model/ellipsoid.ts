import { Matrix, solve } from 'ml-matrix';
import { symmetricEigen } from '../linear/eigen';
import { add, dot, normalize, scale, type Vec3 } from '../geometry/vector';

type Place = { x: number; y: number; z: number };
/** A place known to be inside or outside. */
type Seen = Place & { hole: string; inside: boolean };

/** An ellipsoid that fits the boundary of a body. */
export interface Ellipsoid {
	center: Vec3;
	/** Unit vectors and half-lengths of its axes. */
	axes: readonly [Vec3, Vec3, Vec3];
	radii: readonly [number, number, number];
	/** How far the boundary lies from where the points of other holes would have put it: root mean square, length units. */
	misfit: number;
}

/** Numbers that an ellipsoid has. */
const FREE = 9;

/** Boundary points that are needed. */
const LEAST = FREE + 1;
/** Weight of a sphere against the points: few of them do not make a long ellipsoid. */
const ROUND = 0.003;
/** Longest axis, in mean distances of the boundary points from their middle. */
const LONGEST = 4;
const ROUNDS = 12;
/** Groups of holes that are left out in turn, at most. */
const GROUPS = 24;
/** Places farther than this from the middle of the points, in the distance of the farthest of them, say nothing of the body. */
const NEAR = 4;

/**
 * The ellipsoid through boundary points, as nearly as can be, with the places inside and outside on their sides: least squares of the
 * algebraic distance with a fixed trace (Li & Griffiths 2004, without their constraint), to which of each hole the place that is most
 * on the wrong side is added until none is.
 * @param seen places known to be inside or outside, with their hole
 * @returns null when the points are too few, or make no ellipsoid
 */
export function fitEllipsoid(boundary: readonly (Place & { hole: string })[], seen: readonly Seen[]): Ellipsoid | null {
	if (boundary.length < LEAST) return null;
	// Sums do not depend on the order of the rows.
	const points = [...boundary].sort(byPlace);
	const middle = middleOf(points);
	const far = NEAR * Math.max(...points.map((p) => Math.hypot(p.x - middle[0], p.y - middle[1], p.z - middle[2])));
	const others = seen.filter((o) => Math.hypot(o.x - middle[0], o.y - middle[1], o.z - middle[2]) <= far).sort(byPlace);
	const whole = fitOnce(points, others);
	if (!whole) return null;
	const groupOf = new Map([...new Set(points.map((p) => p.hole))].map((hole, i) => [hole, i % GROUPS]));
	let sum = 0;
	for (const group of new Set(groupOf.values())) {
		const without = fitOnce(
			points.filter((p) => groupOf.get(p.hole) !== group),
			others.filter((o) => groupOf.get(o.hole) !== group)
		);
		const own = points.filter((p) => groupOf.get(p.hole) === group);
		// What can not be told without it may lie anywhere.
		sum += without ? own.reduce((s, p) => s + distanceTo(without, p) ** 2, 0) : own.length * Math.max(...whole.radii) ** 2;
	}
	return { ...whole, misfit: Math.sqrt(sum / points.length) };
}

const middleOf = (points: readonly Place[]): Vec3 =>
	(['x', 'y', 'z'] as const).map((c) => points.reduce((s, p) => s + p[c], 0) / points.length) as unknown as Vec3;

const byPlace = (a: Place, b: Place): number => a.x - b.x || a.y - b.y || a.z - b.z;

function fitOnce(boundary: readonly Place[], seen: readonly Seen[]): Omit<Ellipsoid, 'misfit'> | null {
	if (boundary.length < FREE - 1) return null;
	const n = boundary.length;
	const middle = middleOf(boundary);
	const size = Math.sqrt(boundary.reduce((s, p) => s + (p.x - middle[0]) ** 2 + (p.y - middle[1]) ** 2 + (p.z - middle[2]) ** 2, 0) / n);
	if (!(size > 0)) return null;
	const scaled = (p: Place): Vec3 => [(p.x - middle[0]) / size, (p.y - middle[1]) / size, (p.z - middle[2]) / size];
	const row = ([x, y, z]: Vec3) => [x * x - z * z, y * y - z * z, x * y, x * z, y * z, x, y, z, 1];
	const square = ([x, y, z]: Vec3) => x * x + y * y + z * z;
	const points = boundary.map(scaled);
	const others = seen.map((o) => ({ at: scaled(o), hole: o.hole, inside: o.inside }));
	const normal = Matrix.zeros(9, 9);
	const right = Matrix.zeros(9, 1);
	const take = (p: Vec3): void => {
		const r = row(p);
		const s = square(p);
		r.forEach((a, i) => {
			right.set(i, 0, right.get(i, 0) + a * s);
			r.forEach((b, j) => normal.set(i, j, normal.get(i, j) + a * b));
		});
	};
	points.forEach(take);
	// Enough for the others that there always is a solution.
	for (let i = 0; i < 9; i++) normal.set(i, i, normal.get(i, i) + (i < 5 ? ROUND : 1e-9) * n);
	let c: number[] = [];
	/** Positive inside. */
	const value = ([x, y, z]: Vec3): number =>
		(c[0]! - 1) * x * x +
		(c[1]! - 1) * y * y -
		(1 + c[0]! + c[1]!) * z * z +
		c[2]! * x * y +
		c[3]! * x * z +
		c[4]! * y * z +
		c[5]! * x +
		c[6]! * y +
		c[7]! * z +
		c[8]!;
	for (let round = 0; round < ROUNDS; round++) {
		c = solve(normal, right).to1DArray();
		if (!c.every(Number.isFinite)) return null;
		const worst = new Map<string, { at: Vec3; by: number }>();
		for (const o of others) {
			const by = o.inside ? -value(o.at) : value(o.at);
			if (by > 1e-3 && by > (worst.get(`${o.hole} ${o.inside}`)?.by ?? 0)) worst.set(`${o.hole} ${o.inside}`, { at: o.at, by });
		}
		if (worst.size === 0) break;
		for (const key of [...worst.keys()].sort()) take(worst.get(key)!.at);
	}
	// −pᵀ A p + bᵀ p + c with A positive definite.
	const [u, v, xy, xz, yz, bx, by, bz] = c as [number, number, number, number, number, number, number, number];
	const a = new Matrix([
		[1 - u, -xy / 2, -xz / 2],
		[-xy / 2, 1 - v, -yz / 2],
		[-xz / 2, -yz / 2, 1 + u + v]
	]);
	const e = symmetricEigen(a.clone());
	if (e.realEigenvalues.some((x) => !(x > 1e-6))) return null;
	const center = solve(a, Matrix.columnVector([bx / 2, by / 2, bz / 2])).to1DArray() as unknown as Vec3;
	const top = value(center);
	if (!(top > 0)) return null;
	const radii = e.realEigenvalues.map((x) => Math.sqrt(top / x)) as [number, number, number];
	if (Math.max(...radii) > LONGEST || Math.hypot(...center) > LONGEST) return null;
	const axes = [0, 1, 2].map((k) => [0, 1, 2].map((r) => e.eigenvectorMatrix.get(r, k)) as unknown as Vec3) as [Vec3, Vec3, Vec3];
	return {
		center: [middle[0] + size * center[0], middle[1] + size * center[1], middle[2] + size * center[2]],
		axes,
		radii: radii.map((r) => r * size) as [number, number, number]
	};
}

/** About how far a place is from an ellipsoid: along the line to its middle. */
function distanceTo({ center, axes, radii }: Omit<Ellipsoid, 'misfit'>, p: Place): number {
	const d: Vec3 = [p.x - center[0], p.y - center[1], p.z - center[2]];
	const share = Math.sqrt(axes.reduce((s, axis, k) => s + (dot(axis, d) / radii[k]!) ** 2, 0));
	return share > 0 ? Math.hypot(...d) * Math.abs(1 - 1 / share) : Math.min(...radii);
}

/** Outward normal of the ellipsoids around the same middle at a place. */
export function normalAt({ center, axes, radii }: Omit<Ellipsoid, 'misfit'>, p: Place): Vec3 {
	const d: Vec3 = [p.x - center[0], p.y - center[1], p.z - center[2]];
	return normalize(axes.reduce<Vec3>((sum, axis, k) => add(sum, scale(axis, dot(axis, d) / radii[k]! ** 2)), [0, 0, 0]));
}

/** Places on an ellipsoid, spread evenly over the sphere that it is made from (Fibonacci lattice: Swinbank & Purser 2006). */
export function placesOn({ center, axes, radii }: Ellipsoid, count: number): Place[] {
	return Array.from({ length: count }, (_, i) => {
		const up = 1 - (2 * i + 1) / count;
		const turn = i * Math.PI * (3 - Math.sqrt(5));
		const unit = [Math.sqrt(1 - up * up) * Math.cos(turn), Math.sqrt(1 - up * up) * Math.sin(turn), up];
		const [x, y, z] = axes.reduce<Vec3>((sum, axis, k) => add(sum, scale(axis, unit[k]! * radii[k]!)), center);
		return { x, y, z };
	});
}
