// Bundles everything that runs outside SvelteKit: the command line, the threads, the server's entries and the demo's writer.
import { existsSync, readdirSync, rmSync } from 'node:fs';
import { build } from 'esbuild';

const entries = {
	'demo-write': 'demo/write.ts',
	catalogue: 'demo/catalogue-server.ts',
	supervise: 'web/src/lib/server/entries/supervise.ts',
	migrate: 'web/src/lib/server/entries/migrate.ts',
	'demo-load': 'web/src/lib/server/entries/demo-load.ts',
	bench: 'bench/main.ts',
	schemas: 'scripts/schemas.ts',
	clients: 'scripts/clients.ts'
};
const common = {
	bundle: true,
	platform: 'node',
	format: 'esm',
	target: 'node20',
	alias: { $lib: './web/src/lib' },
	sourcemap: true,
	logLevel: 'warning'
};
await build({
	...common,
	entryPoints: Object.fromEntries(Object.entries(entries).filter(([, file]) => existsSync(file))),
	outdir: 'dist',
	packages: 'external'
});

// Processes and threads that come and go stand alone with all packages: one file is found and compiled sooner than hundreds. What they have in
// common, and what is asked for only when it is needed, lies in files of its own beside them.
const alone = async (outdir, entryPoints) => {
	if (existsSync(outdir)) for (const old of readdirSync(outdir)) if (/^part-\w+\.js(\.map)?$/.test(old)) rmSync(`${outdir}/${old}`);
	const { metafile } = await build({
		...common,
		entryPoints,
		outdir,
		metafile: true,
		splitting: true,
		chunkNames: 'part-[hash]',
		// What the build of the web leaves of packages whose code went elsewhere.
		logOverride: { 'ignored-bare-import': 'silent' },
		// The first starts threads from files of its own, the second is no script; the others are asked for where they are there only.
		external: ['piscina', '@resvg/resvg-js', 'pg-native', 'pg-cloudflare'],
		// The worker shim that the GeoTIFF reader pulls in (and never needs here) takes every worker thread for one of its own, so it is left out.
		alias: { ...common.alias, 'web-worker': './scripts/no-web-worker.mjs' },
		banner: { js: "import { createRequire as requireOf } from 'node:module'; const require = requireOf(import.meta.url);" }
	});
	return (name) => reach(metafile.outputs, `${outdir}/${name}.js`, new Set()) / 1024;
};
/** Bytes that a file brings with it at once: its own, and those of all that it imports and does not ask for later. */
const reach = (outputs, file, seen) => {
	if (!outputs[file] || seen.has(file)) return 0;
	seen.add(file);
	return outputs[file].imports
		.filter((i) => i.kind === 'import-statement')
		.reduce((sum, i) => sum + reach(outputs, i.path, seen), outputs[file].bytes);
};
const kilobytesOf = await alone('dist', {
	cli: 'cli/main.ts',
	worker: 'web/src/lib/server/entries/worker.ts',
	tasks: 'web/src/lib/server/threads/tasks.ts',
	'table-tasks': 'web/src/lib/server/threads/table-tasks.ts',
	compute: 'core/model/compute.ts',
	reader: 'web/src/lib/server/entries/reader.ts',
	serve: 'web/src/lib/server/entries/serve.ts'
});
// A thread compiles all of this before its first task. What is large and seldom used (writers of files, of PDF) is to be asked for by import() where it is used.
for (const [name, most] of Object.entries({ compute: 1600, 'table-tasks': 2100, tasks: 2800, reader: 2000 }))
	if (kilobytesOf(name) > most) throw new Error(`${name}.js brings ${Math.round(kilobytesOf(name))} kB with it at once, more than ${most}`);
// What SvelteKit made; before its first build there is none.
if (existsSync('dist/web/handler.js')) await alone('dist/web', { whole: 'dist/web/handler.js' });

// Text in pictures drawn by the server needs fonts that its renderer reads: the shipped web fonts, unpacked.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { decompress } from 'wawoff2';
mkdirSync('dist/fonts', { recursive: true });
for (const weight of [400, 600])
	writeFileSync(
		`dist/fonts/plex-${weight}.ttf`,
		await decompress(readFileSync(`node_modules/@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-${weight}-normal.woff2`))
	);

// Definitions of coordinate systems, as far as they are used: code, name, PROJ string, unit. Grid files are not shipped: where a
// definition needs one, its seven parameters stand in when it has them.
import { createRequire } from 'node:module';
const index = createRequire(import.meta.url)('epsg-index/all.json');
const systems = {};
for (const [code, e] of Object.entries(index)) {
	if (!e.proj4 || !/^CRS-(PROJ|GEOG)/.test(e.kind)) continue;
	const seven = /TOWGS84\[([^\]]+)\]/.exec(e.wkt ?? '')?.[1];
	systems[code] = [
		e.name,
		e.proj4.replace(/\+nadgrids=(?!@null)\S+/, seven ? `+towgs84=${seven}` : '').replace(' +type=crs', ''),
		/degree/.test(e.unit ?? '') ? 'degree' : (e.unit ?? ''),
		e.wkt ?? '',
		(e.area ?? '').split('. ')[0].slice(0, 120)
	];
}
writeFileSync('dist/epsg.json', JSON.stringify(systems));
