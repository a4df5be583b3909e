import * as yup from 'yup';
import { packValue, unpackValue } from '../formats/pack';
import { withTerrain } from '../model/whole';
import { checkHoles, groundOf, type AllContacts } from '../project/pipeline';
import { recipe, theOne } from './recipe';

/** All fields of the ground. The terrain is left out of the pack; it is a source of its own. */
export const fields = recipe({
	id: 'fields',
	title: 'Fields',
	about: 'The scalar functions whose level sets are contacts and faults.',
	version: 14,
	form: null,
	weight: 4,
	roles: { contacts: { title: 'Contacts', kinds: ['contacts'], least: 1, most: 1 } },
	parameters: yup.object({}),
	step: {
		inputs: ['contacts', 'column', 'faults', 'lumping', 'holes', 'shaping'],
		fedBy: ['orientations', 'holeOrientations', 'terrain'],
		tables: ['collars', 'surveys', 'orientations', 'holeOrientations'],
		names: true,
		depends: ({ extent, named, tables }) => ({ extent, named, tables })
	},
	async run(inputs, _parameters, { ground, tasks }) {
		const { tables, options, interpretation } = ground!;
		const known = unpackValue<AllContacts>(theOne(inputs, 'contacts').pack!);
		const input = groundOf(tables, checkHoles(tables, options), known, interpretation!);
		const fitted = await tasks.fit(input);
		return {
			pack: packValue(withTerrain(fitted, null)),
			report: {
				findings: fitted.findings,
				orientations: input.orientations.length,
				unused: input.orientations.filter((o) => o.unit < 0).length
			}
		};
	}
});
