import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
	preprocess: vitePreprocess(),
	kit: {
		adapter: adapter({ out: 'dist/web', precompress: true }),
		outDir: 'web/.svelte-kit',
		files: {
			src: 'web/src',
			assets: 'web/static',
			lib: 'web/src/lib',
			params: 'web/src/params',
			routes: 'web/src/routes',
			appTemplate: 'web/src/app.html',
			errorTemplate: 'web/src/error.html',
			hooks: { server: 'web/src/hooks.server' }
		},
	}
};
