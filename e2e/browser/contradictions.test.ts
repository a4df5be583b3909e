import type { Browser, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeReef } from '../reef';
import type { Api, TestServer } from '../server';
import { hands, settled, until as comesAbout, visit } from './visit';

// Holes that contradict the others, and what holes meet twice: through the screens.
let server: TestServer;
let browser: Browser;
let page: Page;
let api: Api;
let errors: string[];
const { shows, press, choose, write, click } = hands(() => page);
/** Waits until something is so, and the page knows it. */
const until = async (what: () => Promise<boolean>) => {
	await comesAbout(what);
	await settled(page);
};

beforeAll(async () => {
	({ server, browser, page, api, errors } = await visit({}));
	await page.setViewport({ width: 1280, height: 800 });
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('a hole that its neighbours contradict', () => {
	it('is believed in one press, which the next build heeds, and weighed again in another', async () => {
		const odd = (
			await api.call<{ id: string }>('POST', '/projects', {
				name: 'One slip',
				extent: { minX: 0, minY: 0, minZ: -180, maxX: 700, maxY: 600, maxZ: 0 }
			})
		).body.id;
		const holes = Array.from({ length: 42 }, (_, i) => ({ name: `S${i + 1}`, x: 50 + 100 * (i % 7), y: 50 + 100 * Math.floor(i / 7) }));
		const bases = (x: number, y: number) => [40, 75, 110].map((d) => d + 0.05 * x + 8 * Math.sin(y / 150));
		await api.bring(odd, 'Collars', 'c.csv', `Hole,X,Y,Z,Depth\n${holes.map((h) => `${h.name},${h.x},${h.y},0,170`).join('\n')}`);
		const rows = holes.flatMap(({ name, x, y }) => {
			const b = bases(x, y);
			if (name === 'S18') b[1]! += 24;
			return ['upper', 'middle', 'lower', 'foot'].map(
				(u, k) => `${name},${(k ? b[k - 1]! : 0).toFixed(2)},${(b[k] ?? 170).toFixed(2)},${u}`
			);
		});
		await api.bring(odd, 'Log', 'l.csv', `Hole,From,To,Code\n${rows.join('\n')}`);
		const of = (rest: string) => `/projects/${odd}${rest}`;
		interface State {
			revision: number;
			certain?: string[];
		}
		const part = async (kind: string) => (await api.call<Record<string, State>>('GET', of('/interpretation'))).body[kind]!;
		const units = ['upper', 'middle', 'lower', 'foot'].map((id) => ({ id, name: id, color: '#808080', contact: 'conformable' }));
		await api.call('PUT', of('/column'), { units, revision: (await part('column')).revision });
		await api.call('PUT', of('/lumping'), {
			codes: Object.fromEntries(units.map((u) => [u.id, u.id])),
			revision: (await part('lumping')).revision
		});
		const build = async () => {
			await api.finished(odd, (await api.call<{ job: string }>('POST', of('/build'))).body.job);
			return (
				await api.call<{
					findings: { kind: string; hole?: string }[];
					misfits: { hole: string; surface: number; distance: number | null }[];
				}>('GET', of('/model'))
			).body;
		};
		await build();
		await page.goto(`${server.url}/${odd}/build`, { waitUntil: 'load' });
		await shows('S18 is');
		// What comes in meanwhile moves the list.
		await settled(page);
		await press('This is so');
		await until(async () => (await part('shaping')).certain?.join() === 'S18');
		await shows('Holds with the next build.');
		const believed = await build();
		expect(believed.findings.filter((f) => f.hole === 'S18').map((f) => f.kind)).toEqual(['believed']);
		for (const m of believed.misfits.filter((x) => x.hole === 'S18')) expect(m.distance).toBeLessThan(2);
		await settled(page);
		await press('Weigh it again');
		await until(async () => !(await part('shaping')).certain?.length);
		const kinds = (await build()).findings.filter((f) => f.hole === 'S18').map((f) => f.kind);
		expect([kinds.includes('against-neighbours'), kinds.includes('believed')]).toEqual([true, false]);
	});
});

describe('a sheet that some holes cross twice', () => {
	interface Intercept {
		hole: string;
		from: number;
		to: number;
		off: number;
		ofHole: number;
		nearest: boolean;
	}
	interface Interpretation {
		column: { units: { id: string; thinsOut?: boolean }[] };
		shaping: {
			setAside: { unit: string; hole: string; from: number; to: number }[];
			lines: { tells: string; thickness?: number }[];
			revision: number;
		};
	}
	let reef: string;
	const interpretation = async () => (await api.call<Interpretation>('GET', `/projects/${reef}/interpretation`)).body;
	const setAside = async () => (await interpretation()).shaping.setAside;
	const buildReef = async () => {
		await api.finished(reef, (await api.call<{ job: string }>('POST', `/projects/${reef}/build`)).body.job);
		return (
			await api.call<{ volumes: { unit: string; volume: number }[]; findings: { kind: string; message: string }[]; volumeError: number }>(
				'GET',
				`/projects/${reef}/model`
			)
		).body;
	};
	beforeAll(async () => {
		reef = await makeReef(api);
	});

	it('lists its intercepts with how far each is off, and refuses to set aside those of no unit', async () => {
		const { units } = (await api.call<{ units: { unit: string; intercepts: Intercept[] }[] }>('GET', `/projects/${reef}/intercepts`)).body;
		expect(units.map((u) => u.unit)).toEqual(['reef']);
		const doubled = units[0]!.intercepts.filter((i) => i.ofHole === 2);
		expect(doubled.length).toBeGreaterThan(2);
		for (const i of doubled) expect(i.nearest).toBe(i.off < 5);
		const bad = await api.call<{ type: string }>('PUT', `/projects/${reef}/shaping`, {
			setAside: [{ unit: 'gold', hole: 'R1', from: 1, to: 2 }]
		});
		expect([bad.status, bad.body.type]).toEqual([422, 'unknown-unit']);
		expect(
			(await api.call<{ type: string }>('PUT', `/projects/${reef}/shaping`, { setAside: [{ unit: 'reef', hole: 'R1', from: 'deep' }] }))
				.body.type
		).toBe('invalid-input');
		expect((await api.call('GET', `/projects/${crypto.randomUUID()}/intercepts`)).status).toBe(404);
		expect(await setAside()).toEqual([]);
	});

	it('keeps the nearest of each hole in one press; a mark takes one back in, and undo goes back', async () => {
		const before = await buildReef();
		await page.goto(`${server.url}/${reef}/interpret`, { waitUntil: 'load' });
		await press('Shape', 'tab');
		await click('::-p-xpath(//summary[contains(., "Intercepts of sheets")])');
		await press('Keep the nearest');
		await until(async () => (await setAside()).length > 2);
		const [first, ...rest] = await setAside();
		await press(`${first!.hole} from ${first!.from.toFixed(1)} belongs to Reef`, 'checkbox');
		await until(async () => (await setAside()).length === rest.length);
		await press('Undo');
		await until(async () => (await setAside()).length === rest.length + 1);
		const after = await buildReef();
		expect(after.volumeError).toBeLessThan(1e-9);
		// Left to itself the reef is told to be several; with the nearest crossings alone it is one, and less.
		const kinds = (m: typeof after) => m.findings.map((f) => f.kind);
		expect([kinds(before).includes('several-sheets'), kinds(after).includes('several-sheets')]).toEqual([true, false]);
		const reefOf = (m: typeof after) => m.volumes.find((v) => v.unit === 'reef')!.volume;
		expect(reefOf(after)).toBeLessThan(reefOf(before));
	});

	it('may keep its thickness where holes pass it, and takes its middle with the thickness from a line', async () => {
		await press('Column', 'tab');
		await press('Reef thins out where holes pass it', 'checkbox');
		await until(async () => (await interpretation()).column.units[1]!.thinsOut === false);
		await press('Shape', 'tab');
		const vertices = [
			[402_300, 4_992_200, 10],
			[402_400, 4_992_200, -40]
		];
		const line = (values: object) =>
			api.call<{ type: string }>('PUT', `/projects/${reef}/shaping`, {
				lines: [{ id: 'l', name: 'Drift', on: true, unit: 'reef', tells: 'base', error: 0, vertices, ...values }]
			});
		expect((await line({ tells: 'middle' })).body.type).toBe('line-without-thickness');
		expect((await line({ tells: 'foot', unit: 'cover' })).body.type).toBe('line-of-walls');
		expect((await line({})).status).toBe(200);
		await choose('select[aria-label="What Drift tells"]', 'middle');
		await until(async () => ((l) => l?.tells === 'middle' && l.thickness === 1)((await interpretation()).shaping.lines[0]));
		await write('Thickness at Drift', '6');
		await until(async () => (await interpretation()).shaping.lines[0]?.thickness === 6);
		await choose('select[aria-label="Unit of Drift"]', 'cover');
		await until(async () => ((l) => l?.tells === 'base' && l.thickness === undefined)((await interpretation()).shaping.lines[0]));
	});
});

it('none of the screens raised an error', () => expect(errors).toEqual([]));
