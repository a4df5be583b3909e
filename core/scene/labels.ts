/** A label on the screen, pixels; the anchor is the middle of its lower edge unless it says otherwise. */
export interface Label {
	x: number;
	y: number;
	text: string;
	/** Labels of a higher rank are placed first. */
	rank: number;
	/** Width of the text, pixels. */
	width: number;
	height: number;
}

/** The labels that can stand without touching another, the most important first. A grid of cells keeps thousands cheap. */
export function placeLabels<T extends Label>(labels: readonly T[], width: number, height: number, margin = 3): T[] {
	const CELL = 48;
	const cells = new Map<number, T[]>();
	const columns = Math.ceil(width / CELL) + 2;
	const out: T[] = [];
	for (const l of [...labels].sort((a, b) => b.rank - a.rank)) {
		const [x0, x1, y0, y1] = [l.x - l.width / 2 - margin, l.x + l.width / 2 + margin, l.y - l.height - margin, l.y + margin];
		if (x1 < 0 || y1 < 0 || x0 > width || y0 > height) continue;
		const keys: number[] = [];
		for (let cy = Math.floor(y0 / CELL); cy <= Math.floor(y1 / CELL); cy++)
			for (let cx = Math.floor(x0 / CELL); cx <= Math.floor(x1 / CELL); cx++) keys.push((cy + 1) * columns + cx + 1);
		const hits = keys.some((k) =>
			cells
				.get(k)
				?.some(
					(o) =>
						Math.abs(o.x - l.x) * 2 < o.width + l.width + 2 * margin &&
						Math.abs(o.y - o.height / 2 - (l.y - l.height / 2)) * 2 < o.height + l.height + 2 * margin
				)
		);
		if (hits) continue;
		for (const k of keys) {
			const list = cells.get(k);
			if (list) list.push(l);
			else cells.set(k, [l]);
		}
		out.push(l);
	}
	return out;
}
