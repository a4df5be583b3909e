import { statSync } from 'node:fs';
import pg from 'pg';

/** What a database that is ready was made by: of another build it is made anew. */
const MADE_BY = ['dist/serve.js', 'dist/tasks.js', 'dist/table-tasks.js', 'dist/web/handler.js'];

const named = (admin: string, name: string) => admin.replace(/\/\w+$/, `/${name}`);

/**
 * A database for one server, copied from one that is ready. Who asks for a kind of it first makes it, others wait meanwhile: to load and
 * build the demo takes longer than most of what is asked of it.
 * @param kind of what is in it, in letters and digits
 * @param fill puts that into an empty database, and leaves nobody connected to it
 * @returns its address
 */
export async function copyOf(kind: string, fill: (databaseUrl: string) => Promise<void>): Promise<string> {
	const admin = process.env['MALACHITE_DATABASE_URL'];
	if (!admin) throw new Error('run the tests with ./malachite test: they need a database');
	const made = Math.max(...MADE_BY.map((file) => Math.floor(statSync(file).mtimeMs)));
	const ready = `ready_${kind}_${made}`;
	const own = `test_${Date.now()}_${Math.floor(Math.random() * 1e6)}`;
	const client = new pg.Client({ connectionString: admin });
	await client.connect();
	try {
		// Held by this connection until it ends, come what may.
		await client.query('select pg_advisory_lock(hashtext($1))', [ready]);
		if ((await client.query('select 1 from pg_database where datname = $1', [ready])).rowCount === 0) {
			const begun = `begun_${kind}_${made}`;
			await client.query(`drop database if exists ${begun} with (force)`);
			await client.query(`create database ${begun}`);
			await fill(named(admin, begun));
			await client.query(`alter database ${begun} rename to ${ready}`);
		}
		await client.query('select pg_advisory_unlock(hashtext($1))', [ready]);
		await client.query(`create database ${own} template ${ready}`);
	} finally {
		await client.end();
	}
	return named(admin, own);
}
