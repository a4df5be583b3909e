import type { Browser, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Api, TestServer } from '../server';
import { PATIENCE } from '../browser-launch';
import { hands, pageOf, settled, until, visit } from './visit';

// What is looked at: the block taken apart, names on sections, what is selected, and lists of which many are picked.
let server: TestServer;
let browser: Browser;
let page: Page;
let api: Api;
let project: string;
let errors: string[];
const { one, shows, press, choose, click } = hands(() => page);
const go = async (path: string) => {
	await page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
	await settled(page);
};
const interpretation = async () =>
	(await api.call<{ lumping: { codes: Record<string, string> } }>('GET', `/projects/${project}/interpretation`)).body;
const lastChange = async () =>
	(await api.call<{ changes: { undo: { label: string } | null } }>('GET', `/projects/${project}`)).body.changes.undo?.label;
const selection = () => page.evaluate(() => new URL(location.href).searchParams.get('select') ?? '');

beforeAll(async () => {
	({ server, browser, page, api, project, errors } = await visit({ spacing: 200, build: true }));
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('the block', () => {
	const calls = () => page.$eval('[role=application][aria-label^="Space"]', (e) => Number((e as HTMLElement).dataset['calls']));
	const tubes = () => page.$eval('[role=application][aria-label^="Space"]', (e) => Number((e as HTMLElement).dataset['tubes']));
	// What was just opened may not be drawn yet: it is waited for.
	const slide = (name: string, value: number) =>
		page.waitForFunction(
			(n, v) => {
				const input = [...document.querySelectorAll('label')].find((l) => l.textContent?.includes(n))?.querySelector('input');
				if (!input) return false;
				input.value = String(v);
				input.dispatchEvent(new Event('input', { bubbles: true }));
				return true;
			},
			{},
			name,
			value
		);

	it('is peeled unit by unit, and lifted apart; both are kept', async () => {
		await go('examine?panes=space');
		await one('[role=application][aria-label^="Space"]');
		await press('View');
		await slide('Peel off', 3);
		await shows('down to');
		// Counted together, again and again: on a slow machine parts of the picture come late.
		let whole = 0;
		const drawn = () => new Promise((r) => setTimeout(r, 700));
		await until(async () => {
			await slide('Peel off', 0);
			await drawn();
			whole = await calls();
			await slide('Peel off', 3);
			await drawn();
			return whole > 5 && (await calls()) <= whole - 3;
		}, 'three units are gone');
		await slide('Peel off', 0);
		await until(async () => (await calls()) >= whole, 'they are back');
		await slide('Lift units apart', 25);
		await shows('25 % of the height');
		// Holes, faults and terrain stand aside.
		await until(async () => (await tubes()) === 0, 'holes have no place in it');
		await new Promise((r) => setTimeout(r, 1200));
		await go('examine?panes=space');
		await press('View');
		await shows('25 % of the height');
		await slide('Lift units apart', 0);
	});
});

describe('a section', () => {
	it('names its units and, in a row above, its holes with leader lines', async () => {
		await go('examine?panes=section');
		// Names of holes come with the line, names of units with the cut and a place found for them at rest.
		const texts = (): Promise<string[]> =>
			page.$$eval('[role=application][aria-label^="Section "] svg text', (e) => e.map((t) => t.textContent ?? ''));
		await until(async () => (await texts()).some((t) => /^(Skerra Slate|Fennick Sandstone|Marrick Limestone)$/.test(t)), 'a unit is named');
		await until(async () => (await texts()).filter((t) => /^TW-\d+/.test(t)).length > 3, 'holes are named');
	});

	it('comes nearer by buttons and by two fingers, and shows all again', async () => {
		const width = () => page.$eval('[role=application][aria-label^="Section "] svg clipPath rect', (e) => Number(e.getAttribute('width')));
		const path = () => page.$eval('[role=application][aria-label^="Section "] svg path[data-unit]', (e) => e.getAttribute('d'));
		const before = await path();
		await press('Nearer');
		expect(await path()).not.toBe(before);
		await press('Show all');
		expect(await path()).toBe(before);
		const client = await page.createCDPSession();
		await client.send('Emulation.setTouchEmulationEnabled', { enabled: true, maxTouchPoints: 2 });
		await go('examine?panes=section');
		const box = (await (await one('[role=application][aria-label^="Section "] svg')).boundingBox())!;
		const at = (off: number) =>
			[box.x + box.width / 2 - off, box.x + box.width / 2 + off].map((x, id) => ({ x, y: box.y + box.height / 2, id }));
		await client.send('Input.dispatchTouchEvent', { type: 'touchStart', touchPoints: at(30) });
		for (const off of [45, 60, 80]) await client.send('Input.dispatchTouchEvent', { type: 'touchMove', touchPoints: at(off) });
		await client.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
		expect(await path()).not.toBe(before);
		await client.send('Emulation.setTouchEmulationEnabled', { enabled: false });
		expect(await width()).toBeGreaterThan(0);
		await press('Show all');
	});

	it('follows the pointer while its line is drawn, and is as it was when that is left', async () => {
		await go('examine?panes=map,section');
		await page.waitForSelector('[role=application][aria-label^="Section "] svg path[data-unit]', { timeout: PATIENCE });
		const length = () =>
			page.$eval('[role=application][aria-label^="Section "]', (e) => e.getAttribute('aria-label')!.match(/, ([\d\u2009]+) /)![1]!);
		const before = await length();
		await press('Draw section');
		const box = (await (await one('[aria-label^="Map of"]')).boundingBox())!;
		await page.mouse.click(box.x + 140, box.y + 260);
		await page.mouse.move(box.x + 260, box.y + 300, { steps: 4 });
		await until(async () => (await length()) !== before, 'the section is that of the line so far');
		const short = await length();
		await page.mouse.move(box.x + 380, box.y + 330, { steps: 4 });
		await until(async () => (await length()) !== short, 'it grows with the line');
		await page.keyboard.press('Escape');
		await until(async () => (await length()) === before, 'it is as it was');
	});
});

describe('several sections', () => {
	it('are shown by different panes, each with its own corridor and exaggeration', async () => {
		const { section } = (
			await api.call<{ section: { trace: [number, number][]; corridor: number } }>('GET', `/projects/${project}/interpretation`)
		).body;
		const sections = [{ trace: section.trace.map(([x, y]) => [x, y + 400]), corridor: 60, exaggeration: 4 }];
		expect((await api.call('POST', `/projects/${project}/sections`, { sections })).status).toBe(201);
		await go('examine?panes=section,section');
		const labels = () =>
			page.$$eval('[role=application][aria-label^="Section "]', (e) => e.map((x) => x.getAttribute('aria-label')!.split(',')[0]));
		const holes = () =>
			page.$$eval('[role=application][aria-label^="Section "]', (e) =>
				e.map((x) => Number(/with (\d+) holes/.exec(x.getAttribute('aria-label')!)![1]))
			);
		await until(async () => (await labels()).length === 2, 'both panes show a section');
		expect(await labels()).toEqual(['Section A–A′', 'Section A–A′']);
		await until(async () => (await holes())[0]! > 0, 'holes are beside it');
		const wide = (await holes())[0]!;
		await click('[aria-label="Keep this section in this pane"]', { at: 1 });
		await click('[aria-label="Next section"]', { at: 1 });
		await until(async () => (await labels())[1] === 'Section B–B′', 'the second pane shows the other one');
		expect((await labels())[0]).toBe('Section A–A′');
		// Its corridor is narrower.
		await until(async () => (await holes())[1]! < wide, 'fewer holes are beside it');
		// Four times the height: the same ground is drawn taller for its length.
		const shape = (i: number) =>
			page.$$eval(
				'[role=application][aria-label^="Section "] svg clipPath rect',
				(e, k) => Number(e[k]!.getAttribute('height')) / Number(e[k]!.getAttribute('width')),
				i
			);
		await until(async () => (await shape(1)) / (await shape(0)) > 2, 'it is drawn taller');
		await click('[aria-label="Keep this section in this pane"]', { at: 1 });
		await until(async () => (await labels())[1] === 'Section A–A′', 'it shows again what all look at');
		await api.call('POST', `/projects/${project}/undo`, { others: true });
	});
	it('are added as a set, renamed, taken out and brought back; what can not be is said and nothing is lost', async () => {
		const told = async () =>
			(await api.call<{ sections: { name: string; set?: string; corridor?: number }[] }>('GET', `/projects/${project}/sections`)).body
				.sections;
		const type = async (field: string, text: string) => {
			await page.waitForSelector(field);
			await page.$eval(field, (e, v) => ((e as HTMLInputElement).value = v), text);
			await page.$eval(field, (e) => e.dispatchEvent(new Event('change', { bubbles: true })));
		};
		await go('examine?panes=section');
		await press('Sections');
		await press('Fence across');
		await until(async () => (await told()).length > 2, 'the fence is there');
		const all = await told();
		expect(new Set(all.map((s) => s.set))).toEqual(new Set(['Fence 1']));
		expect(all[0]!.name).toBe('B');
		await type('[aria-label="Name of section C"]', 'B');
		await shows('two sections would be called "B"');
		expect(await page.$eval('[aria-label="Name of section C"]', (e) => (e as HTMLInputElement).value)).toBe('C');
		await type('[aria-label="Corridor of B"]', '-5');
		await until(
			() => page.$eval('[aria-label="Corridor of B"]', (e) => (e as HTMLInputElement).value === ''),
			'what was refused does not stay'
		);
		await type('[aria-label="Name of section C"]', 'Adit');
		await type('[aria-label="Corridor of B"]', '35');
		await type('[aria-label="Name of the set Fence 1"]', 'Roads');
		await until(async () => (await told()).every((s) => s.set === 'Roads'), 'the set has another name');
		expect((await told()).slice(0, 2).map((s) => [s.name, s.corridor])).toEqual([
			['B', 35],
			['Adit', undefined]
		]);
		await click('[aria-label="Take out the set Roads"]');
		await until(async () => (await told()).length === 0, 'all of them went');
		await page.keyboard.down('Control');
		await page.keyboard.press('z');
		await page.keyboard.up('Control');
		await until(async () => (await told()).length === all.length, 'all of them are back');
	});
	it('are things of the lineage: one that is pressed there is shown, and steps go on from it', async () => {
		await go('examine?panes=lineage,section');
		const label = () => page.$eval('[role=application][aria-label^="Section "]', (e) => e.getAttribute('aria-label')!.split(',')[0]);
		await until(async () => (await label()) === 'Section A–A′', 'the main one is shown');
		await page.evaluate(() =>
			[...document.querySelectorAll('svg a')]
				.find((a) => /^Roads, \d+ sections:/.test(a.querySelector('title')?.textContent ?? ''))!
				.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true, detail: 1 }))
		);
		await until(async () => (await label()) === 'Section B–B′', 'the first of the set is shown');
		await click('[aria-label="Next section"]');
		await until(async () => (await label()) === 'Section Adit', 'steps go on from it');
	});
	it('are written each by itself under Present, with its own exaggeration', async () => {
		const { sections } = (await api.call<{ sections: { id: string; revision: number }[] }>('GET', `/projects/${project}/sections`)).body;
		const { id, revision } = sections[1]!;
		await api.call('PATCH', `/projects/${project}/sections`, { sections: [{ id, revision, exaggeration: 2.5 }] });
		await go('present');
		await choose('section[aria-labelledby="sheet"] select', id);
		await shows('Section Adit');
		const svg = () => page.$eval('section[aria-labelledby="sheet"] a[href*="section.svg"]', (e) => e.getAttribute('href')!);
		expect(await svg()).toContain(id);
		expect(await svg()).toContain('exaggeration=2.5');
		await api.call('POST', `/projects/${project}/sections/take-out`, { ids: sections.map((s) => s.id) });
	});
});

describe('what is selected', () => {
	it('stands in the address, goes along to other stages and comes back with it', async () => {
		await go('examine?panes=map');
		await press('Hask Tuff');
		await until(async () => (await selection()).startsWith('unit~'), 'the address says it');
		const address = await page.evaluate(() => location.href);
		await click('a[href$="/interpret"]');
		await until(async () => page.url().includes('/interpret') && (await selection()).startsWith('unit~'), 'it goes along');
		await page.goto(address, { waitUntil: 'load' });
		await shows('Contact below');
	});

	it('and is not in the project is said, not shown as if it were', async () => {
		await go('examine?panes=map&select=unit~nobody');
		await shows('What was selected is not in this project');
		await go('examine?panes=map&select=%E0%A4%A');
		expect(errors).toEqual([]);
	});
});

describe('long lists', () => {
	it('of codes are narrowed, and many are given to a unit as one change', async () => {
		const before = (await interpretation()).lumping.codes;
		await go('interpret?panes=map');
		const search = await one('input[aria-label="Find codes or units"]');
		await search.type('mud');
		const rows = () => page.$$eval('table.plain tbody tr', (e) => e.map((r) => r.querySelector('td:nth-child(2)')!.textContent!.trim()));
		await until(async () => (await rows()).every((c) => /mud|mdst/i.test(c)), 'only what fits is listed');
		const shown = await rows();
		expect(shown.length).toBeGreaterThan(1);
		await click('table.plain tbody input[type=checkbox]');
		await page.keyboard.down('Shift');
		await click('table.plain tbody input[type=checkbox]', { at: -1 });
		await page.keyboard.up('Shift');
		await shows(`${shown.length} picked`);
		await choose('select[aria-label="Unit of the picked codes"]', 'tuff');
		await until(async () => {
			const { codes } = (await interpretation()).lumping;
			return shown.every((c) => codes[c] === 'tuff');
		}, 'all of them are of that unit');
		await api.call('POST', `/projects/${project}/undo`, { others: true });
		expect((await interpretation()).lumping.codes).toEqual(before);
	});

	it('of sources are picked and taken out as one change, which undo brings back', async () => {
		await go('gather');
		const count = () => page.$$eval('table.plain tbody tr', (e) => e.length);
		const before = await count();
		const search = await one('input[aria-label="Find sources by name or kind"]');
		await search.type('TW-045');
		await until(async () => (await count()) < before, 'the list is shorter');
		const found = await count();
		await click('input[aria-label="Pick all sources that are shown"]');
		await press('Take out');
		await until(async () => (await lastChange()) === `Take out ${found} sources`, 'one change says so');
		await shows('Nothing in the project is called so');
		await api.call('POST', `/projects/${project}/undo`, { others: true });
		await go('gather');
		expect(await count()).toBe(before);
	});
});

describe('a refused value', () => {
	it('is marked where it was typed, with what would be taken, until it is typed anew', async () => {
		await go('interpret?panes=map&tab=faults');
		const dip = await one('input[aria-label="Dip"], label ::-p-text(Dip, °)');
		void dip;
		await page.evaluate(() => {
			const label = [...document.querySelectorAll('label')].find((l) => l.textContent?.trim().startsWith('Dip, °'))!;
			const input = label.querySelector('input')!;
			input.focus();
			input.value = '95';
			input.dispatchEvent(new Event('input', { bubbles: true }));
			input.dispatchEvent(new Event('change', { bubbles: true }));
		});
		const note = await one('.refused-note');
		expect(await note.evaluate((e) => e.textContent)).toMatch(/^Not stored\. .*(90|most)/);
		expect(await page.$eval('[aria-invalid=true]', (e) => (e as HTMLInputElement).value)).toBe('95');
		await page.evaluate(() => document.querySelector('[aria-invalid=true]')!.dispatchEvent(new Event('input', { bubbles: true })));
		expect(await page.$('.refused-note')).toBeNull();
	});
});

describe('with the keyboard alone', () => {
	it('the bars of a chart are gone through, and Enter selects their rows', async () => {
		await go('examine?panes=chart');
		const chart = await one('[role=application][aria-label^="Histogram"][aria-busy=false]');
		await settled(page);
		await chart.focus();
		for (const key of ['ArrowRight', 'ArrowRight', 'End', 'Home', 'Enter'] as const) await page.keyboard.press(key);
		await until(
			async () => (await selection()).startsWith('rows~') || (await page.$eval('aside', (e) => e.textContent ?? '')).includes('Rows'),
			'rows are selected'
		);
		expect(await page.$eval('[aria-live=polite]', (e) => e.textContent)).toMatch(/row/);
	});

	it('a set of the net is made at its cross', async () => {
		await go('examine?panes=net');
		const net = await one('[role=application][aria-label^="Equal-area net"]');
		await press('New set');
		await net.evaluate((e) => (e as SVGElement).focus());
		for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
		await page.keyboard.press('Enter');
		await one('input[aria-label="Name of set 1"]');
	});

	it('a table is one stop of Tab, and the arrows go from cell to cell and row to row', async () => {
		await go('check');
		await one('tr[data-n="4"] td:nth-child(4) button');
		const stops = await page.$$eval('a, button, input, select, [tabindex]', (all) =>
			all
				.filter((e) => (e as HTMLElement).tabIndex >= 0 && (e as HTMLElement).offsetParent !== null)
				.map((e) => e.closest('tbody') !== null)
		);
		expect(stops.length).toBeLessThan(40);
		expect(stops.filter(Boolean)).toHaveLength(1);
		const at = () =>
			page.evaluate(() => {
				const cell = document.activeElement?.closest('td');
				return cell ? [Number(cell.closest('tr')!.dataset['n']), [...cell.parentElement!.children].indexOf(cell)] : null;
			});
		await (await one('tr[data-n="4"] td:nth-child(4) button')).focus();
		await page.keyboard.press('ArrowDown');
		expect(await at()).toEqual([5, 3]);
		await page.keyboard.press('ArrowRight');
		expect(await at()).toEqual([5, 4]);
		await page.keyboard.press('ArrowUp');
		await page.keyboard.press('ArrowUp');
		expect(await at()).toEqual([3, 4]);
	});

	it('one edited cell makes at most six requests', async () => {
		await go('check');
		const cell = await one('tr[data-n="4"] td:nth-child(4) button');
		await cell.focus();
		await settled(page);
		const made: string[] = [];
		const count = (r: { url(): string; method(): string }) => {
			if (r.url().includes('/api/')) made.push(`${r.method()} ${new URL(r.url()).pathname.slice(60)}`);
		};
		page.on('request', count);
		await page.keyboard.press('Enter');
		await page.keyboard.type('1');
		await page.keyboard.press('Enter');
		await until(async () => made.some((m) => m.startsWith('PATCH')), 'it is stored');
		await settled(page);
		page.off('request', count);
		expect(made.length, made.join('; ')).toBeLessThanOrEqual(6);
	});
});

describe('on a slow line', () => {
	it.each(['log', 'map', 'section', 'net', 'table', 'chart'])(
		'what can be pressed in the pane %s keeps its place while data come',
		async (kind) => {
			const slow = await pageOf(browser);
			const line = await slow.createCDPSession();
			await line.send('Network.emulateNetworkConditions', {
				offline: false,
				latency: 150,
				downloadThroughput: 500_000,
				uploadThroughput: 250_000
			});
			// Narrow enough for what stands in a row to be pushed into the next.
			await slow.setViewport({ width: 900, height: 800 });
			await slow.evaluateOnNewDocument(() => {
				const places = new Map<Element, DOMRect>();
				const moved = new Set<string>();
				Object.assign(window, { moved });
				const look = () => {
					for (const e of document.querySelectorAll('main section :is(button, select, input)')) {
						const at = e.getBoundingClientRect();
						const before = places.get(e);
						if (before && Math.hypot(at.x - before.x, at.y - before.y) > 2)
							moved.add(e.getAttribute('aria-label') ?? e.getAttribute('title') ?? e.textContent ?? '');
						if (at.width) places.set(e, at);
					}
					requestAnimationFrame(look);
				};
				requestAnimationFrame(look);
			});
			await slow.goto(`${server.url}/${project}/examine?panes=${kind}`, { waitUntil: 'load' });
			await slow.waitForSelector('main section button');
			await settled(slow);
			expect(await slow.evaluate(() => [...(window as unknown as { moved: Set<string> }).moved])).toEqual([]);
			await slow.close();
		}
	);
});

it('none of the screens raised an error', () => expect(errors).toEqual([]));
