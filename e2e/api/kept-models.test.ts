import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readPack } from '../../core/formats/pack';
import { demoServer } from '../demo-server';
import type { Api, TestServer } from '../server';

let server: TestServer;
let api: Api;
let project: string;
interface Interpretation {
	model: { revision: number; spacing: number; finer?: { surfaces: { unit: string; spacing: number }[] } };
	faults: { revision: number; faults: { id: string; dip: number }[] };
}
interface Report {
	triangles: number;
	volumeError: number;
	blocks: { id: string; name: string; volume: number }[];
	volumes: { unit: string; volume: number; partOf?: string }[];
}
const path = (rest: string) => `/projects/${project}${rest}`;
const interpretation = async () => (await api.call<Interpretation>('GET', path('/interpretation'))).body;
const report = async () => (await api.call<Report>('GET', path('/model'))).body;
async function build() {
	const { body } = await api.call<{ job: string }>('POST', path('/build'));
	const job = await api.finished(project, body.job);
	expect(job.state).toBe('done');
	return (job.outcome as unknown as { steps: { step: string; cached: boolean }[] }).steps;
}
async function setSpacing(values: object) {
	return api.call<{ type: string; title: string }>('PUT', path('/spacing'), {
		...values,
		revision: (await interpretation()).model.revision
	});
}

beforeAll(async () => {
	({ server, api, project } = await demoServer({ spacing: 120 }));
	await setSpacing({ spacing: 200 });
	await build();
});
afterAll(async () => server?.stop());

describe('kept models', () => {
	it('are kept with what they were built from, under names of their own', async () => {
		const { status, body } = await api.call<{ id: string; name: string }>('POST', path('/kept-models'), { name: 'As first built' });
		expect([status, body.name]).toEqual([200, 'As first built']);
		const twice = await api.call<{ type: string }>('POST', path('/kept-models'), { name: 'As first built' });
		expect(twice.body.type).toBe('doubled-name');
		expect((await api.call<{ type: string }>('POST', path('/kept-models'), { name: ' ' })).body.type).toBe('invalid-input');
		const { models } = (
			await api.call<{ models: { name: string; spacing: number; volumes: { unit: string; volume: number }[] }[] }>(
				'GET',
				path('/kept-models')
			)
		).body;
		expect(models).toHaveLength(1);
		expect(models[0]!.spacing).toBe(200);
		expect(models[0]!.volumes.map((v) => v.volume)).toEqual((await report()).volumes.map((v) => v.volume));
	});

	it('tell what changed since, are taken up again as they were, and undo brings back what was there', async () => {
		const [kept] = (await api.call<{ models: { id: string }[] }>('GET', path('/kept-models'))).body.models;
		const { faults } = await interpretation();
		const steeper = faults.faults.map((f) => ({ ...f, dip: f.dip + 8 }));
		expect((await api.call('PUT', path('/faults'), { faults: steeper, revision: faults.revision })).status).toBe(200);
		const stale = await api.call<{ type: string; hint: string }>('POST', path('/kept-models'), { name: 'Too early' });
		expect(stale.body.type).toBe('not-built');
		await build();

		interface Found {
			volumes: { unit: string; before: number; after: number }[];
			surfaces: { kind: string; id: string; mean: number; most: number }[];
			contacts: unknown[];
		}
		const compared = async () => {
			const { objects } = (await api.call<{ objects: { id: string; kind: string }[] }>('GET', path(''))).body;
			const of = `before:${kept!.id},after:${objects.find((o) => o.kind === 'model')!.id}`;
			const { info, arrays } = readPack((await api.call<Uint8Array>('GET', path(`/derived/comparison?of=${of}`))).body);
			return { found: info['report'] as Found, movement: arrays['moved'] as Float32Array };
		};
		const { found, movement } = await compared();
		expect(found.surfaces.find((s) => s.kind === 'fault')!.mean).toBeGreaterThan(1);
		const sum = (k: 'before' | 'after') => found.volumes.reduce((s, v) => s + v[k], 0);
		expect(sum('after') / sum('before')).toBeCloseTo(1, 9);
		expect(found.volumes.some((v) => Math.abs(v.after / v.before - 1) > 1e-4)).toBe(true);
		const mesh = readPack((await api.call<Uint8Array>('GET', path('/mesh'))).body);
		expect(movement.length).toBe(mesh.arrays['positions']!.length / 3);
		expect(movement.some((d) => Math.abs(d) > 1)).toBe(true);

		expect((await api.call('POST', path(`/kept-models/${kept!.id}/take-up`))).status).toBe(200);
		expect((await interpretation()).faults.faults[0]!.dip).toBe(faults.faults[0]!.dip);
		// Nothing is worked out anew: its results are there.
		expect((await build()).every((s) => s.cached)).toBe(true);
		const same = (await compared()).found;
		expect(same.volumes.every((v) => v.before === v.after)).toBe(true);
		expect(same.surfaces.every((s) => s.most < 1e-6)).toBe(true);
		await api.call('POST', path('/undo'));
		expect((await interpretation()).faults.faults[0]!.dip).toBe(steeper[0]!.dip);
		await api.call('POST', path('/redo'));
		await build();
	});

	it('are removed, and asked for what is not there say so', async () => {
		const [kept] = (await api.call<{ models: { id: string }[] }>('GET', path('/kept-models'))).body.models;
		expect((await api.call('DELETE', path(`/kept-models/${kept!.id}`))).status).toBe(200);
		expect((await api.call<{ models: unknown[] }>('GET', path('/kept-models'))).body.models).toEqual([]);
		const gone = await api.call<{ type: string }>('GET', path(`/derived/comparison?of=before:${kept!.id},after:${kept!.id}`));
		expect(gone.body.type).toBe('unknown-input');
		expect((await api.call('POST', path(`/kept-models/${kept!.id}/take-up`))).status).toBe(404);
	});
});

describe('finer parts of the model', () => {
	it('make more triangles where they are asked, and change no interpretation', async () => {
		const before = await report();
		expect(
			(await setSpacing({ spacing: 200, finer: { surfaces: [{ unit: 'marrick', spacing: 100 }], units: [], dense: false } })).status
		).toBe(200);
		expect((await build()).map((s) => s.step)).toEqual(['model']);
		const after = await report();
		expect(after.triangles).toBeGreaterThan(1.3 * before.triangles);
		expect(after.volumeError).toBeLessThan(1e-9);
		for (const v of after.volumes)
			expect(Math.abs(v.volume / before.volumes.find((b) => b.unit === v.unit)!.volume - 1)).toBeLessThan(0.25);
	});

	it('are refused for units that are not there and for spacings that are not finer', async () => {
		expect(
			(await setSpacing({ spacing: 200, finer: { surfaces: [{ unit: 'nowhere', spacing: 100 }], units: [], dense: false } })).body.type
		).toBe('unknown-unit');
		expect(
			(await setSpacing({ spacing: 200, finer: { surfaces: [], units: [{ unit: 'slate', spacing: 300 }], dense: false } })).body.type
		).toBe('bad-spacing');
		expect((await setSpacing({ spacing: 200, finer: { surfaces: [{ unit: 'slate', spacing: -1 }] } })).body.type).toBe('invalid-input');
		expect((await interpretation()).model.finer!.surfaces).toEqual([{ unit: 'marrick', spacing: 100 }]);
	});

	it('go with the archive', async () => {
		const archive = (await api.call<Uint8Array>('GET', path('/archive'))).body;
		const { body } = await api.call<{ project: string }>('POST', '/archives', archive);
		const other = (await api.call<Interpretation>('GET', `/projects/${body.project}/interpretation`)).body;
		expect(other.model.finer!.surfaces).toEqual([{ unit: 'marrick', spacing: 100 }]);
	});
});

it('fault blocks stand in the report and in the mesh', async () => {
	const { blocks, volumes } = await report();
	expect(blocks.map((b) => b.name)).toEqual(['not cut by faults', 'above Sallow Fault', 'below Sallow Fault']);
	expect(blocks.reduce((s, b) => s + b.volume, 0) / volumes.reduce((s, v) => s + (v.partOf ? 0 : v.volume), 0)).toBeCloseTo(1, 9);
	const mesh = readPack((await api.call<Uint8Array>('GET', path('/mesh'))).body);
	expect(mesh.arrays['frontBlock']!.length).toBe(mesh.arrays['front']!.length);
	expect((mesh.info['blocks'] as { id: string }[]).map((b) => b.id)).toEqual(blocks.map((b) => b.id));
});

it('undo pressed many times at once takes back as many changes', async () => {
	const spacings = [210, 220, 230, 240];
	const { model } = await interpretation();
	for (const spacing of spacings) expect((await setSpacing({ spacing })).status).toBe(200);
	const answers = await Promise.all(spacings.map(() => api.call('POST', path('/undo'))));
	expect(answers.map((a) => a.status)).toEqual([200, 200, 200, 200]);
	expect((await interpretation()).model.spacing).toBe(model.spacing);
});
