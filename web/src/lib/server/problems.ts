import { ValidationError } from 'yup';
import { ProblemError } from '#core/problem';
import { log } from './log';
import { fieldProblems, type FieldProblem } from '#core/project/project-file';

/** Body of an `application/problem+json` answer (RFC 9457), with the paths of fields that are wrong. */
interface ProblemBody {
	type: string;
	title: string;
	status: number;
	detail?: string;
	/** What can be done about it. */
	hint?: string;
	where?: string;
	fields?: FieldProblem[];
}

const STATUS: Record<string, number> = {
	'not-found': 404,
	'edited-elsewhere': 409,
	'others-change': 409,
	'no-longer-fits': 409,
	'job-lost': 409,
	'edits-without-row': 409,
	'large-effect': 409,
	'file-too-large': 413,
	'archive-too-large': 413,
	'unsupported-media-type': 415,
	'not-built': 409,
	'damaged-state': 409,
	'nothing-to-undo': 409,
	'name-taken': 409,
	'in-use': 409,
	'unknown-recipe': 404,
	'bad-address': 400,
	forbidden: 403,
	'too-many-listeners': 503
};

/** PostgreSQL and socket errors that a user should hear of in plain words. */
const SYSTEM: Record<string, [number, string, string, string]> = {
	'53100': [507, 'disk-full', 'the disk of the database is full', 'Make room and try again; nothing of this was stored.'],
	ENOSPC: [507, 'disk-full', 'the disk is full', 'Make room and try again; nothing of this was stored.'],
	ECONNREFUSED: [
		503,
		'database-down',
		'the database does not answer',
		'It is started by ./malachite start. What you did last was not stored; try again in a moment.'
	],
	ECONNRESET: [503, 'database-down', 'the connection to the database was lost', 'What you did last was not stored; try again in a moment.'],
	ENOENT: [
		503,
		'database-down',
		'the database does not answer',
		'It is started by ./malachite start. What you did last was not stored; try again in a moment.'
	],
	'57P01': [503, 'database-down', 'the database is shutting down', 'What you did last was not stored; try again in a moment.'],
	'57P03': [503, 'database-down', 'the database is starting', 'Try again in a moment.'],
	'23505': [
		409,
		'edited-elsewhere',
		'somebody else did the same at the same time',
		'Look at what is there now; nothing of this was stored.'
	],
	'40P01': [409, 'edited-elsewhere', 'somebody else changed the same at the same time', 'Try again; nothing of this was stored.'],
	'22003': [422, 'invalid-input', 'a number is too large to be stored', 'Check the numbers that were sent.'],
	'22021': [422, 'invalid-input', 'a text holds characters that can not be stored', 'Leave out NUL and halves of surrogate pairs.'],
	'22P05': [422, 'invalid-input', 'a text holds characters that can not be stored', 'Leave out NUL and halves of surrogate pairs.'],
	'22P02': [404, 'not-found', 'there is no such thing', 'Check the address.']
};

function codeOf(error: unknown): string | undefined {
	for (let e = error; e instanceof Error; e = e.cause) {
		if ('code' in e && typeof e.code === 'string') return e.code;
		if (e instanceof AggregateError) return codeOf(e.errors[0]);
		if (/timeout exceeded when trying to connect|Connection terminated/i.test(e.message)) return 'ECONNRESET';
	}
	return undefined;
}

/** Any error as a problem that a user can act on. */
export function describeError(error: unknown): ProblemBody {
	if (error instanceof ProblemError) {
		const { kind, message, hint, where } = error.problem;
		return { type: kind, title: message, status: STATUS[kind] ?? 422, ...(hint ? { hint } : {}), ...(where ? { where } : {}) };
	}
	if (error instanceof ValidationError)
		return { type: 'invalid-input', title: 'some values are not valid', status: 422, fields: fieldProblems(error) };
	const system = SYSTEM[codeOf(error) ?? ''];
	if (system) return { type: system[1], title: system[2], status: system[0], hint: system[3] };
	log('error', 'request', error);
	return {
		type: 'internal',
		title: 'something went wrong in the server',
		status: 500,
		hint: 'It was written to the log of the server. Nothing half-done was stored.'
	};
}

export const problemResponse = (error: unknown): Response => {
	const body = describeError(error);
	return new Response(JSON.stringify(body), { status: body.status, headers: { 'content-type': 'application/problem+json' } });
};
