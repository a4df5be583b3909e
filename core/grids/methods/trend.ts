import { factorPlain, solveLower, solveUpper, strideOf } from '../../linear/cholesky';
import { fail } from '../../problem';
import type { Points } from '../points';
import type { Gridder } from './method';

/** Powers of x and y of a polynomial, by its degree. */
const powers = (degree: number): [number, number][] => {
	const out: [number, number][] = [];
	for (let d = 0; d <= degree; d++) for (let k = 0; k <= d; k++) out.push([d - k, k]);
	return out;
};

interface Polynomial {
	/** Middle and half width of the places: the polynomial is in (x − cx) / scale and (y − cy) / scale. */
	cx: number;
	cy: number;
	scale: number;
	terms: { x: number; y: number; coefficient: number }[];
}

/**
 * The polynomial of a degree that comes nearest to values by least squares.
 * @param degree 0 to 6
 * @throws ProblemError `too-few-readings` when the places do not determine it
 */
export function fitPolynomial(x: ArrayLike<number>, y: ArrayLike<number>, value: ArrayLike<number>, degree: number): Polynomial {
	const n = value.length;
	const terms = powers(degree);
	let [minX, maxX, minY, maxY] = [Infinity, -Infinity, Infinity, -Infinity];
	for (let i = 0; i < n; i++) {
		[minX, maxX] = [Math.min(minX, x[i]!), Math.max(maxX, x[i]!)];
		[minY, maxY] = [Math.min(minY, y[i]!), Math.max(maxY, y[i]!)];
	}
	const [cx, cy] = [(minX + maxX) / 2, (minY + maxY) / 2];
	const scale = Math.max(maxX - minX, maxY - minY) / 2 || 1;
	const m = terms.length;
	const stride = strideOf(m);
	const normal = new Float64Array(m * stride);
	const right = new Float64Array(m);
	const row = new Float64Array(m);
	for (let p = 0; p < n; p++) {
		const [u, v] = [(x[p]! - cx) / scale, (y[p]! - cy) / scale];
		for (let k = 0; k < m; k++) row[k] = u ** terms[k]![0] * v ** terms[k]![1];
		for (let i = 0; i < m; i++) {
			right[i]! += row[i]! * value[p]!;
			for (let j = 0; j <= i; j++) normal[i * stride + j]! += row[i]! * row[j]!;
		}
	}
	const diagonal = Array.from({ length: m }, (_, i) => normal[i * stride + i]!);
	const failed = n < m || factorPlain(normal, m, stride) >= 0 || diagonal.some((d, i) => normal[i * stride + i]! ** 2 < 1e-11 * d);
	if (failed)
		return fail(
			'too-few-readings',
			`${n} ${n === 1 ? 'place does' : 'places do'} not determine a polynomial of degree ${degree}, which has ${m} coefficients`,
			degree > 0 ? 'Take a lower degree; places in one line determine none across it.' : undefined,
			'degree'
		);
	const factor = { n: m, stride, l: normal, norm: 0 };
	const solved = solveUpper(factor, solveLower(factor, right));
	return { cx, cy, scale, terms: terms.map(([a, b], k) => ({ x: a, y: b, coefficient: solved[k]! })) };
}

export function polynomialAt({ cx, cy, scale, terms }: Polynomial, x: number, y: number): number {
	const [u, v] = [(x - cx) / scale, (y - cy) / scale];
	let s = 0;
	for (const t of terms) s += t.coefficient * u ** t.x * v ** t.y;
	return s;
}

/** A polynomial through the readings by least squares: smooth, and through none of them exactly. */
export function trend(points: Points, { degree }: { degree: number }): Gridder {
	const p = fitPolynomial(points.x, points.y, points.value, degree);
	return { rebuilt: true, at: (x, y) => polynomialAt(p, x, y) };
}
