import { latticeOf } from '../mesh/lattice';
import { wrapAzimuth } from '../geometry/angles';
import { seededRandom } from '../statistics/random';
import { evaluateHere, type Evaluate } from './evaluate';
import { unitsAt } from './classify';
import { fitGround, type Ground } from './fit-ground';
import type { GroundInput } from './ground';

/** Errors of the data, one standard deviation. */
export interface Errors {
	/** Depth of a contact along the vertical, length units. */
	contact: number;
	/** Pole of an orientation, degrees. */
	orientation: number;
	/** Dip of a fault, degrees, and shift of its trace across itself, length units. */
	faultDip: number;
	faultTrace: number;
}

export interface EnsembleOptions {
	members: number;
	/** Of the cells for which units are counted. */
	spacing: number;
	errors: Errors;
	seed: number;
	evaluate?: Evaluate;
	/** Fits a ground; hosts give one that uses threads. */
	fit?: (input: GroundInput) => Promise<Ground>;
	progress?: (what: string, share: number) => void;
	signal?: AbortSignal;
}

export interface Ensemble {
	/** Cells along x, y and z; one place in each is counted. */
	size: [number, number, number];
	/** Lower corner and sides of a cell. */
	origin: [number, number, number];
	cell: [number, number, number];
	members: number;
	/** Members left out because nothing could be fitted to their data. */
	failed: number;
	/** Share of the members in which a cell is in a unit, unit after unit (x fastest within a unit). */
	probability: Float32Array;
	/** Shannon's entropy of a cell, as a share of the greatest that the units allow: 0 sure, 1 anything. NaN in the air. */
	entropy: Float32Array;
	/** Of each unit: volumes below which 10, 50 and 90 of 100 members lie, and that of the model without errors. */
	volumes: { p10: number; p50: number; p90: number; model: number }[];
}

/** Steps of an evenly spread sequence in three dimensions: powers of the inverse of the root of x⁴ = x + 1 (Roberts 2018). */
const SPREAD = [1 / 1.2207440846057596, 1 / 1.2207440846057596 ** 2, 1 / 1.2207440846057596 ** 3] as const;

/**
 * The same data with their errors: each contact moved along the vertical together with what its hole saw around it, orientations
 * turned about a random direction, faults tilted and shifted. Data are moved in the order of their place, so that the order of rows
 * does not count.
 */
export function perturb(input: GroundInput, errors: Errors, seed: number): GroundInput {
	const { normal } = seededRandom(seed);
	const order = (list: readonly { x: number; y: number; z: number }[]) =>
		list.map((_, i) => i).sort((a, b) => list[a]!.x - list[b]!.x || list[a]!.y - list[b]!.y || list[a]!.z - list[b]!.z);
	const contacts = input.contacts.map((c) => ({ ...c }));
	const moved = new Map<string, { depth: number; by: number }[]>();
	for (const i of order(input.contacts)) {
		const c = contacts[i]!;
		const by = errors.contact * normal();
		c.z += by;
		const list = moved.get(c.hole);
		if (list) list.push({ depth: c.depth, by });
		else moved.set(c.hole, [{ depth: c.depth, by }]);
	}
	// What a hole saw moves with its nearest contact, so that bounds do not contradict it.
	const alongWith = <T extends { hole: string; depth: number; z: number }>(o: T): T => {
		const near = moved.get(o.hole)?.reduce((a, b) => (Math.abs(b.depth - o.depth) < Math.abs(a.depth - o.depth) ? b : a));
		return near ? { ...o, z: o.z + near.by } : o;
	};
	const observations = input.observations.map(alongWith);
	const absences = input.absences?.map(alongWith);
	const orientations = input.orientations.map((o) => ({ ...o }));
	for (const i of order(input.orientations)) {
		const o = orientations[i]!;
		const [tilt, turn] = [errors.orientation * normal(), errors.orientation * normal()];
		o.dip += tilt;
		// A flat plane may turn as it likes.
		o.dipAzimuth = wrapAzimuth(o.dipAzimuth + turn / Math.max(0.1, Math.sin((o.dip * Math.PI) / 180)));
		if (o.dip < 0) [o.dip, o.dipAzimuth] = [-o.dip, wrapAzimuth(o.dipAzimuth + 180)];
		if (o.dip > 90) [o.dip, o.dipAzimuth, o.polarity] = [180 - o.dip, wrapAzimuth(o.dipAzimuth + 180), o.polarity === 1 ? -1 : 1];
	}
	const faults = input.faults.map((f) => {
		const [a, b] = [f.trace[0]!, f.trace[f.trace.length - 1]!];
		const long = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
		const shift = errors.faultTrace * normal();
		const [dx, dy] = [(-(b[1] - a[1]) / long) * shift, ((b[0] - a[0]) / long) * shift];
		const moved = (line: readonly (readonly [number, number])[]) => line.map(([x, y]) => [x + dx, y + dy] as [number, number]);
		return {
			...f,
			dip: Math.min(90, Math.max(1, f.dip + errors.faultDip * normal())),
			trace: moved(f.trace),
			...(f.pieces ? { pieces: f.pieces.map(moved) } : {})
		};
	});
	return { ...input, contacts, observations, ...(absences ? { absences } : {}), orientations, faults };
}

/**
 * Doubt: many models of the same ground, each from data moved within their errors, counted in cells. The same seed gives the same
 * ensemble.
 * @throws ProblemError from `fitGround` when the data without errors can not be modelled
 */
export async function ensemble(whole: GroundInput, options: EnsembleOptions): Promise<Ensemble> {
	// Units are doubted as a whole.
	const input: GroundInput = { ...whole, divisions: [] };
	const { members, errors, seed, evaluate = evaluateHere, fit = async (i) => fitGround(i), progress = () => {}, signal } = options;
	const l = latticeOf(input.extent, options.spacing);
	const cells = l.nx * l.ny * l.nz;
	const xyz = new Float64Array(3 * cells);
	let at = 0;
	for (let k = 0; k < l.nz; k++)
		for (let j = 0; j < l.ny; j++)
			for (let i = 0; i < l.nx; i++) {
				// Each cell is looked at in another place, evenly spread, or flat layers thinner than a cell would be met all or not at all.
				const c = at / 3 + 1;
				xyz[at++] = l.x0 + (i + ((c * SPREAD[0]) % 1)) * l.dx;
				xyz[at++] = l.y0 + (j + ((c * SPREAD[1]) % 1)) * l.dy;
				xyz[at++] = l.z0 + (k + ((c * SPREAD[2]) % 1)) * l.dz;
			}
	const units = input.column.length;
	const volume = l.dx * l.dy * l.dz;
	const volumesOf = (found: Int16Array): number[] => {
		const counts = new Array<number>(units).fill(0);
		for (const u of found) if (u >= 0) counts[u]!++;
		return counts.map((c) => c * volume);
	};
	const base = await unitsAt(await fit(input), xyz, evaluate, signal);
	const counts = new Uint16Array(units * cells);
	const seen: number[][] = [];
	let failed = 0;
	for (let m = 0; m < members; m++) {
		signal?.throwIfAborted();
		progress(`model ${m + 1} of ${members}`, m / members);
		let found: Int16Array;
		try {
			found = await unitsAt(await fit(perturb(input, errors, seed + 7919 * (m + 1))), xyz, evaluate, signal);
		} catch (error) {
			if (signal?.aborted) throw error;
			failed++;
			continue;
		}
		for (let i = 0; i < cells; i++) if (found[i]! >= 0) counts[found[i]! * cells + i]!++;
		seen.push(volumesOf(found));
	}
	const n = Math.max(1, seen.length);
	const probability = Float32Array.from(counts, (c) => c / n);
	const entropy = new Float32Array(cells);
	for (let i = 0; i < cells; i++) {
		let sum = 0;
		let any = 0;
		for (let u = 0; u < units; u++) {
			const p = counts[u * cells + i]! / n;
			any += p;
			if (p > 0) sum -= p * Math.log(p);
		}
		entropy[i] = any > 0 ? sum / Math.log(Math.max(2, units)) : NaN;
	}
	const model = volumesOf(base);
	return {
		size: [l.nx, l.ny, l.nz],
		origin: [l.x0, l.y0, l.z0],
		cell: [l.dx, l.dy, l.dz],
		members: seen.length,
		failed,
		probability,
		entropy,
		volumes: model.map((v, u) => {
			const sorted = seen.map((s) => s[u]!).sort((a, b) => a - b);
			// Linear between the order statistics (Hyndman & Fan 1996, type 7).
			const quantile = (q: number) => {
				if (sorted.length === 0) return NaN;
				const t = q * (sorted.length - 1);
				const i = Math.floor(t);
				return sorted[i]! + (t - i) * ((sorted[i + 1] ?? sorted[i]!) - sorted[i]!);
			};
			return { p10: quantile(0.1), p50: quantile(0.5), p90: quantile(0.9), model: v };
		})
	};
}
