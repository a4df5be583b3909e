import { unzipSync } from 'fflate';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plainBench } from '../../web/src/lib/workbench/state';
import { client, startServer, type TestServer } from '../server';

// What somebody did is never lost, never lands elsewhere, and can be taken back.
interface Row {
	n: number;
	line: number;
	cells: string[];
	excluded: boolean;
	originals: Record<string, string>;
	findings: { rule: string }[];
}
let server: TestServer;
let api: ReturnType<typeof client>;
let database: pg.Client;

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	database = new pg.Client({ connectionString: server.databaseUrl });
	await database.connect();
});
afterAll(async () => {
	await database?.end();
	await server?.stop();
});

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

const COLLARS = 'hole,x,y,z,depth\nA,402000,4992000,10,50\nB,402100,4992000,10,50\n';
const LOG = 'hole,from,to,code\nA,0,10,S\nA,10,30,L\nA,30,50,S\nB,0,20,S\nB,20,50,L\nC,0,5,S\n';

describe('an edit that changes nothing', () => {
	it('leaves every finding where it is: the value that stands there, and a row that is left out already', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Log', LOG);
		const before = await findings(p);
		expect(before.findings.length).toBeGreaterThan(0);
		expect((await edit(p, t, 0, 'code', 'S')).status).toBe(200);
		expect(await findings(p)).toEqual(before);
		await exclude(p, t, 2);
		const out = await findings(p);
		await exclude(p, t, 2);
		expect((await api.call('POST', `/projects/${p}/tables/${t}/cells`, { cells: [{ n: 1, column: 'to', value: '30' }] })).status).toBe(200);
		expect(await findings(p)).toEqual(out);
		expect(out.checked).toBe(true);
	});

	it('is stored while a check stores what it found of the same table', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Log', LOG);
		await findings(p);
		// As a check does: it holds the project, and writes findings that refer to the table.
		await database.query('begin');
		await database.query('select id from project where id = $1 for no key update', [p]);
		const edited = edit(p, t, 0, 'code', 'X');
		await expect
			.poll(async () => (await database.query('select 1 from pg_locks where not granted')).rows.length, { timeout: 60_000 })
			.toBe(1);
		await database.query(
			`insert into finding (project_id, object_id, rule, severity, n, line, message, hint, count) values ($1, $2, 'outlier', 'noted', 0, 2, 'm', 'h', 1)`,
			[p, t]
		);
		await database.query('commit');
		expect((await edited).status).toBe(200);
		expect((await cells(p, t))[0]).toBe('A,0,10,X');
	});

	it('leaves them where they are when two checks of the same end one after the other', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		await bring(p, 'Log', LOG);
		const before = await findings(p);
		const of = async () => (await database.query('select checked_key, check_due from project where id = $1', [p])).rows[0];
		const key = (await of()).checked_key;
		for (let held = ''; held !== 'other'; held = (await of()).checked_key) {
			await database.query(
				`update project set checked_key = 'other', check_due = date_trunc('milliseconds', now()) - interval '1 minute' where id = $1`,
				[p]
			);
			await database.query('begin');
			await database.query('select id from project where id = $1 for no key update', [p]);
		}
		// The check that is overdue has been made and waits to be stored; what it would store is stored by another one meanwhile.
		await expect
			.poll(async () => (await database.query('select 1 from pg_locks where not granted')).rows.length, { timeout: 60_000 })
			.toBe(1);
		await database.query('update project set checked_key = $2 where id = $1', [p, key]);
		await database.query('commit');
		await expect.poll(async () => (await of()).check_due, { timeout: 60_000 }).toBe(null);
		expect(await findings(p)).toEqual(before);
	});
});

describe('a newer version of a file', () => {
	it('is one change: undo brings the rows, the edits and the roles of before back, and redo those of after', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Log', LOG);
		expect((await edit(p, t, 4, 'code', 'Limestone')).status).toBe(200);
		expect((await exclude(p, t, 3)).status).toBe(200);
		const before = await rows(p, t);
		// One earlier row is gone: the edited row moves up.
		const job = await version(p, t, 'reload', LOG.replace('A,30,50,S\n', ''));
		expect(job?.state).toBe('done');
		const after = await rows(p, t);
		expect(after.map((r) => [r.cells.join(), r.excluded])).toEqual([
			['A,0,10,S', false],
			['A,10,30,L', false],
			['B,0,20,S', true],
			['B,20,50,Limestone', false],
			['C,0,5,S', false]
		]);
		expect(after[3]!.originals).toEqual({ 3: 'L' });
		expect((await undo(p)).body.label).toContain('Reload');
		expect((await rows(p, t)).map(({ cells, excluded, originals }) => ({ cells, excluded, originals }))).toEqual(
			before.map(({ cells, excluded, originals }) => ({ cells, excluded, originals }))
		);
		await undo(p);
		await undo(p);
		expect(await cells(p, t)).toEqual(LOG.trim().split('\n').slice(1));
		for (let i = 0; i < 3; i++) await undo(p, 'redo');
		expect((await rows(p, t)).map((r) => r.cells.join())).toEqual(after.map((r) => r.cells.join()));
	});

	it('keeps older changes from landing in other columns', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Silver', 'hole,from,to,Ag\nA,0,1,5\nA,1,2,6\n', {
			kind: 'other',
			mapping: { hole: 'hole', from: 'from', to: 'to', Ag: 'value' }
		});
		await api.call('PUT', `/projects/${p}/tables/${t}/mapping`, { mapping: { hole: 'hole', from: 'from', to: 'to', Ag: 'keep' } });
		await version(p, t, 'reload', 'hole,from,to,Au,Ag\nA,0,1,0.1,5\nA,1,2,0.2,6\n');
		await undo(p);
		await undo(p);
		const page = (await api.call<{ table: { header: string[]; mapping: object } }>('GET', `/projects/${p}/tables/${t}/rows`)).body;
		expect(page.table).toMatchObject({ header: ['hole', 'from', 'to', 'Ag'], mapping: { Ag: 'value' } });
		expect(await cells(p, t)).toEqual(['A,0,1,5', 'A,1,2,6']);
	});

	it('rows that were added stay when an older change is undone after them, and go as one', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Log', LOG);
		expect((await edit(p, t, 0, 'code', 'X')).status).toBe(200);
		expect((await version(p, t, 'append', 'hole,from,to,code\nB,50,60,M\n'))?.state).toBe('done');
		expect(await cells(p, t)).toHaveLength(7);
		await undo(p);
		expect(await cells(p, t)).toHaveLength(6);
		expect((await cells(p, t))[0]).toBe('A,0,10,X');
		await undo(p, 'redo');
		expect((await cells(p, t)).at(-1)).toBe('B,50,60,M');
	});

	it('accounts for every edit and every row that was left out, and drops none unasked', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Log', LOG);
		await edit(p, t, 0, 'code', 'Sand'); // the file keeps S: stays
		await edit(p, t, 1, 'code', 'Lime'); // the file says M: conflict
		await edit(p, t, 3, 'code', 'Sst'); // the file says Sst: settled
		await edit(p, t, 5, 'hole', 'B'); // the file corrects the key the same way
		await edit(p, t, 2, 'code', 'Gone'); // the row is gone
		await exclude(p, t, 2);
		await exclude(p, t, 4);
		const fresh = 'hole,from,to,code\nA,0,10,S\nA,10,30,M\nB,0,20,Sst\nB,20,50,L\nB,0,5,S\n';
		const u = await upload(p, 'next.csv', fresh);
		const seen = (
			await api.call<{
				kept: number;
				settled: number;
				conflicts: object[];
				lost: object[];
				excluded: { kept: number; lost: string[] };
				unplaced: number;
			}>('POST', `/projects/${p}/tables/${t}/reload/preview`, { fileId: u.file.id })
		).body;
		expect(seen).toMatchObject({
			kept: 1,
			settled: 2,
			conflicts: [{ edited: 'Lime', source: 'M' }],
			lost: [{ edited: 'Gone', why: 'row' }],
			excluded: { kept: 1, lost: [expect.stringContaining('line 4')] },
			unplaced: 2
		});
		const refused = await version(p, t, 'reload', fresh);
		expect(refused).toMatchObject({ state: 'failed', outcome: { problem: { type: 'edits-without-row' } } });
		expect(await cells(p, t)).toHaveLength(6);
		expect((await version(p, t, 'reload', fresh, { dropLost: true }))?.state).toBe('done');
		expect((await rows(p, t)).map((r) => [r.cells.join(), r.excluded])).toEqual([
			['A,0,10,Sand', false],
			['A,10,30,Lime', false],
			['B,0,20,Sst', false],
			['B,20,50,L', true],
			['B,0,5,S', false]
		]);
	});

	it('undo of what no longer fits is refused with the reason, and changes nothing', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Log', LOG);
		await edit(p, t, 0, 'code', 'X');
		// As if another program had written into the store.
		await database.query(`update cell_edit set value = 'Y' where object_id = $1`, [t]);
		const a = await undo(p);
		expect([a.status, a.body.type]).toEqual([409, 'no-longer-fits']);
		expect(a.body.title).toContain('edited again');
		expect((await cells(p, t))[0]).toBe('A,0,10,Y');
	});
});

describe('a file with marks and cells that do not fit', () => {
	it('is read line by line: one quotation mark swallows nothing, and lines too short or too long are found', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const lines = Array.from({ length: 48 }, (_, i) => `A,${i},${i + 1},S`);
		lines[10] = 'A,10,11,"S';
		lines[20] = 'A,20,21,S,stiff';
		lines[30] = 'A,30,31';
		const u = await upload(p, 'log.csv', `hole,from,to,code\n${lines.join('\n')}\n`);
		expect(u.notes.filter((n) => n.startsWith('line'))).toHaveLength(3);
		const t = await bring(p, 'Log', `hole,from,to,code\n${lines.join('\n')}\n`);
		expect(await cells(p, t)).toHaveLength(48);
		const odd = (await findings(p)).findings.filter((f) => f.rule === 'odd-line');
		expect(odd.map((f) => f.n).sort((a, b) => a - b)).toEqual([10, 20, 30]);
	});
	it('keeps the card of a file with what was said of it, until it is brought in or put aside', async () => {
		const p = await project();
		const u = await upload(p, 'collars.csv', COLLARS);
		await upload(p, 'other.csv', LOG);
		await api.call('PATCH', `/projects/${p}/incoming/${u.card}`, {
			title: 'My collars',
			choice: { as: 'table', kind: 'collars', mapping: u.mapping }
		});
		const cards = async () =>
			(
				await api.call<{ cards: { id: string; name: string; title: string; choice: { kind?: string } }[] }>(
					'GET',
					`/projects/${p}/incoming`
				)
			).body.cards;
		expect(await cards()).toMatchObject([{ name: 'collars.csv', title: 'My collars', choice: { kind: 'collars' } }, { name: 'other.csv' }]);
		const { body } = await api.call<{ job: string }>('POST', `/projects/${p}/imports`, {
			fileId: u.file.id,
			incomingId: u.card,
			name: 'My collars',
			as: 'table',
			kind: 'collars',
			mapping: u.mapping
		});
		await api.finished(p, body.job);
		const [left] = await cards();
		expect(left!.name).toBe('other.csv');
		await api.call('DELETE', `/projects/${p}/incoming/${left!.id}`);
		expect(await cards()).toEqual([]);
	});
});

describe('what was taken away', () => {
	it('comes back by undo: a source, a viewpoint, a finding that was seen, a style', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS);
		const t = await bring(p, 'Log', LOG);
		const names = async () =>
			(await api.call<{ objects: { name: string; kind: string }[] }>('GET', `/projects/${p}`)).body.objects
				.filter((o) => o.kind === 'table')
				.map((o) => o.name);
		const before = await findings(p);
		await api.call('DELETE', `/projects/${p}/sources/${t}`);
		expect(await names()).toEqual(['Collars']);
		expect((await findings(p)).findings.filter((f) => f.table === t)).toEqual([]);
		await undo(p);
		expect(await names()).toEqual(['Collars', 'Log']);
		expect((await findings(p)).findings.map((f) => f.message)).toEqual(before.findings.map((f) => f.message));

		const v = (
			await api.call<{ id: string }>('POST', `/projects/${p}/viewpoints`, { name: 'South', stage: 'examine', state: plainBench() })
		).body.id;
		await api.call('DELETE', `/projects/${p}/viewpoints/${v}`);
		await undo(p);
		expect(
			(await api.call<{ viewpoints: { name: string }[] }>('GET', `/projects/${p}/viewpoints`)).body.viewpoints.map((x) => x.name)
		).toEqual(['South']);

		const { rule, n } = before.findings.find((f) => f.table === t)!;
		await api.call('POST', `/projects/${p}/findings/seen`, { table: t, rule, rows: [n], reason: 'as drilled', seen: true });
		const seen = async () => (await findings(p)).findings.find((f) => f.rule === rule && f.n === n)!.seen;
		expect(await seen()).toBe('as drilled');
		await undo(p);
		expect(await seen()).toBeNull();
		await undo(p, 'redo');
		expect(await seen()).toBe('as drilled');

		const style = {
			by: null,
			color: '#112233',
			classes: {},
			order: {},
			scales: {},
			windows: {},
			opacity: 1,
			size: { value: 5, unit: 'px', by: null },
			labels: null
		};
		const bench = async () => (await api.call<{ state: ReturnType<typeof plainBench> }>('GET', `/projects/${p}/workbench`)).body.state;
		expect((await api.call('PUT', `/projects/${p}/workbench`, { state: { ...plainBench(), styles: { [t]: style } } })).status).toBe(200);
		expect((await undo(p)).body.label).toContain('style of Log');
		expect((await bench()).styles).toEqual({});
	});
	it('a source whose name was given to another one meanwhile does not come back unseen', async () => {
		const p = await project();
		const t = await bring(p, 'Collars', COLLARS);
		await api.call('DELETE', `/projects/${p}/sources/${t}`);
		const u = await upload(p, 'again.csv', COLLARS);
		// Brought in as another server would: outside the list of changes.
		await database.query(
			`insert into object (project_id, kind, name, state, file_id) select project_id, kind, name, state, $2 from object where id = $1`,
			[t, u.file.id]
		);
		const a = await undo(p);
		expect([a.status, a.body.type]).toEqual([409, 'no-longer-fits']);
	});
	it('undo names the change that is meant, and what another window did is not taken back unasked', async () => {
		const p = await project();
		const t = await bring(p, 'Collars', COLLARS);
		await edit(p, t, 0, 'depth', '60');
		const { id } = (await api.call<{ changes: { id: number }[] }>('GET', `/projects/${p}/changes`)).body.changes[0]!;
		const elsewhere = (body: object) =>
			api.send<{ type?: string; label: string }>('POST', `/projects/${p}/undo`, body, { 'x-malachite-session': 'another-window' });
		expect((await api.send<{ type: string }>('POST', `/projects/${p}/undo`, { change: id - 1 })).body.type).toBe('edited-elsewhere');
		expect((await elsewhere({ change: id })).body.type).toBe('others-change');
		expect((await cells(p, t))[0]).toContain(',60');
		expect((await elsewhere({ change: id, others: true })).body.label).toContain('Edit');
		expect((await cells(p, t))[0]).toContain(',50');
	});
});

describe('the archive', () => {
	it('brings everything back: raw files byte for byte, edits with their originals, rows left out, what was seen, lines of the file', async () => {
		const p = await project('Whole');
		await bring(p, 'Collars', COLLARS);
		const broken = 'hole,from,to,code,note\nA,0,10,S,"two\nlines"\nA,10,30,L,\nA,30,50,S,x\nB,0,20,S,y\nB,20,50,L,z\nC,0,5,S,=1+1\n';
		const t = await bring(p, 'Log', broken);
		await edit(p, t, 1, 'code', 'Lime');
		await exclude(p, t, 2);
		expect((await version(p, t, 'append', 'hole,from,to,code,note\nB,50,60,M,\n'))?.state).toBe('done');
		const [f] = (await findings(p)).findings.filter((x) => x.table === t);
		await api.call('POST', `/projects/${p}/findings/seen`, { table: t, rule: f!.rule, rows: [f!.n], reason: 'known', seen: true });
		await api.call('POST', `/projects/${p}/viewpoints`, { name: 'From above', stage: 'examine', state: { ...plainBench(), along: t } });
		const archive = (await api.call<Uint8Array>('GET', `/projects/${p}/archive`)).body;
		const files = unzipSync(archive);
		expect(new TextDecoder().decode(files['files/Log.csv'])).toBe(broken);

		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', archive);
		for (const job of body.jobs) expect(await api.finished(body.project, job)).toMatchObject({ state: 'done' });
		const of = async (id: string) => {
			const { objects } = (
				await api.call<{ objects: { id: string; name: string; kind: string; fileId: string; state: Record<string, unknown> }[] }>(
					'GET',
					`/projects/${id}`
				)
			).body;
			const log = objects.find((o) => o.name === 'Log')!;
			const raw = (await api.call<Uint8Array>('GET', `/projects/${id}/files/${log.fileId}`)).body;
			const { appended, ...state } = log.state as { appended: string[] };
			const list = (await findings(id)).findings
				.map(({ rule, n, message, seen }) => ({ rule, n, message, seen }))
				.sort((a, b) => `${a.rule} ${a.n}`.localeCompare(`${b.rule} ${b.n}`));
			const views = (await api.call<{ viewpoints: { id: string; name: string }[] }>('GET', `/projects/${id}/viewpoints`)).body.viewpoints;
			const along = (await api.call<{ state: { along: string } }>('GET', `/projects/${id}/viewpoints/${views[0]!.id}`)).body.state.along;
			return {
				raw: new TextDecoder().decode(raw),
				rows: (await rows(id, log.id)).map(({ n, line, cells, excluded, originals }) => ({ n, line, cells, excluded, originals })),
				state,
				appended: appended.length,
				list,
				view: [views[0]!.name, along === log.id]
			};
		};
		expect(await of(body.project)).toEqual(await of(p));
		expect((await of(p)).rows[2]).toMatchObject({ excluded: true, line: 5 });
	});
	it('is made without an extent, and refuses marks that do not fit their file', async () => {
		const p = await project('No extent');
		await bring(p, 'Collars', COLLARS);
		expect((await api.call('GET', `/projects/${p}/archive`)).status).toBe(200);
	});
});

describe('rules', () => {
	it('take no nonsense as a bound, and ask before they take a table out of use', async () => {
		const p = await project();
		await bring(
			p,
			'Collars',
			`hole,x,y,z,depth\n${Array.from({ length: 12 }, (_, i) => `H${i},${402000 + 37 * i},${4992000 + ((i * 61) % 97)},10,50`).join('\n')}\n`
		);
		const put = (rules: object, more = {}) =>
			api.call<{ type?: string; title?: string }>('PUT', `/projects/${p}/rules`, { rules, ...more });
		expect((await put({ 'twin-collars': { bounds: { distance: -1 } } })).body.type).toBe('bound-out-of-range');
		expect((await put({ 'misplaced-collar': { bounds: { times: 0 } } })).body.type).toBe('bound-out-of-range');
		const wide = { 'twin-collars': { severity: 'held', bounds: { distance: 1000 } } };
		const asked = await put(wide);
		expect([asked.status, asked.body.type]).toEqual([409, 'large-effect']);
		expect(asked.body.title).toMatch(/11 of the 12 rows of Collars/);
		const effect = (await api.call<{ after: { held: number } }>('POST', `/projects/${p}/rules/preview`, { rules: wide })).body;
		expect(effect.after.held).toBe(11);
		expect((await put(wide, { accept: true })).status).toBe(200);
	});
	it('of many rows of one cause make one finding', async () => {
		const p = await project();
		await bring(p, 'Collars', COLLARS.replace('402100,4992000', '402100,not known'));
		const t = await bring(
			p,
			'Log',
			`hole,from,to,code\n${Array.from({ length: 190 }, (_, i) => `B,${i / 4},${(i + 1) / 4},S`).join('\n')}\nA,0,50,S\n`
		);
		const own = (await findings(p)).findings.filter((f) => f.table === t);
		expect(own).toMatchObject([{ rule: 'unknown-hole', count: 190, message: expect.stringContaining('held back') }]);
		// Each of its rows says so, and all are mended at once.
		expect((await rows(p, t))[150]!.findings).toMatchObject([{ rule: 'unknown-hole' }]);
		const { body } = await api.call<{ changed: number }>('POST', `/projects/${p}/tables/${t}/mends`, {
			rule: 'unknown-hole',
			mend: 'exclude'
		});
		expect(body.changed).toBe(190);
	});
});

describe('what is mended or left as seen before its check is stored', () => {
	it('is looked at first: nothing is refused for coming too soon', async () => {
		const p = await project('Too soon');
		await bring(p, 'Collars', COLLARS);
		const log = await bring(p, 'Log', 'hole,from,to,code\nA,10,0,S\nA,10,30,L\nB,0,20,S\nB,30,20,L\n');
		await findings(p);
		/** As it is between a table that has come in and the end of its check. */
		const unchecked = async () => {
			await database.query('delete from finding where project_id = $1', [p]);
			await database.query(`update project set checked_key = '' where id = $1`, [p]);
		};
		await unchecked();
		const seen = { table: log, rule: 'from-not-above-to', seen: true, reason: 'as logged', rows: [3] };
		expect((await api.call('POST', `/projects/${p}/findings/seen`, seen)).status).toBe(200);
		await unchecked();
		const mend = { rule: 'from-not-above-to', mend: 'swap' };
		const preview = await api.call<{ changed: number }>('POST', `/projects/${p}/tables/${log}/mends/preview`, mend);
		expect(preview.body.changed).toBe(4);
		await unchecked();
		expect((await api.call<{ changed: number }>('POST', `/projects/${p}/tables/${log}/mends`, mend)).body.changed).toBe(4);
		expect(await cells(p, log)).toEqual(['A,0,10,S', 'A,10,30,L', 'B,0,20,S', 'B,20,30,L']);
	});
});
