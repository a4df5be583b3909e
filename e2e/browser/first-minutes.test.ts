import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import axe from 'axe-core';
import type { Browser, ElementHandle, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ownGround } from '../own-ground';
import type { Api, TestServer } from '../server';
import { PATIENCE } from '../browser-launch';
import { follow, hands, settled, visit } from './visit';
import { NOBODY } from '../server';
import { VIEWS } from '../../web/src/lib/panes/views';

// A newcomer, files of a ground that nobody here knows, and a keyboard.
let server: TestServer;
let browser: Browser;
let page: Page;
let api: Api;
let errors: string[];
let project: string;
const { one, shows, press, choose, click, enter, strike } = hands(() => page);
const folder = mkdtempSync(join(tmpdir(), 'malachite-'));
const open = async (path: string) => {
	await page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
	await settled(page);
};
const turnTo = (path: string) => follow(page, `${server.url}/${project}/${path}`);

beforeAll(async () => {
	({ server, browser, page, api, errors } = await visit({}));
	page.on('dialog', (d) => void d.accept());
	for (const [name, text] of Object.entries({ ...ownGround(), 'odd.csv': 'a,b\n1,2\n3,4\n' })) writeFileSync(join(folder, name), text);
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('from an empty page to a model', () => {
	it('the system is found by name, and one in degrees can not be chosen', async () => {
		await page.goto(server.url, { waitUntil: 'load' });
		await page.type('::-p-aria([name="Name"])', 'First');
		const search = await one('[role=combobox]');
		await search.type('wgs 84');
		await page.waitForSelector('[role=option][aria-disabled=true]');
		await enter('[role=combobox]');
		await search.type('utm 32n');
		await page.waitForFunction(() => document.querySelector('[role=option]')?.textContent?.includes('WGS 84 / UTM zone 32N'), {
			timeout: PATIENCE
		});
		await page.keyboard.press('Enter');
		await shows('EPSG:32632 WGS 84 / UTM zone 32N, in metre');
		await press('Start project');
		await shows('Drop files anywhere');
		project = page.url().split('/')[3]!;
	});
	it('files that ask nothing are brought in with one press; the one that asks is named and stays', async () => {
		const input = (await one('input[aria-label="Files to bring in"]')) as ElementHandle<HTMLInputElement>;
		await input.uploadFile(...[...Object.keys(ownGround()), 'odd.csv'].map((n) => join(folder, n)));
		await shows('1 file asks something: odd.csv');
		await press('Bring in the 4 that ask nothing');
		await shows('What the data propose');
		await page.waitForFunction(() => document.querySelectorAll('article p').length >= 4, { timeout: PATIENCE });
		expect(await page.$$eval('article', (a) => a.filter((x) => x.textContent!.includes('rows read')).length)).toBe(3);
		expect((await api.call<{ cards: object[] }>('GET', `/projects/${project}/incoming`)).body.cards).toHaveLength(1);
	});
	it('all that is proposed is taken over and built, and the notice at the end leads to the result', async () => {
		await press('Take over and build the model');
		await shows('The model is built.');
		await press('Look at it', 'link');
		await page.waitForFunction(() => location.pathname.endsWith('/examine'), { timeout: PATIENCE });
		await page.waitForFunction(() => Number((document.querySelector('[data-tubes]') as HTMLElement | null)?.dataset['tubes']) > 100, {
			timeout: PATIENCE
		});
		expect(await page.title()).toBe('Examine · First · Malachite');
	});
	it('a file that is dropped on another stage is taken, not opened', async () => {
		const stayed = await page.evaluate(() => {
			const data = new DataTransfer();
			data.items.add(new File(['hole,depth,azimuth,dip\nBH001,0,10,-90\n'], 'late.csv', { type: 'text/csv' }));
			const fire = (type: string) => window.dispatchEvent(new DragEvent(type, { dataTransfer: data, cancelable: true, bubbles: true }));
			return [fire('dragover'), fire('drop')];
		});
		// Both were kept from the browser.
		expect(stayed).toEqual([false, false]);
		await page.waitForFunction(() => location.pathname.endsWith('/gather'), { timeout: PATIENCE });
		await shows('late.csv');
	});
	it('build says what is missing instead of being dead', async () => {
		const { id } = (await api.call<{ id: string }>('POST', '/projects', { name: 'Nothing yet' })).body;
		await page.goto(`${server.url}/${id}/build`, { waitUntil: 'load' });
		await shows('It still needs an extent and units in the column');
		await press('Build model');
		await shows('Before a model can be built it needs an extent and units in the column.');
		await page.goto(`${server.url}/${id}/build?panes=lineage`, { waitUntil: 'load' });
		await shows('not drawn yet');
	});
	it('a project that is not there, a page that is not there: said, with a way on', async () => {
		expect((await page.goto(`${server.url}/${NOBODY}/gather`))!.status()).toBe(404);
		await shows('there is no such project');
		expect((await page.goto(`${server.url}/docs/nothing`))!.status()).toBe(404);
		await shows('There is nothing at this address');
	});
});

describe('with the keyboard alone', () => {
	it('a section is drawn on the map: Enter sets vertices at its middle, Shift Enter ends', async () => {
		const section = async () =>
			(await api.call<{ section: { trace: [number, number][]; revision: number } }>('GET', `/projects/${project}/interpretation`)).body
				.section;
		const before = await section();
		await open('examine?panes=map');
		await press('Draw section');
		const map = await one('[role=application][aria-label^="Map of"]');
		await map.focus();
		await page.keyboard.press('Enter');
		// One vertex is no line, and nothing is lost by trying.
		await page.keyboard.down('Shift');
		await page.keyboard.press('Enter');
		await page.keyboard.up('Shift');
		await shows('It needs 2 vertices at least');
		for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
		await new Promise((r) => setTimeout(r, 700));
		await page.keyboard.press('Enter');
		await page.keyboard.down('Shift');
		await page.keyboard.press('Enter');
		await page.keyboard.up('Shift');
		await page.waitForFunction(() => !document.body.innerText.includes('Shift Enter'), { timeout: PATIENCE });
		await settled(page);
		const after = await section();
		expect(after.revision).toBeGreaterThan(before.revision);
		expect(after.trace).toHaveLength(2);
		expect(after.trace[1]![0]).toBeGreaterThan(after.trace[0]![0]);
		await strike(' ', '[aria-label="Probe"]', /E 51\d/);
	});
	it('a section is read at its middle, as it is by the pointer', async () => {
		await open('examine?panes=section');
		await (await one('[role=application][aria-label^="Section"]')).focus();
		for (const key of ['+', '+'] as const) await page.keyboard.press(key);
		await strike(' ', '[aria-label="Probe"]', /Till|Shale|Limestone|Granite|BH\d/);
		await page.keyboard.press('Enter');
		await page.waitForFunction(() => !document.body.innerText.includes('Press a hole, a unit or a row'), { timeout: PATIENCE });
	});
	it('dialogs keep the focus and give it back; the finder leads to the manual', async () => {
		const inDialog = () => page.evaluate(() => document.activeElement?.closest('dialog') !== null);
		await (await one('::-p-aria([name="Night colours"])')).focus();
		await page.keyboard.press('?');
		await page.waitForSelector('dialog[aria-label="Keys"]');
		for (let i = 0; i < 6; i++) {
			await page.keyboard.press('Tab');
			expect((await inDialog()) || (await page.evaluate(() => document.activeElement === document.body))).toBe(true);
		}
		await page.keyboard.press('Escape');
		await page.waitForFunction(
			() => !document.querySelector('dialog') && document.activeElement?.getAttribute('aria-label') === 'Night colours',
			{
				timeout: PATIENCE
			}
		);
		await page.keyboard.down('Control');
		await page.keyboard.press('k');
		await page.keyboard.up('Control');
		await page.waitForSelector('dialog[aria-label="Find or run"]');
		await page.keyboard.type('imperfect');
		await shows('Imperfect data');
		await page.keyboard.press('Enter');
		await page.waitForFunction(() => location.pathname === '/docs/modelling', { timeout: PATIENCE });
		await shows('Imperfect data');
	});
	it('what is looked up, or made, is shown wherever that was asked for, on small screens too', async () => {
		const find = async (words: string, entry: string) => {
			await page.keyboard.down('Control');
			await page.keyboard.press('k');
			await page.keyboard.up('Control');
			await (await one('[role=combobox]')).type(words);
			await shows(entry);
			await page.keyboard.press('Enter');
		};
		const isSeen = (selector: string) =>
			page.waitForFunction(
				(s) => {
					const r = document.querySelector(s)?.getBoundingClientRect();
					return !!r && r.width > 100 && r.left >= 0 && r.right <= innerWidth + 1 && r.top < innerHeight;
				},
				{ timeout: PATIENCE },
				selector
			);
		for (const [width, height] of [
			[1280, 800],
			[390, 844]
		] as const) {
			await page.setViewport({ width, height });
			await open('check');
			await find('Make: Order', 'Make: Order of the codes');
			await page.waitForFunction(() => location.pathname.endsWith('/examine'), { timeout: PATIENCE });
			await isSeen('form[aria-label="Make a result"]');
			await open('gather');
			await find('Stratigraphic col', 'Stratigraphic column');
			await page.waitForFunction(() => location.pathname.endsWith('/examine'), { timeout: PATIENCE });
			await isSeen('aside[aria-label="Legend and details"] dl');
		}
		// From a pane whose panel covers it.
		await open('examine?panes=map');
		await find('Make: Order', 'Make: Order of the codes');
		await isSeen('form[aria-label="Make a result"]');
		await page.setViewport({ width: 1280, height: 800 });
	});
	it('shortcuts of one key can be switched off, and work while a checkbox has the focus', async () => {
		await open('examine?panes=map');
		await (await one('main input[type=checkbox]')).focus();
		await page.keyboard.press('l');
		await page.waitForFunction(() => location.search.includes('panes=log'), { timeout: PATIENCE });
		await page.keyboard.press('?');
		await click('dialog input[type=checkbox]');
		await page.keyboard.press('Escape');
		await page.waitForFunction(() => !document.querySelector('dialog'), { timeout: PATIENCE });
		await page.keyboard.press('m');
		await page.keyboard.press('1');
		await new Promise((r) => setTimeout(r, 400));
		expect(page.url()).toContain('/examine?panes=log');
		await page.evaluate(() => localStorage.removeItem('malachite.keys'));
	});
	it('undo has a list of its steps, and one of them takes back all that came after it', async () => {
		await open('gather');
		await press('Steps that can be taken back');
		await shows('Take over units and their order');
		await page.keyboard.press('Escape');
		await page.waitForFunction(() => document.activeElement?.getAttribute('aria-label') === 'Steps that can be taken back', {
			timeout: PATIENCE
		});
		const state = async () => {
			const { column, section } = (
				await api.call<{ column: { units: object[] }; section: { trace: object[] } }>('GET', `/projects/${project}/interpretation`)
			).body;
			return [column.units.length, section.trace.length];
		};
		expect(await state()).toEqual([4, 2]);
		await press('Steps that can be taken back');
		await click('[role=dialog] button::-p-text(Take over units)');
		await page.waitForFunction(() => document.querySelector('[aria-label="Redo"]:not([disabled])'), { timeout: PATIENCE });
		await settled(page);
		// The section that was drawn after it went first.
		expect(await state()).toEqual([0, 0]);
		await press('Steps that can be taken back');
		await click('[role=dialog] li:first-child button');
		await page.waitForFunction(() => document.querySelector('[aria-label="Redo"][disabled]'), { timeout: PATIENCE });
		await settled(page);
		expect(await state()).toEqual([4, 2]);
	});
});

describe('on small screens, at night', () => {
	it.each([
		[390, 844],
		[768, 1024]
	])('at %i × %i panes have room, panels are drawers and undo is in reach', async (width, height) => {
		await page.setViewport({ width, height });
		// Whatever they are called.
		const { project: p, objects } = (
			await api.call<{ project: { revision: number; name: string }; objects: { id: string; kind: string; revision: number }[] }>(
				'GET',
				`/projects/${project}`
			)
		).body;
		const model = objects.find((o) => o.kind === 'model')!;
		expect(
			(await api.call('PATCH', `/projects/${project}`, { name: `A project of the northern valleys, ${width}`, revision: p.revision }))
				.status
		).toBe(200);
		const named = await api.call('PATCH', `/projects/${project}/models/${model.id}`, {
			name: `Second idea of the strata, ${width}`,
			revision: model.revision
		});
		expect(named.status).toBe(200);
		await open('check');
		for (const stage of ['interpret?panes=map', 'build?panes=map', 'gather', 'present', 'check']) {
			await turnTo(stage);
			await shows('Second idea');
			expect(await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)).toBe(0);
			const out = await page.$$eval(
				'header button, header a',
				(list) => list.filter((e) => e.getBoundingClientRect().right > window.innerWidth).length
			);
			expect([stage, out]).toEqual([stage, 0]);
			if (!stage.includes('?')) continue;
			const pane = await page.$eval('[role=application]', (e) => e.getBoundingClientRect().width);
			expect(pane).toBeGreaterThan(300);
			const name = stage.startsWith('build') ? 'Build' : 'Interpret';
			await click(`main button[aria-expanded]::-p-text(${name})`);
			await one(`[aria-label="Close ${name}"]`);
			await page.keyboard.press('Escape');
			await page.waitForFunction(
				(n) => (document.querySelector(`[aria-label="Close ${n}"]`) as HTMLElement | null)?.offsetParent == null,
				{ timeout: PATIENCE },
				name
			);
		}
		await page.setViewport({ width: 1280, height: 800 });
	});
	it('panes are shown one at a time, and what hangs over them stays in the window', async () => {
		await page.setViewport({ width: 390, height: 844 });
		const wider = () => page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
		const shown = () => page.$$eval('section[aria-label*=" pane"]', (all) => all.map((e) => e.getAttribute('aria-label')!.split(' ')[0]));
		await open('examine?panes=space,map,section');
		await one('[aria-label="Panes"]');
		for (const [tab, only] of [
			['Map', 'Map'],
			['Section', 'Section'],
			['Space', 'Space']
		] as const) {
			await click(`[aria-label="Panes"] button::-p-text(${tab})`);
			await page.waitForFunction(
				(v) => document.querySelector(`section[aria-label^="${v}"] [role=application]`),
				{ timeout: PATIENCE },
				only
			);
			expect([await shown(), await wider()]).toEqual([[only], 0]);
		}
		// What is to be drawn shows the pane that it is drawn on.
		await press('Draw section');
		await shows('Draw the section line');
		expect(await shown()).toEqual(['Map']);
		await page.keyboard.press('Escape');
		// All of them are there again where there is room.
		await page.setViewport({ width: 1280, height: 800 });
		await page.waitForFunction(() => document.querySelectorAll('section[aria-label*=" pane"]').length === 3, { timeout: PATIENCE });
		await open('examine?panes=space,section');
		await press('Draw section');
		await shows('Draw the section line');
		expect(await shown()).toEqual(['Map', 'Section']);
		await page.keyboard.press('Escape');
		await page.setViewport({ width: 390, height: 844 });
		await page.waitForFunction(() => document.querySelectorAll('section[aria-label*=" pane"]').length === 1, { timeout: PATIENCE });
		await open(`examine?panes=map,map,map`);
		for (const { id, label } of VIEWS) {
			await choose('section[aria-label] select[aria-label="What this pane shows"]', id);
			await one(`section[aria-label^="${label}"]`);
			await settled(page);
			for (const button of await page.$$('section[aria-label*=" pane"] button[aria-expanded=false]')) {
				// Some close others.
				if (!(await button.isVisible())) continue;
				await button.evaluate((b) => b.dispatchEvent(new MouseEvent('click', { bubbles: true })));
				expect([id, await button.evaluate((b) => b.textContent), await wider()]).toEqual([id, expect.anything(), 0]);
			}
		}
		await open('interpret?panes=map');
		await click('header button[title^="The model that is worked on"]');
		const inside = await page.$eval('[role=dialog][aria-label="Models"]', (e) => {
			const { left, right, bottom } = e.getBoundingClientRect();
			return left >= 0 && right <= innerWidth && bottom <= innerHeight;
		});
		expect([inside, await wider()]).toEqual([true, 0]);
		await page.keyboard.press('Escape');
		await page.setViewport({ width: 1280, height: 800 });
	});
	it('night follows the system until it is chosen, and is remembered', async () => {
		const theme = () => page.evaluate(() => document.documentElement.dataset['theme']);
		await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'dark' }]);
		await open('gather');
		expect(await theme()).toBe('malachite-night');
		await press('Day colours');
		await open('check');
		expect(await theme()).toBe('malachite');
		await page.evaluate(() => localStorage.removeItem('malachite.theme'));
		await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'light' }]);
	});
	it.each([
		'',
		'docs/tour',
		'api-docs',
		'PROJECT/gather',
		'PROJECT/interpret',
		'PROJECT/build',
		'PROJECT/present',
		'PROJECT/check?view=overview',
		'PROJECT/examine?panes=map,chart'
	])('/%s has nothing for the accessibility rules to find, large enough targets and a heading', async (path) => {
		await page.setBypassCSP(true);
		const address = `${server.url}/${path.replace('PROJECT', project)}`;
		// From one stage to the next the page stays.
		if (path.startsWith('PROJECT/') && page.url().includes(project)) await follow(page, address);
		else await page.goto(address, { waitUntil: 'load' });
		await settled(page);
		await page.evaluate(axe.source);
		const found = await page.evaluate(async () => {
			const { axe } = window as unknown as {
				axe: { run(o: object): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }> };
			};
			return (await axe.run({ runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa', 'best-practice'] })).violations.map(
				(v) => `${v.id}: ${v.nodes[0]!.html.slice(0, 160)}`
			);
		});
		expect(found).toEqual([]);
	});
	it('raised no error', () => expect(errors).toEqual([]));
});
