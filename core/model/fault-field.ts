import type { Bound } from '../fields/data';
import { fitField } from '../fields/fit';
import { gradientAt, valueAt, type BlockField, type Field } from '../fields/field';
import { boxDiagonal } from '../geometry/box';
import { planeNormal, RADIANS, wrapAzimuth } from '../geometry/angles';
import { cross, normalize, scale, type Vec3 } from '../geometry/vector';
import { sampleRaster } from '../grids/raster';
import type { FaultSpec, GroundInput } from './ground';

/** All lines on which a fault was seen, its trace first. */
export const linesOf = (f: Pick<FaultSpec, 'trace' | 'pieces'>): readonly (readonly (readonly [number, number])[])[] => [
	f.trace,
	...(f.pieces ?? [])
];

/** Elevation at which the trace of a fault lies. */
export const heightOf =
	({ terrain, extent }: GroundInput) =>
	(x: number, y: number) =>
		terrain ? sampleRaster(terrain, x, y) : extent.maxZ;

/** The field of a fault as it was drawn. @param bounds what is known to lie on one side of it */
export function faultField(f: FaultSpec, input: GroundInput, bounds: Bound[] = []): Field {
	const height = heightOf(input);
	const points = [];
	const gradients = [];
	for (const line of linesOf(f)) {
		let begun = false;
		for (let i = 0; i + 1 < line.length; i++) {
			const [x0, y0] = line[i]!;
			const [x1, y1] = line[i + 1]!;
			const [z0, z1] = [height(x0, y0), height(x1, y1)];
			if (x0 === x1 && y0 === y1) continue;
			const dipAzimuth = dipAzimuthOnTrace(x1 - x0, y1 - y0, z1 - z0, f.dip, f.dipAzimuth);
			gradients.push({ x: (x0 + x1) / 2, y: (y0 + y1) / 2, z: (z0 + z1) / 2, gradient: planeNormal(f.dip, dipAzimuth), block: 0 });
			if (!begun) points.push({ x: x0, y: y0, z: z0, group: 0, block: 0 });
			begun = true;
			points.push({ x: x1, y: y1, z: z1, group: 0, block: 0 });
		}
	}
	for (const p of f.places ?? []) {
		points.push({ x: p.x, y: p.y, z: p.z, group: 0, block: 0 });
		if (p.dip) gradients.push({ x: p.x, y: p.y, z: p.z, gradient: planeNormal(p.dip, p.dipAzimuth ?? f.dipAzimuth), block: 0 });
	}
	return fitField(
		{ groupCount: 1, faultCount: 0, points, values: [], gradients, bounds },
		{ range: 2 * boxDiagonal(input.extent), orientationNugget: 1e-3, metric: f.places?.length ? alongStrike(f) : null }
	).field;
}

/** How much farther what places at depth say reaches along a straight fault than down it; along one as bent as `BENT`, no farther. */
const ALONG = 4;
/** Straightness of traces (length of the chord over that of the trace) that count as bent and as straight. */
const BENT = 0.8;
const STRAIGHT = 0.95;

/**
 * Metric in which lengths along the strike of a fault count less: what bends it at depth goes on along it, as its trace does, instead of
 * falling back to the plane between two rows of places. A trace that winds has no one strike.
 */
function alongStrike(f: FaultSpec): number[] {
	let [x, y, length] = [0, 0, 0];
	for (const line of linesOf(f)) {
		const [dx, dy] = [line.at(-1)![0] - line[0]![0], line.at(-1)![1] - line[0]![1]];
		const sense = x * dx + y * dy < 0 ? -1 : 1;
		x += sense * dx;
		y += sense * dy;
		for (let i = 1; i < line.length; i++) length += Math.hypot(line[i]![0] - line[i - 1]![0], line[i]![1] - line[i - 1]![1]);
	}
	const chord = Math.hypot(x, y);
	const straight = Math.min(1, Math.max(0, (chord / (length || 1) - BENT) / (STRAIGHT - BENT)));
	const strike: Vec3 = chord > 0 ? [x / chord, y / chord, 0] : [0, 0, 0];
	const less = 1 - 1 / (1 + (ALONG - 1) * straight);
	return [0, 1, 2].flatMap((i) => [0, 1, 2].map((j) => Number(i === j) - less * strike[i]! * strike[j]!));
}

/**
 * Dip azimuth of the plane with this dip that contains a leg of the trace as it runs over the terrain: from n·t = 0,
 * cos(azimuth − leg azimuth) = −rise / (run · tan dip). Of the two such planes the one nearer to the wanted direction.
 * Where the leg is steeper than the plane there is none: then square to the leg on the map.
 */
function dipAzimuthOnTrace(dx: number, dy: number, dz: number, dip: number, wanted: number): number {
	const leg = Math.atan2(dx, dy) / RADIANS;
	const c = -dz / (Math.hypot(dx, dy) * Math.tan(dip * RADIANS));
	const off = Math.abs(c) < 1 ? Math.acos(c) / RADIANS : 90;
	const [a, b] = [wrapAzimuth(leg + off), wrapAzimuth(leg - off)];
	return Math.cos((a - wanted) * RADIANS) >= Math.cos((b - wanted) * RADIANS) ? a : b;
}

/** Signed distance to a fault, length units; positive in the hanging wall. */
export function faultDistance(b: BlockField, x: number, y: number, z: number): number {
	const g = gradientAt(b, x, y, z);
	return ((valueAt(b, x, y, z) - b.field.levels[0]!) * b.field.unit) / Math.max(1e-9, Math.hypot(...g));
}

/** A place near a fault, moved onto it along its slope. */
function ontoFault(b: BlockField, x: number, y: number, z: number): Vec3 {
	const g = gradientAt(b, x, y, z);
	const step = ((valueAt(b, x, y, z) - b.field.levels[0]!) * b.field.unit) / Math.max(1e-18, g[0] ** 2 + g[1] ** 2 + g[2] ** 2);
	return [x - step * g[0], y - step * g[1], z - step * g[2]];
}

/** Places down a fault from a place on it, in equal steps of elevation. */
export function downFault(b: BlockField, from: Vec3, along: Vec3, bottom: number, steps: number): Vec3[] {
	const line: Vec3[] = [from];
	const step = (from[2] - bottom) / steps;
	const strike = normalize(along);
	for (let i = 0; i < steps; i++) {
		const p = line[line.length - 1]!;
		let down = normalize(cross(normalize(gradientAt(b, ...(p as [number, number, number]))), strike));
		if (down[2] > 0) down = scale(down, -1);
		if (!(down[2] < -0.05)) break;
		const next = [p[0] + (down[0] * step) / -down[2], p[1] + (down[1] * step) / -down[2], p[2] - step] as [number, number, number];
		// Back onto the fault.
		line.push(ontoFault(b, ...next));
	}
	return line;
}
