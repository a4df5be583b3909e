import { describe, expect, it } from 'vitest';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { fitGround } from './fit-ground';
import { unitAt } from './walk';

/** A lens with a blunt rim, met by inclined holes that stand anywhere. */
function lens(seed: number): Truth {
	const r = random(seed);
	const box = { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 };
	const [cx, cy, rx, ry, most] = [400 + 200 * r(), 400 + 200 * r(), 220 + 150 * r(), 200 + 100 * r(), 40 + 40 * r()];
	const azimuth = 360 * r();
	return {
		box,
		column: [
			['a', 'conformable'],
			['b', 'conformable'],
			['c', 'conformable'],
			['d', 'conformable']
		],
		unitAt: (x, y, z) => {
			const middle = -190 + 30 * Math.sin(x / 230) * Math.cos(y / 310);
			const half = (most / 2) * Math.sqrt(Math.max(0, 1 - ((x - cx) / rx) ** 2 - ((y - cy) / ry) ** 2));
			return z > middle + 100 ? 0 : z > middle + half ? 1 : z > middle - half ? 2 : 3;
		},
		holes: Array.from({ length: 70 }, () => ({ x: 10 + 980 * r(), y: 10 + 980 * r(), azimuth, inclination: -65, depth: 420 }))
	};
}
/** Greatest thickness of the lens on upright lines, metres. */
function thickest(at: (x: number, y: number, z: number) => number): number {
	let most = 0;
	for (let x = 25; x < 1000; x += 50)
		for (let y = 25; y < 1000; y += 50) {
			let own = 0;
			for (let z = -398; z < 0; z += 4) if (at(x, y, z) === 2) own += 4;
			most = Math.max(most, own);
		}
	return most;
}

describe('a unit that pinches out', () => {
	it.each([1, 120])('is nowhere much thicker than it was met, though it falls steeply between two holes that are close (%d)', (seed) => {
		const truth = lens(seed);
		const found = thickest(unitAt(fitGround(seenIn(truth, logsOf(truth)).input)));
		expect(found).toBeLessThan(1.5 * thickest(truth.unitAt));
	});
});
