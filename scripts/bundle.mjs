// Bundles everything that runs outside SvelteKit: the command line, the threads, the server's entries and the demo's writer.
import { existsSync } from 'node:fs';
import { build } from 'esbuild';

const entries = {
	cli: 'cli/main.ts',
	compute: 'core/model/compute.ts',
	'demo-write': 'demo/write.ts',
	catalogue: 'demo/catalogue-server.ts',
	worker: 'web/src/lib/server/entries/worker.ts',
	serve: 'web/src/lib/server/entries/serve.ts',
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

// The threads' tasks and the readers of foreign files stand alone: the worker shim that the GeoTIFF reader pulls in (and never needs here) takes every worker thread
// for one of its own, so it is left out.
await build({
	...common,
	entryPoints: {
		tasks: 'web/src/lib/server/threads/tasks.ts',
		'table-tasks': 'web/src/lib/server/threads/table-tasks.ts',
		reader: 'web/src/lib/server/entries/reader.ts'
	},
	outdir: 'dist',
	// It starts threads from files of its own.
	external: ['piscina', '@resvg/resvg-js'],
	alias: { ...common.alias, 'web-worker': './scripts/no-web-worker.mjs' },
	banner: { js: "import { createRequire as requireOf } from 'node:module'; const require = requireOf(import.meta.url);" }
});

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
