import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
	plugins: [tailwindcss(), sveltekit()],
	server: { host: '127.0.0.1' },
	worker: { format: 'es' },
	// Many small files cost a slow line more than one that is a little larger.
	build: { chunkSizeWarningLimit: 1500, rollupOptions: { output: { experimentalMinChunkSize: 30_000 } } }
});
