import { seededRandom } from '#core/statistics/random';
import { truthLog, type DemoHole } from '../generate';
import { placeAt } from './holes';
import { gradeAt, TARROW, TARROW_COLUMN } from './truth';

/** What is certified for the standards of the laboratory: WO3, Sn and As, ppm. */
export const STANDARDS: Record<string, readonly [number, number, number]> = { 'TS-1': [310, 64, 38], 'TS-2': [4200, 760, 240] };
/** Batches that fail: a standard far off in one, a blank that carries metal in the other. */
export const FAILED_BATCHES = { standard: 'B07', blank: 'B15' } as const;

/** Lines of the file that are controls, counted from 1 with the header, so that no grade is made of them. */
export const controlLines = (rows: readonly string[][]): number[] => rows.flatMap((r, i) => (r.at(-1) === 'original' ? [] : [i + 2]));

export const ASSAY_HEADER = ['HoleID', 'From', 'To', 'SampleID', 'WO3_ppm', 'Sn_ppm', 'As_ppm', 'Batch', 'SampleType'];
const BATCH = 40;
/** Detection limit of arsenic, ppm. */
const LEAST_ARSENIC = 5;

/**
 * Samples of 2 m in limestone and skarn, and of 5 m in the granite below them, in batches of forty with a standard, a blank and a duplicate each,
 * which stand at the interval of the sample before them.
 * A value below detection is written with its limit.
 */
export function assayRows(holes: readonly DemoHole[]): string[][] {
	const random = seededRandom(909);
	const rows: string[][] = [];
	let sample = 1000;
	let inBatch = 0;
	let batch = 0;
	const name = () => `B${String(batch).padStart(2, '0')}`;
	const values = (wo3: number, tin: number, arsenic: number): string[] => [
		wo3.toFixed(0),
		tin.toFixed(0),
		arsenic < LEAST_ARSENIC ? `<${LEAST_ARSENIC}` : arsenic.toFixed(1)
	];
	const noisy = (v: number, by: number) => v * Math.exp(by * random.normal());
	const row = (at: string[], [wo3, tin, arsenic]: readonly [number, number, number], by: number, type: string) =>
		rows.push([...at, `S${sample++}`, ...values(noisy(wo3, by), noisy(tin, by), noisy(arsenic, by)), name(), type]);
	for (const hole of holes)
		for (const run of truthLog(hole.path, TARROW.unitAt)) {
			const unit = TARROW_COLUMN[run.unit]!.id;
			if (!['marrick', 'skarn', 'granite'].includes(unit)) continue;
			const step = unit === 'granite' ? 5 : 2;
			for (let d = run.from; d < run.to - 0.25; d += step) {
				const to = Math.min(d + step, run.to);
				const g = gradeAt(...placeAt(hole, (d + to) / 2));
				const at = [hole.name, d.toFixed(2), to.toFixed(2)];
				const grades = [g.wo3, g.tin, g.arsenic] as const;
				if (inBatch === 0) batch++;
				row(at, grades, 0.32, 'original');
				inBatch++;
				if (inBatch === 15) row(at, grades, 0.36, 'duplicate');
				if (inBatch === 25) {
					const standard = STANDARDS[batch % 2 ? 'TS-1' : 'TS-2']!;
					const off = name() === FAILED_BATCHES.standard ? 1.24 : 1;
					row(at, [standard[0] * off, standard[1] * off, standard[2]], 0.025, `standard ${batch % 2 ? 'TS-1' : 'TS-2'}`);
				}
				if (inBatch === 35) row(at, name() === FAILED_BATCHES.blank ? [92, 31, 12] : [2, 1, 1], 0.2, 'blank');
				if (inBatch >= BATCH) inBatch = 0;
			}
		}
	return rows;
}
