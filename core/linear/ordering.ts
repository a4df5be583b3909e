/**
 * Orders things so that little of what is known of pairs is broken: the minimum feedback arc set, which has no quick exact
 * answer. Two starts, the greedy one of Eades, Lin & Smyth (1993) and the order by `hint`, are improved by moving one thing at a
 * time to its best place until none moves; the better end is taken. O(n²) a round.
 * @param above `above[a][b]` says how much speaks for a before b; n × n, not negative
 * @param hint where a thing stands when nothing else tells; by n
 * @param fixed things that keep the order in which they are given
 * @returns the things 0 to n − 1, first to last
 */
export function fewestBroken(above: readonly Float64Array[], hint: Float64Array, fixed: readonly number[] = []): number[] {
	const all = Array.from(hint, (_, i) => i);
	const byHint = [...all].sort((a, b) => hint[a]! - hint[b]! || a - b);
	const starts = [byHint, greedyOrder(above, byHint)].map((start) => improved(above, withFixed(start, fixed), new Set(fixed)));
	return broken(above, starts[1]!) < broken(above, starts[0]!) ? starts[1]! : starts[0]!;
}

/** What speaks against an order. */
export function broken(above: readonly Float64Array[], order: readonly number[]): number {
	let sum = 0;
	for (let i = 0; i < order.length; i++) for (let k = i + 1; k < order.length; k++) sum += above[order[k]!]![order[i]!]!;
	return sum;
}

/** The places that fixed things hold, given to them in their own order. */
function withFixed(order: readonly number[], fixed: readonly number[]): number[] {
	const held = new Set(fixed);
	let next = 0;
	return order.map((a) => (held.has(a) ? fixed[next++]! : a));
}

/** Sinks go last, sources first, and of the rest the one with the greatest surplus comes next. */
function greedyOrder(above: readonly Float64Array[], things: readonly number[]): number[] {
	const left = new Set(things);
	const surplus = new Map(things.map((a) => [a, things.reduce((s, b) => s + above[a]![b]! - above[b]![a]!, 0)]));
	const order: number[] = [];
	while (left.size) {
		let best = -1;
		for (const a of left) if (best < 0 || surplus.get(a)! > surplus.get(best)!) best = a;
		left.delete(best);
		order.push(best);
		for (const b of left) surplus.set(b, surplus.get(b)! + above[best]![b]! - above[b]![best]!);
	}
	return order;
}

function improved(above: readonly Float64Array[], start: readonly number[], fixed: ReadonlySet<number>): number[] {
	const order = [...start];
	for (let round = 0; round < 50; round++) {
		let moved = false;
		for (const a of start) {
			if (fixed.has(a)) continue;
			const from = order.indexOf(a);
			// What is saved by going up to, or down to, each place.
			let [best, to] = [1e-9, from];
			for (const step of [-1, 1]) {
				let saved = 0;
				for (let i = from + step; i >= 0 && i < order.length; i += step) {
					const b = order[i]!;
					saved += step * (above[b]![a]! - above[a]![b]!);
					if (saved > best) [best, to] = [saved, i];
				}
			}
			if (to === from) continue;
			order.splice(from, 1);
			order.splice(to, 0, a);
			moved = true;
		}
		if (!moved) break;
	}
	return order;
}
