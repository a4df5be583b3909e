import { afterAll, beforeAll, expect } from 'vitest';
import { demoServer } from '../demo-server';
import type { Api, TestServer } from '../server';

export interface Result {
	id: string;
	name: string;
	state: string;
	form: string;
	revision: number;
	auto: boolean;
	parameters: Record<string, unknown>;
	inputs: Record<string, string[]>;
	usedBy: string[];
	failure: { type: string; title: string } | null;
	built: { seconds: number; bytes: number; report: Record<string, unknown> } | null;
}
export interface Model {
	id: string;
	name: string;
	state: string;
	key: string;
	spacing: number;
	auto: boolean;
	revision: number;
	units: { id: string }[];
}
interface Listed {
	id: string;
	kind: string;
	name: string;
	modelId: string | null;
	outOfDate: boolean;
	revision: number;
}

/** The demo ground with its model built, for the tests of one file, and what is done with its models and results. */
export function builtDemo() {
	let server: TestServer;
	let api: Api;
	let project = '';
	beforeAll(async () => {
		({ server, api, project } = await demoServer({ spacing: 120, build: true }));
	});
	afterAll(() => server?.stop());

	const at = (path: string) => `/projects/${project}${path}`;
	const call = <T = Record<string, never>>(method: string, path: string, body?: unknown) => api.call<T>(method, path, body);
	const objects = async () => (await call<{ objects: Listed[] }>('GET', at(''))).body.objects;
	const models = async () => (await call<{ models: Model[] }>('GET', at('/models'))).body.models;
	async function build(body: object = {}, query = '') {
		const started = await call<{ job: string }>('POST', at(`/build${query}`), body);
		expect(started.status).toBe(200);
		return api.finished(project, started.body.job);
	}
	return {
		at,
		call,
		objects,
		models,
		build,
		bring: (name: string, file: string, content: string, more: Record<string, unknown> = {}) =>
			api.bring(project, name, file, content, more),
		/** Once it runs. */
		url: () => server.url,
		databaseUrl: () => server.databaseUrl,
		finished: (job: string, of = project) => api.finished(of, job),
		results: async () => (await call<{ results: Result[] }>('GET', at('/results'))).body.results,
		result: async (id: string) => (await call<Result>('GET', at(`/results/${id}`))).body,
		make: (recipe: string, inputs: Record<string, string[]>, parameters: object = {}, more: object = {}) =>
			call<{ id: string; type: string; where: string }>('POST', at('/results'), { recipe, inputs, parameters, ...more }),
		kindOf: async (kind: string) => (await objects()).find((o) => o.kind === kind)!,
		undo: () => call<{ label: string }>('POST', at('/undo')),
		spacing: async (value: number, model: Model) =>
			call('PUT', at(`/spacing?model=${model.id}`), {
				spacing: value,
				revision: (await models()).find((m) => m.id === model.id)!.revision
			})
	};
}
