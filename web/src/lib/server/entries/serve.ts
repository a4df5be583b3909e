import { rmSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { closeDatabase } from '../db/client';
import { migrateDatabase } from '../db/migrate';
import { GUARDS, knownHosts, refusal } from '../door';
import { log } from '../log';

/**
 * Brings the schema up to date and serves the application on `HOST`:`PORT` (0: any port that is free; which one is said); what runs behind
 * it starts in `hooks.server.ts`. The port is held before anything else is done, so nobody else can take it meanwhile; who asks early waits.
 */
const wanted = Number(process.env['PORT'] ?? 5810);
const host = process.env['HOST'] ?? '127.0.0.1';
const dist = dirname(fileURLToPath(import.meta.url));
process.env['MALACHITE_DIST'] ??= dist;
process.env['MALACHITE_TASKS'] ??= dist;
// Bodies are bounded where they are read, by what they are for.
process.env['BODY_SIZE_LIMIT'] ??= 'Infinity';
process.on('unhandledRejection', (error) => log('error', 'unhandled', error));

const LOOPBACK = ['127.0.0.1', 'localhost', '::1'];
if (!LOOPBACK.includes(host) && process.env['MALACHITE_OPEN'] !== 'yes') {
	console.error(
		`MALACHITE_HOST is ${host}: anyone who reaches this machine could then read, change and delete every project, for there is no sign-in yet.\nIf that is meant, set MALACHITE_OPEN=yes as well; put a server with sign-in in front of it otherwise.`
	);
	process.exit(2);
}
if (!LOOPBACK.includes(host))
	console.error(`Open to the network on ${host}: anyone who reaches it may read, change and delete every project.`);
// What was on its way when the last server ended is of no use any more.
if (process.env['MALACHITE_SPOOL']) rmSync(process.env['MALACHITE_SPOOL'], { recursive: true, force: true });

type Handler = NonNullable<Parameters<typeof createServer>[1]>;
let answer: (handler: Handler) => void;
const handler = new Promise<Handler>((resolve) => (answer = resolve));
const hosts = knownHosts({ ...process.env, HOST: host });
const server = createServer((request, response) => {
	for (const [name, value] of Object.entries(GUARDS)) response.setHeader(name, value);
	const refused = refusal(request, hosts);
	if (!refused) return void handler.then((handle) => handle(request, response));
	response.writeHead(refused.status, { 'content-type': 'application/problem+json' });
	response.end(JSON.stringify(refused));
});
// An upload over a slow line may take its time; a head may not.
server.requestTimeout = 60 * 60_000;
server.headersTimeout = 30_000;
server.maxConnections = 2000;

try {
	await new Promise<void>((resolve, reject) => server.once('error', reject).listen(wanted, host, resolve));
	// What goes wrong with it later ends it: it is started again.
	server.removeAllListeners('error').once('error', (error) => {
		console.error(error);
		process.exit(1);
	});
	const { port } = server.address() as AddressInfo;
	process.env['ORIGIN'] ??= `http://${host}:${port}`;
	await migrateDatabase();
	await closeDatabase();
	answer!(((await import(join(dist, 'web/whole.js'))) as { handler: Handler }).handler);
	console.log(`listening on http://${host}:${port}`);
} catch (error) {
	const taken = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
	if (taken) console.error(`port ${wanted} is taken; choose another with MALACHITE_PORT`);
	else console.error(error instanceof Error ? error.message : error);
	process.exit(1);
}
