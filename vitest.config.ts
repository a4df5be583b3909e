import { defineConfig } from 'vitest/config';

export default defineConfig({
	resolve: { alias: { $lib: new URL('./web/src/lib', import.meta.url).pathname } },
	test: {
		projects: [
			{
				extends: true,
				test: {
					name: 'unit',
					include: ['core/**/*.test.ts', 'cli/**/*.test.ts', 'demo/**/*.test.ts', 'e2e/formats/**/*.test.ts', 'web/src/**/*.test.ts'],
					setupFiles: ['e2e/seed.ts'],
					testTimeout: 300_000,
					hookTimeout: 300_000,
					maxWorkers: 2
				}
			},
			{
				extends: true,
				test: {
					name: 'server',
					include: ['e2e/api/**/*.test.ts'],
					testTimeout: 300_000,
					hookTimeout: 300_000,
					// A server with its workers has the machine to itself: two at a time are no quicker.
					fileParallelism: false,
					sequence: { groupOrder: 1 }
				}
			},
			{
				extends: true,
				// One browser at a time, after all else: it draws in software and takes what there is.
				test: {
					name: 'browser',
					include: ['e2e/browser/**/*.test.ts'],
					testTimeout: 300_000,
					hookTimeout: 300_000,
					fileParallelism: false,
					sequence: { groupOrder: 2 }
				}
			}
		]
	}
});
