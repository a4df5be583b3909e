import type { Browser, Page } from 'puppeteer-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Api, TestServer } from '../server';
import { hands, settled, until, visit } from './visit';

// Wells of a ground that is not the demo, with a scheme that is pasted: ties by pointer and by keyboard, a boundary that is dragged, ages.
let server: TestServer;
let browser: Browser;
let page: Page;
let api: Api;
let project: string;
let logged: string;
let errors: string[];
const { one, shows, press, choose, click, enter, write } = hands(() => page);
const WELLS = ['A1', 'A2', 'A3'];
const go = async (path: string) => {
	await page.goto(`${server.url}/${project}/${path}`, { waitUntil: 'load' });
	await settled(page);
};
interface Tie {
	id: string;
	name: string;
	kind: string;
	a: { hole: string; depth: number };
	b: { hole: string; depth: number };
}
const ties = async () => (await api.call<{ ties: Tie[] }>('GET', `/projects/${project}/ties`)).body.ties;
const schemes = async () =>
	(
		await api.call<{ schemes: { name: string; ranks: string[]; units: { name: string; base: number | null }[] }[] }>(
			'GET',
			`/projects/${project}/schemes`
		)
	).body.schemes;
const SCHEME =
	'Rank,Unit,Parent,Age top,Age base,Age error\nGroup,Upper,,0,20,0.5\nFormation,Alder,Upper,0,8,0.5\nFormation,Birch,Upper,8,20,0.5\nFormation,Cedar,,60,70,1\n';

beforeAll(async () => {
	({ server, browser, page, api, errors } = await visit({}));
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Three wells' })).body.id;
	await api.bring(project, 'Wells', 'wells.csv', `Hole,X,Y,Z,Depth\n${WELLS.map((w, i) => `${w},${100 * i},0,50,100`).join('\n')}`);
	logged = (
		await api.bring(
			project,
			'Log',
			'log.csv',
			'Hole,From,To,Code\nA1,0,20,Alder\nA1,20,60,Birch\nA1,60,100,Cedar\nA2,0,30,Alder\nA2,30,55,Birch\nA2,55,100,Cedar\nA3,0,50,Birch\nA3,50,100,Cedar\n'
		)
	).outcome.object!;
	await api.call('PUT', `/projects/${project}/section`, {
		trace: [
			[-50, 0],
			[250, 0]
		],
		corridor: 20
	});
});
afterAll(async () => {
	await browser?.close();
	await server?.stop();
});

/** Where a depth of a hole is drawn, page pixels: from the frame of its column. */
const drawn = async (hole: number, depth: number): Promise<{ x: number; y: number }> => {
	const svg = await one('[role=application][aria-label^="Correlation"] svg');
	return svg.evaluate(
		(e, n, d) => {
			const frames = [...e.querySelectorAll('g[transform] > rect[fill="#FFFFFF"]')].map((r) => r.getBoundingClientRect());
			const own = frames[n]!;
			return { x: own.x + own.width / 2, y: own.y + (own.height * d) / 100 };
		},
		hole,
		depth
	);
};

describe('ranks', () => {
	it('a pasted scheme is read and listed; nothing pasted says what is missing; one edit is one change', async () => {
		await go('interpret?tab=ranks&panes=map');
		await shows('No scheme yet.');
		await press('Paste a table');
		await press('Read it');
		await shows('Paste rows first');
		await (
			await one('#scheme-text')
		).evaluate((e, text) => {
			(e as HTMLTextAreaElement).value = text;
			e.dispatchEvent(new Event('input', { bubbles: true }));
		}, SCHEME);
		await press('Read it');
		await shows('Group (1) › Formation (3)');
		expect((await schemes())[0]!.units.map((u) => u.name)).toEqual(['Upper', 'Alder', 'Birch', 'Cedar']);
		// A base that is younger than its top is kept, and said.
		await click('[aria-label="Units of Scheme"] li:nth-child(4) button');
		await write('Base, Ma', '50');
		await shows('is not younger than its base');
		await write('Base, Ma', 'many');
		await until(async () => (await schemes())[0]!.units[3]!.base === 50, 'what is no number changes nothing');
		await api.call('POST', `/projects/${project}/undo`, { others: true });
		await until(async () => (await schemes())[0]!.units[3]!.base === 70, 'it is as it was');
	});

	it('a log at a rank is one press away', async () => {
		await go('interpret?tab=ranks&panes=map');
		await press('Make it');
		await shows('Log, by Group is there');
		const { objects } = (await api.call<{ objects: { id: string; name: string }[] }>('GET', `/projects/${project}`)).body;
		const { rows } = (
			await api.call<{ rows: { cells: string[] }[] }>(
				'GET',
				`/projects/${project}/tables/${objects.find((o) => o.name === 'Log, by Group')!.id}/rows?hole=A1`
			)
		).body;
		expect(rows.map((r) => r.cells[3])).toEqual(['Upper', 'Upper', 'Cedar']);
	});
});

describe('a model at a rank', () => {
	it('is shown in every pane and by its volumes, takes a unit that is pressed, and goes back to its units', async () => {
		const state = async () => (await api.call<{ state: { rank: string | null } }>('GET', `/projects/${project}/workbench`)).body.state.rank;
		const at = (rest: string) => `/projects/${project}${rest}`;
		const revision = async (kind: string) =>
			(await api.call<Record<string, { revision: number }>>('GET', at('/interpretation'))).body[kind]!.revision;
		const units = ['Alder', 'Birch', 'Cedar'].map((u, i) => ({
			id: u.toLowerCase(),
			name: u,
			color: `#80${i}0a0`,
			contact: 'conformable'
		}));
		await api.call('PUT', at('/column'), { units, revision: await revision('column') });
		await api.call('PUT', at('/lumping'), {
			codes: Object.fromEntries(units.map((u) => [u.name, u.id])),
			revision: await revision('lumping')
		});
		const { body: p } = await api.call<{ project: { revision: number } }>('GET', at(''));
		await api.call('PATCH', at(''), {
			extent: { minX: -50, maxX: 250, minY: -60, maxY: 60, minZ: -60, maxZ: 50 },
			revision: p.project.revision
		});
		await api.finished(project, (await api.call<{ job: string }>('POST', at('/build'))).body.job);
		await go('examine?panes=space,map,section');
		await choose(
			'select[aria-label="Show units at"]',
			await page.$eval(
				'select[aria-label="Show units at"]',
				(e) => [...(e as HTMLSelectElement).options].find((o) => o.text.startsWith('Group'))!.value
			)
		);
		await one('ul[aria-label^="Units at the rank Group"]');
		const listed = () =>
			page.$$eval('ul[aria-label^="Units at the rank"] li', (l) => l.map((e) => (e as HTMLElement).innerText.split('\n')[0]));
		expect(await listed()).toEqual(['Upper', 'Cedar']);
		await press('Upper');
		await shows('Alder, Birch');
		await press('Hide Upper');
		await one('button[aria-label="Show Upper"]');
		await press('Show Upper');
		await until(async () => (await state())?.endsWith(' 0') === true, 'the rank is kept');
		await go('build?panes=space');
		await page.waitForFunction(() => document.body.innerText.includes('Upper'));
		// Its parts are named below it.
		await shows('Alder, Birch');
		await choose('select[aria-label="Volumes by"]', '');
		await page.waitForFunction(() => ![...document.querySelectorAll('th')].some((e) => e.innerText.startsWith('Upper')));
		expect(await page.$('ul[aria-label^="Units at the rank"]')).toBeNull();
	});
});

describe('a correlation', () => {
	it('shows the holes of the section, and ties two boundaries that are pressed; Escape leaves one that was begun', async () => {
		await go('examine?panes=correlation');
		await one('[aria-label="Correlation of A1, A2, A3"]');
		await choose('[aria-label="The log that is correlated"]', `${logged} code`);
		await until(async () => (await drawn(0, 0)).x > 0, 'it is drawn');
		const [a, b] = [await drawn(0, 60), await drawn(1, 55)];
		await page.mouse.click(a.x, a.y);
		await page.keyboard.press('Escape');
		await page.mouse.click(b.x, b.y);
		await page.mouse.click(a.x, a.y);
		await until(async () => (await ties()).length === 1, 'the tie is kept');
		expect((await ties())[0]).toMatchObject({
			name: 'Birch on Cedar',
			kind: 'certain',
			a: { hole: 'A2', depth: 55 },
			b: { hole: 'A1', depth: 60 }
		});
	});

	it('ties by keyboard, takes proposals, says of one that it is doubtful, and takes it out; undo brings it back', async () => {
		await press('Ties');
		await choose('[aria-label="Boundary in A1"]', '1');
		await choose('[aria-label="Boundary in A2"]', '1');
		await press('Tie');
		await until(async () => (await ties()).length === 2, 'the second tie');
		await press('From what is logged');
		await press('Take all 1');
		await until(async () => (await ties()).length === 3, 'the proposed one');
		expect((await ties()).map((t) => t.name)).toContain('Birch on Cedar');
		await choose('[aria-label="Kind of the tie Alder on Birch"]', 'doubtful');
		await until(async () => (await ties()).some((t) => t.kind === 'doubtful'), 'it is doubtful');
		await press('Take the tie Alder on Birch out');
		await until(async () => (await ties()).length === 2, 'it is out');
		await api.call('POST', `/projects/${project}/undo`, { others: true });
		await until(async () => (await ties()).length === 3, 'it is back');
	});

	it('refuses two certain ties that cross, in words, and nothing is lost', async () => {
		await choose('[aria-label="Boundary in A1"]', '1');
		await choose('[aria-label="Boundary in A2"]', '3');
		await press('Tie');
		await shows('cross between');
		expect(await ties()).toHaveLength(3);
	});

	it('is flattened, kept so, and saved as a drawing by the server', async () => {
		await choose('[aria-label="Flatten on"]', 'top Cedar');
		await until(async () => Math.abs((await drawn(0, 60)).y - (await drawn(1, 55)).y) < 1.5, 'the top of Cedar lies level');
		await choose('[aria-label="Flatten on"]', 'top Alder');
		await shows('A3 (not there)');
		await choose('[aria-label="Flatten on"]', '');
	});

	it('a boundary of a version is dragged, the tie goes along, what was logged stays', async () => {
		const version = (await api.call<{ id: string }>('POST', `/projects/${project}/logs`, { of: logged, name: 'Mine' })).body.id;
		await go('examine?panes=correlation');
		await choose('[aria-label="The log that is correlated"]', `${version} code`);
		await settled(page);
		await until(async () => (await drawn(0, 0)).x > 0, 'it is drawn');
		const [from, to] = [await drawn(0, 60), await drawn(0, 70)];
		await page.mouse.move(from.x, from.y);
		await page.mouse.down();
		await page.mouse.move(from.x, (from.y + to.y) / 2, { steps: 3 });
		await page.mouse.move(to.x, to.y, { steps: 3 });
		await page.mouse.up();
		const boundary = async (id: string) =>
			Number(
				(await api.call<{ rows: { cells: string[] }[] }>('GET', `/projects/${project}/tables/${id}/rows?hole=A1`)).body.rows[1]!.cells[2]
			);
		await until(async () => Math.abs((await boundary(version)) - 70) < 1, 'the boundary was moved');
		expect(await boundary(logged)).toBe(60);
		await until(
			async () => (await ties()).some((t) => [t.a, t.b].some((e) => e.hole === 'A1' && Math.abs(e.depth - 70) < 1)),
			'the tie went along'
		);
	});

	it('by age shows what the scheme says, the curve of a hole, and makes a log in units of time', async () => {
		await choose('[aria-label="The log that is correlated"]', `${logged} code`);
		await choose('[aria-label="Vertical axis"]', 'age');
		await press('Ages');
		await one('[aria-label^="Age and depth of A1"]');
		await shows('hiatus');
		await until(
			async () =>
				(await page.$$eval('[aria-label^="Correlation of A1"] text', (e) => e.map((t) => t.textContent))).includes('not deposited'),
			'the gap says what it is'
		);
		await choose('[aria-label="Rank of the units of time"]', '1');
		await press('Make it');
		await shows('Log, by age is there');
	});

	it('without any log, or with holes that are not there, says what to do', async () => {
		const empty = (await api.call<{ id: string }>('POST', '/projects', { name: 'Nothing yet' })).body.id;
		await page.goto(`${server.url}/${empty}/examine?panes=correlation`, { waitUntil: 'load' });
		await shows('No holes yet: bring in collars under Gather.');
		await page.goto(`${server.url}/${empty}/interpret?tab=ranks`, { waitUntil: 'load' });
		await press('Time chart');
		await shows('Era (10) › Period (22) › Epoch (34)');
		await go('examine?panes=correlation');
		await enter('[aria-label="Add a hole to the correlation"]');
		await page.keyboard.type('B9');
		await page.keyboard.press('Enter');
		await shows('There is no hole B9.');
	});
});

describe('a unit in the holes', () => {
	const panel = '[aria-label^="A unit in the holes"]';
	it('is stepped through by buttons and arrows; why it is not there is one press from its hole, and set right with a reason', async () => {
		await go('examine?panes=map');
		await press('Unit');
		await choose('[aria-label="Unit"]', 'alder');
		await shows('In 2 of 3 holes');
		await press('removed at an unconformity 1');
		await shows('A3: Alder removed at an unconformity');
		await press('A3: Alder removed at an unconformity, at 0.0 m between Birch');
		await until(async () => page.evaluate(() => location.search.includes('A3')), 'the hole is selected');
		await press('Set right why Alder is not in A3');
		await choose('[aria-label="What it is"]', 'cut-out');
		await press('Set');
		await shows('a reason is needed');
		await click('[aria-label="Reason"]');
		await page.keyboard.type('a fault was logged');
		await page.keyboard.press('Enter');
		await until(
			async () =>
				(
					await api.call<{ holes: { absence: { why: string } | null }[] }>(
						'GET',
						`/projects/${project}/units-in-holes?table=${logged}&column=code&scheme=scheme-1&unit=Alder`
					)
				).body.holes[2]!.absence!.why === 'cut-out',
			'it is kept'
		);
		await press('cut out by a fault 1');
		await press('as told');
		await press('removed at an unconformity 1');
		await (await one(`${panel} [aria-label="Older unit"]`)).focus();
		const unit = () => page.$eval('[aria-label="Unit"]', (e) => (e as HTMLSelectElement).value);
		await page.keyboard.press('ArrowDown');
		await until(async () => (await unit()) === 'birch', 'the older one');
		await page.keyboard.press('ArrowLeft');
		await until(async () => (await unit()) === 'upper', 'what it is a part of');
		await page.keyboard.press('ArrowRight');
		await until(async () => (await unit()) === 'alder', 'its youngest part');
	});
});

describe('all of it', () => {
	it('raised no error', () => {
		expect(errors).toEqual([]);
	});
});
