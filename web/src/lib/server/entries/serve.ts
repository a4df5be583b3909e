import { createServer } from 'node:http';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { closeDatabase } from '../db/client';
import { migrateDatabase } from '../db/migrate';

/** Brings the schema up to date and serves the application on `HOST`:`PORT`; what runs behind it starts in `hooks.server.ts`. */
const port = Number(process.env['PORT'] ?? 5810);
const host = process.env['HOST'] ?? '127.0.0.1';
const dist = dirname(fileURLToPath(import.meta.url));
process.env['MALACHITE_DIST'] ??= dist;
process.env['MALACHITE_TASKS'] ??= dist;
process.env['ORIGIN'] ??= `http://${host}:${port}`;
process.env['BODY_SIZE_LIMIT'] ??= '300M';
process.on('unhandledRejection', (error) => console.error('unhandled:', error));

try {
	await migrateDatabase();
	await closeDatabase();
	const { handler } = (await import(join(dist, 'web/handler.js'))) as { handler: NonNullable<Parameters<typeof createServer>[1]> };
	const server = createServer(handler);
	server.once('error', (error: NodeJS.ErrnoException) => {
		console.error(error.code === 'EADDRINUSE' ? `port ${port} is taken; choose another with MALACHITE_PORT` : error);
		process.exit(1);
	});
	server.listen(port, host, () => console.log(`listening on http://${host}:${port}`));
} catch (error) {
	console.error(error instanceof Error ? error.message : error);
	process.exit(1);
}
