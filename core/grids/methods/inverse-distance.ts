import type { Gridder, MethodInput } from './method';
import { Neighbours, type Search } from './neighbours';

interface InverseDistance extends Search {
	power: number;
	/** Added to distances, so that single readings do not stand out as peaks; length units. */
	smoothing: number;
}

/**
 * Mean of readings, each weighted by 1 / distance ^ power (Shepard 1968).
 * At a reading it is that reading, unless it is smoothed.
 */
export function inverseDistance({ points, barriers }: MethodInput, p: InverseDistance): Gridder {
	const { x: px, y: py, value } = points;
	const n = value.length;
	const all = p.most >= n && p.radius === 0 && p.sectors === 1 && !barriers.any && n <= 4000;
	const soft = p.smoothing * p.smoothing;
	const half = p.power / 2;
	if (all && p.least <= n)
		return {
			at(x, y, without = -1) {
				let sum = 0;
				let weights = 0;
				for (let i = 0; i < n; i++) {
					const dx = px[i]! - x;
					const dy = py[i]! - y;
					const d = dx * dx + dy * dy + soft;
					if (i === without) continue;
					if (d === 0) return value[i]!;
					const w = half === 1 ? 1 / d : d ** -half;
					sum += w * value[i]!;
					weights += w;
				}
				return sum / weights;
			}
		};
	const near = new Neighbours(points, barriers, p);
	return {
		at(x, y, without = -1) {
			let sum = 0;
			let weights = 0;
			for (const i of near.around(x, y, without)) {
				const dx = px[i]! - x;
				const dy = py[i]! - y;
				const d = dx * dx + dy * dy + soft;
				if (d === 0) return value[i]!;
				const w = half === 1 ? 1 / d : d ** -half;
				sum += w * value[i]!;
				weights += w;
			}
			return sum / weights;
		}
	};
}
