import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { demoServer } from '../demo-server';
import type { Api, TestServer } from '../server';

/** What is stored as JSON and was damaged, by hand or by a disk: it is named, the rest of the project goes on, and it can be set anew. */
let server: TestServer;
let api: Api;
let database: pg.Client;
let project: string;
interface Stored {
	id: string;
	kind: string;
	name: string;
	revision: number;
	state: Record<string, unknown>;
}
interface Problem {
	type: string;
	title: string;
}
const path = (rest: string) => `/projects/${project}${rest}`;
const objects = async () => (await api.call<{ objects: Stored[] }>('GET', path(''))).body.objects;
const one = async (kind: string) => (await objects()).find((o) => o.kind === kind)!;
/** Puts something else where the state of an object is, runs, and puts it back. */
async function damaged(o: Stored, state: object, run: () => Promise<void>): Promise<void> {
	const { rows } = await database.query('select state from object where id = $1', [o.id]);
	await database.query('update object set state = $2 where id = $1', [o.id, JSON.stringify(state)]);
	try {
		await run();
	} finally {
		await database.query('update object set state = $2 where id = $1', [o.id, JSON.stringify(rows[0].state)]);
	}
}
/**
 * Nothing that a page asks for is answered with a failure of the server, and what every page begins with is answered.
 * @returns what is refused, and what is told to be damaged
 */
async function answersAll(): Promise<Problem[]> {
	const opens = await Promise.all(
		['', '/interpretation', '/findings', '/jobs'].map(async (rest) => (await api.send('GET', path(rest))).status)
	);
	expect(opens).toEqual([200, 200, 200, 200]);
	const { damaged } = (await api.call<{ damaged: { name: string; what: string }[] }>('GET', path('/interpretation'))).body;
	const said: Problem[] = damaged.map((d) => ({ type: 'damaged-state', title: `${d.name}: ${d.what}` }));
	for (const rest of [
		'',
		'/interpretation',
		'/findings',
		'/jobs',
		'/models',
		'/results',
		'/model',
		`/derived/surface-geology?of=model:${(await one('model')).id}`,
		'/first-steps',
		'/workbench',
		'/schemes',
		'/ties'
	]) {
		const { status, body } = await api.send<Problem>('GET', path(rest));
		expect([rest, status < 500, body]).toEqual([rest, true, expect.anything()]);
		if (status >= 400) said.push(body);
	}
	return said;
}

beforeAll(async () => {
	({ server, api, project } = await demoServer({ spacing: 250, build: true }));
	database = new pg.Client({ connectionString: server.databaseUrl });
	await database.connect();
});
afterAll(async () => {
	await database?.end();
	await server?.stop();
});

describe('a damaged state', () => {
	it.each([
		['column', { units: 3 }],
		['column', { units: [{ id: 'a' }] }],
		['lumping', { codes: ['x'] }],
		['faults', { faults: 'none' }],
		['section', { trace: 'A', corridor: -1 }],
		['model', { spacing: 'wide' }],
		['shaping', {}],
		['shaping', { lines: 3, divisions: [{}] }],
		['rules', { rules: 'all' }],
		['schemes', {}],
		['ties', { ties: [1] }]
	] as const)('of the %s (%o) is said with its name, and the project is there', async (kind, state) => {
		const o = await one(kind);
		await damaged(o, state, async () => {
			const said = await answersAll();
			// A shape without a word has the first values of all of them.
			if (JSON.stringify(state) !== '{}' || kind !== 'shaping') expect(said.map((p) => p.type)).toContain('damaged-state');
			for (const p of said.filter((x) => x.type === 'damaged-state')) expect(p.title).toContain('can not be read');
		});
		expect(await answersAll()).toEqual([]);
	});

	it.each([
		['column', 'units', { units: [{ id: 'b', name: 'B', color: '#aabbcc', contact: 'conformable' }] }],
		[
			'section',
			'corridor',
			{
				trace: [
					[0, 0],
					[9, 9]
				],
				corridor: 40
			}
		],
		['lumping', 'codes', { codes: { X: 'tolven' } }]
	] as const)('of the %s is shown as it began, and set anew in one', async (kind, key, body) => {
		const o = await one(kind);
		await damaged(o, { [key]: 'nothing', junk: 1 }, async () => {
			const read = (await api.call<Record<string, { revision: number }>>('GET', path('/interpretation'))).body;
			const { status, body: answer } = await api.call<{ state: object }>('PUT', path(`/${kind}`), {
				...body,
				revision: read[kind]!.revision
			});
			expect([status, answer]).toEqual([200, { revision: expect.any(Number), state: expect.objectContaining(body) }]);
			expect(answer.state).not.toHaveProperty('junk');
			expect((await answersAll()).filter((p) => p.type === 'damaged-state')).toEqual([]);
			expect((await api.call('POST', path('/undo'), {})).status).toBe(200);
		});
	});

	it('of a section beside the main one leaves the others, and it can be set anew or taken out', async () => {
		const trace = [
			[0, 0],
			[9, 9]
		];
		const { ids } = (await api.call<{ ids: string[] }>('POST', path('/sections'), { sections: [{ trace }, { trace }] })).body;
		const own = (await objects()).find((o) => o.id === ids[0])!;
		await damaged(own, { trace: 'A', corridor: -1 }, async () => {
			const read = (await api.call<{ sections: { trace: object[] }[]; damaged: { name: string }[] }>('GET', path('/interpretation'))).body;
			expect(read.sections.map((s) => s.trace.length)).toEqual([0, 2]);
			expect(read.damaged.map((d) => d.name)).toEqual([own.name]);
			const anew = { sections: [{ id: own.id, revision: own.revision, trace }] };
			expect((await api.call('PATCH', path('/sections'), anew)).status).toBe(200);
			expect((await answersAll()).filter((p) => p.type === 'damaged-state')).toEqual([]);
			await api.call('POST', path('/undo'), {});
			expect((await api.call('POST', path('/sections/take-out'), { ids: [own.id] })).status).toBe(200);
			expect((await answersAll()).filter((p) => p.type === 'damaged-state')).toEqual([]);
			await api.call('POST', path('/undo'), {});
		});
		await api.call('POST', path('/sections/take-out'), { ids });
	});

	it('two at once are both told, and one of them can be set', async () => {
		const [column, lumping] = [await one('column'), await one('lumping')];
		await damaged(column, { units: 3 }, () =>
			damaged(lumping, { codes: 3 }, async () => {
				expect((await answersAll()).filter((p) => p.title.startsWith('Stratigraphic column') || p.title.startsWith('Codes'))).toHaveLength(
					2
				);
				// What the codes are taken for is units of the column: that comes first.
				const units = [{ id: 'b', name: 'B', color: '#aabbcc', contact: 'conformable' }];
				expect((await api.call('PUT', path('/lumping'), { codes: {}, revision: lumping.revision })).body).toMatchObject({
					type: 'damaged-state',
					title: expect.stringContaining('Stratigraphic column')
				});
				expect((await api.call('PUT', path('/column'), { units, revision: column.revision })).status).toBe(200);
				await api.call('POST', path('/undo'), {});
			})
		);
	});

	it('is mended by setting it anew', async () => {
		const o = await one('faults');
		const { faults } = o.state;
		await database.query('update object set state = $2 where id = $1', [o.id, JSON.stringify({ faults: 'none' })]);
		const { status } = await api.call('PUT', path('/faults'), { faults, follows: null, revision: o.revision });
		expect(status).toBe(200);
		expect(await answersAll()).toEqual([]);
	});

	it('of a table is said, and the table can be taken out', async () => {
		const o = (await objects()).find((x) => x.kind === 'table' && x.state['kind'] === 'assays')!;
		await database.query(`update object set state = state - 'header' where id = $1`, [o.id]);
		const said = await answersAll();
		expect(said.map((p) => p.type)).toContain('damaged-state');
		expect(said.find((p) => p.type === 'damaged-state')!.title).toContain(o.name);
		expect((await api.call('DELETE', path(`/sources/${o.id}`))).status).toBe(200);
		expect(await answersAll()).toEqual([]);
	});
});
