import { error } from '@sveltejs/kit';
import { MANUAL } from '$lib/manual/pages';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params }) => {
	const page = MANUAL.find((m) => m.name === params.page);
	if (!page) error(404, 'The manual has no such page');
	return { page };
};
