/** Something that a user can act on: what happened, where, and what can be done. */
export interface Problem {
	/** Short machine-readable name, for example `missing-role`. */
	kind: string;
	message: string;
	/** File, row, field or object. */
	where?: string;
	/** What can be done about it. */
	hint?: string;
}

/** A problem on its way to the edge, where it becomes an answer, a log line or a message on the screen. */
export class ProblemError extends Error {
	constructor(readonly problem: Problem) {
		super(problem.message);
		this.name = 'ProblemError';
	}
}

export const fail = (kind: string, message: string, hint?: string, where?: string): never => {
	throw new ProblemError({ kind, message, ...(hint ? { hint } : {}), ...(where ? { where } : {}) });
};
