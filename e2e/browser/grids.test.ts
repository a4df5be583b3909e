import type { Browser, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Api, TestServer } from '../server';
import { hands, settled, until, visit } from './visit';

// Readings of a ground that is not the demo, through the screens: from an empty project to grids side by side, lines of a survey, a routine.
let server: TestServer;
let browser: Browser;
let page: Page;
let api: Api;
let project: string;
let errors: string[];
const { one, shows, press, click } = hands(() => page);
const go = async (path: string) => {
	await page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
	await settled(page);
};
interface Result {
	id: string;
	name: string;
	recipe: string;
	state: string;
	parameters: Record<string, unknown>;
}
const results = async () => (await api.call<{ results: Result[] }>('GET', `/projects/${project}/results`)).body.results;
const upToDate = (name: string) => until(async () => (await results()).some((r) => r.name === name && r.state === 'up to date'), name);
/** Chooses what a list beside a label offers, by its words. */
const take = async (label: string, words: string) => {
	await page.waitForFunction(
		(l, w) => {
			const own = [...document.querySelectorAll('form label')].find(
				(x) => x.firstChild?.textContent?.trim().startsWith(l) || x.querySelector('span')?.textContent?.startsWith(l)
			);
			const list = own?.querySelector('select');
			const option = [...(list?.options ?? [])].find((o) => o.text.startsWith(w));
			if (!list || !option) return false;
			list.value = option.value;
			list.dispatchEvent(new Event('change', { bubbles: true }));
			return true;
		},
		{},
		label,
		words
	);
	await settled(page);
};
/** Presses a button of the panel at the side once it is there, wherever the panel has been scrolled to. */
const pressAside = (text: string, title = '') =>
	page.waitForFunction(
		(t, begins) => {
			const button = [...document.querySelectorAll('aside button')].find(
				(b) => b.textContent!.trim() === t && (b.getAttribute('title') ?? '').startsWith(begins)
			);
			return button ? (button.dispatchEvent(new MouseEvent('click', { bubbles: true })), true) : false;
		},
		{},
		text,
		title
	);
const makeOf = async (recipe: string) => {
	await pressAside('Make…');
	await one('form[aria-label="Make a result"]');
	await take('What', recipe);
};
const SPRINGS = `x,y,depth,flow\n${Array.from({ length: 30 }, (_, i) => `${1000 + ((i * 37) % 100) * 10},${2000 + ((i * 61) % 80) * 10},${5 + (i % 6)},${i === 4 ? '' : i}`).join('\n')}\n`;
const LINES = `Line,Station,x,y,T\n${['10', '20', 'T1'].flatMap((l, n) => Array.from({ length: 12 }, (_, k) => (n < 2 ? `${l},${k},${1000 + 80 * k},${2100 + 400 * n},${n === 1 && k === 6 ? 500 : 100 + n * 5 + k}` : `${l},${k},1400,${2000 + 60 * k},${105}`))).join('\n')}\n`;

beforeAll(async () => {
	({ server, browser, page, api, errors } = await visit({}));
	await page.setViewport({ width: 1280, height: 800 });
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Springs' })).body.id;
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('grids', () => {
	it('an empty project says what a grid is made of, and refuses to make one of nothing', async () => {
		await go('examine?panes=grids,profiles');
		await shows('There are no grids yet.');
		await shows('There are no stations, levels or readings yet.');
		await press('Make a grid of readings…');
		await one('form[aria-label="Make a result"]');
		await press('Make and build');
		await shows('needs 1 as "Readings"');
	});

	it('readings are gridded while the map shows a first look, and what became of them is said', async () => {
		await api.bring(project, 'Springs', 'springs.csv', SPRINGS, { kind: 'places' });
		await go('examine?panes=map');
		await makeOf('Grid of readings');
		await take('Column', 'flow');
		await shows('Read 29 of 30 rows, 1 without a value or place');
		await take('Method', 'natural neighbour');
		// What belongs to another method is not asked for.
		expect(
			await page.$$eval('form label', (all) =>
				all.map((l) => l.textContent!.trim()).filter((t) => t.startsWith('Power') || t.startsWith('Tension'))
			)
		).toEqual([]);
		await press('Make and build');
		await upToDate('Grid of readings: Springs');
		await shows('validation, rms');
		expect((await results())[0]!.parameters).toMatchObject({ column: 'flow', method: 'natural-neighbour' });
	});

	it('what can not be done is said beside the map, and nothing is made', async () => {
		await makeOf('Grid of readings');
		await take('Method', 'kriging along a grid');
		await shows('needs the grid that the mean follows');
		const before = (await results()).length;
		await press('Make and build');
		await settled(page);
		expect((await results()).length).toBe(before);
		await press('Close');
	});

	it('its histogram marks and chooses cells; a range that is dragged shows only those', async () => {
		await click('[aria-label="Style of Grid of readings: Springs"]');
		const histogram = await one('svg[aria-label^="Histogram of Grid of readings"]');
		const box = (await histogram.boundingBox())!;
		await page.mouse.move(box.x + 20, box.y + 20);
		await page.mouse.down();
		await page.mouse.move(box.x + box.width / 2, box.y + 20, { steps: 5 });
		await page.mouse.up();
		await shows('show all values again');
		await press('show all values again');
	});

	it('stand side by side with one pointer, and are subtracted', async () => {
		const springs = (await api.call<{ objects: { id: string; name: string }[] }>('GET', `/projects/${project}`)).body.objects.find(
			(o) => o.name === 'Springs'
		)!.id;
		const made = await api.call<{ id: string }>('POST', `/projects/${project}/results`, {
			recipe: 'gridded',
			name: 'Nearest',
			inputs: { readings: [springs] },
			parameters: { column: 'flow', method: 'nearest' }
		});
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/build`, { objects: [made.body.id] });
		await api.finished(project, body.job);
		await go('examine?panes=grids');
		const map = (await (await one('[aria-label^="Map of"]')).boundingBox())!;
		await page.mouse.move(map.x + map.width / 2, map.y + map.height / 2);
		await page.waitForFunction(
			() => [...document.querySelectorAll('[aria-label="Value under the pointer"]')].filter((e) => /\d/.test(e.textContent!)).length === 2
		);
		await shows('left out: RMS');
		await press('Difference…');
		await one('form[aria-label="Make a result"]');
		await settled(page);
		await press('Make and build');
		await until(async () => (await results()).some((r) => r.recipe === 'grid-difference' && r.state === 'up to date'), 'the difference');
		await one('svg[aria-label="Histogram of the differences"]');
	});

	it('what a result finds stands under Check, and leads to it', async () => {
		const [first] = await results();
		const made = await api.call<{ id: string }>('POST', `/projects/${project}/results`, {
			recipe: 'grid-above',
			name: 'Flooded',
			inputs: { first: [first!.id], second: [first!.id] },
			parameters: { by: -1 }
		});
		const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/build`, { objects: [made.body.id] });
		await api.finished(project, body.job);
		await go('check');
		await click('section[aria-label="What results say"] a');
		await page.waitForFunction(() => location.pathname.endsWith('/examine'));
		await page.waitForFunction(
			() => (document.querySelector('[aria-label="Name of the result"]') as HTMLInputElement | null)?.value === 'Flooded'
		);
	});

	it('lines of a survey stand above each other, levelled as a new column', async () => {
		await api.bring(project, 'Lines', 'lines.csv', LINES, { kind: 'stations' });
		await go('examine?panes=profiles,map');
		await one('canvas[aria-label="Profiles of Lines: 3 lines"]');
		// A step that is tried is seen on the lines before it is made.
		await makeOf('Stations: spikes');
		await shows('First look: T_despiked, 1 value goes');
		await press('Close');
		await page.waitForFunction(() => !document.body.innerText.includes('First look'));
		await makeOf('Stations: levelling');
		await press('Make and build');
		await until(
			async () => (await results()).some((r) => r.recipe === 'levelled-stations' && r.state === 'up to date'),
			'the levelled lines'
		);
		await shows('misties, after');
		await click('summary ::-p-text(How it was made)');
		await shows('Read from lines.csv.');
	});

	it('the steps to a result are saved as a routine, and one that is none is refused', async () => {
		await go('examine?panes=map');
		await pressAside('Nearest');
		await page.waitForSelector('[aria-label="Name of the result"]');
		await pressAside('Routine…', 'Save the steps');
		await one('form[aria-label="Save as a routine"]');
		await shows('It asks for: Springs.');
		await press('Close');
		await pressAside('Routine…', 'Run');
		const input = (await one('form[aria-label="Run a routine"] input[type=file]')) as unknown as { evaluate: Page['evaluate'] };
		const give = (text: string) =>
			page.$eval(
				'form[aria-label="Run a routine"] input[type=file]',
				(e, t) => {
					const files = new DataTransfer();
					files.items.add(new File([t], 'routine.json', { type: 'application/json' }));
					(e as HTMLInputElement).files = files.files;
					e.dispatchEvent(new Event('change', { bubbles: true }));
				},
				text
			);
		expect(input).toBeTruthy();
		await give('not json');
		await shows('is not JSON, and so no routine');
		const nearest = (await results()).find((r) => r.name === 'Nearest')!;
		const { body: routine } = await api.call('POST', `/projects/${project}/routine-proposals`, {
			name: 'Again',
			objects: [nearest.id],
			open: [{ object: nearest.id, parameter: 'column' }]
		});
		await give(JSON.stringify(routine));
		await shows('Once for each value of');
		await take('Once for each value of', 'column');
		await (await one('form textarea')).type('depth, flow');
		await press('Run and build');
		await upToDate('Nearest flow');
		await upToDate('Nearest depth');
		expect(errors).toEqual([]);
	});
});
