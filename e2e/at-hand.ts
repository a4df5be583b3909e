import pg from 'pg';
import { expect } from 'vitest';
import { client, startServer, type Api } from './server';

/** A row as the API tells it. */
interface Row {
	n: number;
	line: number;
	cells: string[];
	excluded: boolean;
	originals: Record<string, string>;
	findings: { rule: string }[];
}

export const COLLARS = 'hole,x,y,z,depth\nA,402000,4992000,10,50\nB,402100,4992000,10,50\n';
export const LOG = 'hole,from,to,code\nA,0,10,S\nA,10,30,L\nA,30,50,S\nB,0,20,S\nB,20,50,L\nC,0,5,S\n';

/** What tests do to the tables of a project, by the API. */
function atHand(api: Api) {
	const project = async (name = 'Careful') => (await api.call<{ id: string }>('POST', '/projects', { name, crs: 32628 })).body.id;
	const upload = (p: string, name: string, content: string | Uint8Array) => api.upload(p, name, content);
	async function bring(p: string, name: string, content: string, more: Record<string, unknown> = {}): Promise<string> {
		const job = await api.bring(p, name, `${name.replace(/\W/g, '_')}.csv`, content, more);
		expect([job.state, JSON.stringify(job.outcome)]).toEqual(['done', expect.anything()]);
		return job.outcome.object!;
	}
	const rows = async (p: string, t: string) =>
		(await api.call<{ rows: Row[] }>('GET', `/projects/${p}/tables/${t}/rows?limit=1000`)).body.rows;
	const cells = async (p: string, t: string) => (await rows(p, t)).map((r) => r.cells.join(','));
	const edit = (p: string, t: string, n: number, column: string, value: string) =>
		api.call<{ type?: string }>('PATCH', `/projects/${p}/tables/${t}/rows/${n}`, { column, value });
	const exclude = (p: string, t: string, n: number, excluded = true) =>
		api.call('PATCH', `/projects/${p}/tables/${t}/rows/${n}`, { excluded });
	const undo = (p: string, which = 'undo') => api.call<{ type?: string; label: string; title?: string }>('POST', `/projects/${p}/${which}`);
	const findings = (p: string) =>
		api.findings<{ rule: string; n: number; count: number; table: string; message: string; hole: string; seen: string | null }>(p);
	async function version(p: string, t: string, how: 'reload' | 'append', content: string, more: object = {}) {
		const u = await upload(p, 'next.csv', content);
		const { body, status } = await api.call<{ job: string; type?: string }>('POST', `/projects/${p}/tables/${t}/${how}`, {
			fileId: u.file.id,
			...more
		});
		return status === 200 ? await api.finished(p, body.job) : null;
	}
	return { project, upload, bring, rows, cells, edit, exclude, undo, findings, version };
}

/** How many connections of a database wait for others of it; other tests have databases of their own in the same cluster. */
export async function waitingFor(database: pg.Client): Promise<number> {
	// Within a transaction it would tell again what it told first.
	await database.query('select pg_stat_clear_snapshot()');
	const { rows } = await database.query(
		`select count(*)::int as n from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`
	);
	return rows[0].n;
}

/** A server with its database, and what is done to tables there. */
export async function startAtHand() {
	const server = await startServer();
	const api = client(server);
	const database = new pg.Client({ connectionString: server.databaseUrl });
	await database.connect();
	const stop = async () => {
		await database.end();
		await server.stop();
	};
	return { api, database, hand: atHand(api), stop };
}
