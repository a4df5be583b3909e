import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import type { Browser, ElementHandle, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Api, TestServer } from '../server';
import { plainBench } from '../../web/src/lib/workbench/state';
import { PATIENCE } from '../browser-launch';
import { follow, hands, settled, until, visit } from './visit';
import { NOBODY } from '../server';

// Data that want to be more than data, and hands that do not do things in the order that was meant.
let server: TestServer;
let browser: Browser;
let page: Page;
let api: Api;
let errors: string[];
let project: string;
const tables: Record<string, string> = {};
const { one, shows, press, enter } = hands(() => page);
const EVIL = '<img src=x onerror="window.ran=1"><script>window.ran=1</script>';
const folder = mkdtempSync(join(tmpdir(), 'malachite-'));
const quoted = (s: string) => `"${s.replaceAll('"', '""')}"`;

async function bring(name: string, content: string): Promise<void> {
	const { state, outcome } = await api.bring(project, name, `${name}.csv`, content);
	expect(state).toBe('done');
	tables[name] = outcome.object!;
}
const go = (path: string) => page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
const row = async (table: string, n: number) =>
	(
		await api.call<{ rows: { n: number; cells: string[] }[] }>('GET', `/projects/${project}/tables/${tables[table]}/rows?limit=50`)
	).body.rows.find((r) => r.n === n)!.cells;

beforeAll(async () => {
	({ server, browser, page, api, errors } = await visit({}));
	await page.evaluateOnNewDocument(() => {
		const refused: string[] = [];
		document.addEventListener('securitypolicyviolation', (e) => refused.push(`${e.violatedDirective}: ${e.blockedURI} ${e.sample}`));
		Object.assign(window, { refused });
	});
	project = (await api.call<{ id: string }>('POST', '/projects', { name: `Rough ${EVIL}`, crs: 32628 })).body.id;
	const holes = ['A-1', 'A-2', EVIL];
	await bring(
		'Collars',
		`hole,x,y,z,depth\n${holes.map((h, i) => `${quoted(h)},${402000 + 80 * i},${4992000 + 30 * i},10,60`).join('\n')}\n`
	);
	await bring('Log', `hole,from,to,code\n${holes.map((h) => `${quoted(h)},0,20,SAND\n${quoted(h)},20,60,${quoted(EVIL)}`).join('\n')}\n`);
	await bring('Orientations', `x,y,z,dip,dipaz,remark\n402000,4992000,10,30,90,${quoted(EVIL)}\n402050,4992050,10,40,95,b\n`);
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('markup in names', () => {
	it.each([
		'gather',
		'check',
		'interpret',
		'build',
		'present',
		'examine?panes=map,section',
		'examine?panes=space,log',
		'examine?panes=table,chart',
		'examine?panes=net,lineage'
	])('is text on %s, and the policy of the page has nothing to refuse', async (path) => {
		await go(path);
		await settled(page);
		await new Promise((r) => setTimeout(r, 300));
		const seen = await page.evaluate(() => ({
			ran: (window as unknown as { ran?: number }).ran ?? 0,
			refused: (window as unknown as { refused: string[] }).refused,
			images: [...document.querySelectorAll('img')].filter((i) => i.getAttribute('onerror')).length
		}));
		expect(seen).toEqual({ ran: 0, refused: [], images: 0 });
	});
	it('a stored colour that is no colour is refused, and one that was stored all the same runs nothing', async () => {
		const styles = { x: { by: 'unit', classes: { unit: { S: { color: '"><script>window.ran=1</script>' } } } } };
		const { status } = await api.call('PUT', `/projects/${project}/workbench`, { state: { ...plainBench(), styles } });
		expect(status).toBe(422);
	});
	it('a page can not be put into a frame of another, and scripts from elsewhere are none', async () => {
		const policy = (await fetch(`${server.url}/${project}/check`)).headers.get('content-security-policy')!;
		expect(policy).toMatch(/frame-ancestors 'none'/);
		expect(policy).toMatch(/script-src [^;]*'nonce-/);
		expect(policy).not.toMatch(/script-src[^;]*'unsafe-inline'/);
	});
});

describe('a link to a viewpoint that is gone', () => {
	it('says so, and leaves the kept bench as it was', async () => {
		const { body: before } = await api.call<{ revision: number }>('PUT', `/projects/${project}/workbench`, {
			state: { ...plainBench(), exaggeration: 7 }
		});
		await go(`examine?viewpoint=${NOBODY}&panes=section`);
		await settled(page);
		await new Promise((r) => setTimeout(r, 1500));
		expect((await api.call<{ state: { exaggeration: number } }>('GET', `/projects/${project}/workbench`)).body.state.exaggeration).toBe(7);
		expect(before).toBeTruthy();
	});
});

describe('typing', () => {
	it('a comma is that of a fraction: 2,5 is two and a half, not 25', async () => {
		await go('build');
		// What comes while somebody types would take its place.
		await settled(page);
		const number = 'input[type=number]:not([disabled])';
		const field = await one(number);
		await enter(number);
		await page.keyboard.type('2,5');
		await page.keyboard.press('Tab');
		expect(await field.evaluate((f) => (f as HTMLInputElement).value)).toBe('2.5');
		// A letter is none of a number, and 1,234 could be two of them.
		await enter(number);
		await page.keyboard.type('1,234');
		await page.keyboard.press('Tab');
		expect(await field.evaluate((f) => (f as HTMLInputElement).validationMessage)).toContain('two ways');
	});
	it('Tab stores a cell under Check', async () => {
		await go(`check?table=${tables['Log']}`);
		const cell = await one('tr[data-n="0"] td:nth-child(6) button');
		await cell.focus();
		await page.keyboard.press('Enter');
		await one('input[aria-label="code, line 2"]');
		await page.keyboard.down('Control');
		await page.keyboard.press('a');
		await page.keyboard.up('Control');
		await page.keyboard.type('GRAVEL');
		await page.keyboard.press('Tab');
		await until(async () => (await row('Log', 0))[3] === 'GRAVEL');
	});
	it('Escape leaves a cell as it was', async () => {
		await settled(page);
		await (await one('tr[data-n="1"] td:nth-child(5) button')).focus();
		await page.keyboard.press('Enter');
		await one('input[aria-label="to, line 3"]');
		await page.keyboard.type('9999');
		await page.keyboard.press('Escape');
		await settled(page);
		expect((await row('Log', 1))[2]).toBe('60');
	});
	it('Enter on nothing starts no project, and says what is missing', async () => {
		await page.goto(server.url, { waitUntil: 'load' });
		await (await one('::-p-aria([name="Name"])')).focus();
		await page.keyboard.press('Enter');
		await settled(page);
		expect(page.url().replace(/\/$/, '')).toBe(server.url);
		expect((await api.call<{ projects: unknown[] }>('GET', '/projects')).body.projects).toHaveLength(1);
	});
});

describe('a file that waits', () => {
	it('is still there after the page was loaded again, and can be put away', async () => {
		await go('gather');
		writeFileSync(join(folder, 'waiting.csv'), 'hole,depth,azimuth,inclination\nA-1,0,90,-60\n');
		await ((await one('input[aria-label="Files to bring in"]')) as ElementHandle<HTMLInputElement>).uploadFile(join(folder, 'waiting.csv'));
		await one('select[aria-label="Role of azimuth"]');
		await go('gather');
		await shows('waiting.csv');
		await press('Bring in');
		await page.waitForFunction(() => !document.body.innerText.includes('waiting.csv') || document.body.innerText.includes('1 row'), {
			timeout: PATIENCE
		});
	});
	it('raised no error', () => expect(errors).toEqual([]));
});

describe('a project of which a part can not be read', () => {
	it('opens on every stage, says what and where it is set anew, and is whole once it is', async () => {
		const database = new pg.Client({ connectionString: server.databaseUrl });
		await database.connect();
		const where = `project_id = '${project}' and kind = 'column'`;
		const { rows } = await database.query(`select state from object where ${where}`);
		try {
			await database.query(`update object set state = '{"units": 3}' where ${where}`);
			errors.length = 0;
			await go('gather');
			for (const stage of ['gather', 'check', 'interpret', 'build', 'examine?panes=map,section', 'present']) {
				await follow(page, `${server.url}/${project}/${stage}`);
				await shows('One part of this project cannot be read.');
				await shows('Stratigraphic column: what is stored of');
				// Whatever runs into it says so once.
				await settled(page);
				const alerts = await page.$$eval('[aria-live=polite] [role=alert]', (list) => list.map((e) => e.textContent!.trim()));
				expect(alerts).toEqual([...new Set(alerts)]);
			}
			await go('interpret');
			await shows('Set it anew under Interpret');
			await press('Column', 'tab');
			await (await one('input[aria-label="Name of the new unit"]')).type('A first unit');
			await press('Add');
			await page.waitForFunction(() => !document.body.innerText.includes('cannot be read'));
			await one('input[aria-label="Name of unit 1"]');
		} finally {
			await database.query(`update object set state = $1 where ${where}`, [JSON.stringify(rows[0].state)]);
			await database.end();
		}
		expect(errors).toEqual([]);
	});
});
