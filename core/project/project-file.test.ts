import { expect, it } from 'vitest';
import { demoProject } from '../../demo/generate';
import { ProblemError } from '../problem';
import { parseProjectFile } from './project-file';

const problemOf = (value: unknown): string => {
	try {
		parseProjectFile(value, 'p.json');
	} catch (error) {
		if (error instanceof ProblemError) return error.problem.message;
		throw error;
	}
	return '';
};

it('takes the demo project', () => {
	expect(parseProjectFile(demoProject(), 'p.json').tables).toHaveLength(10);
});

it.each([
	['an extent of zero size', { extent: { ...demoProject().extent, maxZ: -450 } }, 'extent: the extent has no volume'],
	['a spacing of zero', { spacing: 0 }, 'spacing'],
	['an unknown contact kind', { column: [{ id: 'a', name: 'A', color: '#112233', contact: 'odd' }] }, 'column[0].contact'],
	['a colour that is none', { column: [{ id: 'a', name: 'A', color: 'red', contact: 'conformable' }] }, 'must be a colour'],
	['a dip of 120°', { faults: [{ ...demoProject().faults[0], dip: 120 }] }, 'faults[0].dip'],
	['an unknown kind of table', { tables: [{ file: 'a.csv', kind: 'things' }] }, 'tables[0].kind'],
	['a property that it does not know', { spaicng: 5 }, 'spaicng']
])('names the field of %s', (_, change, message) => {
	expect(problemOf({ ...demoProject(), ...change })).toContain(message);
});

it('names every field that is wrong, not only the first', () => {
	const text = problemOf({ malachite: 1 });
	for (const field of ['name', 'spacing', 'tables', 'column', 'lumping']) expect(text).toContain(field);
});
