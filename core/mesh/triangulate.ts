import type { Rows } from './rows';

/** Best quality of the part of a loop from one vertex to another, and the third corner of the triangle on that chord. */
let best = new Float64Array(64);
let apex = new Int32Array(64);

/**
 * Best triangulation of a small planar convex loop that may have vertices in the middle of straight edges: the one whose worst
 * triangle is best (dynamic programming over sub-polygons, Klincsek 1980).
 * @param xyz coordinates of all vertices, flat
 * @param loops vertex indexes; those of the loop, anticlockwise, begin at `from`
 * @param n vertices of the loop
 * @param out gets one row more: triangles as triples of vertex indexes, with the same turn
 */
export function triangulateLoop(xyz: ArrayLike<number>, loops: ArrayLike<number>, from: number, n: number, out: Rows): void {
	const row = out.add();
	const put = (a: number, b: number, c: number): void => {
		out.push(row, a);
		out.push(row, b);
		out.push(row, c);
	};
	const a = loops[from]!;
	const b = loops[from + 1]!;
	const c = loops[from + 2]!;
	if (n === 3) return put(a, b, c);
	if (n === 4) {
		const d = loops[from + 3]!;
		const split0 = Math.min(quality(xyz, a, b, c), quality(xyz, a, c, d));
		const split1 = Math.min(quality(xyz, a, b, d), quality(xyz, b, c, d));
		const other = better(split1, split0);
		put(a, b, other ? d : c);
		return other ? put(b, c, d) : put(a, c, d);
	}
	if (best.length < n * n) {
		best = new Float64Array(2 * n * n);
		apex = new Int32Array(2 * n * n);
	}
	best.fill(Infinity, 0, n * n);
	for (let gap = 2; gap < n; gap++)
		for (let i = 0; i + gap < n; i++) {
			const j = i + gap;
			best[i * n + j] = -1;
			apex[i * n + j] = 0;
			for (let k = i + 1; k < j; k++) {
				const q = Math.min(best[i * n + k]!, best[k * n + j]!, quality(xyz, loops[from + i]!, loops[from + k]!, loops[from + j]!));
				if (better(q, best[i * n + j]!)) {
					best[i * n + j] = q;
					apex[i * n + j] = k;
				}
			}
		}
	const emit = (i: number, j: number): void => {
		if (j - i < 2) return;
		const k = apex[i * n + j]!;
		emit(i, k);
		emit(k, j);
		put(loops[from + i]!, loops[from + k]!, loops[from + j]!);
	};
	emit(0, n - 1);
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
