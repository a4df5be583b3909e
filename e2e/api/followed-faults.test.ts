import { afterAll, beforeAll, expect, it } from 'vitest';
import { demoServer } from '../demo-server';
import { NOBODY, type Api, type TestServer } from '../server';

/** A second model that has the faults of the first one, as they are there. */
let server: TestServer;
let api: Api;
let project: string;
let first: string;
let second: string;
interface Faults {
	revision: number;
	faults: { id: string; name: string; dip: number; youngestCut: string }[];
	follows?: string;
}
interface Model {
	id: string;
	name: string;
	auto: boolean;
	state: string;
	revision: number;
}
type Problem = { type: string; title: string };
const path = (rest: string, of = project) => `/projects/${of}${rest}`;
const faults = async (model: string, of = project) =>
	(await api.call<{ faults: Faults }>('GET', path(`/interpretation?model=${model}`, of))).body.faults;
const setFaults = async (model: string, values: object) =>
	api.call<Problem>('PUT', path(`/faults?model=${model}`), { ...values, revision: (await faults(model)).revision });
const models = async (of = project) => (await api.call<{ models: Model[] }>('GET', path('/models', of))).body.models;
const build = async (model: string) => {
	const { body } = await api.call<{ job: string }>('POST', path(`/build?model=${model}`));
	return api.finished(project, body.job);
};
const undo = async () => {
	const { changes } = (await api.call<{ changes: { undo: { id: number } } }>('GET', path(''))).body;
	return api.call('POST', path('/undo'), { change: changes.undo.id });
};

beforeAll(async () => {
	({ server, api, project } = await demoServer({ spacing: 200 }));
	first = (await models())[0]!.id;
	second = (await api.call<{ id: string }>('POST', path('/models'), { name: 'The other idea', from: first })).body.id;
	const own = await faults(second);
	await setFaults(second, { faults: own.faults.slice(0, 1).map((f) => ({ ...f, name: 'Only one', dip: 44 })) });
});
afterAll(async () => server?.stop());

it('a model takes the faults of another, and a change of them makes it out of date', async () => {
	expect((await setFaults(second, { follows: first })).status).toBe(200);
	expect(await faults(second)).toMatchObject({ follows: first, faults: (await faults(first)).faults });
	expect(await build(second)).toMatchObject({ state: 'done' });
	expect((await models()).find((m) => m.id === second)!.state).toBe('up to date');
	const theirs = await faults(first);
	await setFaults(first, { faults: theirs.faults.map((f, i) => (i === 0 ? { ...f, dip: f.dip - 9 } : f)) });
	expect((await models()).find((m) => m.id === second)!.state).toBe('out of date');
	expect((await faults(second)).faults[0]!.dip).toBe(theirs.faults[0]!.dip - 9);
	await undo();
	expect((await models()).find((m) => m.id === second)!.state).toBe('up to date');
});

it('which are not changed from where they are followed, and no circle comes about', async () => {
	expect((await setFaults(second, { faults: [] })).body).toMatchObject({ type: 'follows-another' });
	expect((await setFaults(first, { follows: first })).body).toMatchObject({ type: 'follows-itself' });
	expect((await setFaults(first, { follows: second })).body).toMatchObject({ type: 'follows-itself' });
	expect((await setFaults(second, { follows: NOBODY })).body).toMatchObject({ type: 'not-found' });
	expect((await setFaults(second, { follows: 'x' })).status).toBe(422);
	expect((await faults(second)).follows).toBe(first);
});

it('goes through an archive, and so does that a model builds by itself', async () => {
	const { revision } = (await models()).find((m) => m.id === second)!;
	await api.call('PATCH', path(`/models/${second}`), { auto: true, revision });
	const archive = (await api.call<Uint8Array>('GET', path('/archive'))).body;
	const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', archive);
	for (const job of body.jobs) await api.finished(body.project, job);
	const there = await models(body.project);
	expect(there.map((m) => [m.name, m.auto])).toEqual([
		[expect.any(String), false],
		['The other idea', true]
	]);
	expect((await faults(there[1]!.id, body.project)).follows).toBe(there[0]!.id);
	const { unzipSync, zipSync } = await import('fflate');
	const files = unzipSync(archive);
	const text = new TextDecoder().decode(files['project.json']);
	files['project.json'] = new TextEncoder().encode(text.replace(/"faultsOf": "[^"]*"/, '"faultsOf": "Nobody"'));
	expect((await api.call<Problem>('POST', '/archives', zipSync(files))).body).toMatchObject({ type: 'unknown-model' });
}, 60_000);

it('when the other model goes, its faults stay, and undo brings back what was there', async () => {
	const had = (await faults(second)).faults;
	expect((await api.call('DELETE', path(`/models/${first}`))).status).toBe(200);
	const left = await faults(second);
	expect(left.follows).toBeUndefined();
	expect(left.faults).toEqual(had);
	await undo();
	expect((await faults(second)).follows).toBe(first);
	expect((await setFaults(second, { faults: had, follows: null })).status).toBe(200);
	expect((await setFaults(second, { faults: [] })).status).toBe(200);
	expect((await faults(second)).faults).toEqual([]);
});
