import { against, besideRun, meeting, type Order, type Run } from './meeting';

/** Before the first run of a hole. */
const START = -2;
/** Holes that show a boundary, as a share of all and at least, where it is usual; at most where it is not, or the hole itself alone. */
const USUAL = 0.1;
const FEWEST_USUAL = 5;
const UNUSUAL = 0.03;
/** Boundaries that are upside down are odd by themselves where no larger share of all is. */
const TURNED = 0.04;
/** Boundaries that tell such a share, at least. */
const FEWEST = 100;

/**
 * Finds runs that look like a wrong code: with another unit they would fit what lies above and below, with their own they do not, and
 * nothing is mended as well by another unit for a neighbour; or if it is, what the hole would show then is usual in other holes, and what it
 * would show with the other one mended is seen nowhere. What folds or faults repeat without a gap in the order is none.
 * @returns for a hole, by the index of its odd runs, the units that would fit
 */
export function findOddRuns(
	all: readonly { hole: { name: string }; runs: readonly Run[] }[],
	order: Order
): (runs: readonly Run[], hole: string) => Map<number, number[]> {
	const size = order.column.length + 2;
	const key = (upper: number, lower: number) => (upper + 2) * size + lower + 2;
	const seen = new Map<number, number>();
	let [turned, boundaries] = [0, 0];
	for (const { runs } of all) {
		const own = new Set<number>();
		runs.forEach((r, i) => {
			const above = i === 0 ? START : runs[i - 1]!.unit;
			if (r.unit < 0 || above === -1) return;
			own.add(key(above, r.unit));
			if (above < 0 || above === r.unit) return;
			boundaries++;
			const m = meeting(above, r.unit, order);
			if (!('rule' in m) && m.turned) turned++;
		});
		for (const k of own) seen.set(k, (seen.get(k) ?? 0) + 1);
	}
	const turnedIsOdd = boundaries >= FEWEST && turned <= TURNED * boundaries;
	/** In how few holes the boundaries are seen that a hole would show around a run of another unit. */
	const seenWith = (runs: readonly Run[], i: number, unit: number, last: number): number => {
		let before = i < 2 ? START : runs[i - 2]!.unit;
		let least = Infinity;
		for (let k = Math.max(0, i - 1); k <= Math.min(last, runs.length - 1); k++) {
			const own = k === i ? unit : runs[k]!.unit;
			if (own !== before && own >= 0 && before !== -1) least = Math.min(least, seen.get(key(before, own)) ?? 0);
			before = own;
		}
		return least;
	};
	return (runs, hole) => {
		/** Whether what lies above or below a run can not lie there. */
		const isRefused = (i: number, by: 1 | -1): boolean => {
			const { unit, gap } = besideRun(runs, i, by);
			const [above, below] = by < 0 ? [unit, runs[i]!.unit] : [runs[i]!.unit, unit];
			if (above < 0 || below < 0 || above === below) return false;
			const m = meeting(above, below, order);
			return 'rule' in m ? against(above, below, order, hole, gap) > 0 : m.turned && turnedIsOdd;
		};
		const best = runs.map((run, i): { gain: number; units: number[] } => {
			const [over, under] = [besideRun(runs, i, -1), besideRun(runs, i, 1)];
			const [above, below] = [over.unit, under.unit];
			// At the end of a hole one neighbour must do: a unit that is left out there may be missing in truth, one that is upside down is not.
			const isEnd = above < 0 || below < 0;
			if (run.unit < 0 || (isEnd && !(above > run.unit || (below >= 0 && run.unit > below)))) return { gain: 0, units: [] };
			const cost = (unit: number) => against(above, unit, order, hole, over.gap) + against(unit, below, order, hole, under.gap);
			const own = cost(run.unit);
			if (own === 0) return { gain: 0, units: [] };
			let units: number[] = [];
			let least = own;
			for (const u of order.logged) {
				if (u < 0 || u === run.unit) continue;
				const now = cost(u);
				if (now < least) [least, units] = [now, [u]];
				else if (now === least && now < own) units.push(u);
			}
			return { gain: own - least, units };
		});
		/** Whether a run is to be mended rather than one beside it that would mend as much. */
		const isLikelier = (i: number, beside: number): boolean => {
			const [own, other] = [best[i]!, best[beside]];
			if (!other || other.gain < own.gain) return true;
			if (other.gain > own.gain) return false;
			const last = Math.max(i, beside) + 2;
			const usual = Math.max(...own.units.map((u) => seenWith(runs, i, u, last)));
			const unusual = Math.max(...other.units.map((u) => seenWith(runs, beside, u, last)));
			return usual >= Math.max(FEWEST_USUAL, USUAL * all.length) && unusual <= Math.max(1, UNUSUAL * all.length);
		};
		const out = new Map<number, number[]>();
		runs.forEach((_, i) => {
			const { gain, units } = best[i]!;
			if (gain === 0 || !(isRefused(i, -1) || isRefused(i, 1))) return;
			if (([-1, 1] as const).every((by) => isLikelier(i, besideRun(runs, i, by).i))) out.set(i, units);
		});
		return out;
	};
}
