import * as yup from 'yup';
import { compareModels, type ComparedModel } from '../model/compare';
import { solidsOf } from './opened';
import { recipe, theOne, type Given } from './recipe';
import { MODEL } from './roles';

/** What is different between two models of one ground. */
export const comparison = recipe({
	id: 'comparison',
	title: 'Comparison of two models',
	about: 'Volumes, moved surfaces and changed contacts of one model against those of another.',
	version: 1,
	answers: 'what-changed',
	form: 'figure',
	atOnce: true,
	roles: { before: { ...MODEL, title: 'Before' }, after: { ...MODEL, title: 'After' } },
	parameters: yup.object({}).noUnknown(),
	run(inputs) {
		const open = (g: Given): ComparedModel => {
			const info = g.pack!.info as unknown as { units: string[]; faults: { id: string }[]; misfits?: ComparedModel['contacts'] };
			return { mesh: solidsOf(g), units: info.units, faults: info.faults.map((f) => f.id), contacts: info.misfits ?? [] };
		};
		const { moved, ...report } = compareModels(open(theOne(inputs, 'before')), open(theOne(inputs, 'after')));
		return { pack: { info: {}, arrays: { moved } }, report };
	}
});
