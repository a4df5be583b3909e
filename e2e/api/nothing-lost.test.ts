import { unzipSync } from 'fflate';
import { afterAll, describe, expect, it } from 'vitest';
import { plainBench } from '../../web/src/lib/workbench/state';
import { COLLARS, LOG, startAtHand } from '../at-hand';

// What somebody did is never lost, never lands elsewhere, and can be taken back.
const { api, database, hand, stop } = await startAtHand();
afterAll(stop);

describe('a newer version of a file', () => {
	it('is one change: undo brings the rows, the edits and the roles of before back, and redo those of after', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Log', LOG);
		expect((await hand.edit(p, t, 4, 'code', 'Limestone')).status).toBe(200);
		expect((await hand.exclude(p, t, 3)).status).toBe(200);
		const before = await hand.rows(p, t);
		// One earlier row is gone: the edited row moves up.
		const job = await hand.version(p, t, 'reload', LOG.replace('A,30,50,S\n', ''));
		expect(job?.state).toBe('done');
		const after = await hand.rows(p, t);
		expect(after.map((r) => [r.cells.join(), r.excluded])).toEqual([
			['A,0,10,S', false],
			['A,10,30,L', false],
			['B,0,20,S', true],
			['B,20,50,Limestone', false],
			['C,0,5,S', false]
		]);
		expect(after[3]!.originals).toEqual({ 3: 'L' });
		expect((await hand.undo(p)).body.label).toContain('Reload');
		expect((await hand.rows(p, t)).map(({ cells, excluded, originals }) => ({ cells, excluded, originals }))).toEqual(
			before.map(({ cells, excluded, originals }) => ({ cells, excluded, originals }))
		);
		await hand.undo(p);
		await hand.undo(p);
		expect(await hand.cells(p, t)).toEqual(LOG.trim().split('\n').slice(1));
		for (let i = 0; i < 3; i++) await hand.undo(p, 'redo');
		expect((await hand.rows(p, t)).map((r) => r.cells.join())).toEqual(after.map((r) => r.cells.join()));
	});

	it('keeps older changes from landing in other columns', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Silver', 'hole,from,to,Ag\nA,0,1,5\nA,1,2,6\n', {
			kind: 'other',
			mapping: { hole: 'hole', from: 'from', to: 'to', Ag: 'value' }
		});
		await api.call('PUT', `/projects/${p}/tables/${t}/mapping`, { mapping: { hole: 'hole', from: 'from', to: 'to', Ag: 'keep' } });
		await hand.version(p, t, 'reload', 'hole,from,to,Au,Ag\nA,0,1,0.1,5\nA,1,2,0.2,6\n');
		await hand.undo(p);
		await hand.undo(p);
		const page = (await api.call<{ table: { header: string[]; mapping: object } }>('GET', `/projects/${p}/tables/${t}/rows`)).body;
		expect(page.table).toMatchObject({ header: ['hole', 'from', 'to', 'Ag'], mapping: { Ag: 'value' } });
		expect(await hand.cells(p, t)).toEqual(['A,0,1,5', 'A,1,2,6']);
	});

	it('rows that were added stay when an older change is undone after them, and go as one', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Log', LOG);
		expect((await hand.edit(p, t, 0, 'code', 'X')).status).toBe(200);
		expect((await hand.version(p, t, 'append', 'hole,from,to,code\nB,50,60,M\n'))?.state).toBe('done');
		expect(await hand.cells(p, t)).toHaveLength(7);
		await hand.undo(p);
		expect(await hand.cells(p, t)).toHaveLength(6);
		expect((await hand.cells(p, t))[0]).toBe('A,0,10,X');
		await hand.undo(p, 'redo');
		expect((await hand.cells(p, t)).at(-1)).toBe('B,50,60,M');
	});

	it('accounts for every edit and every row that was left out, and drops none unasked', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Log', LOG);
		await hand.edit(p, t, 0, 'code', 'Sand'); // the file keeps S: stays
		await hand.edit(p, t, 1, 'code', 'Lime'); // the file says M: conflict
		await hand.edit(p, t, 3, 'code', 'Sst'); // the file says Sst: settled
		await hand.edit(p, t, 5, 'hole', 'B'); // the file corrects the key the same way
		await hand.edit(p, t, 2, 'code', 'Gone'); // the row is gone
		await hand.exclude(p, t, 2);
		await hand.exclude(p, t, 4);
		const fresh = 'hole,from,to,code\nA,0,10,S\nA,10,30,M\nB,0,20,Sst\nB,20,50,L\nB,0,5,S\n';
		const u = await hand.upload(p, 'next.csv', fresh);
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
		const refused = await hand.version(p, t, 'reload', fresh);
		expect(refused).toMatchObject({ state: 'failed', outcome: { problem: { type: 'edits-without-row' } } });
		expect(await hand.cells(p, t)).toHaveLength(6);
		expect((await hand.version(p, t, 'reload', fresh, { dropLost: true }))?.state).toBe('done');
		expect((await hand.rows(p, t)).map((r) => [r.cells.join(), r.excluded])).toEqual([
			['A,0,10,Sand', false],
			['A,10,30,Lime', false],
			['B,0,20,Sst', false],
			['B,20,50,L', true],
			['B,0,5,S', false]
		]);
	});

	it('undo of what no longer fits is refused with the reason, and changes nothing', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Log', LOG);
		await hand.edit(p, t, 0, 'code', 'X');
		// As if another program had written into the store.
		await database.query(`update cell_edit set value = 'Y' where object_id = $1`, [t]);
		const a = await hand.undo(p);
		expect([a.status, a.body.type]).toEqual([409, 'no-longer-fits']);
		expect(a.body.title).toContain('edited again');
		expect((await hand.cells(p, t))[0]).toBe('A,0,10,Y');
	});
});

describe('a file with marks and cells that do not fit', () => {
	it('is read line by line: one quotation mark swallows nothing, and lines too short or too long are found', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const lines = Array.from({ length: 48 }, (_, i) => `A,${i},${i + 1},S`);
		lines[10] = 'A,10,11,"S';
		lines[20] = 'A,20,21,S,stiff';
		lines[30] = 'A,30,31';
		const u = await hand.upload(p, 'log.csv', `hole,from,to,code\n${lines.join('\n')}\n`);
		expect(u.notes.filter((n) => n.startsWith('line'))).toHaveLength(3);
		const t = await hand.bring(p, 'Log', `hole,from,to,code\n${lines.join('\n')}\n`);
		expect(await hand.cells(p, t)).toHaveLength(48);
		const odd = (await hand.findings(p)).findings.filter((f) => f.rule === 'odd-line');
		expect(odd.map((f) => f.n).sort((a, b) => a - b)).toEqual([10, 20, 30]);
	});
	it('keeps the card of a file with what was said of it, until it is brought in or put aside', async () => {
		const p = await hand.project();
		const u = await hand.upload(p, 'collars.csv', COLLARS);
		await hand.upload(p, 'other.csv', LOG);
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
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Log', LOG);
		const names = async () =>
			(await api.call<{ objects: { name: string; kind: string }[] }>('GET', `/projects/${p}`)).body.objects
				.filter((o) => o.kind === 'table')
				.map((o) => o.name);
		const before = await hand.findings(p);
		await api.call('DELETE', `/projects/${p}/sources/${t}`);
		expect(await names()).toEqual(['Collars']);
		expect((await hand.findings(p)).findings.filter((f) => f.table === t)).toEqual([]);
		await hand.undo(p);
		expect(await names()).toEqual(['Collars', 'Log']);
		expect((await hand.findings(p)).findings.map((f) => f.message)).toEqual(before.findings.map((f) => f.message));

		const v = (
			await api.call<{ id: string }>('POST', `/projects/${p}/viewpoints`, { name: 'South', stage: 'examine', state: plainBench() })
		).body.id;
		await api.call('DELETE', `/projects/${p}/viewpoints/${v}`);
		await hand.undo(p);
		expect(
			(await api.call<{ viewpoints: { name: string }[] }>('GET', `/projects/${p}/viewpoints`)).body.viewpoints.map((x) => x.name)
		).toEqual(['South']);

		const { rule, n } = before.findings.find((f) => f.table === t)!;
		await api.call('POST', `/projects/${p}/findings/seen`, { table: t, rule, rows: [n], reason: 'as drilled', seen: true });
		const seen = async () => (await hand.findings(p)).findings.find((f) => f.rule === rule && f.n === n)!.seen;
		expect(await seen()).toBe('as drilled');
		await hand.undo(p);
		expect(await seen()).toBeNull();
		await hand.undo(p, 'redo');
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
		expect((await hand.undo(p)).body.label).toContain('style of Log');
		expect((await bench()).styles).toEqual({});
	});
	it('a source whose name was given to another one meanwhile does not come back unseen', async () => {
		const p = await hand.project();
		const t = await hand.bring(p, 'Collars', COLLARS);
		await api.call('DELETE', `/projects/${p}/sources/${t}`);
		const u = await hand.upload(p, 'again.csv', COLLARS);
		// Brought in as another server would: outside the list of changes.
		await database.query(
			`insert into object (project_id, kind, name, state, file_id) select project_id, kind, name, state, $2 from object where id = $1`,
			[t, u.file.id]
		);
		const a = await hand.undo(p);
		expect([a.status, a.body.type]).toEqual([409, 'no-longer-fits']);
	});
	it('undo names the change that is meant, and what another window did is not taken back unasked', async () => {
		const p = await hand.project();
		const t = await hand.bring(p, 'Collars', COLLARS);
		await hand.edit(p, t, 0, 'depth', '60');
		const { id } = (await api.call<{ changes: { id: number }[] }>('GET', `/projects/${p}/changes`)).body.changes[0]!;
		const elsewhere = (body: object) =>
			api.send<{ type?: string; label: string }>('POST', `/projects/${p}/undo`, body, { 'x-malachite-session': 'another-window' });
		expect((await api.send<{ type: string }>('POST', `/projects/${p}/undo`, { change: id - 1 })).body.type).toBe('edited-elsewhere');
		expect((await elsewhere({ change: id })).body.type).toBe('others-change');
		expect((await hand.cells(p, t))[0]).toContain(',60');
		expect((await elsewhere({ change: id, others: true })).body.label).toContain('Edit');
		expect((await hand.cells(p, t))[0]).toContain(',50');
	});
});

describe('the archive', () => {
	it('brings everything back: raw files byte for byte, edits with their originals, rows left out, what was seen, lines of the file', async () => {
		const p = await hand.project('Whole');
		await hand.bring(p, 'Collars', COLLARS);
		const broken = 'hole,from,to,code,note\nA,0,10,S,"two\nlines"\nA,10,30,L,\nA,30,50,S,x\nB,0,20,S,y\nB,20,50,L,z\nC,0,5,S,=1+1\n';
		const t = await hand.bring(p, 'Log', broken);
		await hand.edit(p, t, 1, 'code', 'Lime');
		await hand.exclude(p, t, 2);
		expect((await hand.version(p, t, 'append', 'hole,from,to,code,note\nB,50,60,M,\n'))?.state).toBe('done');
		const [f] = (await hand.findings(p)).findings.filter((x) => x.table === t);
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
			const list = (await hand.findings(id)).findings
				.map(({ rule, n, message, seen }) => ({ rule, n, message, seen }))
				.sort((a, b) => `${a.rule} ${a.n}`.localeCompare(`${b.rule} ${b.n}`));
			const views = (await api.call<{ viewpoints: { id: string; name: string }[] }>('GET', `/projects/${id}/viewpoints`)).body.viewpoints;
			const along = (await api.call<{ state: { along: string } }>('GET', `/projects/${id}/viewpoints/${views[0]!.id}`)).body.state.along;
			return {
				raw: new TextDecoder().decode(raw),
				rows: (await hand.rows(id, log.id)).map(({ n, line, cells, excluded, originals }) => ({ n, line, cells, excluded, originals })),
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
		const p = await hand.project('No extent');
		await hand.bring(p, 'Collars', COLLARS);
		expect((await api.call('GET', `/projects/${p}/archive`)).status).toBe(200);
	});
});
