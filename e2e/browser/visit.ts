import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, ElementHandle, KeyInput, Page } from 'puppeteer-core';
import { demoServer } from '../demo-server';
import { launchBrowser, PATIENCE } from '../browser-launch';
import { client, startServer } from '../server';

/**
 * A server of its own with the demo ground in it, and a page to look at it.
 * @param options.spacing of the model; without it no project is loaded
 * @param options.build whether the model is built, too
 */
export async function visit(options: { spacing?: number; build?: boolean; environment?: Record<string, string> }) {
	const { server, api, project } = options.spacing
		? await demoServer({ spacing: options.spacing, build: options.build ?? false }, options.environment)
		: await emptyServer(options.environment);
	const browser = await launchBrowser();
	const page = await pageOf(browser);
	const errors: string[] = [];
	page.on('pageerror', (e) => errors.push(String(e)));
	return { server, api, browser, page, project, errors };
}

async function emptyServer(environment: Record<string, string> = {}) {
	const server = await startServer(environment);
	return { server, api: client(server), project: '' };
}

/** A page that keeps count of its calls, and is patient. */
export async function pageOf(browser: Browser): Promise<Page> {
	const page = await browser.newPage();
	page.setDefaultTimeout(PATIENCE);
	// With every frame, as is done where nothing is said, a page that waits has no time for anything else, nor has the server beside it.
	const wait = page.waitForFunction.bind(page) as (what: unknown, options: object, ...values: unknown[]) => Promise<never>;
	page.waitForFunction = (what: unknown, options: object = {}, ...values: unknown[]) =>
		wait(what, { polling: SOONER, ...options }, ...values);
	await page.evaluateOnNewDocument(countCalls);
	return page;
}

/** How long a thing that was found has for standing still and taking a press, ms, before it is looked for again. */
const SOON = 10_000;
/** How long between two looks whether something is so, ms. */
const SOONER = 80;
const sooner = () => new Promise((r) => setTimeout(r, SOONER));
const watchForPress = (thing: Element): boolean => {
	const state = window as unknown as { pressed: boolean };
	state.pressed = false;
	thing.addEventListener('click', () => (state.pressed = true), { once: true, capture: true });
	return true;
};
/** Whether what was watched took a press; a page that was left by it did. */
const wasPressed = (page: Page): Promise<boolean> =>
	page.evaluate(() => (window as unknown as { pressed?: boolean }).pressed !== false).catch(() => true);

/** What a visitor does on a page, waiting for things to be there. */
export const hands = (page: () => Page) => {
	/** What a selector names, once there is any of it. */
	const found = async (selector: string): Promise<ElementHandle<Element>[]> => {
		for (const end = Date.now() + PATIENCE; Date.now() < end;) {
			// A page that is on its way to another has nothing to look in.
			const all = await page()
				.$$(selector)
				.catch((error: unknown) => {
					if (!/context|detached|navigat/i.test(String(error))) throw error;
					return [];
				});
			if (all.length) return all;
			await sooner();
		}
		throw new Error(`${selector} did not come`);
	};
	const one = async (selector: string) => (await found(selector))[0]!;
	/**
	 * Presses what a selector names, until that was what took the press. What is looked for may be drawn anew just then, and what lies
	 * beside it may come late and push it aside: a press that landed beside it is none, and is made again.
	 * @param how.count as a double or triple click
	 * @param how.at which of those that it names, from the last when negative
	 */
	const click = async (selector: string, { count = 1, at = 0 } = {}) => {
		let why: unknown = 'it was drawn anew again and again';
		for (const end = Date.now() + PATIENCE; Date.now() < end;) {
			const thing = (await found(selector)).at(at);
			if (!thing) {
				await sooner();
				continue;
			}
			const isWatched = await thing.evaluate(watchForPress).catch(() => false);
			if (isWatched) {
				await thing
					.asLocator()
					.setTimeout(SOON)
					.click({ count })
					.then(
						() => (why = 'the press landed beside it'),
						(error: unknown) => (why = error)
					);
				if (await wasPressed(page())) return;
			}
			void thing.dispose().catch(() => {});
		}
		throw new Error(`${selector} was not pressed: ${String(why)}`);
	};
	/** Presses a field until it has the keyboard, with all that stands in it chosen: what lies above may move it from under the press. */
	const enter = async (selector: string) => {
		const has = async () => (await one(selector)).evaluate((e) => e === document.activeElement);
		await until(async () => (await click(selector, { count: 3 }), await has()), `${selector} takes the keyboard`);
	};
	return {
		one,
		shows: (text: string) => page().waitForFunction((t) => document.body.innerText.includes(t), { timeout: PATIENCE }, text),
		click,
		press: (name: string, role = 'button') => click(`::-p-aria([name="${name}"][role="${role}"])`),
		/** Chooses in a list once it has the choice. */
		choose: async (selector: string, value: string) => {
			await until(async () => {
				const list = (await one(selector)) as ElementHandle<HTMLSelectElement>;
				return (await list.select(value)).includes(value);
			}, `${selector} has ${value}`);
		},
		enter,
		/** Presses a place within a picture until what it leads to is said: what stands above, or comes in it late, may move it from under the press. */
		pressIn: async (selector: string, [dx, dy]: readonly [number, number], text: string) => {
			await until(async () => {
				const box = (await (await one(selector)).boundingBox())!;
				await page().mouse.click(box.x + dx, box.y + dy);
				const isSaid = page().waitForFunction((t) => document.body.innerText.includes(t), { timeout: SOON }, text);
				return isSaid.then(
					() => true,
					() => false
				);
			}, `${text}, after a press in ${selector}`);
		},
		/** Strikes a key, on what has the keyboard, until what it leads to is said: what it acts on may be on its way still. */
		strike: async (key: KeyInput, selector: string, said: RegExp) => {
			await until(
				async () => {
					await page().keyboard.press(key);
					const isSaid = page().waitForFunction(
						(own, text) => new RegExp(text).test(document.querySelector(own)?.textContent ?? ''),
						{ timeout: SOON },
						selector,
						said.source
					);
					return isSaid.then(
						() => true,
						() => false
					);
				},
				`${String(said)} in ${selector}, after ${key}`
			);
		},
		/** Writes a value into a field of a name. */
		write: async (name: string, value: string) => {
			await enter(`::-p-aria([name="${name}"])`);
			await page().keyboard.type(value);
			await page().keyboard.press('Tab');
		}
	};
};

/** Keeps count, within a page, of its calls of the server: the browser's own count may lose some when a page is left. */
function countCalls(): void {
	const calls = { open: 0, last: performance.now() };
	const plain = window.fetch;
	window.fetch = async (...call) => {
		calls.open++;
		try {
			return await plain(...call);
		} finally {
			calls.open--;
			calls.last = performance.now();
		}
	};
	Object.assign(window, { calls });
}

/** Goes to an address of the application as a link in it does: the page stays, and nothing of it is loaded anew. */
export async function follow(page: Page, address: string): Promise<void> {
	await page.evaluate((to) => {
		const link = Object.assign(document.createElement('a'), { href: to });
		document.body.append(link);
		link.click();
		link.remove();
	}, address);
	await page.waitForFunction((path) => location.pathname === path, { timeout: PATIENCE }, new URL(address).pathname);
	await settled(page);
}

/** Waits until a page has read again what changed: nothing was called for a while. The line for events is no call. */
export const settled = async (page: Page): Promise<void> => {
	await page.waitForFunction(
		() => {
			const { calls } = window as unknown as { calls: { open: number; last: number } };
			return calls.open === 0 && performance.now() - calls.last > 300;
		},
		{ timeout: PATIENCE, polling: 100 }
	);
};

/** Waits until something is so; what can not be asked yet is not so yet. @param words what it is, for when it never is */
export async function until(what: () => Promise<boolean>, words = 'it'): Promise<void> {
	let why = '';
	for (const end = Date.now() + PATIENCE; Date.now() < end;) {
		try {
			if (await what()) return;
			why = '';
		} catch (error) {
			why = ` (${String(error)})`;
		}
		await new Promise((r) => setTimeout(r, 150));
	}
	throw new Error(`it did not come about: ${words}${why}`);
}

/**
 * The text of the file that a page has the browser save when something is done. The browser says when a file is whole: one that has
 * its name already may still be empty.
 */
export async function saved(page: Page, act: () => Promise<void>): Promise<string> {
	const folder = mkdtempSync(join(tmpdir(), 'malachite-save-'));
	const line = await page.createCDPSession();
	try {
		let whole = '';
		line.on('Browser.downloadProgress', (e) => (whole = e.state === 'completed' ? e.guid : whole));
		await line.send('Browser.setDownloadBehavior', { behavior: 'allowAndName', downloadPath: folder, eventsEnabled: true });
		await act();
		await until(async () => whole !== '', 'a file is saved');
		return readFileSync(join(folder, whole), 'utf8');
	} finally {
		await line.detach();
		rmSync(folder, { recursive: true });
	}
}
