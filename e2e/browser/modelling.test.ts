import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, ElementHandle, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writePng } from '#core/formats/png';
import { launchBrowser } from '../browser-launch';
import { demoArchive } from '../demo-archive';
import { client, startServer, type TestServer } from '../server';

// Faults that die out, what a build tells, the doubt about it, grids, and photographs of core: through the screens.
let server: TestServer;
let browser: Browser;
let page: Page;
let project: string;
let api: ReturnType<typeof client>;
const errors: string[] = [];

const open = (path: string) => page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
const shows = (text: string, timeout = 60_000) => page.waitForFunction((t) => document.body.innerText.includes(t), { timeout }, text);
const press = async (name: string, role = 'button') => (await page.waitForSelector(`::-p-aria([name="${name}"][role="${role}"])`, { timeout: 30_000 }))!.click();
const field = async (name: string) => (await page.waitForSelector(`::-p-aria([name="${name}"])`, { timeout: 30_000 }))!;
const write = async (name: string, value: string) => {
	const input = await field(name);
	await input.click({ count: 3 });
	await page.keyboard.type(value);
	await page.keyboard.press('Tab');
};
interface Fault { id: string; tips?: { halfHeight: number } | null }
const faults = async () => (await api.call<{ faults: { faults: Fault[] } }>('GET', `/projects/${project}/interpretation`)).body.faults.faults;
const until = async (what: () => Promise<boolean>) => {
	for (let i = 0; i < 100; i++) {
		if (await what()) return;
		await new Promise((r) => setTimeout(r, 200));
	}
	throw new Error('it did not come about');
};

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', await demoArchive(150));
	project = body.project;
	for (const job of body.jobs) await api.finished(project, job);
	await api.finished(project, (await api.call<{ job: string }>('POST', `/projects/${project}/build`)).body.job);
	browser = await launchBrowser();
	page = await browser.newPage();
	await page.setViewport({ width: 1280, height: 800 });
	page.on('pageerror', (e) => errors.push(String(e)));
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('Interpret', () => {
	it('lets a fault die out, takes the size of its tip line, and undo takes all of it back', async () => {
		await open('interpret');
		await press('Faults', 'tab');
		await press('dies out to all sides', 'checkbox');
		await until(async () => Boolean((await faults())[0]!.tips));
		await write('Half-height, m', '432');
		await until(async () => (await faults())[0]!.tips?.halfHeight === 432);
		await press('Undo');
		await until(async () => (await faults())[0]!.tips?.halfHeight !== 432);
		await press('Undo');
		await until(async () => !(await faults())[0]!.tips);
	});
	it('offers body or sheet for an intrusion only', async () => {
		await press('Column', 'tab');
		await field('Contact kind of Hask Tuff');
		expect(await page.$('select[aria-label="Form of Hask Tuff"]')).toBeNull();
		await page.select('select[aria-label="Contact kind of Hask Tuff"]', 'intrusive');
		await page.waitForSelector('select[aria-label="Form of Hask Tuff"]');
		await press('Undo');
		await page.waitForFunction(() => !document.querySelector('select[aria-label="Form of Hask Tuff"]'));
	});
});

describe('Build', () => {
	it('tells how logs and model agree, the throw of the fault, and proposes a spacing', async () => {
		await open('build');
		await shows('Logs against the model');
		await shows('logged have the same unit in the model');
		await shows('Throw along the faults');
		await page.waitForFunction(() => [...document.querySelectorAll('button.link')].some((b) => /^Propose \d+ m$/.test(b.textContent ?? '')));
	});
	it('runs an ensemble and shows the spread of the volumes', async () => {
		const summary = await page.waitForSelector('details summary.panel-title');
		await summary!.click();
		await write('Models', '3');
		await write('Cells of, m', '250');
		await press('Run');
		await shows('3 models, seed 1');
		expect(await page.$$eval('details[open] table tbody tr', (rows) => rows.length)).toBe(7);
		const link = await page.$eval('details[open] a', (a) => (a as HTMLAnchorElement).href);
		expect((await fetch(link)).status).toBe(200);
	}, 120_000);
});

describe('Present', () => {
	it('offers grids of the unit that is chosen', async () => {
		await open('present');
		await shows('Grids');
		await page.select('section[aria-labelledby="grids"] label:nth-child(2) select', 'marrick');
		await write('Cells of, m', '200');
		const link = await page.waitForFunction(() => [...document.querySelectorAll('section[aria-labelledby="grids"] a')].map((a) => (a as HTMLAnchorElement).href).find((h) => h.includes('unit=marrick') && h.includes('cell=200')));
		const response = await fetch((await link.jsonValue())!);
		expect([response.status, response.headers.get('content-disposition')]).toEqual([200, expect.stringContaining('thickness')]);
	});
});

describe('a photograph of core', () => {
	it('finds its hole and depths by its name and stands in the log', async () => {
		await open('gather');
		const folder = mkdtempSync(join(tmpdir(), 'malachite-'));
		writeFileSync(join(folder, 'TW-003 10-14.5.png'), writePng(4, 8, new Uint8Array(96).fill(120)));
		const input = (await page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>;
		await input.uploadFile(join(folder, 'TW-003 10-14.5.png'));
		await shows('read from the name of the file');
		expect(await (await field('upper end, m')).evaluate((e) => (e as HTMLInputElement).value)).toBe('10');
		await press('Bring in');
		await shows('4 × 8 pixels');
		await until(async () => (await api.call<{ objects: { kind: string; state: { core?: { hole: string; to: number } } }[] }>('GET', `/projects/${project}`)).body.objects.some((o) => o.kind === 'picture' && o.state.core?.hole === 'TW-003' && o.state.core.to === 14.5));
		await open('examine?panes=log');
		await page.waitForSelector('input[aria-label="Add a hole to the log"]');
		await page.type('input[aria-label="Add a hole to the log"]', 'TW-003');
		await page.keyboard.press('Enter');
		await page.waitForSelector('svg[aria-label="Log of TW-003"] image', { timeout: 30_000 });
		const spec = { holes: ['TW-003'], tracks: [{ kind: 'photographs', width: 20, series: [], log: false, range: [null, null], fill: 'none' }], axis: 'depth', scale: 200, align: null };
		for (const [format, wanted] of [['svg', 'data:image/png;base64,'], ['pdf', '/Subtype /Image']] as const) {
			const response = await fetch(`${server.url}/api/v1/projects/${project}/exports/log.${format}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ spec }) });
			expect(response.status).toBe(200);
			expect(Buffer.from(await response.arrayBuffer()).toString('latin1')).toContain(wanted);
		}
	});
});

it('none of the screens raised an error', () => expect(errors).toEqual([]));
