import * as yup from 'yup';
import { name } from '#core/project/guards';
import { MOST_SECTIONS, sectionFields } from '#core/project/project-file';
import { db } from '../db/client';
import { loadGraph } from '../graph/graph';
import { addSections, changeSections, removeSections, sectionsIn, toldSection } from '../graph/sections';
import { stateIfWhole } from '../graph/states';
import { findProject } from '../store/projects';
import { sectionsAddedAnswer, sectionsAnswer } from '$lib/api/answers/ground';
import { nothing } from '$lib/api/answers/shapes';
import { json, operation } from './operation';

const several = <T>(each: yup.Schema<T>) => yup.array(each).min(1).max(MOST_SECTIONS).required();

/** Sections beside the main one. */
export const sectionOperations = [
	operation({
		id: 'listSections',
		method: 'get',
		path: '/projects/{project}/sections',
		tag: 'Examine',
		summary: 'The sections beside the main one, which stands in the interpretation',
		answer: sectionsAnswer,
		reply: 'The sections in their order',
		run: async ({ params }) => {
			await findProject(db(), params['project']!);
			return { sections: await told(params['project']!) };
		}
	}),
	operation({
		id: 'addSections',
		created: true,
		method: 'post',
		path: '/projects/{project}/sections',
		tag: 'Examine',
		summary: 'Add sections as one change: each with a line, and a corridor, an exaggeration and a set of its own if it is to have them',
		body: yup
			.object({
				sections: several(
					yup
						.object({ name: name().optional(), ...sectionFields })
						.noUnknown()
						.required()
				)
			})
			.noUnknown(),
		answer: sectionsAddedAnswer,
		reply: 'Their ids; those without a name get the next letters',
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			return json({ ids: await addSections(params['project']!, body.sections) }, 201);
		}
	}),
	operation({
		id: 'changeSections',
		method: 'patch',
		path: '/projects/{project}/sections',
		tag: 'Examine',
		summary: 'Change sections as one change; what is left out stays, null takes away what a section has of its own',
		body: yup
			.object({
				sections: several(
					yup
						.object({
							id: yup.string().uuid().required(),
							revision: yup.number().integer().required(),
							name: name().optional(),
							trace: sectionFields.trace.clone().optional(),
							set: sectionFields.set.clone().nullable(),
							corridor: sectionFields.corridor.clone().nullable(),
							exaggeration: sectionFields.exaggeration.clone().nullable()
						})
						.noUnknown()
						.required()
				)
			})
			.noUnknown(),
		answer: sectionsAnswer,
		reply: 'All sections beside the main one, as they are now',
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			await changeSections(params['project']!, body.sections);
			return { sections: await told(params['project']!) };
		}
	}),
	operation({
		id: 'removeSections',
		method: 'post',
		path: '/projects/{project}/sections/take-out',
		tag: 'Examine',
		summary: 'Take sections out as one change, all or none, which can be undone; the main one stays',
		body: yup
			.object({
				ids: several(yup.string().uuid().required()),
				/** Also when results are made of them. */
				used: yup.boolean().default(false)
			})
			.noUnknown(),
		answer: nothing,
		reply: 'Nothing',
		run: async ({ params, body }) => {
			await findProject(db(), params['project']!);
			await removeSections(params['project']!, body.ids, body.used ?? false);
		}
	})
];

async function told(projectId: string) {
	const [, ...beside] = sectionsIn(await loadGraph(db(), projectId));
	return beside.map((s) => toldSection(s, stateIfWhole(s, 'section')));
}
