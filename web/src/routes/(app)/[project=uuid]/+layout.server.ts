import { error } from '@sveltejs/kit';
import { ProblemError } from '#core/problem';
import { db } from '$lib/server/db/client';
import { findProject } from '$lib/server/objects/projects';
import type { LayoutServerLoad } from './$types';

/** A project that is not there is told at once, as such. */
export const load: LayoutServerLoad = async ({ params }) => {
	try {
		await findProject(db(), params.project);
	} catch (problem) {
		if (problem instanceof ProblemError && problem.problem.kind === 'not-found') error(404, problem.message);
		throw problem;
	}
};
