import { afterAll, describe, expect, it } from 'vitest';
import { COLLARS, LOG, startAtHand, waitingFor } from '../at-hand';

// Checks and edits come beside each other: neither refuses the other, and findings stay where they are.
const { api, database, hand, stop } = await startAtHand();
afterAll(stop);

describe('an edit that changes nothing', () => {
	it('leaves every finding where it is: the value that stands there, and a row that is left out already', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Log', LOG);
		const before = await hand.findings(p);
		expect(before.findings.length).toBeGreaterThan(0);
		expect((await hand.edit(p, t, 0, 'code', 'S')).status).toBe(200);
		expect(await hand.findings(p)).toEqual(before);
		await hand.exclude(p, t, 2);
		const out = await hand.findings(p);
		await hand.exclude(p, t, 2);
		expect((await api.call('POST', `/projects/${p}/tables/${t}/cells`, { cells: [{ n: 1, column: 'to', value: '30' }] })).status).toBe(200);
		expect(await hand.findings(p)).toEqual(out);
		expect(out.checked).toBe(true);
	});

	it('is stored while a check stores what it found of the same table', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		const t = await hand.bring(p, 'Log', LOG);
		await hand.findings(p);
		// As a check does: it holds the project, and writes findings that refer to the table.
		await database.query('begin');
		await database.query('select id from project where id = $1 for no key update', [p]);
		const edited = hand.edit(p, t, 0, 'code', 'X');
		await expect.poll(() => waitingFor(database), { timeout: 60_000 }).toBe(1);
		await database.query(
			`insert into finding (project_id, object_id, rule, severity, n, line, message, hint, count) values ($1, $2, 'outlier', 'noted', 0, 2, 'm', 'h', 1)`,
			[p, t]
		);
		await database.query('commit');
		expect((await edited).status).toBe(200);
		expect((await hand.cells(p, t))[0]).toBe('A,0,10,X');
	});

	it('leaves them where they are when two checks of the same end one after the other', async () => {
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS);
		await hand.bring(p, 'Log', LOG);
		const before = await hand.findings(p);
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
		await expect.poll(() => waitingFor(database), { timeout: 60_000 }).toBe(1);
		await database.query('update project set checked_key = $2 where id = $1', [p, key]);
		await database.query('commit');
		await expect.poll(async () => (await of()).check_due, { timeout: 60_000 }).toBe(null);
		expect(await hand.findings(p)).toEqual(before);
	});
});

describe('rules', () => {
	it('take no nonsense as a bound, and ask before they take a table out of use', async () => {
		const p = await hand.project();
		await hand.bring(
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
		const p = await hand.project();
		await hand.bring(p, 'Collars', COLLARS.replace('402100,4992000', '402100,not known'));
		const t = await hand.bring(
			p,
			'Log',
			`hole,from,to,code\n${Array.from({ length: 190 }, (_, i) => `B,${i / 4},${(i + 1) / 4},S`).join('\n')}\nA,0,50,S\n`
		);
		const own = (await hand.findings(p)).findings.filter((f) => f.table === t);
		expect(own).toMatchObject([{ rule: 'unknown-hole', count: 190, message: expect.stringContaining('held back') }]);
		// Each of its rows says so, and all are mended at once.
		expect((await hand.rows(p, t))[150]!.findings).toMatchObject([{ rule: 'unknown-hole' }]);
		const { body } = await api.call<{ changed: number }>('POST', `/projects/${p}/tables/${t}/mends`, {
			rule: 'unknown-hole',
			mend: 'exclude'
		});
		expect(body.changed).toBe(190);
	});
});

describe('what is mended or left as seen before its check is stored', () => {
	it('is looked at first: nothing is refused for coming too soon', async () => {
		const p = await hand.project('Too soon');
		await hand.bring(p, 'Collars', COLLARS);
		const log = await hand.bring(p, 'Log', 'hole,from,to,code\nA,10,0,S\nA,10,30,L\nB,0,20,S\nB,30,20,L\n');
		await hand.findings(p);
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
		expect(await hand.cells(p, log)).toEqual(['A,0,10,S', 'A,10,30,L', 'B,0,20,S', 'B,20,30,L']);
	});
});
