import type * as yup from 'yup';
import { fail } from '#core/problem';
import { obj, type Answer } from './answers/shapes';

interface Told {
	type: string;
	nullable?: boolean;
	optional?: boolean;
}

const fits = (value: unknown, { type, nullable, optional }: Told): boolean => {
	if (value === undefined) return optional === true;
	if (value === null) return nullable === true;
	return type === 'array'
		? Array.isArray(value)
		: type === 'mixed' || type === 'object'
			? typeof value === 'object'
			: typeof value === type;
};

/**
 * A report as it is stored with a result, told as an answer: each of its parts is of the type that the answer says. What stands in
 * these (thousands of places, say) is what a recipe wrote, and is not gone through at every request.
 * @throws ProblemError `not-built` when it is of another version, or damaged
 */
export function reportAs<S extends yup.ObjectShape>(
	shape: S,
	report: Readonly<Record<string, unknown>>
): Answer<ReturnType<typeof obj<S>>> {
	const wrong = Object.entries(shape).find(([name, schema]) => !fits(report[name], (schema as yup.AnySchema).describe() as Told));
	if (wrong)
		fail('not-built', `what is stored of this result says nothing of its ${wrong[0]}`, 'Build again under Build: it is made anew.');
	return Object.fromEntries(Object.keys(shape).map((name) => [name, report[name]])) as Answer<ReturnType<typeof obj<S>>>;
}
