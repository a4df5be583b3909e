/** A name in a row above what it names. */
export interface LeaderLabel {
	/** Where the thing stands along the row, and how wide its name is, pixels. */
	x: number;
	width: number;
	/** Names of a lower rank go first when there is no room for all. */
	rank: number;
}

/**
 * Spreads names along one row so that none touches another, each as near to its thing as that leaves it: least squares by pooling
 * neighbours that collide (pool adjacent violators, Ayer and others 1955). Their order is kept, so leader lines never cross.
 * @param low, high ends of the row
 * @returns what has a place, from the left, with the middle of its name in `at`
 */
export function spreadLabels<T extends LeaderLabel>(labels: readonly T[], low: number, high: number, gap = 6): (T & { at: number })[] {
	const kept = new Set([...labels].sort((a, b) => b.rank - a.rank));
	let total = [...kept].reduce((sum, l) => sum + l.width + gap, 0) - gap;
	for (const l of [...kept].reverse()) {
		if (total <= high - low) break;
		kept.delete(l);
		total -= l.width + gap;
	}
	const row = [...kept].sort((a, b) => a.x - b.x);
	// Less the room that all names before it take, each wants a place of its own; these must not fall from left to right.
	let before = 0;
	const offsets = row.map((l) => {
		const at = before + l.width / 2;
		before += l.width + gap;
		return at;
	});
	const pools: { sum: number; count: number }[] = [];
	row.forEach((l, i) => {
		pools.push({ sum: l.x - offsets[i]!, count: 1 });
		while (pools.length > 1) {
			const [a, b] = [pools[pools.length - 2]!, pools[pools.length - 1]!];
			if (a.sum / a.count <= b.sum / b.count) break;
			pools.splice(-2, 2, { sum: a.sum + b.sum, count: a.count + b.count });
		}
	});
	const room = high - low - Math.max(0, total);
	let i = 0;
	return pools.flatMap((p) =>
		row.slice(i, i + p.count).map((l) => ({ ...l, at: low + Math.min(room, Math.max(0, p.sum / p.count - low)) + offsets[i++]! }))
	);
}
