/**
 * Solves A x = b for a symmetric, positive definite matrix that is known by its product with a vector (Hestenes & Stiefel 1952).
 * @param precision the solver stops when what is left is this share of b
 * @param steps at most
 */
export function conjugateGradients(
	times: (v: Float64Array) => Float64Array,
	b: Float64Array,
	precision: number,
	steps: number
): Float64Array {
	const x = new Float64Array(b.length);
	const left = Float64Array.from(b);
	const along = Float64Array.from(b);
	let size = dot(left, left);
	const enough = size * precision ** 2;
	for (let step = 0; step < steps && size > enough; step++) {
		const image = times(along);
		const by = size / dot(along, image);
		for (let i = 0; i < x.length; i++) {
			x[i] = x[i]! + by * along[i]!;
			left[i] = left[i]! - by * image[i]!;
		}
		const next = dot(left, left);
		for (let i = 0; i < x.length; i++) along[i] = left[i]! + (next / size) * along[i]!;
		size = next;
	}
	return x;
}

function dot(a: Float64Array, b: Float64Array): number {
	let sum = 0;
	for (let i = 0; i < a.length; i++) sum += a[i]! * b[i]!;
	return sum;
}
