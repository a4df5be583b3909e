import type { Bound, FieldData, GroupDatum } from './data';
import type { Field } from './field';
import { LocalFit } from './fit-local';
import { ProblemError } from '../problem';
import type { FitOptions, Solved } from './solve-field';
import { finish, solveSteps, valuesSteps, type Steps } from './steps';

export type { FitOptions } from './solve-field';

export interface Fit extends Solved {
	/** Number of bounds that hold the field. */
	activeBounds: number;
	/** Bounds that could not be met. */
	brokenBounds: number;
}

/** Up to this many rows all data are solved for at once; above it, a part of them, and the others in patches. */
const MOST_AT_ONCE = 1200;
/** Contacts, values and orientations in the part that is solved for at once. */
const COARSE = 600;
const COARSE_GRADIENTS = 120;

/**
 * Fits a scalar field by dual co-kriging with a linear drift (Lajaunie, Courrioux & Manuel 1997; Wendland 2005). With gradients
 * the drift in z is free; without any, the field is elevation plus a correction, so it always has a direction. Bounds become data
 * only where the field would break them (an active set). Many data are fitted in two steps: well-spread ones at once, then all of
 * them in overlapping patches (see `fitLocal`), so that the cost grows nearly linearly.
 *
 * The result does not depend on the order of the data.
 * @throws ProblemError `no-data`, `singular-field` (names what may be doubled or contradicting)
 */
export const fitField = (data: FieldData, options: FitOptions): Fit => finish(fitSteps(data, options));

/** The same, step by step: what can be done by threads is handed out. */
export function* fitSteps(data: FieldData, options: FitOptions): Steps<Fit> {
	const points = mergeDoubled([...data.points].sort(byPlace));
	const values = [...data.values].sort(byPlace);
	const gradients = [...data.gradients].sort(byPlace);
	const sorted = { ...data, points, values, gradients };
	const solve = (d: FieldData) => solveSteps(d, options);
	if (points.length + values.length + 3 * gradients.length <= MOST_AT_ONCE)
		return (yield* fitWithBounds(sorted, data.bounds, solve, 8)).fit;
	const coarse = {
		...sorted,
		points: spreadOut(points, (p) => `${p.group} ${p.block}`, COARSE),
		values: spreadOut(values, (p) => String(p.block), COARSE),
		gradients: spreadOut(gradients, () => '', COARSE_GRADIENTS)
	};
	const { fit, active } = yield* fitWithBounds(coarse, data.bounds, solve, 8);
	const local = new LocalFit(fit.field, options);
	const all = yield* fitWithBounds(
		{ ...sorted, points: [...points, ...active] },
		data.bounds,
		function* (d) {
			return { ...fit, field: yield* local.onto(d) };
		},
		3
	);
	return { ...all.fit, activeBounds: active.length + all.fit.activeBounds };
}

/** A field, or null when there is none through these data. */
export function* fieldOrNone(data: FieldData, options: FitOptions): Steps<Field | null> {
	try {
		return (yield* fitSteps(data, options)).field;
	} catch (error) {
		if (error instanceof ProblemError) return null;
		throw error;
	}
}

/** Fits, and makes data of the bounds that are broken, until none is. */
function* fitWithBounds(
	data: FieldData,
	bounds: readonly Bound[],
	solve: (data: FieldData) => Steps<Solved>,
	rounds: number
): Steps<{ fit: Fit; active: GroupDatum[] }> {
	const active: GroupDatum[] = [];
	let best: Fit | null = null;
	for (let round = 0; round < rounds; round++) {
		const fit = yield* solve({ ...data, points: [...data.points, ...active] });
		const found = yield* worstBroken(bounds, fit.field);
		// A margin is wished for; told is only what lies on the wrong side.
		const wrong = found.filter((b) => b.wrong).length;
		best = { ...fit, activeBounds: active.length, brokenBounds: wrong };
		const broken = found.map((b) => b.bound);
		if (broken.length === 0 || round === rounds - 1) break;
		for (const b of broken) active.push({ x: b.x, y: b.y, z: b.z, group: b.group, block: b.block, offset: b.sense * (b.margin ?? 0) });
		if (active.length > 4 * data.points.length + 200) break;
	}
	return { fit: best!, active };
}

/**
 * A part of the data that is spread out as well as can be: in each kind, again and again the datum that is farthest from all that
 * were taken (Gonzalez 1985). Kinds get as many as they have data, but none less than 12 or all of them.
 */
export function spreadOut<T extends { x: number; y: number; z: number }>(data: readonly T[], kindOf: (d: T) => string, most: number): T[] {
	if (data.length <= most) return [...data];
	const kinds = new Map<string, number[]>();
	data.forEach((d, i) => {
		const kind = kindOf(d);
		const list = kinds.get(kind);
		if (list) list.push(i);
		else kinds.set(kind, [i]);
	});
	const taken: number[] = [];
	for (const list of kinds.values()) {
		const count = Math.min(list.length, Math.max(12, Math.round((most * list.length) / data.length)));
		const far = new Float64Array(list.length).fill(Infinity);
		let next = 0;
		for (let n = 0; n < count; n++) {
			taken.push(list[next]!);
			const p = data[list[next]!]!;
			let best = -1;
			for (let i = 0; i < list.length; i++) {
				const q = data[list[i]!]!;
				const d = (p.x - q.x) ** 2 + (p.y - q.y) ** 2 + (p.z - q.z) ** 2;
				if (d < far[i]!) far[i] = d;
				if (far[i]! > best) {
					best = far[i]!;
					next = i;
				}
			}
		}
	}
	return taken.sort((a, b) => a - b).map((i) => data[i]!);
}

const byPlace = (a: { x: number; y: number; z: number }, b: { x: number; y: number; z: number }) => a.x - b.x || a.y - b.y || a.z - b.z;

/** Points of one group closer than a hundred-thousandth of the data's size count once. */
function mergeDoubled(points: GroupDatum[]): GroupDatum[] {
	if (points.length < 2) return points;
	const size = Math.max(...(['x', 'y', 'z'] as const).map((c) => spread(points.map((p) => p[c]))));
	const near = Math.max(size * 1e-6, Number.EPSILON);
	const kept: GroupDatum[] = [];
	for (const p of points) {
		let doubled = false;
		for (let i = kept.length - 1; i >= 0 && p.x - kept[i]!.x <= near; i--) {
			const q = kept[i]!;
			if (q.group === p.group && Math.abs(q.y - p.y) <= near && Math.abs(q.z - p.z) <= near) doubled = true;
		}
		if (!doubled) kept.push(p);
	}
	return kept;
}

const spread = (v: number[]): number => {
	let low = Infinity;
	let high = -Infinity;
	for (const x of v) {
		if (x < low) low = x;
		if (x > high) high = x;
	}
	return high - low;
};

/** For each source and group, the bound that is broken most. */
function* worstBroken(bounds: readonly Bound[], field: Field): Steps<{ bound: Bound; wrong: boolean }[]> {
	const asked = bounds.filter((b) => !Number.isNaN(field.levels[b.group]!));
	const values = yield* valuesSteps(field, asked);
	const worst = new Map<string, { bound: Bound; by: number; wrong: boolean }>();
	asked.forEach((bound, i) => {
		const inside = bound.sense * (values[i]! - field.levels[bound.group]!);
		const by = (bound.margin ?? 0) / field.unit - inside;
		if (by <= 1e-6) return;
		const key = `${bound.source}\t${bound.group}\t${bound.sense}`;
		const known = worst.get(key);
		const wrong = inside < -1e-6 || (known?.wrong ?? false);
		if (!known || by > known.by) worst.set(key, { bound, by, wrong });
		else known.wrong = wrong;
	});
	return [...worst.keys()].sort().map((k) => worst.get(k)!);
}
