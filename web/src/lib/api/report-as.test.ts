import { expect, it } from 'vitest';
import { ProblemError } from '#core/problem';
import { list, maybe, num, obj, opt, record, text } from '$lib/api/answers/shapes';
import { reportAs } from './report-as';

const shape = {
	spacing: num(),
	volumes: list(obj({ unit: text() })),
	agreement: maybe(obj({})),
	seconds: record(num()),
	note: opt(text())
};
const whole = { spacing: 25, volumes: [], agreement: null, seconds: { fields: 1 } };

it('a report is told in the parts that its answer has', () => {
	expect(reportAs(shape, { ...whole, own: 1 })).toEqual({ ...whole, note: undefined });
});

it.each([
	['spacing', undefined],
	['spacing', '25'],
	['volumes', {}],
	['volumes', null],
	['agreement', 3],
	['seconds', 'x']
])('one whose %s is %o is as good as never built', (part, value) => {
	const run = () => reportAs(shape, { ...whole, [part]: value });
	expect(run).toThrow(ProblemError);
	expect(run).toThrow(part);
});
