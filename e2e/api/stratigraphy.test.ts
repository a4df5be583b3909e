import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { client, startServer, type TestServer } from '../server';

// Wells of two loggers, decimal commas, a scheme with ages in a pasted table, dates in two habits, a well that nobody logged.
let server: TestServer;
let api: ReturnType<typeof client>;
let project: string;
let logged: string;
let dates: string;
let gamma: string;
const at = (rest: string) => `/projects/${project}${rest}`;

const COLLARS = ['Well;X;Y;Z;TD', ...['P1', 'P2', 'P3', 'P4'].map((w, i) => `${w};${7000 + 300 * i};${100 + 40 * i};${50 + i},5;200`)].join(
	'\n'
);
const LOG = [
	'Well;From;To;Formation;Member;Group',
	'P1;0;40;Alder;;Upper',
	'P1;40;60;Birch;Birch Top;Upper',
	'P1;60;100;Birch;Birch Foot;Upper',
	'P1;100;130;Cedar;;Lower',
	'P1;130;200;Dogwood;;Lower',
	'P2;0;55;ALDER;;Upper',
	'P2;55;90;Birch;Birch Foot;Upper',
	'P2;90;160;Dogwood;;Lower',
	'P2;160;200;Cedar;;Lower',
	'P3;0;35;Alder;Birch Top;Upper',
	'P3;35;200;Rubble;;'
].join('\n');
const DATES = ['Well;Depth;Age;Sd;Young;Old', 'P1;80;15,5;0,2;;', 'P1;115;;;62;66', 'P3;20;4;0,5;;', 'P1;50;45;0,2;;'].join('\n');
const GAMMA = [
	'Well;Depth;Gamma',
	...['P1', 'P2'].flatMap((w, k) =>
		Array.from({ length: 100 }, (_, i) => `${w};${2 * i};${String((60 + 30 * Math.sin((i - 3 * k) / 7)).toFixed(2)).replace('.', ',')}`)
	)
].join('\n');
const SCHEME = [
	'Rank;Unit;Parent;AgeTop_Ma;AgeBase_Ma;AgeError_Ma',
	'Group;Upper;;0;20;0,5',
	'Formation;Alder;Upper;0;8;0,5',
	'Formation;Birch;Upper;8;20;0,5',
	'Member;Birch Top;Birch;8;12;0,5',
	'Member;Birch Foot;Birch;12;20;0,5',
	'Group;Lower;;60;90;1',
	'Formation;Cedar;Lower;60;70;1',
	'Formation;Dogwood;Lower;70;90;1'
].join('\n');

interface Scheme {
	id: string;
	name: string;
	ranks: string[];
	units: { id: string; name: string; rank: number; parent: string; top: number | null }[];
}
interface Ages {
	curves: {
		hole: string;
		knots: { depth: number; age: number; low: number; high: number }[];
		aside: { name: string; depth: number }[];
		rates: (object | null)[];
	}[];
	without: { hole: string; why: string }[];
}
type Problem = { type: string; title: string; hint?: string; where?: string };
const revisionOf = async (kind: 'schemes' | 'ties') => (await api.call<{ revision: number }>('GET', at(`/${kind}`))).body.revision;
const read = (body: object) =>
	api.call<{ scheme: Scheme; remarks: string[]; problems: { kind: string }[] } & Problem>('POST', at('/schemes/read'), body);
const setSchemes = async (schemes: object[], revision?: number) =>
	api.call<{ problems: { kind: string; message: string }[] } & Problem>('PUT', at('/schemes'), {
		schemes,
		revision: revision ?? (await revisionOf('schemes'))
	});
const setTies = async (ties: object[]) =>
	api.call<{ ties: object[]; crossing: string[][] } & Problem>('PUT', at('/ties'), { ties, revision: await revisionOf('ties') });
const tie = (id: string, a: number, b: number, more: object = {}) => ({
	id,
	name: `tie ${id}`,
	kind: 'certain',
	a: { hole: 'P1', depth: a },
	b: { hole: 'P2', depth: b },
	...more
});
const ages = (more: object = {}) => ({
	scheme: 'scheme-1',
	dates: [{ table: dates, age: 'Age', error: 'Sd', low: 'Young', high: 'Old' }],
	...more
});
const log = (column = 'code') => ({ table: logged, column });

beforeAll(async () => {
	server = await startServer();
	api = client(server);
	project = (await api.call<{ id: string }>('POST', '/projects', { name: 'Four wells', lengthUnit: 'm', decimal: ',' })).body.id;
	await api.bring(project, 'wells', 'wells.csv', COLLARS, {
		as: 'table',
		kind: 'collars',
		mapping: { Well: 'hole', X: 'easting', Y: 'northing', Z: 'elevation', TD: 'totalDepth' }
	});
	logged = (
		await api.bring(project, 'formations', 'formations.csv', LOG, {
			as: 'table',
			kind: 'intervals',
			mapping: { Well: 'hole', From: 'from', To: 'to', Formation: 'code', Member: 'keep', Group: 'keep' }
		})
	).outcome.object!;
	dates = (
		await api.bring(project, 'dates', 'dates.csv', DATES, {
			as: 'table',
			kind: 'other',
			mapping: { Well: 'hole', Depth: 'depth', Age: 'value', Sd: 'value', Young: 'value', Old: 'value' }
		})
	).outcome.object!;
	gamma = (
		await api.bring(project, 'gamma', 'gamma.csv', GAMMA, {
			as: 'table',
			kind: 'readings',
			mapping: { Well: 'hole', Depth: 'depth', Gamma: 'value' }
		})
	).outcome.object!;
});
afterAll(() => server?.stop());

describe('schemes', () => {
	it('are none at first', async () => {
		expect((await api.call('GET', at('/schemes'))).body).toMatchObject({ schemes: [], problems: [] });
	});

	it('are read from pasted text, kept, and taken back by undo', async () => {
		const { status, body } = await read({ name: 'Trees', text: SCHEME });
		expect(status).toBe(200);
		expect(body.remarks).toEqual([]);
		expect(body.scheme.ranks).toEqual(['Group', 'Formation', 'Member']);
		expect(body.scheme.units.find((u) => u.name === 'Birch Top')!.top).toBe(8);
		const set = await setSchemes([body.scheme]);
		expect([set.status, set.body.problems]).toEqual([200, []]);
		await api.call('POST', at('/undo'), { others: true });
		expect((await api.call<{ schemes: Scheme[] }>('GET', at('/schemes'))).body.schemes).toEqual([]);
		await api.call('POST', at('/redo'), { others: true });
		expect((await api.call<{ schemes: Scheme[] }>('GET', at('/schemes'))).body.schemes.map((s) => s.name)).toEqual(['Trees']);
	});

	it('are read from the columns of a log, in the order in which the holes meet them', async () => {
		const { body } = await read({ name: 'From the log', table: logged, columns: ['Group', 'Formation'] });
		expect(body.scheme.ranks).toEqual(['Group', 'Formation']);
		expect(body.scheme.units.filter((u) => u.rank === 0).map((u) => u.name)).toEqual(['Upper', 'Lower']);
		expect(body.scheme.id).toBe('scheme-2');
		const wrong = await read({ name: 'x', table: logged, columns: ['Grupp'] });
		expect([wrong.status, wrong.body.title]).toEqual([422, expect.stringContaining('no column "Grupp"')]);
	});

	it('refuse loops, two of a name, an old revision, and what is no scheme; nothing is lost', async () => {
		const { schemes } = (await api.call<{ schemes: Scheme[] }>('GET', at('/schemes'))).body;
		const [trees] = schemes as [Scheme];
		const looped = { ...trees, units: trees.units.map((u) => (u.name === 'Upper' ? { ...u, parent: 'birchtop' } : u)) };
		expect((await setSchemes([looped])).body).toMatchObject({ type: 'scheme-loop', where: 'units' });
		expect((await setSchemes([trees, { ...trees, id: 'other' }])).body.type).toBe('doubled-name');
		expect((await setSchemes([trees], 1)).status).toBe(409);
		expect((await setSchemes([{ ...trees, units: [{ ...trees.units[0], top: -4 }] }])).status).toBe(422);
		expect((await read({ name: 'x', text: '' })).status).toBe(422);
		expect((await read({ name: 'x', text: 'just words' })).status).toBe(422);
		expect((await read({ name: 'x' })).status).toBe(422);
		expect((await read({ name: 'x', text: 'a', table: logged, columns: ['Group'] })).status).toBe(422);
		const upside = await setSchemes([{ ...trees, units: trees.units.map((u) => (u.name === 'Cedar' ? { ...u, top: 75 } : u)) }]);
		expect(upside.body.problems.map((p) => p.kind)).toContain('upside-down');
		await api.call('POST', at('/undo'), { others: true });
		expect((await api.call<{ schemes: Scheme[] }>('GET', at('/schemes'))).body.schemes).toEqual([trees]);
	});

	it('are heard by the checks: order in a hole, parts in something else', async () => {
		const found = (await api.findings<{ rule: string; hole: string; message: string }>(project)).findings;
		expect(found.filter((f) => f.rule === 'against-scheme').map((f) => [f.hole, f.message])).toEqual([
			['P2', 'Dogwood lies on the younger Cedar at 160 m, by the scheme Trees']
		]);
		expect(found.filter((f) => f.rule === 'ranks-disagree').map((f) => [f.hole, f.message])).toEqual([
			['P3', 'Birch Top is a part of Birch, but Alder is logged here']
		]);
	});

	it('take a log to a higher rank as a version of its own', async () => {
		const { status, body } = await api.call<{ id: string; name: string; unknown: string[] }>('POST', at(`/logs/${logged}/at-rank`), {
			scheme: 'scheme-1',
			rank: 0
		});
		expect([status, body.name, body.unknown]).toEqual([201, 'formations, by Group', ['Rubble']]);
		const { rows } = (await api.call<{ rows: { cells: string[] }[] }>('GET', at(`/tables/${body.id}/rows?hole=P2`))).body;
		expect(rows.map((r) => r.cells[3])).toEqual(['Upper', 'Upper', 'Lower', 'Lower']);
		const members = await api.call<{ id: string }>('POST', at(`/logs/${logged}/at-rank`), { scheme: 'scheme-1', rank: 2, name: 'fine' });
		const fine = (await api.call<{ rows: { cells: string[] }[] }>('GET', at(`/tables/${members.body.id}/rows?hole=P1`))).body.rows;
		expect(fine[0]!.cells[3]).toBe('Alder, not divided');
		expect((await api.call<Problem>('POST', at(`/logs/${logged}/at-rank`), { scheme: 'scheme-1', rank: 7 })).body.type).toBe(
			'unknown-rank'
		);
		expect((await api.call<Problem>('POST', at(`/logs/${logged}/at-rank`), { scheme: 'gone', rank: 0 })).body.type).toBe('unknown-scheme');
		expect((await api.call<Problem>('POST', at(`/logs/${gamma}/at-rank`), { scheme: 'scheme-1', rank: 0 })).body.type).toBe('not-a-log');
	});
});

describe('ties', () => {
	it('are kept; two certain ones can not cross, a doubtful one may, and is named', async () => {
		expect((await setTies([tie('t1', 100, 90), tie('t2', 60, 120)])).body).toMatchObject({
			type: 'ties-cross',
			title: 'tie t1 and tie t2 cross between P1 and P2'
		});
		expect((await api.call<{ ties: object[] }>('GET', at('/ties'))).body.ties).toEqual([]);
		const { body } = await setTies([tie('t1', 100, 90), tie('t2', 60, 120, { kind: 'doubtful' })]);
		expect(body.crossing).toEqual([['t1', 't2']]);
		await api.call('POST', at('/undo'), { others: true });
		expect((await api.call<{ ties: object[] }>('GET', at('/ties'))).body.ties).toEqual([]);
	});

	it('need two holes and an id of their own', async () => {
		expect((await setTies([tie('t1', 1, 2, { b: { hole: 'P1', depth: 3 } })])).status).toBe(422);
		expect((await setTies([tie('t1', 1, 2), tie('t1', 3, 4)])).body.type).toBe('doubled-id');
		expect((await setTies([tie('t 1', 1, 2)])).status).toBe(422);
		expect((await setTies([tie('t1', 1, Number.MAX_VALUE)])).status).toBe(422);
	});

	it('are proposed from what is logged, and from the likeness of a curve', async () => {
		type Proposed = {
			ties: { name: string; why: string; a: { hole: string; depth: number }; b: { depth: number }; score: number }[];
			scores: { score: number }[];
		};
		const plain = (await api.call<Proposed>('POST', at('/ties/propose'), { holes: ['P1', 'P2'], log: log() })).body;
		expect(plain.ties.map((t) => t.name)).toContain('base of Birch');
		const like = (
			await api.call<Proposed>('POST', at('/ties/propose'), { holes: ['P1', 'P2'], log: log(), curve: { table: gamma, column: 'Gamma' } })
		).body;
		expect(like.scores[0]!.score).toBeGreaterThan(0.8);
		expect(like.ties.every((t) => t.why === 'likeness of curves')).toBe(true);
		const wrong = await api.call<Problem>('POST', at('/ties/propose'), { holes: ['P1', 'P9'], log: log() });
		expect([wrong.status, wrong.body.title]).toEqual([404, expect.stringContaining('P9')]);
		expect((await api.call<Problem>('POST', at('/ties/propose'), { holes: ['P1', 'P2'], log: log('Nothing') })).body.type).toBe(
			'unknown-column'
		);
		// A hole that nobody logged has no boundaries, and is no error.
		expect((await api.call<Proposed>('POST', at('/ties/propose'), { holes: ['P1', 'P4'], log: log() })).body.ties).toEqual([]);
	});
});

describe('ages', () => {
	it('of holes come from boundaries, samples and zones, in order; the one that contradicts is named; others say why not', async () => {
		const { status, body } = await api.call<Ages>('POST', at('/ages'), { log: log(), ages: ages() });
		expect(status).toBe(200);
		const own = body.curves.find((c) => c.hole === 'P1')!;
		for (let i = 1; i < own.knots.length; i++) expect(own.knots[i]!.age).toBeGreaterThanOrEqual(own.knots[i - 1]!.age);
		expect(own.knots.find((k) => k.depth === 80)!.age).toBeCloseTo(15.5, 0);
		expect(own.aside.map((k) => k.depth)).toEqual([50]);
		expect(own.rates).toContain(null);
		expect(body.without).toEqual([{ hole: 'P4', why: 'nothing dates P4' }]);
		// The same again, draw by draw.
		expect((await api.call<Ages>('POST', at('/ages'), { log: log(), ages: ages() })).body).toEqual(body);
	});

	it('make a log in units of time, where there are any', async () => {
		const { status, body } = await api.call<{ id: string; name: string }>('POST', at(`/logs/${logged}/by-age`), {
			ages: ages(),
			rank: 1,
			column: 'code',
			name: 'By age'
		});
		expect([status, body.name]).toEqual([201, 'By age']);
		const { rows } = (await api.call<{ rows: { cells: string[]; excluded: boolean }[] }>('GET', at(`/tables/${body.id}/rows?hole=P1`)))
			.body;
		const intervals = rows
			.map((r) => [Number(r.cells[1]!.replace(',', '.')), Number(r.cells[2]!.replace(',', '.')), r.cells[3]!] as const)
			.sort((a, b) => a[0] - b[0]);
		// Nothing of the hole is lost, nothing lies over anything.
		expect(intervals[0]![0]).toBe(0);
		expect(intervals.at(-1)![1]).toBe(200);
		for (let i = 1; i < intervals.length; i++) expect(intervals[i]![0]).toBeCloseTo(intervals[i - 1]![1], 6);
		expect(intervals.map((i) => i[2])).toContain('Birch');
		expect(intervals.map((i) => i[2])).not.toContain('Birch Top');
		expect(
			(await api.call<Problem>('POST', at(`/logs/${logged}/by-age`), { ages: ages({ dates: [] }), rank: 1, column: 'code', holes: ['P4'] }))
				.body.type
		).toBe('nothing-dated');
		expect((await api.call<Problem>('POST', at('/ages'), { log: log(), ages: ages({ scheme: 'gone' }) })).body.type).toBe('unknown-scheme');
		expect((await api.call<Problem>('POST', at('/ages'), { log: log(), ages: ages({ dates: [{ table: dates }] }) })).status).toBe(422);
	});
});

describe('a unit in the holes', () => {
	type InHoles = {
		unit: string;
		holes: { hole: string; thickness: number; top: number | null; absence: { why: string; reason: string } | null }[];
	};
	const at4 = async (query: string) => api.call<InHoles & Problem>('GET', at(`/units-in-holes?table=${logged}&column=code&${query}`));

	it('is told at any rank, with why it is not there; what somebody sets right counts', async () => {
		const { body } = await at4('scheme=scheme-1&unit=Lower');
		expect(body.holes.map((h) => [h.hole, h.thickness, h.top, h.absence?.why ?? ''])).toEqual([
			['P1', 100, 100, ''],
			['P2', 110, 90, ''],
			['P3', 0, null, 'not-reached'],
			['P4', 0, null, 'not-logged']
		]);
		const revision = async () =>
			(await api.call<{ objects: { kind: string; revision: number }[] }>('GET', at(''))).body.objects.find((o) => o.kind === 'absences')!
				.revision;
		const set = async (absences: object[]) => api.call<Problem>('PUT', at('/absences'), { absences, revision: await revision() });
		const one = { hole: 'P3', unit: 'Lower', why: 'cut-out', reason: 'the log is of another well' };
		expect((await set([one])).status).toBe(200);
		expect((await at4('scheme=scheme-1&unit=Lower')).body.holes[2]!.absence).toMatchObject({ why: 'cut-out', reason: one.reason });
		expect((await set([{ ...one, reason: ' ' }])).status).toBe(422);
		expect((await set([{ ...one, why: 'vanished' }])).status).toBe(422);
		expect((await set([one, one])).body.type).toBe('doubled-absence');
		await api.call('POST', at('/undo'), { others: true });
		expect((await at4('scheme=scheme-1&unit=Lower')).body.holes[2]!.absence!.why).toBe('not-reached');
		await api.call('POST', at('/redo'), { others: true });
	});

	it('that is not there is refused in words', async () => {
		expect((await at4('scheme=scheme-1&unit=Nothing')).body).toMatchObject({
			type: 'unknown-unit',
			hint: expect.stringContaining('Alder')
		});
		expect((await at4('scheme=gone&unit=Lower')).body.type).toBe('unknown-scheme');
		expect((await at4('unit=')).status).toBe(422);
	});
});

describe('results of logs', () => {
	const objects = async () => (await api.call<{ objects: { id: string; kind: string; name: string }[] }>('GET', at(''))).body.objects;
	const make = async (recipe: string, inputs: Record<string, string[]>, parameters: object) => {
		const made = await api.call<{ id: string } & Problem>('POST', at('/results'), { recipe, inputs, parameters });
		if (made.status !== 201) return { status: made.status, problem: made.body, id: '' };
		const { body } = await api.call<{ job: string }>('POST', at('/build'), { objects: [made.body.id] });
		await api.finished(project, body.job);
		return { status: 201, problem: null, id: made.body.id };
	};
	const csv = async (id: string) =>
		new TextDecoder().decode((await api.send('GET', at(`/results/${id}/file.csv`))).body as unknown as Uint8Array);

	it('are the ages of holes, out of date as soon as a date changes, and the order of codes with what speaks against it', async () => {
		const schemes = (await objects()).find((o) => o.kind === 'schemes')!.id;
		const suggested = await api.call<{ name: string; parameters: object }>('POST', at('/suggestions'), {
			recipe: 'age-curves',
			inputs: { log: [logged], dates: [dates], schemes: [schemes] }
		});
		expect(suggested.body.parameters).toEqual({ codes: 'code' });
		const curves = await make('age-curves', { log: [logged], dates: [dates], schemes: [schemes] }, suggested.body.parameters);
		const rows = (await csv(curves.id)).trim().split(/\r?\n/);
		expect(rows[0]).toContain('hole,depth,age,ageLow,ageHigh,rate');
		expect(rows.filter((r) => r.includes('P1')).length).toBeGreaterThan(4);
		const report = async () =>
			(
				await api.call<{ built: { report: { without: { hole: string }[]; aside: object[] } }; outOfDate: boolean }>(
					'GET',
					at(`/results/${curves.id}`)
				)
			).body;
		// The live curve and the result say the same.
		const live = (await api.call<Ages>('POST', at('/ages'), { log: log(), ages: ages() })).body;
		expect((await report()).built.report.without.map((w) => w.hole).sort()).toEqual(
			live.without
				.map((w) => w.hole)
				.filter((h) => h !== 'P4')
				.sort()
		);
		expect((await report()).built.report.aside).toHaveLength(live.curves.flatMap((c) => c.aside).length);
		await api.call('PATCH', at(`/tables/${dates}/rows/0`), { column: 'Age', value: '15,6' });
		expect((await objects()).find((o) => o.id === curves.id)).toMatchObject({ outOfDate: true });
		await api.call('POST', at('/undo'));
		expect((await objects()).find((o) => o.id === curves.id)).toMatchObject({ outOfDate: false });
		const order = await make('order-of-codes', { log: [logged] }, { codes: 'code' });
		expect(await csv(order.id)).toMatch(/Alder.*\r?\n/);
		expect((await make('order-of-codes', { log: [logged] }, { codes: 'Nothing' })).problem).toMatchObject({ type: 'unknown-column' });
		expect((await make('age-curves', { dates: [gamma], schemes: [schemes] }, {})).problem).toMatchObject({
			type: 'no-ages',
			where: 'dates'
		});
	});
});

describe('a correlation on paper', () => {
	const spec = (more: object = {}) => ({
		holes: ['P1', 'P2', 'P3'],
		tracks: [],
		axis: 'elevation',
		log: log(),
		spacing: 'distance',
		gap: 30,
		flatten: null,
		fill: true,
		scale: 1000,
		...more
	});
	const draw = async (format: string, s: object, a: object = { scheme: '', dates: [] }) =>
		await api.send('POST', at(`/exports/correlation.${format}`), { spec: s, ages: a });

	it('is an SVG at its scale, with ties and what lies between, and a PDF', async () => {
		await setTies([tie('t1', 100, 90, { name: '<b>base</b>' })]);
		const svg = new TextDecoder().decode((await draw('svg', spec())).body as unknown as Uint8Array);
		expect(svg).toContain('Correlation by elevation, m, 1 : 1\u2009000');
		expect(svg).toContain('data-tie="t1"');
		expect(svg).toContain('&lt;b&gt;base&lt;/b&gt;');
		expect(svg).not.toContain('<b>');
		expect(svg).toContain('data-between="Birch"');
		const pdf = (await draw('pdf', spec())).body as unknown as Uint8Array;
		expect(new TextDecoder().decode(pdf.slice(0, 5))).toBe('%PDF-');
	});

	it('writes the names of ties beside each other, and leaves one out for which there is no room', async () => {
		const ties = Array.from({ length: 8 }, (_, i) => tie(`n${i}`, 100 + 0.4 * i, 90 + 0.4 * i, { name: `surface ${i}` }));
		await setTies(ties);
		const svg = new TextDecoder().decode((await draw('svg', spec({ gap: 60 }))).body as unknown as Uint8Array);
		const names = [...svg.matchAll(/<text x="([\d.]+)" y="([\d.]+)" font-size="2.4"[^>]*>(surface \d)</g)].map(
			(m) => [Number(m[1]), Number(m[2])] as const
		);
		expect(names.length).toBeGreaterThan(1);
		names.forEach(([x, y], i) => names.slice(0, i).forEach(([u, v]) => expect(Math.abs(x - u) > 9 || Math.abs(y - v) > 2.3).toBe(true)));
		// Every tie is drawn, and says its name when it is pointed at.
		for (let i = 0; i < 8; i++) expect(svg).toContain(`<title>surface ${i}</title>`);
		await setTies([tie('t1', 100, 90, { name: '<b>base</b>' })]);
	});

	it('is flattened, or by age; a hole that lacks what it is flattened on says so', async () => {
		const flat = new TextDecoder().decode(
			(await draw('svg', spec({ flatten: { by: 'top', name: 'Birch' } }))).body as unknown as Uint8Array
		);
		expect(flat).toContain('flattened on the top of Birch');
		expect(flat).toContain('P3 (not there)');
		const aged = new TextDecoder().decode(
			(await draw('svg', spec({ axis: 'age', holes: ['P1', 'P4'] }), ages())).body as unknown as Uint8Array
		);
		expect(aged).toContain('Correlation by age, Ma');
		expect(aged).toContain('dates it');
		expect((await draw('svg', spec({ holes: ['nobody'] }))).status).toBe(404);
		expect((await draw('doc', spec())).status).toBe(404);
		expect((await draw('svg', spec({ scale: 0 }))).status).toBe(422);
		expect((await draw('svg', spec({ holes: [] }))).status).toBe(422);
	});
});

describe('an archive', () => {
	it('carries schemes and ties', async () => {
		const bytes = (await api.send('GET', at('/archive'))).body as unknown as Uint8Array;
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', bytes);
		for (const job of body.jobs) await api.finished(body.project, job);
		expect((await api.call<{ schemes: Scheme[] }>('GET', `/projects/${body.project}/schemes`)).body.schemes.map((s) => s.name)).toEqual([
			'Trees'
		]);
		expect((await api.call<{ ties: { id: string }[] }>('GET', `/projects/${body.project}/ties`)).body.ties.map((t) => t.id)).toEqual([
			't1'
		]);
	});
});
