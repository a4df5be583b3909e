import { statSync } from 'node:fs';
import pg from 'pg';

/** What a database that is ready was made by: of another build it is made anew. */
const MADE_BY = ['dist/serve.js', 'dist/tasks.js', 'dist/table-tasks.js', 'dist/web/handler.js'];

/** A kind of database, and what puts that into it; nobody is connected to it afterwards. */
interface Kind {
	/** In letters and digits. */
	kind: string;
	fill: (databaseUrl: string) => Promise<void>;
}

const named = (admin: string, name: string) => admin.replace(/\/\w+$/, `/${name}`);

/**
 * A database for one server, copied from one that is ready. Who asks for a kind of it first makes it, others wait meanwhile: to load and
 * build the demo takes longer than most of what is asked of it.
 * @param kinds what it is made from: the first from an empty one, each further one from a copy of the one before
 * @returns its address
 */
export async function copyOf(...kinds: Kind[]): Promise<string> {
	const admin = process.env['MALACHITE_DATABASE_URL'];
	if (!admin) throw new Error('run the tests with ./malachite test: they need a database');
	const client = new pg.Client({ connectionString: admin });
	await client.connect();
	const own = `test_${Date.now()}_${Math.floor(Math.random() * 1e6)}`;
	try {
		const ready = await readyOf(client, admin, kinds);
		await client.query(`create database ${own} template ${ready}`);
	} finally {
		await client.end();
	}
	return named(admin, own);
}

/** The name of the database of the last of some kinds, made if it is not there. */
async function readyOf(client: pg.Client, admin: string, kinds: Kind[]): Promise<string> {
	const { kind, fill } = kinds.at(-1)!;
	const made = Math.max(...MADE_BY.map((file) => Math.floor(statSync(file).mtimeMs)));
	const ready = `ready_${kind}_${made}`;
	// Held by this connection until it ends, come what may.
	await client.query('select pg_advisory_lock(hashtext($1))', [ready]);
	if ((await client.query('select 1 from pg_database where datname = $1', [ready])).rowCount === 0) {
		const from = kinds.length > 1 ? await readyOf(client, admin, kinds.slice(0, -1)) : null;
		const begun = `begun_${kind}_${made}`;
		await client.query(`drop database if exists ${begun} with (force)`);
		await client.query(`create database ${begun}${from ? ` template ${from}` : ''}`);
		await fill(named(admin, begun));
		await client.query(`alter database ${begun} rename to ${ready}`);
	}
	await client.query('select pg_advisory_unlock(hashtext($1))', [ready]);
	return ready;
}
