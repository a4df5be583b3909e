import * as yup from 'yup';
import { packValue } from '../formats/pack';
import { checkHoles, contactsOfAll } from '../project/pipeline';
import { recipe } from './recipe';

/** Contacts, observations and what could not be placed. */
export const contacts = recipe({
	id: 'contacts',
	title: 'Contacts',
	about: 'Where units meet in holes, at places and along lines, by the logic of the column.',
	version: 6,
	form: null,
	roles: {},
	parameters: yup.object({}),
	step: {
		inputs: ['holes', 'column', 'lumping', 'faults', 'shaping'],
		fedBy: ['contactPoints', 'terrain'],
		tables: ['collars', 'surveys', 'intervals', 'contactPoints'],
		names: true,
		depends: ({ named, tables }) => ({ named, tables })
	},
	run(_inputs, _parameters, { ground }) {
		const { tables, options, interpretation } = ground!;
		const found = contactsOfAll(tables, checkHoles(tables, options), interpretation!);
		return { pack: packValue(found), report: { placed: found.points.length, faulted: found.faulted, findings: found.findings } };
	}
});
