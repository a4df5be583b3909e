import { launchBrowser } from '../e2e/browser-launch';
import { client, startServer } from '../e2e/server';
import { HOLES, manyHoles, ROWS_EACH } from './many-holes';
import { FINISH } from './workbench';

const WORK = (dir: string) => `(() => { const t = document.querySelector('[data-tubes]'); return t && t.dataset['${dir}']; })()`;

/** Relogging in a log of a million intervals: what is picked, what is sent, and how long until space shows it. */
export async function benchRelogging(): Promise<void> {
	const server = await startServer();
	const browser = await launchBrowser();
	try {
		const api = client(server);
		const { project, table } = await manyHoles(api);
		const at = (rest: string) => `/projects/${project}${rest}`;
		const started = performance.now();
		const log = (await api.call<{ id: string }>('POST', at('/logs'), { of: table, column: 'Rock' })).body.id;
		console.log(`\n${HOLES} holes × ${ROWS_EACH} intervals, a version of the log; software renderer`);
		console.log(`new version     ${((performance.now() - started) / 1000).toFixed(2)} s`);
		const { body: w } = await api.call<{ state: Record<string, unknown> }>('GET', at('/workbench'));
		await api.call('PUT', at('/workbench'), { state: { ...w.state, along: log, panes: { examine: [{ view: 'space', settings: {} }] } } });
		const page = await browser.newPage();
		// The policy of the page runs no text that comes from outside, not that of a measurement either.
		await page.setBypassCSP(true);
		page.on('pageerror', (e) => console.error(e));
		await page.goto(`${server.url}/${project}/examine`, { waitUntil: 'domcontentloaded' });
		await page.waitForFunction(`Number(${WORK('tubes')}) > 0`, { timeout: 120_000, polling: 100 });
		await page.evaluate(FINISH);
		let bytes = 0;
		const dev = await page.createCDPSession();
		await dev.send('Network.enable');
		dev.on('Network.loadingFinished', (e) => (bytes += e.encodedDataLength));
		const rule = async (r: object) => {
			const t = performance.now();
			const { body } = await api.call<{ rows: number[] }>('POST', at(`/logs/${log}/pick`), { rule: r, among: null });
			return { ms: performance.now() - t, rows: body.rows };
		};
		await rule({ by: 'depth', from: 100, to: 102 });
		const picked = await rule({ by: 'depth', from: 10, to: 12 });
		const all = await rule({ by: 'codes', codes: ['SST'] });
		console.log(`picked by rule  ${picked.rows.length} rows in ${picked.ms.toFixed(0)} ms, ${all.rows.length} in ${all.ms.toFixed(0)} ms`);
		for (const [name, rows, code] of [
			['one interval', picked.rows.slice(0, 1), 'LST'],
			['a sweep', picked.rows.slice(0, 2000), 'GRA'],
			['another', picked.rows.slice(2000, 4000), 'CGL']
		] as const) {
			const { body: p } = await api.call<{ objects: { id: string; revision: number }[] }>('GET', at(''));
			const { revision } = p.objects.find((o) => o.id === log)!;
			bytes = 0;
			const took = await page.evaluate(
				async (url, body, state, finish) => {
					const before = (0, eval)(state);
					const t = performance.now();
					const answer = await fetch(url, {
						method: 'POST',
						headers: { 'content-type': 'application/json', 'x-malachite-session': localStorage.getItem('malachite.session')! },
						body
					});
					const answered = performance.now() - t;
					if (!answer.ok) throw new Error(await answer.text());
					while ((0, eval)(state) === before && performance.now() - t < 60_000) await new Promise((r) => requestAnimationFrame(r));
					(0, eval)(finish);
					return { answered, shown: performance.now() - t };
				},
				`/api/v1${at(`/logs/${log}/relog`)}`,
				JSON.stringify({ act: { do: 'give', rows, code }, revision }),
				WORK('version'),
				FINISH
			);
			await new Promise((r) => setTimeout(r, 1500));
			console.log(
				`${name.padEnd(15)} ${rows.length} rows: answered in ${took.answered.toFixed(0)} ms, drawn after ${took.shown.toFixed(0)} ms, ${(bytes / 1000).toFixed(1)} kB sent`
			);
		}
	} finally {
		await browser.close();
		await server.stop();
	}
}
