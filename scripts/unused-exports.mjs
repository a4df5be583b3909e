// Names that a file exports and no other file uses: part of `npm run lint`, so that what is dead does not stay.
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';

const ROOTS = ['core', 'web/src', 'cli', 'demo', 'bench', 'e2e', 'scripts'];
const walk = (dir) =>
	readdirSync(dir, { withFileTypes: true }).flatMap((e) => (e.isDirectory() ? walk(join(dir, e.name)) : [join(dir, e.name)]));
const files = ROOTS.flatMap(walk).filter((f) => /\.(ts|svelte|mjs)$/.test(f) && !/generated|assembly/.test(f));
const words = new Map(files.map((f) => [f, new Set(readFileSync(f, 'utf8').match(/[A-Za-z_$][\w$]*/g))]));
/** Files whose exports are taken by name from elsewhere: by SvelteKit, by Drizzle, by threads. */
const TAKEN = /routes\/|hooks\.|params\/|db\/schema\.ts$|\/threads\/|\.test\.ts$|^(e2e|bench|scripts)\//;
const unused = files
	.filter((f) => f.endsWith('.ts') && !TAKEN.test(f))
	.flatMap((f) =>
		[...readFileSync(f, 'utf8').matchAll(/^export (?:async )?(?:const|function\*?|class|interface|type|let|\{ default as) (\w+)/gm)]
			.map((m) => m[1])
			.filter((name) => !files.some((g) => g !== f && words.get(g).has(name)))
			.map((name) => `${f}: ${name}`)
	);
if (unused.length) {
	console.error(`Exported, and used nowhere else:\n  ${unused.join('\n  ')}`);
	process.exit(1);
}
