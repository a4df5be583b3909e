import * as yup from 'yup';

/** Query of a list: from which one on, and how many at most. */
export const pageQuery = (most: number) => ({
	offset: yup.number().integer().min(0).default(0),
	limit: yup.number().integer().min(1).max(most).default(most)
});
export interface Page {
	offset: number;
	limit: number;
}

/** The part of a list that a page asks for. */
export const pageOf = <T>(list: readonly T[], page: Page): T[] => list.slice(page.offset, page.offset + page.limit);
