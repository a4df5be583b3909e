import { defineConfig } from 'vitest/config';
import { LongestFirst } from './scripts/longest-first.ts';

export default defineConfig({
	resolve: { alias: { $lib: new URL('./web/src/lib', import.meta.url).pathname } },
	test: {
		sequence: { sequencer: LongestFirst },
		projects: [
			{
				extends: true,
				test: {
					name: 'unit',
					include: ['core/**/*.test.ts', 'cli/**/*.test.ts', 'demo/**/*.test.ts', 'e2e/formats/**/*.test.ts', 'web/src/**/*.test.ts'],
					setupFiles: ['e2e/seed.ts'],
					testTimeout: 600_000,
					hookTimeout: 600_000,
					maxWorkers: 2,
					// Two processes for all files: most of a short file's time went to start one of its own.
					isolate: false
				}
			},
			{
				extends: true,
				test: {
					name: 'server',
					include: ['e2e/api/**/*.test.ts'],
					testTimeout: 600_000,
					hookTimeout: 600_000,
					// Three servers with their workers at a time: two leave a quarter of two cores idle.
					maxWorkers: 3,
					isolate: false,
					sequence: { groupOrder: 1 }
				}
			},
			{
				extends: true,
				// After all else, since a browser draws in software and takes what there is; two at a time wait for each other's servers.
				test: {
					name: 'browser',
					include: ['e2e/browser/**/*.test.ts'],
					testTimeout: 600_000,
					hookTimeout: 600_000,
					maxWorkers: 2,
					isolate: false,
					sequence: { groupOrder: 2 }
				}
			}
		]
	}
});
