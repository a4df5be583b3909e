import { readdirSync, readFileSync } from 'node:fs';
import eslint from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import node from 'eslint-plugin-n';
import globals from 'globals';
import tseslint from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** Arrows point one way: web, cli, demo and bench may use core; core uses nothing of theirs, nor Node, nor the DOM. */
const forbid = (...groups) => ['error', { patterns: groups.map(([group, message]) => ({ group, message })) }];

/**
 * The rooms of core from the ground floor up: each may use what stands before it, nothing that stands behind it, so no circle can come about.
 * A new room is put where it belongs.
 */
const CORE = [
	'types',
	'geometry',
	'linear',
	'statistics',
	'kernels',
	'lineage',
	'expressions',
	'directions',
	'grades',
	'grids',
	'potential',
	'surveys',
	'water',
	'tables',
	'holes',
	'units',
	'checks',
	'fields',
	'mesh',
	'model',
	'formats',
	'datasets',
	'styles',
	'scene',
	'sections',
	'logs',
	'stratigraphy',
	'project',
	'recipes'
];
/**
 * The rooms of the server, in the same way: the database; what runs in threads and knows no database; what is stored; the graph of objects; what is
 * done with it; jobs in the background; requests; what is started.
 */
const SERVER = ['db', 'threads', 'store', 'graph', 'services', 'jobs', 'api', 'entries'];
const FROM_CLI = [['#cli/*', '**/cli/**'], 'web uses core, not the command line'];
const OUTSIDE_CORE = [
	[['#cli/*', '#demo/*', '$lib/*', '$app/*', '**/web/**', '**/cli/**', '**/demo/**', '**/bench/**'], 'core must not know who uses it'],
	[['node:*', 'pg', 'piscina', 'svelte', 'svelte/*', '@sveltejs/*'], 'core runs in browsers, workers and servers alike']
];
for (const [folder, floors] of [
	['core', CORE],
	['web/src/lib/server', SERVER]
])
	for (const e of readdirSync(new URL(folder, import.meta.url), { withFileTypes: true }))
		if (e.isDirectory() && !floors.includes(e.name)) throw new Error(`${folder}/${e.name} stands on no floor: put it in eslint.config.js`);

const SYNTAX = [
	{
		selector: 'ImportDeclaration[source.value=/^@lucide/]',
		message: 'take drawings from $lib/icons: the whole set costs a build more than all of our own pages'
	},
	{
		selector: "CallExpression[callee.property.name='for'] > Literal.arguments[value='update']",
		message: "what refers to a row that is locked for update waits for it, and may hold what it waits for: lock for 'no key update'"
	},
	{
		selector: "SvelteElement[name.name='details'] > SvelteStartTag > SvelteAttribute[key.name='open']",
		message: 'what a person opened would be closed by the next answer of the server: take ui/Fold.svelte, or bind it'
	},
	{
		selector:
			"CallExpression > MemberExpression.callee[property.name='includes'] > ArrayExpression > Literal[value=/^(collars|surveys|intervals|assays|readings|holeOrientations|orientations|contactPoints|stations)$/]",
		message: 'what kinds of table have in common stands in core/tables/kinds.ts: ask for that'
	},
	{
		selector: "ConditionalExpression[test.type='BinaryExpression'][test.operator='instanceof'][test.right.name='ApiProblem']",
		message: 'problemText says what went wrong, whatever it is'
	},
	{
		selector: 'CallExpression[callee.name=/^(and|or)$/] > SpreadElement',
		message: 'of an empty list this is no condition at all: take anyOf of db/conditions'
	},
	{
		selector:
			"AssignmentExpression > MemberExpression.left[property.name=/^(inner|outer)HTML$/], CallExpression > MemberExpression.callee[property.name='insertAdjacentHTML']",
		message: 'markup becomes part of a page in lib/ui/drawing.ts only'
	}
];

/** Who holds a row of a project and then waits for the project blocks who holds the project and waits for the row. */
const HELD = {
	selector: "CallExpression[callee.property.name='transaction']",
	message: 'what changes a project holds it first: inProject of store/projects; what changes none says so: unheld of db/client'
};
/** Many may wait for a project, each with a connection; who holds it would wait for another one of theirs. */
const ONE_CONNECTION = {
	selector: "CallExpression[callee.name=/^(inProject|doChange|atOnce)$/] > ArrowFunctionExpression CallExpression[callee.name='db']",
	message: 'who holds a project asks its transaction'
};

const COLORS = [
	{
		selector: 'Literal[value=/^#[0-9a-fA-F]{6}$/], SvelteLiteral[value=/#[0-9a-fA-F]{6}/], TemplateElement[value.raw=/"#[0-9a-fA-F]{6}"/]',
		message: 'colours stand in core/palette.ts'
	}
];

/** Recipes that people make things by are named in core/recipes only; kinds of one plain word (a section, a thickness) are words of much else, too. */
const RECIPES = readdirSync(new URL('core/recipes', import.meta.url), { recursive: true, encoding: 'utf8' })
	.filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts'))
	.flatMap((f) => readFileSync(new URL(`core/recipes/${f}`, import.meta.url), 'utf8').match(/(?<=\n\tid: ')[a-z]+(-[a-z]+)+(?=',)/g) ?? []);
const NO_RECIPE = {
	selector: `Literal[value=/^(${[...RECIPES, 'comparison', 'doubt', 'gridded'].join('|')})$/]`,
	message: 'no recipe is named outside core/recipes: go by its form, or ask by what it answers (QUESTIONS in recipe.ts)'
};

export default tseslint.config(
	{ ignores: ['dist/', 'node_modules/', '**/.svelte-kit/', 'core/kernels/generated/', 'core/kernels/assembly/', 'web/migrations/'] },
	eslint.configs.recommended,
	...tseslint.configs.recommended,
	...svelte.configs.recommended,
	{
		languageOptions: { globals: { ...globals.node, ...globals.browser } },
		rules: {
			'@typescript-eslint/no-explicit-any': 'error',
			'@typescript-eslint/no-non-null-assertion': 'off',
			'@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
			'no-undef': 'off',
			'prefer-const': 'error',
			'svelte/no-navigation-without-resolve': 'off',
			'svelte/prefer-svelte-reactivity': 'off',
			'svelte/prefer-writable-derived': 'off',
			'no-control-regex': 'off',
			// Markup becomes part of a page at one place, lib/ui/drawing.ts.
			'svelte/no-at-html-tags': 'error',
			'no-restricted-syntax': ['error', ...SYNTAX]
		}
	},
	{
		// Colours of pictures have names, in core/palette.ts; those of units and data are proposed in core/styles.
		files: ['web/src/**/*.{ts,svelte}', 'core/**/*.ts'],
		ignores: ['**/*.test.ts', '**/for-tests.ts', 'core/palette.ts', 'core/styles/**', '**/api/examples.ts'],
		rules: {
			'no-restricted-syntax': ['error', ...SYNTAX, ...COLORS]
		}
	},
	{
		// What a test chooses may not be in the list yet, and what it presses may be pushed aside just then: neither says a word.
		files: ['e2e/**/*.ts'],
		ignores: ['e2e/browser/visit.ts'],
		rules: {
			'no-restricted-syntax': [
				'error',
				...SYNTAX,
				{ selector: "CallExpression[callee.property.name='select']", message: 'choose of hands() waits until the list has the choice' },
				{
					selector: "CallExpression[callee.property.name='click']:not([callee.object.property.name='mouse'])",
					message: 'click, press and enter of hands() look again until the press was taken'
				},
				{
					selector: "Literal[value='Browser.setDownloadBehavior']",
					message: 'saved of visit.ts waits until the file is whole: one that has its name may still be empty'
				}
			]
		}
	},
	{
		// Pages and core may run in the stated Node: nothing may use what it does not have.
		plugins: { n: node },
		rules: { 'n/no-unsupported-features/es-builtins': ['error', { version: '>=20.19.0' }] }
	},
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: { parserOptions: { parser: tseslint.parser, svelteConfig } },
		rules: { 'prefer-const': 'off' }
	},
	...CORE.map((room, floor) => ({
		files: [`core/${room}/**/*.ts`],
		ignores: ['**/*.test.ts', '**/for-tests.ts'],
		rules: {
			'no-restricted-imports': forbid(
				...OUTSIDE_CORE,
				...(floor + 1 < CORE.length
					? [[CORE.slice(floor + 1).flatMap((r) => [`../${r}/*`, `../../${r}/*`]), `${room} stands below it: see CORE in eslint.config.js`]]
					: [])
			)
		}
	})),
	{
		files: ['core/*.ts'],
		rules: { 'no-restricted-imports': forbid(...OUTSIDE_CORE, [['./*/*'], 'what all rooms use knows none of them']) }
	},
	{
		files: ['core/**/*.ts'],
		ignores: ['core/**/*.test.ts'],
		rules: {
			'no-restricted-globals': ['error', 'process', 'Buffer', 'require', 'window', 'document', 'localStorage', 'navigator', 'fetch']
		}
	},
	{
		files: ['cli/**/*.ts', 'demo/**/*.ts'],
		ignores: ['**/*.test.ts'],
		rules: {
			'no-restricted-imports': forbid([
				['**/web/**', '$lib/*', 'svelte', '@sveltejs/*', 'pg', 'drizzle-orm', 'drizzle-orm/*'],
				'the command line and the demo need no web and no database'
			])
		}
	},
	{
		// The screens know of the server only what operations take and answer, and ask it at one place.
		files: ['web/src/**/*.{ts,svelte}'],
		ignores: ['web/src/lib/server/**', 'web/src/lib/api/**', 'web/src/routes/api/**', 'web/src/routes/api-docs/**', '**/*.test.ts'],
		rules: {
			'no-restricted-globals': ['error', { name: 'fetch', message: 'ask an operation: workspace.api, or lib/api/client' }],
			'no-restricted-syntax': [
				'error',
				...SYNTAX,
				...COLORS,
				NO_RECIPE,
				{
					selector:
						'Literal[value=/^\\u002fapi\\u002fv1/], SvelteLiteral[value=/^\\u002fapi\\u002fv1/], TemplateElement[value.raw=/^\\u002fapi\\u002fv1/]',
					message: 'addresses of operations come from workspace.api.address, or addressOf'
				}
			]
		}
	},
	{
		// What is stored as JSON is guarded when it is read.
		files: ['web/src/lib/server/**/*.ts'],
		ignores: ['**/*.test.ts', '**/api/examples.ts', '**/db/client.ts'],
		rules: {
			'no-restricted-syntax': [
				'error',
				...SYNTAX,
				...COLORS,
				NO_RECIPE,
				HELD,
				ONE_CONNECTION,
				{
					selector:
						"TSAsExpression > ChainExpression.expression > MemberExpression[property.name=/^(state|payload)$/], TSAsExpression > ChainExpression.expression > MemberExpression[object.property.name=/^(state|payload)$/], TSAsExpression > MemberExpression.expression[property.name='state'], TSAsExpression > MemberExpression.expression[object.property.name='state'], TSAsExpression > MemberExpression.expression[property.name='payload'], TSAsExpression > MemberExpression.expression[object.property.name='payload']",
					message:
						'what is stored is guarded when it is read: stateOf of graph/states, tableState of threads/stored-table, payloadOf of jobs/payloads'
				}
			]
		}
	},
	...SERVER.map((room, floor) => ({
		files: [`web/src/lib/server/${room}/**/*.ts`],
		ignores: ['**/*.test.ts'],
		rules: {
			'no-restricted-imports': forbid(
				FROM_CLI,
				...(floor + 1 < SERVER.length
					? [
							[
								SERVER.slice(floor + 1).flatMap((r) => [`../${r}/*`, `$lib/server/${r}/*`]),
								`${room} stands below it: see SERVER in eslint.config.js`
							]
						]
					: [])
			)
		}
	})),
	{
		files: ['web/**/*.{ts,svelte}'],
		ignores: ['web/src/lib/server/*/**'],
		rules: { 'no-restricted-imports': forbid(FROM_CLI) }
	}
);
