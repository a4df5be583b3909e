import puppeteer, { type Browser } from 'puppeteer-core';

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
		protocolTimeout: 180_000
	});
