import { launchBrowser } from '../e2e/browser-launch';
import { demoArchive } from '../e2e/demo-archive';
import { client, startServer } from '../e2e/server';

const STAGES = ['gather', 'check', 'interpret', 'build', 'examine', 'present'];
/** A line of 10 Mbit/s with 40 ms to the server. */
const LINE = { offline: false, latency: 40, downloadThroughput: 10e6 / 8, uploadThroughput: 10e6 / 8 };

/** Each stage of the demo over a slow line with nothing in the cache: when it can be used, when all has come and is drawn, how much came, how long the page could not answer. */
export async function benchLoading(): Promise<void> {
	const server = await startServer();
	const browser = await launchBrowser();
	try {
		const api = client(server);
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', await demoArchive(40));
		for (const job of body.jobs) await api.finished(body.project, job);
		await api.finished(body.project, (await api.call<{ job: string }>('POST', `/projects/${body.project}/build`)).body.job);
		console.log('\nStages of the demo at 10 Mbit/s, 40 ms, empty cache');
		for (const stage of STAGES) {
			const page = await browser.newPage();
			const session = await page.createCDPSession();
			await session.send('Network.enable');
			await session.send('Network.setCacheDisabled', { cacheDisabled: true });
			await session.send('Network.emulateNetworkConditions', LINE);
			let [bytes, requests] = [0, 0];
			session.on('Network.loadingFinished', (e) => {
				bytes += e.encodedDataLength;
				requests++;
			});
			await page.evaluateOnNewDocument(() => {
				const held = { blocked: 0 };
				new PerformanceObserver((l) => l.getEntries().forEach((e) => (held.blocked += Math.max(0, e.duration - 50)))).observe({
					type: 'longtask',
					buffered: true
				});
				Object.assign(window, { held });
			});
			const start = performance.now();
			await page.goto(`${server.url}/${body.project}/${stage}`, { waitUntil: 'domcontentloaded' });
			await page.waitForFunction(() => document.querySelectorAll('main *').length > 20, { timeout: 120_000, polling: 50 });
			const usable = performance.now() - start;
			// All is there when nothing came for three seconds.
			for (let [last, quiet] = [-1, 0]; quiet < 12; quiet = requests === last ? quiet + 1 : 0) {
				last = requests;
				await new Promise((r) => setTimeout(r, 250));
			}
			const whole = performance.now() - start - 3000;
			const blocked = await page.evaluate(() => (window as unknown as { held: { blocked: number } }).held.blocked);
			console.log(
				`  ${stage.padEnd(10)} usable ${(usable / 1000).toFixed(1)} s, whole ${(whole / 1000).toFixed(1)} s, ${(bytes / 1e6).toFixed(2)} MB in ${requests} requests, blocked ${(blocked / 1000).toFixed(1)} s`
			);
			await page.close();
		}
	} finally {
		await browser.close();
		await server.stop();
	}
}
