import type { Browser, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Api, TestServer } from '../server';
import { hands, settled, until, visit } from './visit';

// Several models, results that people make, panes with several models, and the lineage: through the screens.
let server: TestServer;
let browser: Browser;
let page: Page;
let project: string;
let api: Api;
let errors: string[];
/** What was asked before something was done; it is always answered with yes. */
const asked: string[] = [];
const { one, shows, press, choose, write, click, enter } = hands(() => page);
const open = (path: string) => page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
const at = (path: string) => `/projects/${project}${path}`;
interface Result {
	id: string;
	name: string;
	state: string;
	auto: boolean;
	parameters: Record<string, unknown>;
}
const results = async () => (await api.call<{ results: Result[] }>('GET', at('/results'))).body.results;
const models = async () =>
	(await api.call<{ models: { id: string; name: string; state: string; spacing: number }[] }>('GET', at('/models'))).body.models;

beforeAll(async () => {
	({ server, browser, page, project, api, errors } = await visit({ spacing: 150, build: true }));
	await page.setViewport({ width: 1280, height: 800 });
	page.on('dialog', (d) => (asked.push(d.message()), void d.accept()));
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

describe('a result', () => {
	it('is made beside the picture, of a unit, with first values, and is drawn when it is built', async () => {
		await open('examine?panes=map');
		await click('[title="Fennick Sandstone: press for details"]');
		await click('aside ::-p-text(Depth…)');
		await one('form[aria-label="Make a result"]');
		await until(
			async () => (await page.$eval('form input[placeholder]', (e) => (e as HTMLInputElement).value)) === 'Depth to Fennick Sandstone',
			'a name'
		);
		await write('Cell, m', '120');
		await press('Make and build');
		await until(async () => (await results())[0]?.state === 'up to date', 'the result');
		expect((await results())[0]).toMatchObject({
			name: 'Depth to Fennick Sandstone',
			parameters: { unit: 'fennick', side: 'top', cell: 120 }
		});
		// It is selected: its state and what is said of it stand in the details, its row in the legend.
		await shows('up to date');
		await one('[aria-label="Name of the result"]');
		await one('[aria-label="Hide Depth to Fennick Sandstone"]');
		await shows('known');
	});

	it('is changed in place: what is refused is said and nothing is lost; what is taken is out of date until it is built', async () => {
		await write('Cell, m', '-5');
		await shows('cell must be more than 0');
		expect((await results())[0]!.parameters['cell']).toBe(120);
		await write('Cell, m', '140');
		await until(async () => (await results())[0]!.parameters['cell'] === 140, 'the cell');
		await page.waitForFunction(() =>
			[...document.querySelectorAll('aside button')].some((b) => b.textContent!.trim() === 'Build' && !(b as HTMLButtonElement).disabled)
		);
		await press('Build');
		await until(async () => (await results())[0]!.state === 'up to date', 'the result');
		await press('build it by itself when it is out of date', 'checkbox');
		await until(async () => (await results())[0]!.auto, 'the box');
		await settled(page);
		await write('Name of the result', 'How deep');
		await until(async () => (await results())[0]!.name === 'How deep', 'the name');
		await settled(page);
		await press('Duplicate');
		await until(async () => (await results()).length === 2, 'the copy');
		await shows('How deep (copy)');
		await press('Take out');
		await until(async () => (await results()).length === 1, 'that it is gone');
		await settled(page);
		await press('Undo');
		await until(async () => (await results()).length === 2, 'that it is back');
		await press('Undo');
		await until(async () => (await results()).length === 1, 'that the copy is taken back');
	});

	it('is started from Ctrl K, names what it lacks, and Escape leaves it', async () => {
		await open('examine?panes=map');
		await settled(page);
		await page.keyboard.down('Control');
		await page.keyboard.press('k');
		await page.keyboard.up('Control');
		await (await one('[role=combobox]')).type('Make: Geol');
		await shows('Make: Geology at the surface');
		await page.keyboard.press('Enter');
		await one('form[aria-label="Make a result"]');
		await until(async () => (await page.$eval('form select', (e) => (e as HTMLSelectElement).value)) === 'surface-geology', 'the recipe');
		await page.keyboard.press('Escape');
		await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
		await page.keyboard.press('Escape');
		await page.waitForFunction(() => !document.querySelector('form[aria-label="Make a result"]'));
	});
});

describe('models', () => {
	it('are copied, renamed, worked on one after the other, and taken out; undo brings them back', async () => {
		await open('build');
		await click('[title^="The model that is worked on"]');
		const [first] = await models();
		await press(`Duplicate ${first!.name}`);
		await until(async () => (await models()).length === 2, 'the copy');
		await shows(`${first!.name} (copy)`);
		await settled(page);
		await enter('[aria-label="Name of model 2"]');
		await page.keyboard.type('The other idea');
		await page.keyboard.press('Enter');
		await until(async () => (await models())[1]!.name === 'The other idea', 'the name');
		await page.keyboard.press('Escape');
		await settled(page);
		// Every stage works on it now.
		await write('Spacing, m', '200');
		await until(async () => (await models())[1]!.spacing === 200, 'the spacing');
		expect((await models())[0]!.spacing).toBe(150);
		await settled(page);
		await press('Build model');
		await until(async () => (await models())[1]!.state === 'up to date', 'the model');
		// And after the page is opened again.
		await open('interpret');
		await page.waitForFunction(() => document.querySelector('header')?.textContent?.includes('The other idea'));
	});

	it('stand side by side and one over the other on sections, and in space; the legend lists both', async () => {
		await open('examine?panes=section,space');
		await settled(page);
		await press('View');
		const first = (await models())[0]!;
		await choose('::-p-xpath(//label[starts-with(normalize-space(), "Lines over it")]//select)', first.id);
		await shows(`The other idea, with ${first.name} over it`);
		await one(`ul[aria-label="Units of ${first.name}"] li`);
		await page.waitForFunction(() => document.querySelectorAll('path[stroke="#174D8C"][stroke-dasharray="7 3"]').length > 3);
	});

	it('are crossed: the volumes of all pairs stand beside the picture', async () => {
		const [a, b] = await models();
		await open('examine?panes=space');
		await settled(page);
		await click('button::-p-text(Make…)');
		await choose('form[aria-label="Make a result"] select', 'crossed-models');
		await until(
			async () => (await page.$eval('form input[placeholder]', (e) => (e as HTMLInputElement).value)).startsWith('Crossed models'),
			'a name'
		);
		await write('Spacing, m', '250');
		await press('Make and build');
		await until(async () => (await results()).find((r) => r.name.startsWith('Crossed'))?.state === 'up to date', 'the crossed models');
		await shows('volumes,');
		expect((await results()).find((r) => r.name.startsWith('Crossed'))!.name).toContain(a!.name);
		expect(b!.name).toBe('The other idea');
	});
});

describe('a section', () => {
	it('is what results are made of, from its pane; they are named before it goes', async () => {
		const line = [
			[401000, 4992300],
			[404000, 4992300]
		];
		await api.call('POST', at('/sections'), { sections: [{ name: 'Adit', trace: line }] });
		await open('examine?panes=section,map');
		await press('Sections');
		await click('table ::-p-text(show)');
		await click('button ::-p-text(Make of section Adit…)');
		await one('form[aria-label="Make a result"]');
		await press('Make and build');
		const made = async () => (await results()).find((r) => r.name.startsWith('Lines on sections'));
		await until(async () => (await made())?.state === 'up to date', 'the lines');
		await shows('up to date');
		await shows('areas');
		asked.length = 0;
		await click('[aria-label="Take out section Adit"]');
		await until(async () => asked.length > 0, 'the question');
		expect(asked).toEqual([`${(await made())!.name} is made of it. Take out all the same?`]);
		await until(async () => (await made())?.state !== 'up to date', 'that it misses its section');
		await press('Undo');
		await until(async () => (await made())?.state === 'up to date', 'that it has it again');
	});
});

describe('the lineage', () => {
	const nodes = () => page.$$eval('[aria-label^="Lineage"] a', (list) => list.map((e) => e.querySelector('text')!.textContent!));
	/** Presses a thing of the picture once. */
	const pressNode = (name: string, ctrlKey = false) =>
		page.$$eval(
			'[aria-label^="Lineage"] a',
			(list, n, more) =>
				list
					.find((e) => e.querySelector('text')!.textContent === n)!
					.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true, detail: 1, ctrlKey: more })),
			name,
			ctrlKey
		);
	it('folds models, shows what a change makes out of date, and one side of a thing', async () => {
		await open('examine?panes=lineage');
		await one('[aria-label^="Lineage"] a');
		const [a] = await models();
		const folded = await nodes();
		expect(folded).toEqual(expect.arrayContaining([a!.name, 'The other idea', 'How deep', 'Lithology']));
		expect(folded).not.toContain('Contacts');
		await pressNode('Lithology');
		await shows('A change of Lithology makes');
		await pressNode(a!.name);
		await press('Show its parts');
		await page.waitForFunction(() =>
			[...document.querySelectorAll('[aria-label^="Lineage"] a')].some((e) => e.textContent!.includes('Contacts'))
		);
		await pressNode('How deep');
		await choose('[aria-label="What the lineage shows"]', 'upstream');
		await page.waitForFunction(
			() => ![...document.querySelectorAll('[aria-label^="Lineage"] a')].some((e) => e.textContent!.includes('The other idea'))
		);
		expect(await nodes()).toEqual(expect.arrayContaining(['How deep', a!.name, 'Lithology']));
	});

	it('lets several things be selected, and offers what is made of just these', async () => {
		await open('examine?panes=lineage');
		await one('[aria-label^="Lineage"] a');
		const [a] = await models();
		await pressNode(a!.name);
		await pressNode('The other idea', true);
		await shows('2 things');
		await press('Crossed models…');
		await one('form[aria-label="Make a result"]');
		const roles = await page.$$eval('form[aria-label="Make a result"] select', (list) =>
			list.map((e) => e.selectedOptions[0]?.textContent?.trim())
		);
		expect(roles.slice(1, 3)).toEqual([a!.name, 'The other idea']);
		// Escape leaves what was thought of, wherever the focus is, and not at once what is selected.
		await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
		await page.keyboard.press('Escape');
		await page.waitForFunction(() => !document.querySelector('form[aria-label="Make a result"]'));
		// The address keeps them; one that is pressed again is let go.
		await until(async () => decodeURIComponent(page.url()).includes('objects~'), 'the address');
		await pressNode('The other idea', true);
		await page.waitForFunction(() => !document.body.innerText.includes('2 things'));
		await pressNode('Hole paths', true);
		await shows('Nothing is made of just these');
	});

	it('leaves logs to the log, where a model stands beside what was logged', async () => {
		const [a] = await models();
		await open('examine?panes=log');
		await press('Tracks');
		await press('Track');
		await choose('[aria-label="Tracks"] [role=group]:last-of-type select', 'model');
		await page.waitForFunction(
			(n) => [...document.querySelectorAll('[aria-label="Tracks"] button')].some((e) => e.textContent!.trim().startsWith(n)),
			{},
			a!.name
		);
		await page.waitForFunction(() => [...document.querySelectorAll('svg text')].some((t) => t.textContent === 'Skerra Slate'));
	});

	it('and faults are taken over from another model', async () => {
		const [a, b] = await models();
		const faults = async (id: string) =>
			(
				await api.call<{ faults: { faults: { name: string; youngestCut: string }[]; revision: number } }>(
					'GET',
					at(`/interpretation?model=${id}`)
				)
			).body.faults;
		const own = await faults(b!.id);
		expect((await api.call('PUT', at(`/faults?model=${b!.id}`), { faults: [], revision: own.revision })).status).toBe(200);
		await open('interpret');
		await page.waitForFunction(() => document.querySelector('header')?.textContent?.includes('The other idea'));
		await press('Faults', 'tab');
		await press(`Take Sallow Fault over from ${a!.name}`);
		await until(async () => (await faults(b!.id)).faults.length === 1, 'the fault');
		expect((await faults(b!.id)).faults[0]).toMatchObject({ name: 'Sallow Fault', youngestCut: 'fennick' });
		await page.waitForFunction(() => ![...document.querySelectorAll('button')].some((e) => e.textContent!.includes('over from')));
	});

	it('or are those of another model, as they are there, until they are kept as its own', async () => {
		const [first, other] = await models();
		const faults = async () =>
			(await api.call<{ faults: { faults: { name: string }[]; follows?: string } }>('GET', at(`/interpretation?model=${other!.id}`))).body
				.faults;
		await open('interpret');
		await press('Faults', 'tab');
		const list = '::-p-aria([name="Faults"][role="combobox"])';
		await choose(list, first!.id);
		await shows(`As they are in ${first!.name}`);
		await until(async () => (await faults()).follows === first!.id, 'it follows');
		// What is theirs is not changed from here.
		expect(await page.$('[aria-label="Name of the fault"]')).toBeNull();
		await press('Undo');
		await one('[aria-label="Name of the fault"]');
		await until(async () => (await faults()).follows === undefined, 'its own again');
		await press('Redo');
		await shows(`As they are in ${first!.name}`);
		await press('Keep them as its own');
		await one('[aria-label="Name of the fault"]');
		expect((await faults()).follows).toBeUndefined();
		const theirs = (await api.call<{ faults: { faults: { name: string }[] } }>('GET', at(`/interpretation?model=${first!.id}`))).body
			.faults;
		expect((await faults()).faults.map((f) => f.name)).toEqual(theirs.faults.map((f) => f.name));
	});

	it('and the stages go on with another model when the one at hand is taken out in another window', async () => {
		const [first, other] = await models();
		await open('build');
		await page.waitForFunction(() => document.querySelector('header')?.textContent?.includes('The other idea'));
		await settled(page);
		await api.call('DELETE', at(`/models/${other!.id}`));
		await page.waitForFunction(
			(n) => document.querySelector('[title^="The model that is worked on"]')?.textContent?.trim() === n,
			{},
			first!.name
		);
		await settled(page);
		await write('Spacing, m', '210');
		await until(async () => (await models())[0]!.spacing === 210, 'the spacing');
	});

	it('leaves no error in any page', () => expect(errors).toEqual([]));
});
