import puppeteer, { type Browser } from 'puppeteer-core';

/** How long a page may take to show something, ms: far longer than it should, for a machine that is busy with other things. */
export const PATIENCE = Number(process.env['MALACHITE_PATIENCE'] ?? 240_000);

/** Debian's Chromium, headless, with WebGL drawn by software. */
export const launchBrowser = (): Promise<Browser> =>
	puppeteer.launch({
		executablePath: process.env['MALACHITE_CHROMIUM'] ?? '/usr/bin/chromium',
		headless: true,
		args: [
			'--no-sandbox',
			'--use-angle=swiftshader',
			'--enable-unsafe-swiftshader',
			'--ignore-gpu-blocklist',
			'--disable-gpu-compositing',
			'--disable-gpu-rasterization',
			'--disable-quic',
			'--no-first-run',
			'--disable-background-networking',
			'--disable-component-update',
			'--disable-sync',
			'--disable-dev-shm-usage',
			'--hide-scrollbars'
		],
		defaultViewport: { width: 1280, height: 800 },
		// What waits for a page says what it waited for, before the browser says that it did not answer.
		protocolTimeout: PATIENCE + 60_000
	});
