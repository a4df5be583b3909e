import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { plainBench } from '../../web/src/lib/workbench/state';
import { COLLARS, LOG, startAtHand, waitingFor } from '../at-hand';

// Many hands in one project at once: each is answered, in words where it comes too late, and no name is given twice.
const { api, database, hand, stop } = await startAtHand();
afterAll(stop);
let p: string;
let collars: string;
let log: string;
type Told = { status: number; body: { type?: string; title?: string; id?: string } };
const at = (rest: string) => `/projects/${p}${rest}`;
const ask = (method: string, path: string, body?: object) => api.call(method, at(path), body) as Promise<Told>;
const kinds = async (asked: Promise<Told>[]) => (await Promise.all(asked)).map((a) => (a.status < 300 ? 'done' : a.body.type)).sort();
const several = <T>(n: number, make: (i: number) => T): T[] => Array.from({ length: n }, (_, i) => make(i));
const order = (name: string) => ({ recipe: 'order-of-codes', name, inputs: { log: [log] }, parameters: { codes: 'code' } });

beforeAll(async () => {
	p = await hand.project('Crowd');
	collars = await hand.bring(p, 'Collars', COLLARS);
	log = await hand.bring(p, 'Log', LOG);
});

/** Lets what is asked for come as far as it can while the project is held, so that all of it goes on in one moment. */
async function inOneMoment<T>(least: number, asked: () => T, meanwhile = async () => {}): Promise<T> {
	await database.query('begin');
	await database.query('select id from project where id = $1 for no key update', [p]);
	try {
		const all = asked();
		await expect.poll(() => waitingFor(database), { timeout: 30_000 }).toBeGreaterThanOrEqual(least);
		await meanwhile();
		return all;
	} finally {
		await database.query('commit');
	}
}

describe('a name that several give at once', () => {
	const refused = (kind: string) => ['done', ...several(4, () => kind)].sort();
	it.each([
		['a viewpoint', 'name-taken', () => ask('POST', '/viewpoints', { name: 'North', stage: 'examine', state: plainBench() })],
		['a result', 'doubled-name', () => ask('POST', '/results', order('Order'))],
		['a model', 'doubled-name', () => ask('POST', '/models', { name: 'Second' })],
		['a version of a log', 'doubled-name', () => ask('POST', '/logs', { of: log, name: 'As I see it' })],
		[
			'a section',
			'doubled-name',
			() =>
				ask('POST', '/sections', {
					sections: [
						{
							name: 'Adit',
							trace: [
								[402000, 4992000],
								[402100, 4992000]
							]
						}
					]
				})
		]
	])('is that of one: %s', async (_, kind, make) => {
		expect(await kinds(await inOneMoment(5, () => several(5, make)))).toEqual(refused(kind));
	});
	it('is that of one: sources that are called so, and sources that come in', async () => {
		const u = await hand.upload(p, 'again.csv', COLLARS);
		const asked = several(5, () =>
			api.call<{ job: string }>('POST', at('/imports'), { fileId: u.file.id, name: 'Wells', as: 'table', kind: u.kind, mapping: u.mapping })
		);
		const jobs = await Promise.all((await Promise.all(asked)).filter((a) => a.status === 200).map((a) => api.finished(p, a.body.job)));
		expect(jobs.filter((j) => j.state === 'done')).toHaveLength(1);
		for (const j of jobs) if (j.state !== 'done') expect(j.outcome).toMatchObject({ problem: { type: 'name-taken' } });
		const renamed = await inOneMoment(2, () => [collars, log].map((id) => ask('PATCH', `/sources/${id}`, { name: 'Holes' })));
		expect(await kinds(renamed)).toEqual(['done', 'name-taken']);
	});
});

it('forty changes of all kinds at once are each made or refused in words, and what they made is there', async () => {
	const before = (await api.call<{ objects: object[] }>('GET', at(''))).body.objects.length;
	const revision = await api.revisionOf(p, log);
	const asked = await inOneMoment(5, () =>
		several(8, (i) => [
			ask('POST', '/results', order(`Codes ${i}`)),
			ask('PATCH', `/tables/${log}/rows/${i % 6}`, { column: 'code', value: `S${i}`, revision }),
			ask('POST', '/viewpoints', { name: `View ${i}`, stage: 'examine', state: plainBench() }),
			ask('PATCH', '/workbench', { changes: { styles: { [log]: null } } }),
			ask('POST', '/sections', {
				sections: [
					{
						trace: [
							[402000, 4992000 + i],
							[402100, 4992000 + i]
						]
					}
				]
			})
		]).flat()
	);
	const answers = await Promise.all(asked);
	// Edits of one table that went out from the same revision: one is made, the others are told of it.
	const refused = answers.filter((a) => a.status >= 300).map((a) => [a.status, a.body.type]);
	expect(refused).toEqual(several(7, () => [409, 'edited-elsewhere']));
	const { objects } = (await api.call<{ objects: { name: string; kind: string }[] }>('GET', at(''))).body;
	expect(objects.length).toBe(before + 16);
	const names = objects.filter((o) => o.kind === 'section').map((o) => o.name);
	expect(new Set(names).size).toBe(names.length);
}, 120_000);

it('who reads, or changes another project, is answered while forty changes wait for one', async () => {
	const other = (await api.call<{ id: string }>('POST', '/projects', { name: 'Another' })).body.id;
	const view = (i: number) => ({ name: `Crowd ${i}`, stage: 'examine', state: plainBench() });
	const asked = await inOneMoment(
		5,
		() => several(40, (i) => ask('POST', '/viewpoints', view(i))),
		async () => {
			for (let i = 0; i < 3; i++)
				expect((await Promise.all(several(6, () => api.call('GET', at(''))))).map((a) => a.status)).toEqual(several(6, () => 200));
			const others = await Promise.all(several(5, (i) => api.call('POST', `/projects/${other}/viewpoints`, view(i))));
			expect(others.map((a) => a.status)).toEqual(several(5, () => 200));
		}
	);
	expect((await Promise.all(asked)).map((a) => a.status)).toEqual(several(40, () => 200));
}, 120_000);

it('what is undone, put in order and built at once leaves nobody waiting', async () => {
	const { models } = (await api.call<{ models: { id: string }[] }>('GET', at('/models'))).body;
	const asked = await inOneMoment(5, () =>
		several(6, (i) => [
			ask('POST', '/undo'),
			ask('POST', '/redo'),
			ask('POST', '/build'),
			ask('PUT', '/models/order', { models: (i % 2 ? models : [...models].reverse()).map((m) => m.id) }),
			ask('PATCH', `/sources/${log}`, { name: `Logged ${i}` })
		]).flat()
	);
	for (const a of await Promise.all(asked))
		if (a.status >= 300)
			expect([a.status, a.body.type]).toEqual([
				expect.any(Number),
				expect.stringMatching(/^(nothing-to-undo|no-longer-fits|edited-elsewhere|not-found|no-extent)$/)
			]);
}, 120_000);

it('a project that is deleted for good while others change it is gone, and they are told so', async () => {
	const asked = await inOneMoment(5, () => [
		...several(4, (i) => ask('PATCH', `/sources/${log}`, { name: `Last ${i}` })),
		ask('DELETE', '?forever=true'),
		...several(4, (i) => ask('POST', '/viewpoints', { name: `Late ${i}`, stage: 'examine', state: plainBench() }))
	]);
	const answers = await Promise.all(asked);
	expect(answers[4]!.status).toBe(200);
	for (const a of answers) if (a.status >= 300) expect([a.status, a.body.type]).toEqual([404, 'not-found']);
	expect((await ask('GET', '')).status).toBe(404);
});
