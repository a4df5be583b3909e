import { numberOf, type DataSet } from '../datasets/dataset';
import { clipped, rowsOf, type LogData, type LogFrame, type LogHole } from './log-parts';

/** Values that fall onto one place of a curve. */
interface Held {
	y: number;
	low: number;
	high: number;
	first: number;
	last: number;
}

/**
 * A curve as runs without gap. Where many values fall onto a quarter of a millimetre, the least and the greatest of them are kept, so
 * that peaks stay.
 */
export function runsOf(table: string, key: string, hole: LogHole, data: LogData, frame: LogFrame, x: (v: number) => number): number[][] {
	const set = data.set(table);
	const column = set ? numberOf(set, key) : null;
	if (!set || !column || set.place === 'map' || set.place === 'hole') return [];
	const rows = rowsOf(data, set, hole.number);
	const gap = set.place === 'interval' ? 0.01 : typicalStep(set, rows) * 5;
	const runs: number[][] = [];
	let run: number[] = [];
	let before = NaN;
	const bin = 0.25;
	let held: Held | null = null;
	const release = () => {
		if (!held) return;
		if (held.low === held.high) run.push(held.first, held.y);
		else run.push(held.first, held.y, held.low, held.y, held.high, held.y, held.last, held.y);
		held = null;
	};
	for (const i of rows) {
		const w = x(column.values[i]!);
		if (Number.isNaN(w) || set.to[i]! < frame.from || set.from[i]! > frame.to) continue;
		if (!Number.isNaN(before) && set.from[i]! - before > gap) {
			release();
			if (run.length >= 4) runs.push(run);
			run = [];
		}
		before = set.to[i]!;
		const ys = set.place === 'interval' ? clipped(frame, set.from[i]!, set.to[i]!) : [frame.y(set.from[i]!)];
		for (const y of ys) {
			const now = held as Held | null;
			if (now && Math.abs(y - now.y) < bin) held = { ...now, low: Math.min(now.low, w), high: Math.max(now.high, w), last: w };
			else {
				release();
				held = { y, low: w, high: w, first: w, last: w };
			}
		}
	}
	release();
	if (run.length >= 4) runs.push(run);
	return runs;
}

/** Median distance of neighbouring rows of a hole. */
function typicalStep(set: DataSet, rows: Uint32Array): number {
	const steps: number[] = [];
	for (let k = 1; k < Math.min(rows.length, 200); k++) steps.push(set.from[rows[k]!]! - set.from[rows[k - 1]!]!);
	steps.sort((a, b) => a - b);
	return Math.max(0.01, steps[steps.length >> 1] ?? Infinity);
}
