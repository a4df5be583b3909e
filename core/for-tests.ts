import { ProblemError, type Problem } from './problem';

/** What a run refuses, as it is told; null where it refuses nothing. Any other error is one. */
export function problemOf(run: () => unknown): Problem | null {
	try {
		run();
	} catch (error) {
		if (error instanceof ProblemError) return error.problem;
		throw error;
	}
	return null;
}
