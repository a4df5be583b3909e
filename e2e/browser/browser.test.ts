import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, ElementHandle, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writeCsv } from '#core/tables/delimited';
import { demoTables } from '../../demo/generate';
import type { TestServer } from '../server';
import { PATIENCE } from '../browser-launch';
import { hands, visit } from './visit';

let server: TestServer;
let browser: Browser;
let page: Page;
let project: string;
let errors: string[];
const { shows, press, choose } = hands(() => page);
const open = (stage: string) => page.goto(`${server.url}/${project}/${stage}`, { waitUntil: 'load' });

beforeAll(async () => void ({ server, browser, page, project, errors } = await visit({ spacing: 150 })));
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('the screens', () => {
	it('start a project and bring a table in, from the dropped file to its report', async () => {
		await page.goto(server.url, { waitUntil: 'load' });
		await shows('Isle of Tarrow');
		await page.type('::-p-aria([name="Name"])', 'Typed in');
		await press('Start project');
		await shows('Drop files anywhere');
		const folder = mkdtempSync(join(tmpdir(), 'malachite-'));
		const [header, ...rows] = demoTables().collars;
		rows[4]![1] = 'somewhere';
		writeFileSync(join(folder, 'holes.csv'), writeCsv(header!, rows));
		const input = (await page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>;
		await input.uploadFile(join(folder, 'holes.csv'));
		await shows('Kind of table');
		expect(await page.$eval('select[aria-label="Role of Depth"]', (s) => (s as HTMLSelectElement).value)).toBe('totalDepth');
		await press('Bring in');
		await shows('60 rows read, 1 held back, 0 noted');
	});

	it('list a finding, go to its row, mend it in place and undo', async () => {
		const id = page.url().split('/')[3]!;
		await page.goto(`${server.url}/${id}/check`, { waitUntil: 'load' });
		await shows('Easting is "somewhere", not a number');
		const button = await page.waitForSelector('tr[data-n="4"] td:nth-child(4) button');
		await button!.focus();
		await page.keyboard.press('Enter');
		await page.waitForSelector('input[aria-label="Easting, line 6"]');
		await page.keyboard.down('Control');
		await page.keyboard.press('a');
		await page.keyboard.up('Control');
		await page.keyboard.type('402000.5');
		await page.keyboard.press('Enter');
		await shows('no findings');
		// Who works with the keyboard is where he was.
		expect(await page.evaluate(() => document.activeElement?.textContent)).toBe('402000.5');
		await press('Undo');
		await shows('Easting is "somewhere", not a number');
	});

	it('build the model with one press and report volumes', async () => {
		await open('build');
		await press('Build model');
		// Other stages know of it while it is under way.
		await page.waitForSelector('progress[aria-label="Building"]');
		await page.keyboard.press('6');
		await shows('The model is being built');
		await page.keyboard.press('4');
		await shows('Misfit of contacts');
		await shows('Up to date');
		expect(await page.$$eval('aside, main', (x) => x.length)).toBeGreaterThan(0);
		await shows('base of Marrick Limestone');
	});

	it('draw map, section and space of one model, with one probe', async () => {
		await open('examine?panes=map,section,space');
		await page.waitForSelector('canvas');
		await page.waitForFunction(() => document.querySelectorAll('path[data-what="Skerra Slate"]').length > 0, { timeout: PATIENCE });
		const map = (await (await page.waitForSelector('[aria-label^="Map of 60 holes"]'))!.boundingBox())!;
		await page.mouse.move(map.x + map.width / 2, map.y + map.height / 2);
		await page.mouse.move(map.x + map.width / 2 + 3, map.y + map.height / 2);
		await page.waitForFunction(() => /E\s*4\d\d/.test(document.querySelector('footer')!.innerText));
		// The section marks the same place.
		await page.waitForSelector('path[stroke="#B4622D"]');
	});

	it('hide in the section what the legend hides', async () => {
		await press('Hide Skerra Slate');
		await page.waitForFunction(() => document.querySelectorAll('path[data-what="Skerra Slate"]').length === 0);
		await press('Show Skerra Slate');
		await page.waitForFunction(() => document.querySelectorAll('path[data-what="Skerra Slate"]').length > 0);
	});

	it('mark the model out of date when a contact kind changes, and show the lineage', async () => {
		await open('interpret');
		await press('Column', 'tab');
		// Leaving the page before the write is answered could cut it off.
		const written = page.waitForResponse((r) => r.request().method() === 'PUT' && new URL(r.url()).pathname.endsWith('/column') && r.ok());
		await choose('::-p-aria([name="Contact kind of Hask Tuff"])', 'conformable');
		await written;
		await open('build?panes=lineage');
		await shows('Out of date: what changed is rebuilt');
		expect(
			await page.$$eval('[aria-label^="Lineage"] a', (x) =>
				x.map((e) => [...e.querySelectorAll('text')].map((t) => t.textContent!.trim()).join(': '))
			)
		).toContain('Contacts: out of date');
		await press('Undo');
		await shows('Up to date');
	});

	it('go between stages by keys and find holes by name', async () => {
		await page.keyboard.press('6');
		await shows('Project archive');
		await page.keyboard.down('Control');
		await page.keyboard.press('k');
		await page.keyboard.up('Control');
		await page.keyboard.type('TW-024');
		await page.keyboard.press('Enter');
		await page.keyboard.press('5');
		await shows('TW-024');
	});

	it('raised no error', () => {
		expect(errors).toEqual([]);
	});
});
