import type { Hole } from '../holes/holes';
import { positionAt } from '../holes/path';
import { unitOrCode, type Lumping } from '../units/column';
import { evaluateHere, type Evaluate } from './evaluate';
import { unitsAt } from './classify';
import type { FittedDivision, Ground } from './fit-ground';
import { columnUnitOf, unitsOf } from './whole';

/** A part of a hole in which the model has another unit than the log. */
interface Mismatch {
	hole: string;
	from: number;
	to: number;
	/** Indexes into all units. */
	logged: number;
	modelled: number;
	/** Its middle. */
	x: number;
	y: number;
	z: number;
}

export interface BackFlag {
	/** Logged length by logged unit (row) and modelled unit (column) of all units, row by row; the last column is what lies above the terrain or outside the extent. */
	lengths: Float64Array;
	/** Length on which log and model agree, and length that was compared. */
	agreed: number;
	compared: number;
	/** Longest first. */
	mismatches: Mismatch[];
}

/** Step along the holes that suits a model of some spacing. */
export const flagStep = (spacing: number): number => spacing / 40;

const MOST_MISMATCHES = 500;
const MOST_SAMPLES = 2_000_000;

/**
 * Flags every hole with the unit that the model has along it and compares that with the log, sampled at a step along the hole.
 * @param step length units; wider when it would take more than two million samples
 * @param division compares its parts instead of the units of the column; outside of it the model has the unit of the column
 */
export async function backFlag(
	ground: Ground,
	holes: readonly Hole[],
	lumping: Lumping,
	step: number,
	evaluate: Evaluate = evaluateHere,
	signal?: AbortSignal,
	division?: FittedDivision
): Promise<BackFlag> {
	const { column, extent: e } = ground.input;
	const first = division?.firstUnit ?? 0;
	const asked = division ? division.ground.input.column : column;
	const index = new Map(asked.map((u, i) => [u.id, first + i]));
	const count = unitsOf(ground).length;
	const runs = holes
		.flatMap((h) => h.intervals.map((interval) => ({ hole: h, interval, unit: index.get(unitOrCode(lumping, interval.code)) ?? -1 })))
		.filter((r) => r.unit >= 0);
	const total = runs.reduce((s, r) => s + r.interval.to - r.interval.from, 0);
	const own = Math.max(step, total / MOST_SAMPLES);
	const counts = runs.map((r) => Math.max(1, Math.round((r.interval.to - r.interval.from) / own)));
	const xyz = new Float64Array(3 * counts.reduce((a, b) => a + b, 0));
	let at = 0;
	runs.forEach(({ hole, interval }, k) => {
		for (let i = 0; i < counts[k]!; i++, at += 3)
			xyz.set(positionAt(hole.path, interval.from + ((i + 0.5) / counts[k]!) * (interval.to - interval.from)), at);
	});
	const units = await unitsAt(ground, xyz, evaluate, signal);
	const columnUnit = columnUnitOf(ground);
	const unitIn = (u: number) => (division && u >= first && u < first + asked.length ? u : columnUnit[u]!);
	const width = count + 1;
	const result: BackFlag = { lengths: new Float64Array(count * width), agreed: 0, compared: 0, mismatches: [] };
	let s = 0;
	let open: Mismatch | null = null;
	runs.forEach(({ hole, interval, unit }, k) => {
		const piece = (interval.to - interval.from) / counts[k]!;
		for (let i = 0; i < counts[k]!; i++, s++) {
			const [x, y, z] = [xyz[3 * s]!, xyz[3 * s + 1]!, xyz[3 * s + 2]!];
			const outside = x < e.minX || x > e.maxX || y < e.minY || y > e.maxY || z < e.minZ || z > e.maxZ;
			const modelled = outside || units[s]! < 0 ? count : unitIn(units[s]!);
			result.lengths[unit * width + modelled]! += piece;
			if (modelled === count) {
				open = null;
				continue;
			}
			result.compared += piece;
			if (modelled === unit) {
				result.agreed += piece;
				open = null;
				continue;
			}
			const [from, to] = [interval.from + i * piece, interval.from + (i + 1) * piece];
			const last: Mismatch | null = open;
			if (last && last.hole === hole.name && last.logged === unit && last.modelled === modelled && Math.abs(last.to - from) < 1e-6)
				last.to = to;
			else result.mismatches.push((open = { hole: hole.name, from, to, logged: unit, modelled, x, y, z }));
		}
	});
	result.mismatches.sort((a, b) => b.to - b.from - (a.to - a.from) || (a.hole < b.hole ? -1 : 1) || a.from - b.from);
	result.mismatches = result.mismatches.slice(0, MOST_MISMATCHES);
	return result;
}
