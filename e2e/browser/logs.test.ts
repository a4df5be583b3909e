import type { Browser, Page } from 'puppeteer-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Api, TestServer } from '../server';
import { hands, settled, until, visit } from './visit';

// Reading the logs on the screen: a version is made, intervals are picked in pictures and by rules, relogged and taken back.
let server: TestServer;
let browser: Browser;
let page: Page;
let api: Api;
let project: string;
let errors: string[];
const { one, shows, press, choose, click, enter } = hands(() => page);
const go = async (path: string) => {
	await page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
	await settled(page);
};
interface Thing {
	id: string;
	name: string;
	kind: string;
	state: Record<string, unknown>;
}
const objects = async () => (await api.call<{ objects: Thing[] }>('GET', `/projects/${project}`)).body.objects;
const version = async () => (await objects()).find((o) => o.state['versionOf'])!;
const changes = async () =>
	(
		await api.call<{ total: number; changes: { n: number; hole: string; what: string; code: string; from: string; to: string }[] }>(
			'GET',
			`/projects/${project}/logs/${(await version()).id}/changes`
		)
	).body;
const selected = async () =>
	/(\d+) intervals? in (\d+) hole/.exec(await page.evaluate(() => document.body.innerText.replace(/\u2009/g, '')));
const undo = () => api.call('POST', `/projects/${project}/undo`, { others: true });

beforeAll(async () => {
	({ server, browser, page, api, project, errors } = await visit({ spacing: 200 }));
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

it('a version of the log is begun, and shown by all', async () => {
	await go('interpret?tab=logs&panes=log');
	await shows('What was logged stays as it is');
	await press('New version');
	await shows('Make Model from it'.replace('Model', (await objects()).find((o) => o.kind === 'model')!.name));
	const { id } = await version();
	await until(
		() => page.$eval('select[aria-label="Draw holes with"]', (e, v) => (e as HTMLSelectElement).value === v, id),
		'holes are drawn with it'
	);
	await shows('unit, relogged');
	// On with a hole that has several intervals.
	const { rows } = (await api.call<{ rows: { cells: string[] }[] }>('GET', `/projects/${project}/tables/${id}/rows?limit=1000`)).body;
	const count = new Map<string, number>();
	for (const r of rows) count.set(r.cells[0]!, (count.get(r.cells[0]!) ?? 0) + 1);
	const [hole] = [...count].sort((a, b) => b[1] - a[1])[0]!;
	await (await one('input[aria-label="Add a hole to the log"]')).type(hole);
	await page.keyboard.press('Enter');
	await one(`svg[aria-label="Log of ${hole}"]`);
});

it('intervals are swept over in the log, given a unit with a note, and taken back one by one', async () => {
	const log = await one('svg[aria-label^="Log of"]');
	const box = (await log.boundingBox())!;
	const x = box.x + 60;
	await page.mouse.move(x, box.y + 3);
	await page.mouse.down();
	await page.mouse.move(x, box.y + box.height * 0.5, { steps: 4 });
	await page.mouse.move(x, box.y + box.height - 3, { steps: 4 });
	await page.mouse.up();
	await until(async () => Number((await selected())?.[1]) > 1, 'several are picked');
	const picked = Number((await selected())![1]);
	await choose('select[aria-label="Unit or code that they get"]', 'slate');
	await (await one('input[aria-label="Note"]')).type('one rock, as in the core');
	await press('What would change?');
	await shows('→ slate');
	await press('Relog');
	await until(async () => (await changes()).total > 0, 'they are relogged');
	await settled(page);
	const { total, changes: list } = await changes();
	expect(total).toBeLessThanOrEqual(picked);
	expect(list.every((c) => c.code === 'slate')).toBe(true);
	await shows('Take all back');
	const first = list[0]!;
	await click(`button[aria-label="Take back ${first.hole} ${first.from} to ${first.to}"]`);
	await until(async () => (await changes()).total === total - 1, 'one is as it was');
	await settled(page);
	await press('Take all back');
	await until(async () => (await changes()).total === 0, 'all are');
});

it('a boundary of the version is dragged in the log, in both intervals at once', async () => {
	await settled(page);
	const log = await one('svg[aria-label^="Log of"]');
	const box = (await log.boundingBox())!;
	const rows = (
		await api.call<{ rows: { cells: string[] }[]; table: { header: string[] } }>(
			'GET',
			`/projects/${project}/tables/${(await version()).id}/rows?limit=50&hole=${encodeURIComponent(
				await log.evaluate((e) => e.getAttribute('aria-label')!.slice('Log of '.length))
			)}`
		)
	).body.rows;
	const end = Number(rows.at(-1)!.cells[2]);
	const boundary = Number(rows[0]!.cells[2]);
	const y = box.y + 3.6 + ((box.height - 7.2) * boundary) / end;
	const x = box.x + 60;
	await page.mouse.move(x, y);
	await until(() => log.evaluate((e) => (e as HTMLElement).style.cursor === 'ns-resize'), 'it can be taken hold of');
	await page.mouse.down();
	await page.mouse.move(x, y + 12, { steps: 4 });
	await page.mouse.up();
	await until(async () => (await changes()).total === 2, 'the interval above and the one below');
	const [above, below] = (await changes()).changes;
	expect(above!.to).toBe(below!.from);
	expect(Number(above!.to)).toBeGreaterThan(boundary);
	await undo();
	await until(async () => (await changes()).total === 0, 'it is back');
});

it('a rule picks; one that picks nothing says so, one that can not be read is refused', async () => {
	await settled(page);
	await choose('select[aria-label="Rule"]', 'filter');
	const rule = async (text: string) => {
		await enter('input[aria-label="Expression over the columns"]');
		await page.keyboard.type(text);
	};
	await rule("contains(Lithology, 's')");
	await press('Pick');
	await until(async () => Number((await selected())?.[1]) > 5, 'many are picked');
	await rule("Lithology = 'nobody wrote this'");
	await press('Pick');
	await shows('The rule picks no interval');
	await rule('Lithology = (');
	await press('Pick');
	await one('[role=alert], [role=status]');
	expect(errors).toEqual([]);
});

it('a box with Shift picks across holes on a section', async () => {
	await go('interpret?tab=logs&panes=section');
	const pane = await one('[role=application][aria-label^="Section"]');
	await until(async () => (await page.$$('[aria-label^="Section"] svg path[stroke]')).length > 5, 'holes are drawn');
	const box = (await pane.boundingBox())!;
	await page.keyboard.down('Shift');
	await page.mouse.move(box.x + 90, box.y + 90);
	await page.mouse.down();
	await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 3 });
	await page.mouse.move(box.x + box.width - 60, box.y + box.height - 60, { steps: 3 });
	await page.mouse.up();
	await page.keyboard.up('Shift');
	await until(async () => Number((await selected())?.[2]) > 1, 'intervals of several holes are picked');
});

it('an outline in space picks what is seen within it, by a drag and by keys; a rule picks within a body', async () => {
	await go('interpret?tab=logs&panes=space');
	await one('[role=application][aria-label^="Space"] canvas');
	await until(() => page.$eval('[data-tubes]', (e) => Number((e as HTMLElement).dataset['tubes']) > 0), 'intervals are drawn');
	// Drawn again where the pane was drawn anew meanwhile, and the outline with it.
	await until(async () => {
		if (!(await page.$('svg[aria-label^="Outline"]'))) await press('Outline');
		const box = (await (await one('svg[aria-label^="Outline"]')).boundingBox())!;
		const at = (x: number, y: number) => [box.x + box.width * x, box.y + box.height * y] as const;
		await page.mouse.move(...at(0.02, 0.12));
		await page.mouse.down();
		for (const [x, y] of [
			[0.98, 0.12],
			[0.98, 0.9],
			[0.02, 0.9]
		] as const)
			await page.mouse.move(...at(x, y), { steps: 4 });
		await page.mouse.up();
		await settled(page);
		return Number((await selected())?.[2]) > 1;
	}, 'intervals of several holes are picked');
	const sheet = await one('svg[aria-label^="Outline"]');
	const all = Number((await selected())![1]);
	// By keys: a small triangle about the middle holds fewer.
	await sheet.evaluate((e) => (e as SVGElement).focus());
	for (const key of ['Enter', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'Enter', 'ArrowDown', 'ArrowDown', 'ArrowDown', 'Enter'])
		await page.keyboard.press(key as 'Enter');
	expect(await page.$eval('svg[aria-label^="Outline"] polygon', (e) => e.getAttribute('points')!.split(' ').length)).toBe(3);
	await page.keyboard.press('Backspace');
	expect(await page.$eval('svg[aria-label^="Outline"] polygon', (e) => e.getAttribute('points')!.split(' ').length)).toBe(2);
	await page.keyboard.press('Escape');
	expect(await page.$('svg[aria-label^="Outline"]')).toBeNull();
	expect(Number((await selected())![1])).toBe(all);
	const model = (await objects()).find((o) => o.kind === 'model')!;
	await choose('select[aria-label="Rule"]', 'within');
	await choose('select[aria-label="Body"]', model.id);
	const units = await page.$$eval('select[aria-label="Unit of the model"] option', (all) => all.map((o) => (o as HTMLOptionElement).value));
	await choose('select[aria-label="Unit of the model"]', units[1]!);
	await press('Pick');
	await shows('Model was not built yet. Build it first.');
	const { body } = await api.call<{ job: string }>('POST', `/projects/${project}/build`);
	await api.finished(project, body.job);
	await press('Pick');
	await until(async () => {
		const n = Number((await selected())?.[1]);
		return n > 0 && n < all;
	}, 'those of one unit are picked');
	expect(errors).toEqual([]);
});

it('picked codes glow in all panes, become a unit as one change, and go to units by their number', async () => {
	await go('interpret?panes=section');
	await click('table.plain tbody input[type=checkbox]');
	await click('table.plain tbody input[type=checkbox]', { at: 1 });
	await shows('2 picked');
	await until(
		() =>
			page.evaluate(
				() => (new URL(location.href).searchParams.get('select') ?? '').startsWith('rows') || document.body.innerText.includes('Rows')
			),
		'their rows are selected'
	);
	const units = async () =>
		(await api.call<{ column: { units: { name: string }[] } }>('GET', `/projects/${project}/interpretation`)).body.column.units;
	const before = (await units()).length;
	await (await one('input[aria-label="Name of a new unit of the picked codes"]')).type('Cover of all kinds');
	await press('Make');
	await until(async () => (await units()).some((u) => u.name === 'Cover of all kinds'), 'the unit is there');
	await undo();
	await until(async () => (await units()).length === before, 'one step takes it back');
	await settled(page);
	await click('table.plain tbody input[type=checkbox]');
	await shows('1 picked');
	const label = () => api.call<{ changes: { undo: { label: string } } }>('GET', `/projects/${project}`);
	await page.keyboard.press('2');
	await until(async () => (await label()).body.changes.undo.label === 'Give codes to units', 'the second unit has it');
	await undo();
	expect(errors).toEqual([]);
});

it('a code is taken for another wherever it stands, and for itself again', async () => {
	await go('interpret?tab=logs&panes=map');
	const log = (await version()).id;
	await choose('select[aria-label="Draw holes with"]', log);
	const codes = async () =>
		(await api.call<{ codes: { code: string }[] }>('GET', `/projects/${project}/logs/${log}/codes`)).body.codes.map((c) => c.code);
	await click('::-p-text(Codes taken for others)');
	// Nothing chosen: it is said what is missing, and nothing is sent.
	await press('Take');
	await shows('Choose the code that is taken for another');
	const [code] = (await codes()).slice(-1);
	await choose('select[aria-label="Code that is taken for another"]', code!);
	await (await one('input[aria-label="Code that it is taken for"]')).type('Chert');
	await page.keyboard.press('Enter');
	await shows(`${code} → Chert`);
	await until(async () => (await codes()).includes('Chert') && !(await codes()).includes(code!), 'it is taken for another');
	await press(`Take ${code} for itself again`);
	await until(async () => (await codes()).includes(code!) && !(await codes()).includes('Chert'), 'it is itself');
});

it('codes are dragged onto a unit, which opens to show them, and lets one go', async () => {
	await go('interpret?panes=map');
	const lumped = async () =>
		(await api.call<{ lumping: { codes: Record<string, string> } }>('GET', `/projects/${project}/interpretation`)).body.lumping.codes;
	await one('tr[draggable=true]');
	const code = await page.$eval('tr[draggable=true] td:nth-child(2)', (e) => e.textContent!.trim());
	const before = (await lumped())[code];
	// The mouse of a page without a window drags nothing: the events are those that a drag has.
	await page.evaluate(async () => {
		const transfer = new DataTransfer();
		const event = (kind: string) => new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: transfer });
		const row = document.querySelector('tr[draggable=true]')!;
		row.dispatchEvent(event('dragstart'));
		await new Promise((r) => setTimeout(r, 100));
		const unit = [...document.querySelectorAll('[aria-label="Units and their codes"] > li')].find((l) =>
			l.textContent!.includes('Hask Tuff')
		)!;
		unit.dispatchEvent(event('dragover'));
		unit.dispatchEvent(event('drop'));
		row.dispatchEvent(event('dragend'));
	});
	await until(async () => (await lumped())[code] !== before, 'the code is in another unit');
	const to = (await lumped())[code]!;
	expect(to).toMatch(/tuff/);
	await page.evaluate(
		() => ((document.querySelector('details:has([aria-label="Units and their codes"])') as HTMLDetailsElement).open = true)
	);
	await click('::-p-xpath(//ul[@aria-label="Units and their codes"]/li/button[contains(., "Hask Tuff")])');
	await press(`Take ${code} out of Hask Tuff`);
	await until(async () => (await lumped())[code] === '', 'it is out of it');
	for (let i = 0; i < 2; i++) await api.call('POST', `/projects/${project}/undo`, { others: true });
	expect((await lumped())[code]).toBe(before);
});

it('what the holes say of the column stands beside it', async () => {
	await go('interpret?tab=column&panes=map');
	await shows('What the holes say');
});
