import type { Question } from '#core/recipes/recipe';
import { ask } from '$lib/api/client';
import type { ProjectObject, RecipeInfo, Suggestion } from '$lib/api/types';

/** Kinds that every project has by itself: nothing is made of them. */
const isByItself = (kind: string): boolean => ['holes', 'section'].includes(kind);

let known: Promise<RecipeInfo[]> | null = null;

/** All recipes; asked for once. */
export function recipes(): Promise<RecipeInfo[]> {
	known ??= ask('listRecipes').then((a) => a.recipes);
	known.catch(() => (known = null));
	return known;
}

/** The recipe that answers what a screen asks by itself. */
export const recipeFor = async (question: Question): Promise<RecipeInfo> => (await recipes()).find((r) => r.answers === question)!;

/** Those that people make things by. */
export const freeOnes = (list: readonly RecipeInfo[]): RecipeInfo[] => list.filter((r) => !r.step);

/** A section without a line yet. */
const isUndrawn = (o: ProjectObject): boolean => o.kind === 'section' && !((o.state['trace'] as unknown[] | undefined)?.length ?? 0);

type Role = RecipeInfo['roles'][number];

/** Objects that can play a role; those of the model at hand first. */
export function candidates(objects: readonly ProjectObject[], role: Role, own: string | null): ProjectObject[] {
	const fits = objects.filter(
		(o) => (role.kinds.includes(o.kind) && !isUndrawn(o)) || (o.form !== null && role.forms.includes(o.form) && !isByItself(o.kind))
	);
	const rank = (o: ProjectObject) => {
		const at = role.prefers.indexOf(String(o.state['kind']));
		return o.id === own ? -1 : at < 0 ? role.prefers.length + (o.kind === 'section' ? 1 : 0) : at;
	};
	return [...fits].sort((a, b) => rank(a) - rank(b));
}

type Parameter = RecipeInfo['parameters'][number];

/** What what is put in offers to choose from, by role. */
export type Offered = Pick<Suggestion, 'units' | 'ranks' | 'columns'>;
export const NOTHING_OFFERED: Offered = { units: {}, ranks: {}, columns: {} };

/** What can be chosen for a parameter, with its name; null where it comes from no role. */
export function offeredFor(p: Parameter, offered: Offered): (readonly [string, string])[] | null {
	const named = p.unitsOf ? (offered.units[p.unitsOf] ?? []) : p.ranksOf ? (offered.ranks[p.ranksOf] ?? []) : null;
	if (named) return named.map((u) => [u.id, u.name] as const);
	if (!p.columnsOf) return null;
	return (offered.columns[p.columnsOf] ?? [])
		.filter((c) => !p.columnTypes || p.columnTypes.includes(c.type))
		.map((c) => [c.key, c.label === c.key ? c.label : `${c.label} (${c.key})`] as const);
}

/** Parameters for what is chosen: those that were typed, as long as what is put in offers them, else first values. */
export function fittingValues(recipe: RecipeInfo, s: Suggestion, kept: Readonly<Record<string, unknown>>): Record<string, unknown> {
	const values: Record<string, unknown> = { ...s.parameters, ...kept };
	for (const p of recipe.parameters) {
		const can = offeredFor(p, s);
		if (can && !(p.optional && !values[p.name]) && !can.some(([value]) => value === values[p.name]))
			values[p.name] = s.parameters[p.name] ?? '';
	}
	return values;
}

/** Whether a parameter is asked for, as things stand. */
export const isAsked = (
	p: Parameter,
	parameters: Readonly<Record<string, unknown>>,
	inputs: Readonly<Record<string, readonly string[]>>
): boolean =>
	(!p.when || p.when.is.includes(String(parameters[p.when.parameter]))) &&
	(!p.whenRole || (inputs[p.whenRole.role]?.length ?? 0) > 0 === p.whenRole.played);

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
		// A part that several can play takes all that were picked.
		const several = role.most > 1 ? wanted.filter((id) => !used.has(id) && can.some((o) => o.id === id)).slice(0, role.most) : [];
		if (several.length > 1) {
			chosen[role.role] = several;
			for (const id of several) used.add(id);
			continue;
		}
		// What was picked first plays the first part.
		const picked = wanted.find((id) => !used.has(id) && can.some((o) => o.id === id));
		// What need not be there is put in only when it was picked, or when the recipe always had it.
		const first =
			can.find((o) => o.id === picked) ??
			(role.least > 0 || role.kinds.includes('terrain') ? (can.find((o) => !used.has(o.id)) ?? can[0]) : undefined);
		chosen[role.role] = first ? [first.id] : [];
		if (first) used.add(first.id);
	}
	return chosen;
}

/** Recipes that take all of some objects, each in a role of its own; those that take nothing else come first. */
export function makeableOf(objects: readonly ProjectObject[], list: readonly RecipeInfo[], picked: readonly string[]): RecipeInfo[] {
	const things = picked.flatMap((id) => objects.find((o) => o.id === id) ?? []);
	if (things.length === 0) return [];
	const takes = (r: RecipeInfo): boolean => {
		const place = (rest: readonly ProjectObject[], room: readonly number[]): boolean =>
			rest.length === 0 ||
			r.roles.some(
				(role, i) =>
					room[i]! > 0 &&
					candidates(objects, role, null).includes(rest[0]!) &&
					place(
						rest.slice(1),
						room.map((n, k) => (k === i ? n - 1 : n))
					)
			);
		const can = place(
			things,
			r.roles.map((role) => role.most)
		);
		if (!can) return false;
		// What else it needs is there, too: nothing plays two parts.
		const chosen = firstChoice(objects, r, null, picked);
		const all = r.roles.flatMap((role) => (role.least > 0 ? (chosen[role.role] ?? []) : []));
		return new Set(all).size === all.length && r.roles.every((role) => role.least === 0 || chosen[role.role]!.length > 0);
	};
	const least = (r: RecipeInfo) => r.roles.reduce((n, role) => n + role.least, 0);
	return freeOnes(list)
		.filter(takes)
		.sort((a, b) => Math.abs(least(a) - things.length) - Math.abs(least(b) - things.length));
}

/** The state of something derived, in words; the marks of states are drawn by these. */
export type MadeState = 'up to date' | 'out of date' | 'building' | 'failed' | 'never built';
export const stateOfMade = (o: Pick<ProjectObject, 'failure' | 'missing' | 'outOfDate'>, building: boolean): MadeState =>
	building ? 'building' : o.failure ? 'failed' : o.missing ? 'never built' : o.outOfDate ? 'out of date' : 'up to date';

/** Parts of a report that are drawn, and not listed. */
const DRAWN_PARTS: readonly string[] = ['readings', 'table', 'lags', 'histogram', 'pairs'];

/** A report as rows of single values and as tables. */
export function reportParts(report: Readonly<Record<string, unknown>>): {
	values: [string, number | string][];
	tables: { title: string; header: string[]; rows: (number | string)[][] }[];
} {
	const plain = (v: unknown): number | string => (typeof v === 'number' || typeof v === 'string' ? v : v == null ? '–' : JSON.stringify(v));
	const values: [string, number | string][] = [];
	const tables: ReturnType<typeof reportParts>['tables'] = [];
	for (const [title, v] of Object.entries(report)) {
		// Told in a line, in charts, or by the rows themselves.
		if (DRAWN_PARTS.includes(title)) continue;
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
