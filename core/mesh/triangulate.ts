/**
 * Best triangulation of a small planar convex loop that may have vertices in the middle of straight edges: the one whose worst
 * triangle is best (dynamic programming over sub-polygons, Klincsek 1980).
 * @param xyz coordinates of all vertices, flat
 * @param loop vertex indexes, anticlockwise
 * @returns triangles as triples of entries of `loop`, with the same turn
 */
export function triangulateLoop(xyz: ArrayLike<number>, loop: readonly number[]): number[] {
	const n = loop.length;
	if (n === 3) return [...loop];
	if (n === 4) {
		const [a, b, c, d] = loop as [number, number, number, number];
		const split0 = Math.min(quality(xyz, a, b, c), quality(xyz, a, c, d));
		const split1 = Math.min(quality(xyz, a, b, d), quality(xyz, b, c, d));
		return !better(split1, split0) ? [a, b, c, a, c, d] : [a, b, d, b, c, d];
	}
	const best = new Float64Array(n * n).fill(Infinity);
	const apex = new Int32Array(n * n);
	for (let gap = 2; gap < n; gap++)
		for (let i = 0; i + gap < n; i++) {
			const j = i + gap;
			best[i * n + j] = -1;
			for (let k = i + 1; k < j; k++) {
				const q = Math.min(best[i * n + k]!, best[k * n + j]!, quality(xyz, loop[i]!, loop[k]!, loop[j]!));
				if (better(q, best[i * n + j]!)) {
					best[i * n + j] = q;
					apex[i * n + j] = k;
				}
			}
		}
	const out: number[] = [];
	const emit = (i: number, j: number) => {
		if (j - i < 2) return;
		const k = apex[i * n + j]!;
		emit(i, k);
		emit(k, j);
		out.push(loop[i]!, loop[k]!, loop[j]!);
	};
	emit(0, n - 1);
	return out;
}

/** Whether a quality is greater than another by more than the last digits of coordinates make. */
const better = (q: number, than: number): boolean => q > than + 1e-3 * Math.abs(than) + 1e-13;

/** Four times the area squared over the longest edge to the fourth: 0 for a sliver, 0.75 for an equilateral triangle. */
function quality(xyz: ArrayLike<number>, a: number, b: number, c: number): number {
	const ux = xyz[3 * b]! - xyz[3 * a]!;
	const uy = xyz[3 * b + 1]! - xyz[3 * a + 1]!;
	const uz = xyz[3 * b + 2]! - xyz[3 * a + 2]!;
	const vx = xyz[3 * c]! - xyz[3 * a]!;
	const vy = xyz[3 * c + 1]! - xyz[3 * a + 1]!;
	const vz = xyz[3 * c + 2]! - xyz[3 * a + 2]!;
	const wx = vx - ux;
	const wy = vy - uy;
	const wz = vz - uz;
	const longest = Math.max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz);
	const nx = uy * vz - uz * vy;
	const ny = uz * vx - ux * vz;
	const nz = ux * vy - uy * vx;
	return longest > 0 ? (nx * nx + ny * ny + nz * nz) / (longest * longest) : 0;
}
