import { setPriority } from 'node:os';
import { closeDatabase } from '../db/client';
import { closeReaders } from '../threads/readers';
import { startWorker, stopWorker } from '../jobs/lanes';
import { closeThreads } from '../threads/threads';
import { log } from '../log';
import { stopListening } from '../store/events';

/**
 * Takes work from the queue of the database at `MALACHITE_DATABASE_URL`, on this machine, until it is told to stop. It gives way to
 * whoever answers requests.
 */
try {
	setPriority(10);
} catch {
	// Not everywhere allowed.
}
process.on('unhandledRejection', (error) => log('error', 'unhandled', error));

async function stop(): Promise<void> {
	await Promise.race([
		Promise.allSettled([stopWorker(), closeThreads(), stopListening(), closeDatabase()]),
		new Promise((r) => setTimeout(r, 3000))
	]);
	closeReaders();
	process.exit(0);
}
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
// A worker of a server ends with it, however that ends.
process.on('disconnect', () => {
	closeReaders();
	process.exit(0);
});

await startWorker();
process.send?.('ready');
if (!process.send) console.log('worker ready');
