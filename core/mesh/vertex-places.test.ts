import { describe, expect, it } from 'vitest';
import { areaFromAbove, distanceFromEdge, distanceSquared, sixfoldVolume } from './vertex-places';

const p = Float64Array.from(
	[
		[0, 0, 0],
		[4, 0, 0],
		[0, 3, 0],
		[1, 1, 5],
		[1, 1, -5],
		[9, 12, 0]
	].flat()
);

describe('measures between vertices', () => {
	it('are distances of places, and from an edge or its nearer end', () => {
		expect([distanceSquared(p, 1, 2), distanceSquared(p, 3, 3)]).toEqual([25, 0]);
		expect(distanceFromEdge(p, 3, 0, 1)).toBeCloseTo(Math.hypot(1, 5), 12);
		expect(distanceFromEdge(p, 5, 0, 1)).toBeCloseTo(13, 12);
		expect(distanceFromEdge(p, 1, 2, 2)).toBe(5);
	});

	it('are areas and volumes with a sign that tells the side', () => {
		// Seen from above, the triangle turns to the left: its front is up.
		expect([areaFromAbove(p, 0, 1, 2), areaFromAbove(p, 0, 2, 1), areaFromAbove(p, 0, 3, 4) + 0]).toEqual([6, -6, 0]);
		expect([sixfoldVolume(p, 3, 0, 1, 2), sixfoldVolume(p, 4, 0, 1, 2), sixfoldVolume(p, 5, 0, 1, 2) + 0]).toEqual([-60, 60, 0]);
	});
});
