import * as yup from 'yup';
import { fail } from '../problem';
import { recipe } from './recipe';

/** Sections are cut from the model whenever they are looked at. */
export const section = recipe({
	id: 'section',
	title: 'Section',
	about: 'A model cut along a line, with the holes near it.',
	version: 1,
	form: 'drawing',
	roles: { model: { title: 'Model', forms: ['solids'], least: 1, most: 1 } },
	parameters: yup.object({}),
	step: {
		shared: true,
		inputs: ['model', 'holes'],
		fedBy: [],
		tables: [],
		depends: ({ state }) => ({ trace: state['trace'], corridor: state['corridor'] })
	},
	live: { takes: ({ trace }) => ({ trace }) },
	run: () => fail('not-built', 'a section is drawn when it is looked at, not built')
});
