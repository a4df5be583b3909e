import pg from 'pg';
import { launchBrowser } from '../e2e/browser-launch';
import { client, startServer } from '../e2e/server';
import { HOLES, manyHoles, ROWS_EACH } from './many-holes';

/** Waits until the renderer has drawn what it was told to draw. */
export const FINISH = `(() => { const g = document.querySelector('[data-tubes] canvas').getContext('webgl2'); g.readPixels(0, 0, 1, 1, g.RGBA, g.UNSIGNED_BYTE, new Uint8Array(4)); })()`;

/** The workbench on 5 000 holes × 200 intervals: first picture, draw calls, memory, bytes, filter; the table at row 900 000; a log of ten holes. */
export async function benchWorkbench(): Promise<void> {
	const server = await startServer();
	const browser = await launchBrowser();
	try {
		const api = client(server);
		const { project, table, raw } = await manyHoles(api);
		const { body: w } = await api.call<{ state: Record<string, unknown> }>('GET', `/projects/${project}/workbench`);
		const style = {
			by: 'Cu_ppm',
			color: '#4A5E57',
			classes: {},
			order: {},
			scales: {},
			windows: {},
			opacity: 1,
			size: { value: 14, unit: 'm', by: 'Au_ppb' },
			labels: null
		};
		await api.call('PUT', `/projects/${project}/workbench`, {
			state: { ...w.state, along: table, styles: { [table]: style }, panes: { examine: [{ view: 'space', settings: {} }] } }
		});
		// The server has the project loaded.
		const size = async (path: string) =>
			Number((await fetch(`${server.url}/api/v1/projects/${project}${path}`)).headers.get('content-length') ?? 0) ||
			(await (await fetch(`${server.url}/api/v1/projects/${project}${path}`)).arrayBuffer()).byteLength;
		await size('/paths');
		await size(`/tables/${table}/placed`);

		const page = await browser.newPage();
		// The policy of the page runs no text that comes from outside, not that of a measurement either.
		await page.setBypassCSP(true);
		page.on('pageerror', (e) => console.error(e));
		let bytes = 0;
		const dev = await page.createCDPSession();
		await dev.send('Network.enable');
		dev.on('Network.loadingFinished', (e) => (bytes += e.encodedDataLength));
		await page.goto(`${server.url}/api-docs`, { waitUntil: 'load' });
		await page.goto('about:blank');
		bytes = 0;
		const start = performance.now();
		await page.goto(`${server.url}/${project}/examine`, { waitUntil: 'domcontentloaded' });
		await page
			.waitForFunction(() => Number((document.querySelector('[data-tubes]') as HTMLElement | null)?.dataset['tubes']) > 0, {
				timeout: 60_000,
				polling: 50
			})
			.catch(async (error) => {
				console.error(await page.evaluate(() => document.body.innerText));
				throw error;
			});
		await page.evaluate(FINISH);
		const first = (performance.now() - start) / 1000;
		const scene = await page.$eval('[data-tubes]', (e) => ({ ...(e as HTMLElement).dataset }));
		const counted = bytes;
		await dev.send('HeapProfiler.enable');
		await dev.send('HeapProfiler.collectGarbage');
		const {
			usedSize,
			embedderHeapUsedSize = 0,
			backingStorageSize = 0
		} = (await dev.send('Runtime.getHeapUsage')) as { usedSize: number; embedderHeapUsedSize?: number; backingStorageSize?: number };
		console.log(`\n${HOLES} holes × ${ROWS_EACH} intervals, tubes coloured by one assay and sized by another, software renderer`);
		console.log(`first picture   ${first.toFixed(2)} s after opening; ${scene['calls']} draw calls, ${scene['tubes']} segments`);
		console.log(`memory of page  ${((usedSize + embedderHeapUsedSize + backingStorageSize) / 1e6).toFixed(0)} MB (heap and arrays)`);
		console.log(`bytes sent      ${(counted / 1e6).toFixed(2)} MB with the application; the raw CSV has ${(raw / 1e6).toFixed(2)} MB`);
		bytes = 0;
		await (await page.waitForSelector('[aria-label="Style of Assays"]'))!.click();
		await page.waitForSelector('[aria-label="Lower limit of Cu_ppm"]');
		bytes = 0;
		const filter = await page.evaluate(async (finish) => {
			const version = () => (document.querySelector('[data-tubes]') as HTMLElement).dataset['version'];
			const before = version();
			const t = performance.now();
			document
				.querySelector('[aria-label="Lower limit of Cu_ppm"]')!
				.dispatchEvent(new KeyboardEvent('keydown', { key: 'PageUp', bubbles: true }));
			while (version() === before && performance.now() - t < 20_000) await new Promise((r) => requestAnimationFrame(r));
			(0, eval)(finish);
			return performance.now() - t;
		}, FINISH);
		await new Promise((r) => setTimeout(r, 300));
		console.log(`filter change   ${filter.toFixed(0)} ms to the next picture; ${bytes} bytes sent for it besides the kept state`);

		const times: number[] = [];
		for (const offset of [900_000, 450_000, 999_600, 12_345]) {
			const t = performance.now();
			await api.call('GET', `/projects/${project}/tables/${table}/rows?offset=${offset}&limit=200`);
			times.push(performance.now() - t);
		}
		const sorted: number[] = [];
		for (const offset of [900_000, 450_000]) {
			const t = performance.now();
			await api.call('GET', `/projects/${project}/tables/${table}/rows?offset=${offset}&limit=200&sort=Cu_ppm&descending=true`);
			sorted.push(performance.now() - t);
		}
		const db = new pg.Client({ connectionString: server.databaseUrl });
		await db.connect();
		await db.query(
			'create temp table plain as select n, (n / 200)::text as hole, n % 200 as depth, random() as cu from generate_series(0, 999999) n'
		);
		const peer = async (sql: string) => {
			const t = performance.now();
			await db.query(sql);
			return performance.now() - t;
		};
		const [plain, ordered] = [
			await peer('select * from plain order by n offset 900000 limit 200'),
			await peer('select * from plain order by cu desc offset 900000 limit 200')
		];
		await db.end();
		console.log(
			`table           row 900 000 in ${times[0]!.toFixed(0)} ms, others ${times
				.slice(1)
				.map((t) => t.toFixed(0))
				.join(', ')} ms (PostgreSQL offset/limit on a plain table ${plain.toFixed(0)} ms)`
		);
		console.log(
			`table, sorted   first ${sorted[0]!.toFixed(0)} ms, then ${sorted[1]!.toFixed(0)} ms (PostgreSQL ${ordered.toFixed(0)} ms each time)`
		);

		await api.call('PUT', `/projects/${project}/workbench`, {
			state: {
				...w.state,
				along: table,
				styles: { [table]: style },
				panes: {
					examine: [
						{
							view: 'log',
							settings: {
								log: {
									holes: Array.from({ length: 10 }, (_, i) => `H${i}`),
									tracks: [
										{ kind: 'axis', series: [] },
										{ kind: 'classes', series: ['Rock'] },
										{ kind: 'bars', series: ['Cu_ppm'] },
										{ kind: 'bars', series: ['Au_ppb'] },
										{ kind: 'curves', series: ['Cu_ppm', 'Au_ppb'] },
										{ kind: 'points', series: ['Cu_ppm'] },
										{ kind: 'points', series: ['Au_ppb'] },
										{ kind: 'text', series: ['Rock'] }
									].map((t) => ({
										kind: t.kind,
										width: 15,
										series: t.series.map((column) => ({ table, column, color: '#B4622D' })),
										log: false,
										range: [null, null],
										fill: 'none'
									})),
									axis: 'depth',
									align: null,
									zoom: 1,
									scale: 200
								}
							}
						}
					]
				}
			}
		});
		await page.goto(`${server.url}/${project}/examine`, { waitUntil: 'load' });
		await page.waitForFunction(() => document.querySelectorAll('svg[aria-label^="Log of"]').length === 10, { timeout: 60_000 });
		await new Promise((r) => setTimeout(r, 1500));
		const log = await page.evaluate(async () => {
			const t = performance.now();
			const pane = document.querySelector('[aria-label^="Log. Plus"]') as HTMLElement;
			const before = document.querySelector('svg[aria-label="Log of H9"]')!.getAttribute('height');
			pane.dispatchEvent(new KeyboardEvent('keydown', { key: '+', bubbles: true }));
			while (document.querySelector('svg[aria-label="Log of H9"]')!.getAttribute('height') === before)
				await new Promise((r) => requestAnimationFrame(r));
			await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)));
			return performance.now() - t;
		});
		console.log(`log             10 holes with 8 tracks each drawn anew in ${log.toFixed(0)} ms`);
	} finally {
		await browser.close();
		await server.stop();
	}
}
