import { EigenvalueDecomposition, type Matrix } from 'ml-matrix';

/** Entries of a matrix that are smaller than its greatest by this share decide nothing, and may be too small to be squared. */
const NOTHING = 1e-30;

/**
 * Eigenvalues and eigenvectors of a symmetric matrix, in no order. What is nothing beside the greatest entry is taken for 0: of numbers that
 * are too small to be squared the decomposition would be NaN.
 * @param m is changed
 */
export function symmetricEigen(m: Matrix): EigenvalueDecomposition {
	const most = m.to1DArray().reduce((a, v) => Math.max(a, Math.abs(v)), 0);
	for (let i = 0; i < m.rows; i++) for (let j = 0; j < m.columns; j++) if (Math.abs(m.get(i, j)) < NOTHING * most) m.set(i, j, 0);
	return new EigenvalueDecomposition(m, { assumeSymmetric: true });
}
