import type { Rectangle } from '../frame';
import type { Points } from '../points';

/** The rectangle about readings. */
export function frameBoxOf({ x, y }: Pick<Points, 'x' | 'y'>): Rectangle {
	const b = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity };
	for (let i = 0; i < x.length; i++) {
		b.minX = Math.min(b.minX, x[i]!);
		b.maxX = Math.max(b.maxX, x[i]!);
		b.minY = Math.min(b.minY, y[i]!);
		b.maxY = Math.max(b.maxY, y[i]!);
	}
	return b;
}
