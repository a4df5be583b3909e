import { inverseDistanceRows, KERNEL_POWERS } from '../../kernels/inverse-distance-kernel';
import type { Gridder, MethodInput } from './method';
import { Neighbours, type Search } from './neighbours';

interface InverseDistance extends Search {
	power: number;
	/** Added to distances, so that single readings do not stand out as peaks; length units. */
	smoothing: number;
}

/** Weight at a squared distance. The whole powers are spelled out: so they are quick, and the same as in the kernel. */
function weightOf(power: number): (d: number) => number {
	if (power === 1) return (d) => 1 / Math.sqrt(d);
	if (power === 2) return (d) => 1 / d;
	if (power === 3) return (d) => 1 / (d * Math.sqrt(d));
	if (power === 4) return (d) => 1 / (d * d);
	return (d) => d ** (-power / 2);
}

/**
 * Mean of readings, each weighted by 1 / distance ^ power (Shepard 1968).
 * At a reading it is that reading, unless it is smoothed.
 */
export function inverseDistance({ points, barriers }: MethodInput, p: InverseDistance): Gridder {
	const { x: px, y: py, value } = points;
	const n = value.length;
	const all = p.most >= n && p.radius === 0 && p.sectors === 1 && !barriers.any && n <= 4000 && p.least <= n;
	const soft = p.smoothing * p.smoothing;
	const weight = weightOf(p.power);
	const mean = (x: number, y: number, among: Iterable<number>, without: number): number => {
		let sum = 0;
		let weights = 0;
		for (const i of among) {
			if (i === without) continue;
			const dx = px[i]! - x;
			const dy = py[i]! - y;
			const d = dx * dx + dy * dy + soft;
			if (d === 0) return value[i]!;
			const w = weight(d);
			sum += w * value[i]!;
			weights += w;
		}
		return sum / weights;
	};
	if (!all) {
		const near = new Neighbours(points, barriers, p);
		return { at: (x, y, without = -1) => mean(x, y, near.around(x, y, without), without) };
	}
	const every = Uint32Array.from(value.keys());
	const at = (x: number, y: number, without = -1) => mean(x, y, every, without);
	if (!KERNEL_POWERS.includes(p.power)) return { at };
	const rows = inverseDistanceRows(points, soft, p.power);
	return {
		at,
		row(y, x0, dx, out) {
			out.set(rows(y, x0, dx, out.length));
			for (let i = 0; i < out.length; i++) if (Number.isNaN(out[i]!)) out[i] = at(x0 + i * dx, y);
		}
	};
}
