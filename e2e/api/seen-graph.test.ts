import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { closeDatabase, db, unheld } from '../../web/src/lib/server/db/client';
import { loadGraph } from '../../web/src/lib/server/graph/graph';
import { storedRows } from '../../web/src/lib/server/graph/stored-rows';
import { client, startServer, type Api, type TestServer } from '../server';
import { sql } from 'drizzle-orm';

// What a graph is read from is read again only where it was written: whatever is done, it is as the database has it.
let server: TestServer;
let api: Api;
let database: pg.Client;
const admin = process.env['MALACHITE_DATABASE_URL'];
const READINGS = 'hole,x,y,z,depth\nA,402000,4992000,10,50\nB,402100,4992000,12,50\nC,402050,4992090,9,50\n';

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	process.env['MALACHITE_DATABASE_URL'] = server.databaseUrl;
	database = new pg.Client({ connectionString: server.databaseUrl });
	await database.connect();
});
afterAll(async () => {
	await database?.end();
	await closeDatabase();
	process.env['MALACHITE_DATABASE_URL'] = admin;
	await server?.stop();
});

/** The same, straight from the database. */
async function asStored(p: string) {
	const rows = async (text: string) => (await database.query(text, [p])).rows;
	return {
		project: (await rows('select revision, name, checked_key from project where id = $1'))[0],
		objects: await rows(
			'select id, kind, name, revision, content_hash, state, failure, position from object where project_id = $1 and removed_at is null order by position, created_at, id'
		),
		edges: (
			await rows(
				'select object_id, input_id, role from object_input e join object o on o.id = e.object_id where o.project_id = $1 and o.removed_at is null'
			)
		)
			.map((e) => `${e.object_id} ${e.input_id} ${e.role}`)
			.sort(),
		keys: (await rows('select key from result where project_id = $1')).map((r) => r.key).sort()
	};
}

async function asSeen(p: string) {
	const { project, objects, edges, keys } = await storedRows(db(), p);
	return {
		project: project && { revision: project.revision, name: project.name, checked_key: project.checkedKey },
		objects: objects.map((o) => ({
			id: o.id,
			kind: o.kind,
			name: o.name,
			revision: o.revision,
			content_hash: o.contentHash,
			state: o.state,
			failure: o.failure,
			position: o.position
		})),
		edges: edges.map((e) => `${e.objectId} ${e.inputId} ${e.role}`).sort(),
		keys: [...keys].sort()
	};
}

const project = async (name: string): Promise<string> =>
	(await api.call<{ id: string }>('POST', '/projects', { name, crs: 32628 })).body.id;

describe('a graph that was read before', () => {
	it('is as the database has it after every kind of change, undone and done again', async () => {
		const p = await project('Seen');
		const at = (rest: string) => `/projects/${p}${rest}`;
		const made: string[] = [];
		let readings = '';
		const build = async () => {
			const { job } = (await api.call<{ job: string }>('POST', at('/build'), { objects: made })).body;
			await api.finished(p, job);
		};
		const steps: [string, () => Promise<unknown>][] = [
			['nothing yet', async () => {}],
			[
				'a table',
				async () => {
					readings = (await api.bring(p, 'Readings', 'c.csv', READINGS)).outcome.object!;
					await api.findings(p);
				}
			],
			[
				'an extent',
				() => api.call('PATCH', at(''), { extent: { x0: 401900, x1: 402200, y0: 4991900, y1: 4992200, bottom: -100, top: 50 } })
			],
			...[1, 2].map((n): [string, () => Promise<unknown>] => [
				`result ${n}`,
				async () => {
					const chosen = { recipe: 'gridded', inputs: { readings: [readings] } };
					const first = (await api.call<{ parameters: object }>('POST', at('/suggestions'), chosen)).body.parameters;
					const { body, status } = await api.call<{ id: string }>('POST', at('/results'), {
						...chosen,
						name: `Grid ${n}`,
						parameters: { ...first, method: 'nearest', cell: 10 + n }
					});
					expect(status).toBe(201);
					made.push(body.id);
				}
			]),
			['a build', build],
			['another parameter', () => api.call('PATCH', at(`/results/${made[0]}`), { name: 'Grid of A' })],
			['an edited cell', () => api.call('PATCH', at(`/tables/${readings}/rows/0`), { column: 'z', value: '11' })],
			['a build of what changed', build],
			['one taken out', () => api.call('DELETE', at(`/results/${made[1]}`))],
			['undone', () => api.call('POST', at('/undo'))],
			['undone again', () => api.call('POST', at('/undo'))],
			['done again', () => api.call('POST', at('/redo'))],
			['a model', () => api.call('POST', at('/models'), { name: 'Other' })],
			['another name', () => api.call('PATCH', at(''), { name: 'Seen twice' })]
		];
		for (const [what, step] of steps) {
			await step();
			expect(await asSeen(p), what).toEqual(await asStored(p));
		}
		expect((await loadGraph(db(), p)).filter((o) => made.includes(o.id)).length).toBe(2);
	});

	it('is the same one while nothing is written, and can not be changed by who has it', async () => {
		const p = await project('Still');
		const graph = await loadGraph(db(), p);
		expect(await loadGraph(db(), p)).toBe(graph);
		const { state } = graph.find((o) => o.kind === 'column')!;
		expect(() => ((state['units'] as unknown[])[0] = null)).toThrow(TypeError);
		expect(() => (graph as unknown[]).push(null)).toThrow(TypeError);
		await database.query(`update object set name = name where project_id = $1 and kind = 'rules'`, [p]);
		expect(await loadGraph(db(), p)).not.toBe(graph);
	});

	it('sees what its own transaction wrote, twice in one row as well, and nothing of it once that is taken back', async () => {
		const p = await project('Taken back');
		const before = await asSeen(p);
		const names: (string | undefined)[] = [];
		await unheld(async (tx) => {
			for (const name of ['first', 'second']) {
				await tx.execute(sql`update object set name = ${name} where project_id = ${p} and kind = 'model'`);
				names.push((await storedRows(tx, p)).objects.find((o) => o.kind === 'model')?.name);
			}
			throw new Error('taken back');
		}).catch(() => {});
		expect(names).toEqual(['first', 'second']);
		expect(await asSeen(p)).toEqual(before);
	});

	it('has with an object what it is made of, and its result, however often others write meanwhile', async () => {
		const p = await project('Busy');
		const input = (await asSeen(p)).objects[0]!.id;
		let writing = true;
		const writer = (async () => {
			const c = new pg.Client({ connectionString: server.databaseUrl });
			await c.connect();
			for (let n = 0; n < 150; n++) {
				await c.query('begin');
				const { rows } = await c.query<{ id: string }>(
					`insert into object (project_id, kind, name, state, content_hash) values ($1, 'gridded', $2, '{}', $3) returning id`,
					[p, `Busy ${n}`, `key ${n}`]
				);
				await c.query(`insert into object_input (object_id, input_id, role) values ($1, $2, 'readings')`, [rows[0]!.id, input]);
				await c.query(
					`insert into result (project_id, key, kind, report, seconds, bytes, sha256) values ($1, $2, 'gridded', '{}', 0, '', '')`,
					[p, `key ${n}`]
				);
				await c.query('commit');
				if (n % 3 === 2) await c.query(`update object set content_hash = 'key ' || $2 where id = $1`, [rows[0]!.id, String(n - 1)]);
				if (n % 5 === 4) await c.query(`delete from object where id = $1`, [rows[0]!.id]);
			}
			await c.end();
			writing = false;
		})();
		let looks = 0;
		for (; writing; looks++) {
			const { objects, edges, keys } = await storedRows(db(), p);
			const of = new Set(edges.map((e) => e.objectId));
			const own = objects.filter((o) => o.kind === 'gridded');
			expect(own.filter((o) => !of.has(o.id)).map((o) => o.name)).toEqual([]);
			expect(own.filter((o) => !keys.has(o.contentHash)).map((o) => o.name)).toEqual([]);
		}
		await writer;
		expect(looks).toBeGreaterThan(10);
		expect(await asSeen(p)).toEqual(await asStored(p));
	});
});
