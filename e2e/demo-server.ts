import pg from 'pg';
import { demoArchive } from './demo-archive';
import { copyOf } from './ready-databases';
import { client, startServer, type Api, type TestServer } from './server';

/** Does something to a database by way of a server, and ends when all that follows from it is done. */
async function prepare(databaseUrl: string, work: (api: Api) => Promise<{ project: string; jobs: string[] }>): Promise<void> {
	const server = await startServer({}, databaseUrl);
	try {
		const api = client(server);
		const { project, jobs } = await work(api);
		for (const job of jobs) {
			const { state } = await api.finished(project, job);
			if (state !== 'done') throw new Error(`the demo could not be made ready: a job ${state}`);
		}
		await api.findings(project);
		await atRest(databaseUrl);
	} finally {
		await server.stop();
	}
}

/** The demo brought in, its model not built. */
const load = async (api: Api) =>
	(await api.call<{ project: string; jobs: string[] }>('POST', '/archives', await demoArchive(SPACING))).body;

/** The demo that was brought in, at a spacing of its model, and built where that is asked for. */
async function model(api: Api, spacing: number, build: boolean): Promise<{ project: string; jobs: string[] }> {
	const project = await only(api);
	if (spacing !== SPACING) {
		const { status } = await api.call('PUT', `/projects/${project}/spacing`, { spacing });
		if (status !== 200) throw new Error(`the demo could not be made ready: its spacing was answered with ${status}`);
	}
	const jobs = build ? [(await api.call<{ job: string }>('POST', `/projects/${project}/build`)).body.job] : [];
	return { project, jobs };
}

const only = async (api: Api) => (await api.call<{ projects: { id: string }[] }>('GET', '/projects')).body.projects[0]!.id;

/** Of the model of the demo as it is brought in, m. */
const SPACING = 200;

/** Waits until nothing is left in the queue. */
async function atRest(databaseUrl: string): Promise<void> {
	const database = new pg.Client({ connectionString: databaseUrl });
	await database.connect();
	try {
		const left = async () =>
			(await database.query(`select 1 from queue.job where state in ('created', 'retry', 'active') limit 1`)).rowCount;
		while (await left()) await new Promise((r) => setTimeout(r, 100));
	} finally {
		await database.end();
	}
}

/**
 * A server of its own with the demo ground in it.
 * @param options.spacing of its model, m: wide, so that tests stay short
 * @param options.build whether the model is built, too
 */
export async function demoServer(
	options: { spacing: number; build?: boolean },
	environment: Record<string, string> = {}
): Promise<{ server: TestServer; api: Api; project: string }> {
	const { spacing, build = false } = options;
	const kinds = [{ kind: 'demo', fill: (url: string) => prepare(url, load) }];
	if (spacing !== SPACING || build)
		kinds.push({ kind: `demo_${spacing}${build ? '_built' : ''}`, fill: (url) => prepare(url, (api) => model(api, spacing, build)) });
	const databaseUrl = await copyOf(...kinds);
	const server = await startServer(environment, databaseUrl);
	const api = client(server);
	return { server, api, project: await only(api) };
}
