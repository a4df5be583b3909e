import { get } from '$lib/api/client';
import type { ProjectObject, RecipeInfo } from '$lib/api/types';

let known: Promise<RecipeInfo[]> | null = null;

/** All recipes; asked for once. */
export function recipes(): Promise<RecipeInfo[]> {
	known ??= get<{ recipes: RecipeInfo[] }>('/recipes').then((a) => a.recipes);
	known.catch(() => (known = null));
	return known;
}

/** Those that people make things by. */
export const freeOnes = (list: readonly RecipeInfo[]): RecipeInfo[] => list.filter((r) => !r.step);

type Role = RecipeInfo['roles'][number];

/** Objects that can play a role; those of the model at hand first. */
export function candidates(objects: readonly ProjectObject[], role: Role, own: string | null): ProjectObject[] {
	const fits = objects.filter((o) => role.kinds.includes(o.kind) || (o.form !== null && role.forms.includes(o.form)));
	return [...fits.filter((o) => o.id === own), ...fits.filter((o) => o.id !== own)];
}

/** What each role is played by first: what is wanted, as far as it can, else the first that can and plays no other role yet. */
export function firstChoice(
	objects: readonly ProjectObject[],
	recipe: RecipeInfo,
	own: string | null,
	wanted: readonly string[] = []
): Record<string, string[]> {
	const chosen: Record<string, string[]> = {};
	const used = new Set<string>();
	for (const role of recipe.roles) {
		const can = candidates(objects, role, own);
		const first = can.find((o) => wanted.includes(o.id) && !used.has(o.id)) ?? can.find((o) => !used.has(o.id)) ?? can[0];
		chosen[role.role] = first ? [first.id] : [];
		if (first) used.add(first.id);
	}
	return chosen;
}

/** The state of something derived, in words; the marks of states are drawn by these. */
export type MadeState = 'up to date' | 'out of date' | 'building' | 'failed' | 'never built';
export const stateOfMade = (o: Pick<ProjectObject, 'failure' | 'missing' | 'outOfDate'>, building: boolean): MadeState =>
	building ? 'building' : o.failure ? 'failed' : o.missing ? 'never built' : o.outOfDate ? 'out of date' : 'up to date';

/** A report as rows of single values and as tables. */
export function reportParts(report: Readonly<Record<string, unknown>>): {
	values: [string, number | string][];
	tables: { title: string; header: string[]; rows: (number | string)[][] }[];
} {
	const plain = (v: unknown): number | string => (typeof v === 'number' || typeof v === 'string' ? v : v == null ? '–' : JSON.stringify(v));
	const values: [string, number | string][] = [];
	const tables: ReturnType<typeof reportParts>['tables'] = [];
	for (const [title, v] of Object.entries(report)) {
		if (typeof v === 'number' || typeof v === 'string') values.push([title, v]);
		else if (v === null) values.push([title, '–']);
		else if (Array.isArray(v) && v.length && v.every((x) => typeof x === 'object' && x !== null)) {
			const header = [...new Set(v.flatMap((x) => Object.keys(x as object)))].filter((h) => h !== 'color');
			tables.push({ title, header, rows: v.map((x) => header.map((h) => plain((x as Record<string, unknown>)[h]))) });
		} else if (typeof v === 'object' && !Array.isArray(v))
			for (const [k, x] of Object.entries(v)) values.push([`${title}, ${k}`, plain(x)]);
	}
	return { values, tables };
}
