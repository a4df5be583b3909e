import axe from 'axe-core';
import type { Browser, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { demoTables } from '../../demo/generate';
import type { Api, TestServer } from '../server';
import { PATIENCE } from '../browser-launch';
import { hands, saved, settled, until, visit } from './visit';

let server: TestServer;
let browser: Browser;
let page: Page;
let project: string;
let api: Api;
let errors: string[];
const table: Record<string, string> = {};
const demo = demoTables();
const hole = demo.assays[1]![0]!;
const { one, shows, press, pressIn, choose, click } = hands(() => page);
const open = (query: string) => page.goto(`${server.url}/${project}/examine?${query}`, { waitUntil: 'load' });
const bench = async () =>
	(
		await api.call<{
			state: {
				panes: Record<string, { view: string; settings: Record<string, Record<string, unknown>> }[]>;
				styles: Record<string, { by: string; windows: Record<string, number[]> }>;
				exaggeration: number;
			};
		}>('GET', `/projects/${project}/workbench`)
	).body.state;
/** Waits until the page has kept what was changed. */
const kept = async (test: (s: Awaited<ReturnType<typeof bench>>) => boolean) =>
	until(async () => test(await bench()), 'it is kept').catch(async (error: unknown) => {
		throw new Error(`${String(error)}: ${JSON.stringify(await bench()).slice(0, 600)}`);
	});
const violations = async () => {
	await page.evaluate(axe.source);
	return page.evaluate(async () => {
		const { violations: list } = await (
			window as unknown as { axe: { run(o: object): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> } }
		).axe.run({ runOnly: ['wcag2a', 'wcag2aa'] });
		return list.map((v) => `${v.id}: ${v.nodes[0]!.html.slice(0, 200)}`);
	});
};

beforeAll(async () => {
	({ server, browser, page, project, api, errors } = await visit({ spacing: 200 }));
	const { body } = await api.call<{ objects: { id: string; name: string }[] }>('GET', `/projects/${project}`);
	for (const o of body.objects) table[o.name] = o.id;
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('space', () => {
	it('draws the holes of a project that was never built, in few draw calls', async () => {
		await open('panes=space');
		await page.waitForFunction(() => Number((document.querySelector('[data-tubes]') as HTMLElement | null)?.dataset['tubes']) > 100, {
			timeout: PATIENCE
		});
		expect(await page.$eval('[data-tubes]', (e) => Number((e as HTMLElement).dataset['calls']))).toBeLessThanOrEqual(20);
	});
	it('a class that the legend hides is not drawn, and "only" shows one alone', async () => {
		const count = () => page.$eval('[data-tubes]', (e) => Number((e as HTMLElement).dataset['tubes']));
		const all = await count();
		await press('Style of Lithology');
		await click('ul[aria-label="Classes of unit"] button[aria-label="Hide Skerra Slate"]');
		await page.waitForFunction((n) => Number((document.querySelector('[data-tubes]') as HTMLElement).dataset['tubes']) < n, {}, all);
		await press('all');
		await page.waitForFunction((n) => Number((document.querySelector('[data-tubes]') as HTMLElement).dataset['tubes']) === n, {}, all);
	});
	it('measures, slices and looks from sides by its controls', async () => {
		await press('Slice');
		await choose('::-p-aria([name="Plane"][role="combobox"])', 'horizontal');
		await one('input[type=number][step=any]');
		await kept((s) => (s as unknown as { slice: { kind: string } }).slice.kind === 'horizontal');
		await choose('::-p-aria([name="Plane"][role="combobox"])', 'none');
		await press('Distance');
		await shows('press the first point');
		const box = (await (await one('[data-tubes] canvas')).boundingBox())!;
		// A press on empty ground measures nothing and breaks nothing.
		await page.mouse.click(box.x + 5, box.y + box.height - 60);
		await page.keyboard.press('Escape');
		await settled(page);
		await choose('select[aria-label="Look from"]', 'above');
		await kept(
			(s) =>
				Math.abs(((s.panes['examine']![0]!.settings['space']!['camera'] as { position: number[] } | null)?.position[0] ?? 0) - 403_000) < 20
		);
	});
	it('without WebGL says so and offers map and section', async () => {
		const other = await browser.newPage();
		await other.evaluateOnNewDocument(() => {
			const get = HTMLCanvasElement.prototype.getContext;
			HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, kind: string, ...rest: unknown[]) {
				return kind.startsWith('webgl') ? null : (get as (k: string, ...r: unknown[]) => unknown).call(this, kind, ...rest);
			} as typeof get;
		});
		await other.goto(`${server.url}/${project}/examine?panes=space`, { waitUntil: 'load' });
		await other.waitForFunction(() => document.body.innerText.includes('shows no 3D'), { timeout: PATIENCE });
		await hands(() => other).press('Show the map here');
		await other.waitForSelector('[aria-label^="Map of 60 holes"]');
		await other.close();
	});
});

describe('styles', () => {
	it('a window of the histogram filters every pane, says what is in it, and is kept', async () => {
		await open('panes=space,chart');
		await choose('select[aria-label="Draw holes with"]', table['Assays']!);
		await press('Style of Assays');
		await one('[aria-label="Lower limit of WO3_ppm"]');
		const before = await page.$eval('dl[aria-label="Of what is in the window"]', (e) => (e as HTMLElement).innerText);
		await page.$eval('[aria-label="Lower limit of WO3_ppm"]', (e) => (e as SVGElement).focus());
		for (let i = 0; i < 3; i++) await page.keyboard.press('PageUp');
		await page.waitForFunction(
			(t) => (document.querySelector('dl[aria-label="Of what is in the window"]') as HTMLElement).innerText !== t,
			{},
			before
		);
		const low = await page.$eval('[aria-label="Lower limit of WO3_ppm"]', (e) => Number(e.getAttribute('aria-valuenow')));
		const inside = demo.assays.slice(1).filter((r) => Number(r[4]) >= low).length;
		await shows(`count\n${inside}`);
		await page.waitForFunction(
			(n) => document.body.innerText.includes(`${n} values`),
			{ timeout: PATIENCE },
			inside >= 1000 ? `${Math.floor(inside / 1000)}\u2009${String(inside % 1000).padStart(3, '0')}` : String(inside)
		);
		await kept((s) => s.styles[table['Assays']!]?.windows['WO3_ppm']?.[0] === low);
		await page.reload({ waitUntil: 'load' });
		await page.waitForFunction(
			(n) => document.body.innerText.includes(`${n} values`),
			{ timeout: PATIENCE },
			inside >= 1000 ? `${Math.floor(inside / 1000)}\u2009${String(inside % 1000).padStart(3, '0')}` : String(inside)
		);
		await press('Style of Assays');
		await press('show all values again');
	});
	it('classes are saved to a file', async () => {
		await choose('select[aria-label="Draw holes with"]', table['Lithology']!);
		await press('Style of Lithology');
		const file = JSON.parse(await saved(page, () => press('Save the classes to a file'))) as { classes: { name: string; color: string }[] };
		expect(file.classes.find((c) => c.name === 'Marrick Limestone')).toMatchObject({ color: '#7FB3C8', pattern: 'limestone' });
	});
});

describe('table', () => {
	it('sorts, filters, says what is wrong with a filter, and shows statistics', async () => {
		await open('panes=table');
		await choose('select[aria-label="Table"]', table['Assays']!);
		await shows('1\u2009008 rows');
		await one('input[aria-label="Filter expression"]');
		await page.type('input[aria-label="Filter expression"]', 'WO3_ppm > 1000');
		await page.keyboard.press('Enter');
		const rich = demo.assays.slice(1).filter((r) => Number(r[4]) > 1000);
		await shows(`${rich.length} rows found`);
		await press('WO3_ppm', 'columnheader');
		await page.waitForFunction(
			(v) => document.querySelector('[role=row][aria-rowindex="2"] [role=gridcell]:nth-of-type(5)')?.textContent?.trim() === v,
			{},
			rich.map((r) => r[4]!).sort((a, b) => Number(a) - Number(b))[0]!
		);
		await page.$eval('input[aria-label="Filter expression"]', (e) => ((e as HTMLInputElement).value = ''));
		await page.type('input[aria-label="Filter expression"]', 'Gold > 1');
		await page.keyboard.press('Enter');
		await shows('there is no column "Gold"');
		await press('Remove the filter');
		await shows('1\u2009008 rows');
		await click('[role=gridcell]:nth-of-type(5)');
		await press('Statistics');
		await shows('standard deviation');
	});
	it('is walked, edited and undone by the keyboard, and its rows are the selection of all panes', async () => {
		await choose('select[aria-label="Table"]', table['Collars']!);
		await shows('60 rows');
		const grid = await one('[role=grid]');
		await grid.focus();
		await page.keyboard.press('ArrowDown');
		await page.keyboard.press('ArrowRight');
		await page.keyboard.press('ArrowRight');
		await page.keyboard.press('ArrowRight');
		await page.keyboard.press('Enter');
		await one('input[aria-label="Elevation, row 2"]');
		await page.keyboard.type('123.45');
		await page.keyboard.press('Enter');
		await shows('One cell stored');
		await page.waitForFunction(() => document.querySelector('[role=row][aria-rowindex="3"]')?.textContent?.includes('123.45'));
		await press('Undo');
		await page.waitForFunction(() => !document.querySelector('[role=row][aria-rowindex="3"]')?.textContent?.includes('123.45'));
		await grid.focus();
		await page.keyboard.press(' ');
		await shows('Collars, row 2');
	});
	it('pastes cells from a spreadsheet as one change', async () => {
		const grid = await one('[role=grid]');
		await grid.focus();
		await page.keyboard.down('Control');
		await page.keyboard.press('Home');
		await page.keyboard.up('Control');
		await page.keyboard.press('ArrowRight');
		await page.evaluate(() => {
			const data = new DataTransfer();
			data.setData('text/plain', '401111.1\t4991111.1\n401112.2\t4991112.2\n');
			document
				.querySelector('[role=grid]')!
				.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
		});
		await shows('4 cells stored');
		await page.waitForFunction(() => document.querySelector('[role=row][aria-rowindex="3"]')?.textContent?.includes('4991112.2'));
		await press('Undo');
		await page.waitForFunction(() => !document.querySelector('[role=row][aria-rowindex="3"]')?.textContent?.includes('4991112.2'));
	});
	it('gets a calculated column after a look at what it holds', async () => {
		await choose('select[aria-label="Table"]', table['Assays']!);
		await press('Calculate');
		await page.type('input[aria-label="Name of the column"]', 'W and tin');
		await page.type('textarea[aria-label="Expression"]', 'WO3_ppm + From');
		await shows('puts ppm and m together');
		await page.$eval('textarea[aria-label="Expression"]', (e) => ((e as HTMLTextAreaElement).value = ''));
		await page.type('textarea[aria-label="Expression"]', 'WO3_ppm + Sn_ppm');
		await shows('numbers, ppm');
		await press('Add it');
		await one('::-p-aria([name="W and tin"][role="columnheader"])');
		await press('Undo');
		await page.waitForFunction(
			() => ![...document.querySelectorAll('[role=columnheader]')].some((e) => e.textContent?.includes('W and tin'))
		);
	});
});

describe('log', () => {
	it('stands with tracks that suit the tables, and reads them all under the pointer', async () => {
		await open('panes=log,map');
		await one('input[aria-label="Add a hole to the log"]');
		await page.type('input[aria-label="Add a hole to the log"]', hole);
		await page.keyboard.press('Enter');
		const svg = await one(`svg[aria-label="Log of ${hole}"]`);
		const box = (await svg.boundingBox())!;
		await page.mouse.move(box.x + 30, box.y + 12);
		await page.mouse.move(box.x + 32, box.y + 14);
		await page.waitForFunction((h) => new RegExp(`${h} at`).test(document.querySelector('footer')!.innerText), {}, hole);
		await shows('Description');
		// The selection is the row under the press.
		await pressIn(`svg[aria-label="Log of ${hole}"]`, [60, 14], 'From – to');
	});
	it('takes tracks away and adds them, and is kept', async () => {
		await press('Tracks');
		await one('[role=group][aria-label="Tracks"]');
		const count = () => page.$$eval('[aria-label^="Remove the track of"]', (x) => x.length);
		const before = await count();
		await click('[aria-label^="Remove the track of"]', { at: -1 });
		await page.waitForFunction((n) => document.querySelectorAll('[aria-label^="Remove the track of"]').length === n, {}, before - 1);
		await press('Track');
		await page.waitForFunction((n) => document.querySelectorAll('[aria-label^="Remove the track of"]').length === n, {}, before);
		await kept(
			(s) =>
				(s.panes['examine']![0]!.settings['log']!['tracks'] as unknown[] | null)?.length === before &&
				(s.panes['examine']![0]!.settings['log']!['holes'] as string[])[0] === hole
		);
	});
});

describe('map, section and net', () => {
	it('a box on the map selects holes, and a section goes through them', async () => {
		await open('panes=map,section');
		const map = (await (await one('[aria-label^="Map of 60 holes"]')).boundingBox())!;
		await new Promise((r) => setTimeout(r, 1500));
		await press('Select by a box');
		await page.mouse.click(map.x + 0.2 * map.width, map.y + 0.3 * map.height);
		await page.mouse.move(map.x + 0.8 * map.width, map.y + 0.6 * map.height);
		await page.mouse.click(map.x + 0.8 * map.width, map.y + 0.6 * map.height);
		await page.waitForFunction(
			() => /\d+ holes/.test(document.querySelector('[aria-label="Legend and details"]')!.lastElementChild!.textContent!),
			{ timeout: PATIENCE }
		);
		const label = () => page.$eval('[aria-label^="Section "][role=application]', (e) => e.getAttribute('aria-label')!);
		const before = await label();
		await press('Sections');
		await press('Through selected holes');
		await page.waitForFunction(
			(t) => document.querySelector('[aria-label^="Section "][role=application]')!.getAttribute('aria-label') !== t,
			{ timeout: PATIENCE },
			before
		);
		await press('Parallel set');
		await shows('1 of 1');
		await press('Next section');
		await shows('1 of 8, Parallel 1');
		await press('Next section');
		await shows('2 of 8, Parallel 1');
		await press('Fence across');
		await one('input[aria-label="Name of the set Fence 1"]');
		await press('Take out the set Parallel 1');
		await page.waitForSelector('input[aria-label="Name of the set Parallel 1"]', { hidden: true, timeout: PATIENCE });
		await one('input[aria-label="Name of the set Fence 1"]');
		await press('Sections');
	});
	it('the stereonet tells mean and spread, and names sets', async () => {
		await open('panes=net');
		await shows('mean plane');
		await shows('count\n60');
		const net = (await (await one('svg[aria-label^="Equal-area net"]')).boundingBox())!;
		await press('New set');
		await page.mouse.click(net.x + net.width / 2 - 10, net.y + net.height / 2);
		await one('input[aria-label="Name of set 1"]');
		await kept((s) => ((s.panes['examine']![0]!.settings['net']?.['sets'] as unknown[] | undefined)?.length ?? 0) === 1);
	});
	it('a viewpoint keeps what is seen under a name, with an address of its own', async () => {
		await open('panes=section,log');
		await page.waitForSelector('[aria-label="Section pane 1"]');
		await choose('::-p-aria([name="Vertical exaggeration"][role="combobox"])', '5');
		await kept((s) => s.exaggeration === 5);
		await press('Viewpoints');
		await page.type('input[aria-label="Name of the viewpoint"]', 'Five times');
		await page.keyboard.press('Enter');
		await shows('Kept as "Five times"');
		await page.keyboard.press('Escape');
		await choose('::-p-aria([name="Vertical exaggeration"][role="combobox"])', '1');
		await kept((s) => s.exaggeration === 1);
		const { body } = await api.call<{ viewpoints: { id: string }[] }>('GET', `/projects/${project}/viewpoints`);
		await page.goto(`${server.url}/${project}/examine?viewpoint=${body.viewpoints[0]!.id}`, { waitUntil: 'load' });
		await shows('VE 5×');
		await page.waitForSelector('[aria-label="Log pane 2"]');
	});
});

describe('trouble', () => {
	it('a table that is taken away while it is shown leaves the panes standing', async () => {
		await open('panes=space,log,table,chart');
		await shows('Histogram');
		await page.waitForSelector('[role=grid]');
		await api.call('DELETE', `/projects/${project}/sources/${table['Gamma logs']}`);
		await page.waitForFunction(
			() => ![...document.querySelectorAll('select[aria-label="Table"] option')].some((o) => o.textContent === 'Gamma logs'),
			{ timeout: PATIENCE }
		);
		await page.waitForSelector('[role=grid]');
	});
	it('a row that somebody else changes is shown as it is now', async () => {
		await choose('select[aria-label="Table"]', table['Collars']!);
		await shows('60 rows');
		await api.call('PATCH', `/projects/${project}/tables/${table['Collars']}/rows/0`, { column: 'Elevation', value: '77.77' });
		await page.waitForFunction(() => document.querySelector('[role=row][aria-rowindex="2"]')?.textContent?.includes('77.77'), {
			timeout: PATIENCE
		});
	});
	it.each(['space,map', 'section,log', 'table,chart', 'net,lineage'])('panes %s have no accessibility violations', async (panes) => {
		await open(`panes=${panes}`);
		await shows('Legend');
		await new Promise((r) => setTimeout(r, 1500));
		expect(await violations()).toEqual([]);
	});
	it('raised no error', () => expect(errors).toEqual([]));
});
