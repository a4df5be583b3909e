import { startWorker, stopQueue } from '../jobs/queue';
import { closeThreads } from '../jobs/threads';
import { closeDatabase } from '../db/client';
import { stopListening } from '../objects/events';

/** Takes work from the queue of the database at `MALACHITE_DATABASE_URL`, on this machine, until it is told to stop. */
await startWorker();
console.log('worker ready');

async function stop(): Promise<void> {
	await stopQueue();
	await closeThreads();
	await stopListening();
	await closeDatabase();
	process.exit(0);
}
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
