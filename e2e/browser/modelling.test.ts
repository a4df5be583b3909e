import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, ElementHandle, HTTPRequest, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { writePng } from '#core/formats/png';
import type { Api, TestServer } from '../server';
import { PATIENCE } from '../browser-launch';
import { hands, settled, until as comesAbout, visit } from './visit';

// Faults that die out, what a build tells, the doubt about it, grids, and photographs of core: through the screens.
let server: TestServer;
let browser: Browser;
let page: Page;
let project: string;
let api: Api;
let errors: string[];
const { one, shows, press, choose, write, click, enter } = hands(() => page);
/** Waits until something is so, and the page knows it. */
const until = async (what: () => Promise<boolean>) => {
	await comesAbout(what);
	await settled(page);
};
const open = (path: string) => page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
const field = (name: string) => one(`::-p-aria([name="${name}"])`);
interface Fault {
	id: string;
	uncertainty?: number | null;
	places?: { x: number; y: number; z: number; dip: number | null }[];
	tips?: { halfHeight: number } | null;
}
const faults = async () =>
	(await api.call<{ faults: { faults: Fault[] } }>('GET', `/projects/${project}/interpretation`)).body.faults.faults;

beforeAll(async () => {
	({ server, browser, page, project, api, errors } = await visit({ spacing: 150, build: true }));
	await page.setViewport({ width: 1280, height: 800 });
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
	it('takes places on a fault at depth and how far it may be off, says what is wrong with a place, and undo takes them back', async () => {
		await open('interpret');
		await press('Faults', 'tab');
		await click('::-p-text(Places on it at depth)');
		const typed = async (text: string) => {
			await page.waitForSelector('textarea[aria-label="Places on Sallow Fault"]', { visible: true });
			await enter('textarea[aria-label="Places on Sallow Fault"]');
			await page.keyboard.type(text);
			await page.keyboard.press('Tab');
		};
		// What was opened by hand stays open, and the focus in it, when something changes elsewhere meanwhile.
		await page.waitForSelector('textarea[aria-label="Places on Sallow Fault"]', { visible: true });
		await enter('textarea[aria-label="Places on Sallow Fault"]');
		await page.keyboard.type('402300 49');
		await api.call('PATCH', `/projects/${project}`, { description: 'Another window was here' });
		await settled(page);
		await page.keyboard.type('92100 deep');
		expect(
			await page.$eval('textarea[aria-label="Places on Sallow Fault"]', (e) => [
				(e as HTMLTextAreaElement).value,
				e === document.activeElement
			])
		).toEqual(['402300 4992100 deep', true]);
		await typed('402300 4992100 deep');
		await shows('The places were not taken: line 1');
		expect((await faults())[0]!.places ?? []).toEqual([]);
		await typed('402300 4992100 -100 60');
		await until(async () => (await faults())[0]!.places?.length === 1);
		expect((await faults())[0]!.places![0]).toMatchObject({ x: 402300, y: 4992100, z: -100, dip: 60 });
		await write('May be off by, m', '12');
		await until(async () => (await faults())[0]!.uncertainty === 12);
		await press('Undo');
		await until(async () => (await faults())[0]!.uncertainty !== 12);
		await press('Undo');
		await until(async () => !(await faults())[0]!.places?.length);
	});
	it('offers body or sheet for an intrusion only', async () => {
		await press('Column', 'tab');
		await field('Contact kind of Hask Tuff');
		expect(await page.$('select[aria-label="Form of Hask Tuff"]')).toBeNull();
		await choose('select[aria-label="Contact kind of Hask Tuff"]', 'intrusive');
		await page.waitForSelector('select[aria-label="Form of Hask Tuff"]');
		await page.waitForSelector('select[aria-label="Hask Tuff beyond its holes"]');
		// There is no other sheet yet that it could end at.
		const list = 'select[aria-label="Hask Tuff ends at"]';
		expect(await page.$(list)).toBeNull();
		await choose('select[aria-label="Contact kind of Tolven Siltstone"]', 'intrusive');
		const at = async () =>
			(
				await api.call<{ column: { units: { name: string; endsAt?: string | null }[] } }>('GET', `/projects/${project}/interpretation`)
			).body.column.units.find((u) => u.name === 'Hask Tuff')!.endsAt;
		for (const [choice, stored] of [
			['unit tolven', 'tolven'],
			['none', null],
			['holes', undefined]
		] as const) {
			await choose(list, choice);
			await until(async () => (await at()) === stored);
		}
		for (const stored of [null, 'tolven', undefined]) {
			await press('Undo');
			await until(async () => (await at()) === stored);
		}
		await press('Undo');
		await press('Undo');
		await page.waitForFunction(() => !document.querySelector('select[aria-label="Form of Hask Tuff"]'));
	});
});

describe('the model that is built', () => {
	interface Interpretation {
		faults: { faults: { dip: number }[]; revision: number };
		model: { spacing: number; finer?: { surfaces: { unit: string; spacing: number }[]; dense: boolean } };
	}
	const interpretation = async () => (await api.call<Interpretation>('GET', `/projects/${project}/interpretation`)).body;
	const extent = async () =>
		(await api.call<{ project: { extent: Record<string, number> } }>('GET', `/projects/${project}`)).body.project.extent;
	const upToDate = () => page.waitForFunction(() => document.body.innerText.includes('Up to date; took'), { timeout: PATIENCE });

	it('is kept in one press, compared after a change with surfaces coloured by how far they moved, and taken up again', async () => {
		await open('build?panes=space');
		await press('Keep a copy');
		await one('::-p-aria([name="Compare with Model 1"])');
		const { faults: f } = await interpretation();
		await api.call('PUT', `/projects/${project}/faults`, { faults: f.faults.map((x) => ({ ...x, dip: x.dip - 6 })), revision: f.revision });
		await shows('Out of date');
		await press('Build model');
		await upToDate();
		await press('Compare with Model 1');
		await shows('Since Model 1');
		await shows('Surfaces show: Moved since Model 1');
		await press('Close');
		await page.waitForFunction(() => !document.body.innerText.includes('Surfaces show'));
		await press('Take up Model 1');
		await until(async () => (await interpretation()).faults.faults[0]!.dip === f.faults[0]!.dip);
		await press('Build model');
		await upToDate();
		await press('Remove Model 1');
		await page.waitForFunction(() => !document.querySelector('[aria-label="Remove Model 1"]'));
	});

	it('has finer parts, with spacings that can be changed and taken away', async () => {
		await click('summary ::-p-text(Finer in parts)');
		await choose('[aria-label="Make a part finer"]', 'surfaces marrick');
		await until(async () => (await interpretation()).model.finer?.surfaces[0]?.spacing === 75);
		await write('Spacing base of Marrick Limestone, m', '60');
		await until(async () => (await interpretation()).model.finer?.surfaces[0]?.spacing === 60);
		await press('where contacts stand densely', 'checkbox');
		await until(async () => (await interpretation()).model.finer?.dense === true);
		await press('Not finer: base of Marrick Limestone');
		await press('where contacts stand densely', 'checkbox');
		await until(async () => (await interpretation()).model.finer?.surfaces.length === 0);
	});

	it('has a box whose sides can be dragged in space, and undo puts them back', async () => {
		const before = await extent();
		await press('Drag its sides in map and space');
		const host = await one('[data-handles]');
		await page.waitForFunction(
			() => JSON.parse(document.querySelector<HTMLElement>('[data-handles]')?.dataset['handles'] ?? '[]').length === 6,
			{ timeout: PATIENCE }
		);
		const box = (await host.boundingBox())!;
		const [west, east] = await page.$eval(
			'[data-handles]',
			(e) => JSON.parse((e as HTMLElement).dataset['handles']!) as [number, number][]
		);
		const at = (t: number) => [box.x + east![0] + t * (west![0] - east![0]), box.y + east![1] + t * (west![1] - east![1])] as const;
		await page.mouse.move(...at(0));
		await page.mouse.down();
		await page.mouse.move(...at(0.1), { steps: 3 });
		await page.mouse.move(...at(0.2), { steps: 3 });
		await page.mouse.up();
		await until(async () => (await extent())['maxX']! < before['maxX']!);
		const now = await extent();
		expect(now).toEqual({ ...before, maxX: now['maxX'] });
		expect(now['maxX']).toBeGreaterThan((before['minX']! + before['maxX']!) / 2);
		await press('Handles away');
		await press('Undo');
		await until(async () => (await extent())['maxX'] === before['maxX']);
	});

	it('is looked at block by block', async () => {
		await press('Build model');
		await upToDate();
		await shows('Fault blocks');
		await press('Hide above Sallow Fault');
		await one('::-p-aria([name="Show above Sallow Fault"])');
		await press('Show above Sallow Fault');
	});
});

describe('Build', () => {
	it('tells how logs and model agree, the throw of the fault, and proposes a spacing', async () => {
		await open('build');
		await shows('Logs against the model');
		await shows('logged have the same unit in the model');
		await shows('Throw along the faults');
		await page.waitForFunction(() =>
			[...document.querySelectorAll('button.link')].some((b) => /^Propose \d+ m$/.test(b.textContent ?? ''))
		);
	});
	it('runs an ensemble and shows the spread of the volumes', async () => {
		await click('details summary.panel-title');
		await write('Models', '3');
		await write('Cells of, m', '250');
		await press('Run');
		await shows('3 models, seed 1');
		expect(await page.$$eval('details[open] table tbody tr', (rows) => rows.length)).toBe(7);
		const link = await page.$eval('details[open] a', (a) => (a as HTMLAnchorElement).href);
		expect((await fetch(link)).status).toBe(200);
	});
});

describe('Present', () => {
	it('keeps the place of the section while it is drawn, and says when it could not be', async () => {
		// The first drawing is held up, the second one fails.
		const held: HTTPRequest[] = [];
		const intercept = (request: HTTPRequest) => {
			if (request.resourceType() !== 'image' || !request.url().includes('/exports/section')) return void request.continue();
			if (request.url().includes('exaggeration=3')) return void request.abort();
			held.push(request);
		};
		const top = () => page.$eval('#grids', (e) => Math.round(e.getBoundingClientRect().top));
		await page.setRequestInterception(true);
		page.on('request', intercept);
		try {
			await open('present').catch(() => undefined);
			await shows('The section is being drawn');
			await until(async () => held.length > 0);
			const before = await top();
			await held[0]!.continue();
			await page.waitForFunction(() => document.querySelector('img[alt^="Section"]')?.clientHeight);
			await page.waitForFunction(() => !document.body.innerText.includes('The section is being drawn'));
			// The ground is not quite as high as the extent is.
			expect(Math.abs((await top()) - before)).toBeLessThan(before * 0.15);
			await choose('section[aria-labelledby="sheet"] select', '3');
			await shows('The section could not be drawn.');
		} finally {
			page.off('request', intercept);
			await page.setRequestInterception(false);
		}
		await press('Try again');
		await page.waitForFunction(() => (document.querySelector('img[alt^="Section"]') as HTMLImageElement)?.naturalHeight > 0);
	});
	it('offers grids of the unit that is chosen', async () => {
		await open('present');
		await shows('Grids');
		const grids = 'section[aria-labelledby="grids"]';
		await choose(`${grids} ::-p-aria([name="Unit"])`, 'marrick');
		await write('Cell, m', '200');
		const link = (ending: string, holds: string[]) =>
			page.waitForFunction(
				(e, words) =>
					[...document.querySelectorAll('section[aria-labelledby="grids"] a')]
						.map((a) => (a as HTMLAnchorElement).href)
						.find((h) => h.includes(`file.${e}`) && words.every((w) => decodeURIComponent(h).includes(w))),
				{},
				ending,
				holds
			);
		const response = await fetch((await (await link('asc', ['"unit":"marrick"', '"cell":200'])).jsonValue())!);
		expect([response.status, response.headers.get('content-disposition')]).toEqual([200, expect.stringContaining('.asc')]);
		expect(await response.text()).toMatch(/cellsize\s+200/i);
		// The unit stays when another grid of it is chosen, which has a terrain to be below.
		await choose(`${grids} ::-p-aria([name="What"])`, 'depth-to-unit');
		await shows('how deep the top of a unit lies');
		const depth = await fetch((await (await link('tif', ['depth-to-unit', 'terrain:', '"unit":"marrick"', '"cell":200'])).jsonValue())!);
		expect([depth.status, depth.headers.get('content-type')]).toEqual([200, 'image/tiff']);
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
		await until(async () =>
			(
				await api.call<{ objects: { kind: string; state: { core?: { hole: string; to: number } } }[] }>('GET', `/projects/${project}`)
			).body.objects.some((o) => o.kind === 'picture' && o.state.core?.hole === 'TW-003' && o.state.core.to === 14.5)
		);
		await open('examine?panes=log');
		await page.waitForSelector('input[aria-label="Add a hole to the log"]');
		await page.type('input[aria-label="Add a hole to the log"]', 'TW-003');
		await page.keyboard.press('Enter');
		await page.waitForSelector('svg[aria-label="Log of TW-003"] image', { timeout: PATIENCE });
		const spec = {
			holes: ['TW-003'],
			tracks: [{ kind: 'photographs', width: 20, series: [], log: false, range: [null, null], fill: 'none' }],
			axis: 'depth',
			scale: 200,
			align: null
		};
		for (const [format, wanted] of [
			['svg', 'data:image/png;base64,'],
			['pdf', '/Subtype /Image']
		] as const) {
			const response = await fetch(`${server.url}/api/v1/projects/${project}/exports/log.${format}`, {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ spec })
			});
			expect(response.status).toBe(200);
			expect(Buffer.from(await response.arrayBuffer()).toString('latin1')).toContain(wanted);
		}
	});
});

describe('Shape', () => {
	type Shaping = {
		lines: { vertices?: unknown[]; tells: string }[];
		limits: { kind: string; distance?: number }[];
		trends: { anisotropy?: { ratios: number[] } | null }[];
		dataSets: { off: string[]; error: number }[];
		made: { unit: string; by: number }[];
		divisions: { on: boolean }[];
	};
	const shaping = async () => (await api.call<{ shaping: Shaping }>('GET', `/projects/${project}/interpretation`)).body.shaping;

	it('takes places that are typed, says what is wrong with them, and undo takes them back', async () => {
		await open('interpret');
		await press('Shape', 'tab');
		await page.evaluate(() => document.querySelectorAll('details').forEach((d) => (d.open = true)));
		await press('Typed');
		await one('textarea[aria-label="Places of Line 1"]');
		await page.$eval('textarea[aria-label="Places of Line 1"]', (e) => ((e as HTMLTextAreaElement).value = ''));
		await page.type('textarea[aria-label="Places of Line 1"]', '402000 4992000 -20\nnorth 5');
		await press('Keep the places');
		await shows('line 2: "north" is not a number: easting, northing');
		await page.$eval('textarea[aria-label="Places of Line 1"]', (e) => ((e as HTMLTextAreaElement).value = ''));
		await page.type('textarea[aria-label="Places of Line 1"]', '402000 4992000 -20; 402100 4992000');
		await press('Keep the places');
		await shows('line 1 has 5 numbers');
		await page.$eval('textarea[aria-label="Places of Line 1"]', (e) => ((e as HTMLTextAreaElement).value = ''));
		await page.type('textarea[aria-label="Places of Line 1"]', '402000 4992000 -20\n402100 4992000');
		await press('Keep the places');
		await until(async () => (await shaping()).lines[0]?.vertices?.length === 2);
		await choose('select[aria-label="What Line 1 tells"]', 'inside');
		await until(async () => (await shaping()).lines[0]?.tells === 'inside');
		await press('Remove Line 1');
		await until(async () => (await shaping()).lines.length === 0);
	});
	it('sets trends, errors, given bases and limits', async () => {
		await choose('select[aria-label="Trend of Tolven Siltstone"]', 'plane');
		await until(async () => (await shaping()).trends[0]?.anisotropy?.ratios.join() === '4,4,1');
		await write('Error of Lithology', '2');
		await until(async () => (await shaping()).dataSets[0]?.error === 2);
		await choose('select[aria-label="Base of Hask Tuff from"]', 's:terrain');
		await until(async () => (await shaping()).made[0]?.unit === 'tuff');
		await write('Moved up, m', '-30');
		await until(async () => (await shaping()).made[0]?.by === -30);
		await press('near the data');
		await until(async () => (await shaping()).limits[0]?.kind === 'near');
		await api.finished(project, (await api.call<{ job: string }>('POST', `/projects/${project}/build`)).body.job);
		const { body } = await api.call<{ volumes: { unit: string; volume: number }[]; volumeError: number }>(
			'GET',
			`/projects/${project}/model`
		);
		expect(body.volumeError).toBeLessThan(1e-9);
		for (let i = 0; i < 5; i++) await press('Undo');
		await until(async () => {
			const s = await shaping();
			return [s.trends, s.dataSets, s.made, s.limits].every((l) => l.length === 0);
		});
	});
	it('divides a unit by another log: its parts stand below it and make up its volume', async () => {
		await press('Divide', 'tab');
		await press('Parts of the slate is on', 'checkbox');
		await until(async () => (await shaping()).divisions[0]!.on);
		await api.finished(project, (await api.call<{ job: string }>('POST', `/projects/${project}/build`)).body.job);
		const { body } = await api.call<{ volumes: { unit: string; volume: number; partOf?: string }[] }>('GET', `/projects/${project}/model`);
		const parts = body.volumes.filter((v) => v.partOf === 'slate');
		expect(parts.map((p) => p.unit)).toEqual(['s1', 's2', 's3', 's4', 's5']);
		expect(parts.reduce((s, p) => s + p.volume, 0) / body.volumes.find((v) => v.unit === 'slate')!.volume).toBeCloseTo(1, 9);
		await open('build?panes=section');
		await shows('S3 black slate');
		await one('[data-unit="s3"]');
	});
});

it('none of the screens raised an error', () => expect(errors).toEqual([]));
