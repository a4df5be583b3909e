import adapter from '@sveltejs/adapter-node';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
	preprocess: vitePreprocess(),
	kit: {
		adapter: adapter({ out: 'dist/web', precompress: true }),
		outDir: 'web/.svelte-kit',
		// Pages from elsewhere are turned away at the door (lib/server/door.ts), before a request comes to a route.
		csrf: { trustedOrigins: ['*'] },
		// No script but our own, by nonce; styles of elements are set by the panes as they draw.
		csp: {
			mode: 'nonce',
			directives: {
				'default-src': ['none'],
				'script-src': ['self', 'wasm-unsafe-eval'],
				'worker-src': ['self', 'blob:'],
				'style-src': ['self', 'unsafe-inline'],
				'img-src': ['self', 'blob:', 'data:'],
				'font-src': ['self', 'data:'],
				'connect-src': ['self', 'blob:', 'data:'],
				'manifest-src': ['self'],
				'base-uri': ['none'],
				'form-action': ['self'],
				'frame-ancestors': ['none'],
				'object-src': ['none']
			}
		},
		files: {
			src: 'web/src',
			assets: 'web/static',
			lib: 'web/src/lib',
			params: 'web/src/params',
			routes: 'web/src/routes',
			appTemplate: 'web/src/app.html',
			errorTemplate: 'web/src/error.html',
			hooks: { server: 'web/src/hooks.server' }
		}
	}
};
