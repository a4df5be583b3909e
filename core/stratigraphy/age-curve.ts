import { fail } from '../problem';
import { orderedAges, type AgeBelief } from './ordered-ages';
import type { LoggedRun } from './runs';
import { chronology, unitsByName, type Scheme } from '../units/scheme';

/** An age at a depth of a hole. */
export interface DatedDepth {
	depth: number;
	/** Million years, and its standard deviation; a range has limits instead. */
	age: number;
	error: number;
	low?: number | undefined;
	high?: number | undefined;
	/** Side of a hiatus that it holds for. */
	side?: 'above' | 'below' | undefined;
	/** What says so. */
	from: 'boundary' | 'sample' | 'zone';
	name: string;
}

/** A place of an age–depth curve; at a hiatus there are two at one depth. */
interface AgeKnot {
	depth: number;
	/** Median of the draws, and 5 and 95 of 100. */
	age: number;
	low: number;
	high: number;
	name: string;
	from: DatedDepth['from'];
}

export interface AgeCurve {
	hole: string;
	knots: AgeKnot[];
	/** Ages that contradict most others, which the curve does not follow. */
	aside: DatedDepth[];
	/** Ages at the knots of some of the draws. */
	bundle: number[][];
	/** Between each knot and the next: rate of accumulation, length units for a million years, median and 5 and 95 of 100; null across a hiatus. */
	rates: ({ rate: number; low: number; high: number } | null)[];
}

/** Ages are taken for one boundary when they differ by no more than so many of their errors together. */
const ONE_BOUNDARY = 2;
const LEAST_ERROR = 1e-3;

/**
 * What the boundaries of a log say of ages, by a scheme: where two units follow each other in the scheme their boundary has an age; where
 * time is missing between them there is a hiatus, and either side may have any age that its unit has.
 * @param runs of a hole, from the top down
 */
export function datedBoundaries(scheme: Scheme, runs: readonly LoggedRun[]): DatedDepth[] {
	const byName = unitsByName(scheme);
	const out: DatedDepth[] = [];
	for (let i = 1; i < runs.length; i++) {
		const [a, b] = [runs[i - 1]!, runs[i]!];
		if (Math.abs(a.to - b.from) > 1e-6) continue;
		const [above, below] = [byName(a.name), byName(b.name)];
		const depth = b.from;
		const error = (u: typeof above) => Math.max(LEAST_ERROR, u?.error ?? 0);
		const name = `${a.name} on ${b.name}`;
		const [end, begin] = [above?.base ?? null, below?.top ?? null];
		if (end !== null && begin !== null && Math.abs(end - begin) <= ONE_BOUNDARY * Math.hypot(error(above), error(below)) + 1e-9) {
			const [wa, wb] = [error(above) ** -2, error(below) ** -2];
			out.push({ depth, age: (end * wa + begin * wb) / (wa + wb), error: Math.min(error(above), error(below)), from: 'boundary', name });
			continue;
		}
		if (end !== null && begin !== null && begin < end) continue;
		if (end !== null && above!.top !== null)
			out.push({
				depth,
				age: end,
				error: Infinity,
				low: above!.top,
				high: end,
				side: 'above',
				from: 'boundary',
				name: `base of ${a.name}`
			});
		if (begin !== null && below!.base !== null)
			out.push({
				depth,
				age: begin,
				error: Infinity,
				low: begin,
				high: below!.base,
				side: 'below',
				from: 'boundary',
				name: `top of ${b.name}`
			});
	}
	return out;
}

/** How far two ages, the upper one first, are in the wrong order, beyond three of their errors together; 0 and less is none. */
function disorder(a: DatedDepth, b: DatedDepth): number {
	const oldest = Number.isFinite(b.error) ? b.age : (b.high ?? Infinity);
	const youngest = Number.isFinite(a.error) ? a.age : (a.low ?? 0);
	const error = Math.hypot(Number.isFinite(a.error) ? a.error : 0, Number.isFinite(b.error) ? b.error : 0);
	return youngest - oldest - 3 * error;
}

/** Takes out, one by one, the age that contradicts most of the others, until none does. @param list from the top down */
function consistent(list: readonly DatedDepth[]): { kept: DatedDepth[]; aside: DatedDepth[] } {
	const kept = [...list];
	const aside: DatedDepth[] = [];
	for (;;) {
		const conflicts = kept.map((d, i) => {
			const off = kept.map((e, j) => (i === j ? 0 : Math.max(0, i < j ? disorder(d, e) : disorder(e, d))));
			return { count: off.filter((x) => x > 0).length, sum: off.reduce((a, b) => a + b, 0) };
		});
		const worst = conflicts.reduce(
			(w, c, i) => (c.count > conflicts[w]!.count || (c.count === conflicts[w]!.count && c.sum > conflicts[w]!.sum) ? i : w),
			0
		);
		if (!conflicts[worst]?.count) return { kept, aside };
		aside.push(...kept.splice(worst, 1));
	}
}

/**
 * The age–depth curve of a hole: ages in order down the hole, straight between dated depths, with a step at each hiatus. An age that
 * contradicts most of the others is set aside and named; smaller ones are evened out by the order.
 * @param dated in any order
 * @throws ProblemError `too-few-ages`
 */
export function ageCurve(hole: string, dated: readonly DatedDepth[], draws = 1000, seed = 1): AgeCurve {
	const place = (d: DatedDepth) => (d.side === 'above' ? 0 : d.side === 'below' ? 2 : 1);
	const sorted = [...dated].sort((a, b) => a.depth - b.depth || place(a) - place(b) || a.age - b.age);
	const { kept: list, aside } = consistent(
		sorted.filter((d, i) => i === 0 || d.side || sorted[i - 1]!.side || d.depth > sorted[i - 1]!.depth || d.from !== sorted[i - 1]!.from)
	);
	if (new Set(list.map((d) => d.depth)).size < 2)
		fail(
			'too-few-ages',
			list.length === 0 ? `nothing dates ${hole}` : `${hole} is dated at one depth only`,
			'A curve needs ages at two depths: boundaries between units with ages in the scheme, dated samples, or zones.',
			hole
		);
	const beliefs = list.map((d): AgeBelief => ({ mean: d.age, sd: d.error, low: d.low, high: d.high }));
	const drawn = orderedAges(beliefs, draws, seed);
	const knots = list.map((d, i): AgeKnot => ({
		depth: d.depth,
		age: drawn.median[i]!,
		low: drawn.low[i]!,
		high: drawn.high[i]!,
		name: d.name,
		from: d.from
	}));
	const rates = knots.slice(1).map((k, i) => {
		const length = k.depth - knots[i]!.depth;
		if (!(length > 1e-9)) return null;
		const own = drawn.draws.map((x) => length / Math.max(1e-6, x[i + 1]! - x[i]!)).sort((a, b) => a - b);
		const at = (share: number) => own[Math.min(own.length - 1, Math.floor(share * own.length))]!;
		return { rate: at(0.5), low: at(0.05), high: at(0.95) };
	});
	const every = Math.max(1, Math.floor(draws / 40));
	return { hole, knots, aside, bundle: drawn.draws.filter((_, i) => i % every === 0).map((d) => Array.from(d)), rates };
}

/** Age at a depth; at a hiatus that of its lower side, or of the upper one. NaN outside of what is dated. */
export function ageAt(curve: Pick<AgeCurve, 'knots'>, depth: number, side: 'above' | 'below' = 'below'): number {
	const k = curve.knots;
	if (k.length === 0 || depth < k[0]!.depth || depth > k[k.length - 1]!.depth) return NaN;
	const exact = k.filter((x) => x.depth === depth);
	if (exact.length) return side === 'above' ? exact[0]!.age : exact[exact.length - 1]!.age;
	const i = k.findIndex((x) => x.depth > depth);
	const [a, b] = [k[i - 1]!, k[i]!];
	return a.age + ((b.age - a.age) * (depth - a.depth)) / (b.depth - a.depth);
}

/** Depths between which a curve runs through a span of ages, stretch by stretch; null where it never does. */
export function depthsOfAges(curve: Pick<AgeCurve, 'knots'>, top: number, base: number): [number, number] | null {
	let [from, to] = [Infinity, -Infinity];
	for (let i = 1; i < curve.knots.length; i++) {
		const [a, b] = [curve.knots[i - 1]!, curve.knots[i]!];
		if (b.depth - a.depth < 1e-9) continue;
		const at = (age: number) =>
			b.age - a.age < 1e-12 ? (age <= a.age ? a.depth : b.depth) : a.depth + ((b.depth - a.depth) * (age - a.age)) / (b.age - a.age);
		const [low, high] = [Math.max(a.depth, Math.min(b.depth, at(top))), Math.max(a.depth, Math.min(b.depth, at(base)))];
		if (high - low > 1e-9) [from, to] = [Math.min(from, low), Math.max(to, high)];
	}
	return from < to ? [from, to] : null;
}

/** Which units of a rank of a scheme a curve runs through, by its ages. */
export function timeIntervals(scheme: Scheme, rank: number, curve: AgeCurve): LoggedRun[] {
	return chronology(scheme)
		.flatMap((u) => {
			if (u.rank !== rank || u.top === null || u.base === null) return [];
			const depths = depthsOfAges(curve, u.top, u.base);
			return depths ? [{ from: depths[0], to: depths[1], name: u.name }] : [];
		})
		.sort((a, b) => a.from - b.from);
}
