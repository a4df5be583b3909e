import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import pg from 'pg';
import * as schema from './schema';

export type Database = NodePgDatabase<typeof schema>;

let pool: pg.Pool | null = null;
let database: Database | null = null;

/** Address of the database: `MALACHITE_DATABASE_URL`, set by the start command. */
export function databaseUrl(): string {
	const url = process.env['MALACHITE_DATABASE_URL'];
	if (!url) throw new Error('MALACHITE_DATABASE_URL is not set; start the server with ./malachite start');
	return url;
}

export function pgPool(): pg.Pool {
	if (!pool) {
		pool = new pg.Pool({ connectionString: databaseUrl(), max: 12, connectionTimeoutMillis: 5000 });
		// A lost idle connection is replaced by the pool; without a listener it would end the process.
		pool.on('error', () => {});
	}
	return pool;
}

export function db(): Database {
	return (database ??= drizzle(pgPool(), { schema }));
}

export async function closeDatabase(): Promise<void> {
	await pool?.end();
	pool = null;
	database = null;
}

/**
 * Runs a transaction that holds no project from its beginning: what belongs to none, to one that is not there yet, or to rows that nobody locks while
 * holding a project. All else is a change of a project: `inProject`.
 */
export const unheld = <T>(work: (tx: Executor) => Promise<T>): Promise<T> => db().transaction(work);

/** Runs a transaction with its connection at hand, so that COPY can be part of it. */
export async function onOneClient<T>(work: (tx: Executor, client: pg.PoolClient) => Promise<T>): Promise<T> {
	const client = await pgPool().connect();
	try {
		await client.query('begin');
		const result = await work(drizzle(client, { schema }), client);
		await client.query('commit');
		return result;
	} catch (error) {
		await client.query('rollback').catch(() => {});
		throw error;
	} finally {
		client.release();
	}
}

/** Reads that do not depend on each other: beside each other from the database, one after the other within a transaction, which has one connection. */
export async function readAll<T extends readonly (() => PromiseLike<unknown>)[]>(
	on: Executor,
	...reads: T
): Promise<{ -readonly [K in keyof T]: Awaited<ReturnType<T[K]>> }> {
	const out: unknown[] = [];
	if (on === database) out.push(...(await Promise.all(reads.map((read) => read()))));
	else for (const read of reads) out.push(await read());
	return out as { -readonly [K in keyof T]: Awaited<ReturnType<T[K]>> };
}

/** Reads as everything stands at one time, whatever is written meanwhile. Within a transaction they go as they do there. */
export const atOneTime = <T>(on: Executor, read: (on: Executor) => Promise<T>): Promise<T> =>
	on === database ? database.transaction(read, { isolationLevel: 'repeatable read', accessMode: 'read only' }) : read(on);

/** What a transaction or the database itself can do. */
export type Executor = Pick<Database, 'select' | 'selectDistinct' | 'insert' | 'update' | 'delete' | 'execute'>;
