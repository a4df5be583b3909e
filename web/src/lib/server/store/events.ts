import pg from 'pg';
import { databaseUrl, type Executor } from '../db/client';
import { sql } from 'drizzle-orm';

/** What the interface is told: something of a project changed. */
export interface ProjectEvent {
	project: string;
	/** `objects`: read them again; `job`: a job moved; `findings`: checks ran; `viewpoints`: list them again. */
	topic: 'objects' | 'job' | 'findings' | 'viewpoints';
	/** Transaction that changed it: who has read what it left needs not read again. */
	xid?: string;
	job?: { id: string; kind: string; title: string; state: string; what: string; share: number; objectId: string | null };
}

const CHANNEL = 'malachite_events';
const listeners = new Set<(e: ProjectEvent) => void>();
let client: pg.Client | null = null;
let connecting: Promise<void> | null = null;

/** Tells every server process. Inside a transaction it is told when that commits. */
export async function announce(on: Executor, ...events: readonly ProjectEvent[]): Promise<void> {
	const each = events.map(
		(e) => sql`pg_notify(${CHANNEL}, (${JSON.stringify(e)}::jsonb || jsonb_build_object('xid', pg_current_xact_id()::text))::text)`
	);
	if (each.length) await on.execute(sql`select ${sql.join(each, sql`, `)}`);
}

async function connect(): Promise<void> {
	const c = new pg.Client({ connectionString: databaseUrl() });
	c.on('notification', (n) => {
		if (!n.payload) return;
		const event = JSON.parse(n.payload) as ProjectEvent;
		for (const l of listeners) l(event);
	});
	// When the connection is lost, listen again as long as somebody wants to hear.
	c.on('error', () => {});
	c.on('end', () => {
		client = null;
		if (listeners.size) setTimeout(() => void ensure().catch(() => {}), 1000);
	});
	await c.connect();
	await c.query(`listen ${CHANNEL}`);
	client = c;
}

function ensure(): Promise<void> {
	if (client) return Promise.resolve();
	return (connecting ??= connect().finally(() => (connecting = null)));
}

/** Calls back for every event until the returned function is called. */
export async function listen(callback: (e: ProjectEvent) => void): Promise<() => void> {
	listeners.add(callback);
	try {
		await ensure();
	} catch (error) {
		listeners.delete(callback);
		throw error;
	}
	return () => listeners.delete(callback);
}

/** Asks on the connection that events come on: what it holds there is let go when the process ends, whatever ended it. Only while somebody listens. */
export async function onLine(query: string, values: readonly unknown[]): Promise<void> {
	await client?.query(query, [...values]);
}

export async function stopListening(): Promise<void> {
	listeners.clear();
	await client?.end();
}
