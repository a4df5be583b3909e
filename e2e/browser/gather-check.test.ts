import axe from 'axe-core';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, ElementHandle, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ChildProcess } from 'node:child_process';
import { startCatalogue, type TestServer } from '../server';
import { PATIENCE } from '../browser-launch';
import { hands, visit } from './visit';

let server: TestServer;
let browser: Browser;
let page: Page;
let errors: string[];
let catalogue: ChildProcess;
const folder = mkdtempSync(join(tmpdir(), 'malachite-'));
const { shows, press, choose, click, enter, write } = hands(() => page);
const give = async (name: string, text: string, input = 'input[aria-label="Files to bring in"]') => {
	writeFileSync(join(folder, name), text);
	await ((await page.waitForSelector(input)) as ElementHandle<HTMLInputElement>).uploadFile(join(folder, name));
};
const stage = async (name: string) => page.goto(page.url().replace(/\/[a-z]+(\?.*)?$/, `/${name}`), { waitUntil: 'load' });

beforeAll(async () => {
	const simulated = await startCatalogue();
	catalogue = simulated.process;
	({ server, browser, page, errors } = await visit({ environment: { MALACHITE_CATALOGUE_URL: simulated.url } }));
	page.on('dialog', (d) => void d.accept());
	await page.goto(server.url, { waitUntil: 'load' });
	await page.type('::-p-aria([name="Name"])', 'Field season');
	await press('Start project');
	await shows('Drop files anywhere');
});
afterAll(async () => {
	await browser?.close();
	catalogue?.kill();
	await server?.stop();
});

describe('Gather', () => {
	it('reads a file of another habit, lets the decimal mark and a unit be corrected, and says what it read', async () => {
		await give(
			'bohrungen.csv',
			`Bohrung;Rechtswert;Hochwert;Höhe;Endteufe\n${Array.from({ length: 8 }, (_, i) => `K-${i + 1};402.${300 + i},5;4.992.0${10 + i},0;100,0;328,084`).join('\n')}\n`
		);
		await shows('decimal comma, thousands point');
		expect(await page.$eval('select[aria-label="Role of Hochwert"]', (s) => (s as HTMLSelectElement).value)).toBe('northing');
		await choose('select[aria-label="Unit of Endteufe"]', 'ft');
		await page.waitForFunction(
			() => (document.querySelector('select[aria-label="Unit of Endteufe"]') as HTMLSelectElement | null)?.value === 'ft'
		);
		await press('Bring in');
		await shows('8 rows read, 0 held back, 0 noted');
	});

	it('shows trouble in place, before anything is brought in', async () => {
		await give('log.csv', 'hole,from,to,code\nK-1,0,10,SST\nK-1,10,5,LST\nK-2,0,20,SST\nK-3,0,120,SST\nk-4,0,9,SST\n');
		await page.waitForSelector('td[title*="is not above to"]');
		await press('Bring in');
		await shows('5 rows read, 3 held back');
	});
});

describe('newer versions and the catalogue', () => {
	it('a newer version says what it changes before it is taken', async () => {
		await give(
			'log2.csv',
			'hole,from,to,code\nK-1,0,10,SST\nK-1,10,5,LST\nK-2,0,20,MDST\nK-3,0,120,SST\nk-4,0,9,SST\nK-5,0,7,SST\n',
			'input[aria-label="File for Logged intervals"]'
		).catch(() => {});
		// The picker of a table is opened by its button; the file is given to it all the same.
		await shows('1 row added, 1 changed, 0 gone, 4 as before');
		await press('Take the new version');
		await page.waitForFunction(
			() => [...document.querySelectorAll('tr')].some((r) => r.textContent!.includes('Logged intervals') && r.textContent!.includes('6')),
			{ timeout: PATIENCE }
		);
	});

	it('the catalogue is searched for an area and gives its terrain to the project', async () => {
		await press('Regional catalogue: terrain and maps for an area');
		for (const [side, value] of [
			['West, °', '-16.27'],
			['South, °', '45.06'],
			['East, °', '-16.2'],
			['North, °', '45.1']
		]) {
			await write(side!, value!);
		}
		await press('Search');
		await shows('Terrain, 30 m');
		await click('li ::-p-text(Bring in)');
		await shows('Brought in as Terrain, 30 m');
	});
});

/** Opens a group of findings; the list may be made anew under the pointer after a change. */
async function reveal(group: string, text: string): Promise<void> {
	for (let tries = 0; tries < 6; tries++) {
		await click(`::-p-text(${group})`);
		if (await page.waitForFunction((t) => document.body.innerText.includes(t), { timeout: 6000 }, text).catch(() => null)) return;
	}
	throw new Error(`${group} did not open`);
}

describe('Check', () => {
	it('mends all findings of a kind after showing what will change, and undo brings them back', async () => {
		await stage('check');
		await shows('From not above to');
		await click('::-p-text(From not above to)');
		await press('Swap the two…');
		await shows('Swap the two: 2 cells');
		await press('Do it');
		await page.waitForFunction(() => !document.body.innerText.includes('From not above to'), { timeout: PATIENCE });
		await press('Undo');
		await shows('From not above to');
	});

	it('leaves a finding only with a reason', async () => {
		await reveal('Deeper than the hole', 'below the end of K-3');
		await click('::-p-xpath(//section[contains(., "below the end of K-3")]//button[contains(., "Seen, leave it")])');
		await enter('input[aria-label="Why it is left"]');
		await page.keyboard.type('the hole was deepened');
		await page.keyboard.press('Enter');
		await shows('seen: the hole was deepened');
	});

	it('silences a rule with a reason and changes a bound', async () => {
		await press('Rules', 'link');
		await page.waitForSelector('input[aria-label="Why Hole without rows is silenced"]');
		await page.type('input[aria-label="Why Hole without rows is silenced"]', 'only some were logged');
		await page.keyboard.press('Enter');
		await shows('run it again');
		await page.waitForFunction(
			() => ![...document.querySelectorAll('section .font-medium')].some((e) => e.textContent === 'Hole without rows'),
			{ timeout: PATIENCE }
		);
	});

	it('shows a table at a glance', async () => {
		await press('Overview', 'link');
		await shows('Numbers');
		await page.waitForSelector('svg[aria-label="Histogram of to"], svg[aria-label="Histogram of Endteufe"]');
	});

	it.each(['gather', 'check'])('%s has no accessibility violations', async (name) => {
		await stage(name);
		await shows(name === 'gather' ? 'In the project' : 'held back');
		await page.evaluate(axe.source);
		const violations = await page.evaluate(async () => {
			const { violations } = await (
				window as unknown as { axe: { run(o: object): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> } }
			).axe.run({ runOnly: ['wcag2a', 'wcag2aa'] });
			return violations.map((v) => `${v.id}: ${v.nodes[0]!.html.slice(0, 160)}`);
		});
		expect(violations).toEqual([]);
	});

	it('raised no error', () => expect(errors).toEqual([]));
});
