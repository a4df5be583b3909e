import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

/** Many small files cost a slow line more than one that is a little larger. */
const fewer = { groups: [{ name: 'shared', minShareCount: 2, entriesAware: true, entriesAwareMergeThreshold: 30_000 }] };

export default defineConfig({
	plugins: [tailwindcss(), sveltekit()],
	server: { host: '127.0.0.1' },
	worker: { format: 'es' },
	build: { chunkSizeWarningLimit: 1500 },
	environments: { client: { build: { rolldownOptions: { output: { codeSplitting: fewer } } } } }
});
