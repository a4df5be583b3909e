import { spawn, type ChildProcess } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { log } from '../log';

/** Keeps the server and the simulated catalogue running: what ends is started again, until this process is told to stop. Usage errors end it. */
const dist = dirname(fileURLToPath(import.meta.url));
const USAGE_ERROR = 2;
const running = new Map<string, ChildProcess>();
let stopping = false;

function keep(name: string, script: string, quiet: boolean, failures = 0): void {
	const started = Date.now();
	const child = spawn(process.execPath, [join(dist, script)], {
		stdio: quiet ? 'ignore' : ['ignore', 'inherit', 'inherit']
	});
	running.set(name, child);
	child.once('exit', (code, signal) => {
		running.delete(name);
		if (stopping) return;
		if (code === USAGE_ERROR) process.exit(code);
		// A server that can not start at all, for its port is taken, is not tried for ever.
		if (name === 'server' && code === 1 && Date.now() - started < 5000 && failures >= 5) process.exit(1);
		log('error', `the ${name} ended and is started again`, undefined, { code: code ?? undefined, signal: signal ?? undefined });
		const next = Date.now() - started > 60_000 ? 0 : failures + 1;
		setTimeout(() => !stopping && keep(name, script, quiet, next), Math.min(30_000, 250 * 2 ** Math.min(next, 7)));
	});
}

async function stop(): Promise<void> {
	stopping = true;
	const all = [...running.values()];
	for (const c of all) c.kill('SIGTERM');
	await Promise.race([
		Promise.all(all.map((c) => new Promise((r) => (c.exitCode !== null ? r(null) : c.once('exit', r))))),
		new Promise((r) => setTimeout(r, 6000))
	]);
	for (const c of all) c.kill('SIGKILL');
	process.exit(0);
}
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());

keep('server', 'serve.js', false);
if (process.argv[2] === 'catalogue') keep('catalogue', 'catalogue.js', true);
