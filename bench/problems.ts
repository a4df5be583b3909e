import { planeNormal, RADIANS } from '#core/geometry/angles';
import type { Box } from '#core/geometry/box';
import type { FaultSpec, GroundInput, Orientation } from '#core/model/ground';
import { seededRandom } from '#core/statistics/random';
import type { ContactPoint, Observation } from '#core/units/contacts';
import type { Unit } from '#core/units/column';

/** A test problem: data sampled from a ground that is known exactly. */
export interface Problem {
	id: string;
	input: GroundInput;
	/** Unit of a place. */
	unitAt(x: number, y: number, z: number): number;
	/** Signed height above contact `surface`, along the normal where the ground is plane. */
	above(surface: number, x: number, y: number, z: number): number;
}

interface Description {
	id: string;
	box: Box;
	/** Values of `field` on the contacts, from the top; the field grows upwards. */
	levels: number[];
	field(x: number, y: number, z: number): number;
	holes: { x: number; y: number }[];
	orientations?: { x: number; y: number; z: number }[];
	faults?: FaultSpec[];
	/** True where a contact in a hole is made by a fault. */
	faulted?(x: number, y: number, z0: number, z1: number): boolean;
}

export const random = (seed: number): (() => number) => seededRandom(seed).uniform;

/** Samples vertical holes and orientations from the description. */
function problem(d: Description): Problem {
	const unitOf = (v: number) => {
		const i = d.levels.findIndex((l) => v >= l);
		return i < 0 ? d.levels.length : i;
	};
	const column: Unit[] = [...d.levels, NaN].map((_, i) => ({
		id: `u${i}`,
		name: `Unit ${i + 1}`,
		color: '#888888',
		contact: 'conformable'
	}));
	const contacts: ContactPoint[] = [];
	const observations: Observation[] = [];
	d.holes.forEach(({ x, y }, h) => {
		const hole = `H${h + 1}`;
		const step = (d.box.maxZ - d.box.minZ) / 2000;
		let unit = unitOf(d.field(x, y, d.box.maxZ));
		const see = (u: number, z: number) => observations.push({ unit: u, x, y, z, hole, depth: d.box.maxZ - z });
		see(unit, d.box.maxZ);
		for (let z = d.box.maxZ; z > d.box.minZ; z -= step) {
			const next = unitOf(d.field(x, y, z - step));
			if (next === unit) continue;
			if (Math.abs(next - unit) === 1 && !d.faulted?.(x, y, z, z - step)) {
				const surface = Math.min(next, unit);
				let [upper, lower] = [z, z - step];
				for (let i = 0; i < 60; i++) {
					const middle = (upper + lower) / 2;
					if (unitOf(d.field(x, y, middle)) === unit) upper = middle;
					else lower = middle;
				}
				contacts.push({ surface, x, y, z: (upper + lower) / 2, hole, depth: d.box.maxZ - upper, table: 'log', row: contacts.length });
			}
			see(next, z - 2 * step);
			unit = next;
		}
		see(unit, d.box.minZ);
	});
	const e = 1e-3;
	const orientations: Orientation[] = (d.orientations ?? []).map(({ x, y, z }) => {
		const g = [
			d.field(x + e, y, z) - d.field(x - e, y, z),
			d.field(x, y + e, z) - d.field(x, y - e, z),
			d.field(x, y, z + e) - d.field(x, y, z - e)
		] as const;
		const up = g[2] >= 0 ? 1 : -1;
		return {
			x,
			y,
			z,
			dip: Math.atan2(Math.hypot(g[0], g[1]), Math.abs(g[2])) / RADIANS,
			dipAzimuth: (((Math.atan2(up * g[0], up * g[1]) / RADIANS) % 360) + 360) % 360,
			polarity: up,
			unit: unitOf(d.field(x, y, z))
		};
	});
	return {
		id: d.id,
		input: { extent: d.box, column, contacts, observations, orientations, faults: d.faults ?? [], terrain: null },
		unitAt: (x, y, z) => unitOf(d.field(x, y, z)),
		above: (s, x, y, z) => d.field(x, y, z) - d.levels[s]!
	};
}

export const BOX: Box = { minX: 0, minY: 0, minZ: -1000, maxX: 2000, maxY: 2000, maxZ: 0 };
export const scattered = (n: number, seed: number) => {
	const r = random(seed);
	return Array.from({ length: n }, () => ({ x: 2000 * r(), y: 2000 * r() }));
};
const normal = planeNormal(27, 113);
const dipping = (x: number, y: number, z: number) => normal[0] * (x - 1000) + normal[1] * (y - 1000) + normal[2] * (z + 320);

/** Three parallel planes, dip 27° to 113°, 40 vertical holes. */
export const p1 = (box = BOX): Problem =>
	problem({
		id: 'P1',
		box,
		levels: [0, -110, -240],
		field: (x, y, z) => dipping(x - box.minX, y - box.minY, z),
		holes: scattered(40, 11).map((h) => ({ x: h.x + box.minX, y: h.y + box.minY }))
	});

/** Sinusoidal folds, wavelength 800 m, amplitude 80 m, plunging 15° to 020°; holes each 150 m, 60 orientations. */
export function p2(): Problem {
	const plunge = Math.tan(15 * RADIANS);
	const [ax, ay] = [Math.sin(20 * RADIANS), Math.cos(20 * RADIANS)];
	const field = (x: number, y: number, z: number) => {
		const along = (x - 1000) * ax + (y - 1000) * ay;
		const across = (x - 1000) * ay - (y - 1000) * ax;
		return z - 80 * Math.sin((2 * Math.PI * across) / 800) + plunge * along;
	};
	const holes = [];
	for (let x = 25; x < 2000; x += 150) for (let y = 25; y < 2000; y += 150) holes.push({ x, y });
	const r = random(5);
	const orientations = Array.from({ length: 60 }, () => ({ x: 2000 * r(), y: 2000 * r(), z: -100 - 700 * r() }));
	return problem({ id: 'P2', box: BOX, levels: [-350, -480, -600], field, holes, orientations });
}

/** P1 with a normal fault that dips 65° east, throw 120 m. */
export function p3(): Problem {
	const dip = 65;
	const throwOf = 120;
	const fn = planeNormal(dip, 90);
	const distance = (x: number, z: number) => fn[0] * (x - 1000) + fn[2] * z;
	const heave = throwOf / Math.tan(dip * RADIANS);
	const field = (x: number, y: number, z: number) => (distance(x, z) >= 0 ? dipping(x - heave, y, z + throwOf) : dipping(x, y, z));
	return problem({
		id: 'P3',
		box: BOX,
		levels: [0, -110, -240],
		field,
		holes: scattered(40, 11),
		faults: [
			{
				id: 'f1',
				name: 'Fault',
				trace: [
					[1000, 0],
					[1000, 1000],
					[1000, 2000]
				],
				dip,
				dipAzimuth: 90,
				youngestCut: 'u0',
				halfWidth: 2,
				on: true
			}
		],
		faulted: (x, _y, z0, z1) => distance(x, z0) >= 0 !== distance(x, z1) >= 0
	});
}

/** Share of random points in the box whose unit is right. @param units of many places, flat xyz */
export async function shareRight(p: Problem, units: (xyz: Float64Array) => Promise<Int16Array>, n: number, seed = 99): Promise<number> {
	const r = random(seed);
	const { extent: e } = p.input;
	const xyz = new Float64Array(3 * n);
	for (let i = 0; i < n; i++)
		xyz.set([e.minX + r() * (e.maxX - e.minX), e.minY + r() * (e.maxY - e.minY), e.minZ + r() * (e.maxZ - e.minZ)], 3 * i);
	const found = await units(xyz);
	let right = 0;
	for (let i = 0; i < n; i++) if (found[i] === p.unitAt(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!)) right++;
	return right / n;
}

/** Root mean square of the true height of a surface's vertices above their contact, away from the sides. */
export function surfaceError(
	p: Problem,
	positions: Float64Array,
	surface: number,
	skip: (x: number, y: number, z: number) => boolean = () => false
): number {
	let sum = 0;
	let n = 0;
	for (let i = 0; i < positions.length; i += 3) {
		const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!];
		if (skip(x, y, z)) continue;
		sum += p.above(surface, x, y, z) ** 2;
		n++;
	}
	return Math.sqrt(sum / n);
}
