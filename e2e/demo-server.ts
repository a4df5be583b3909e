import pg from 'pg';
import { demoArchive } from './demo-archive';
import { copyOf } from './ready-databases';
import { client, startServer, type Api, type TestServer } from './server';

/** Puts the demo into an empty database by way of a server, and ends when all that follows from it is done. */
async function withDemo(databaseUrl: string, spacing: number, build: boolean): Promise<void> {
	const server = await startServer({}, databaseUrl);
	try {
		const api = client(server);
		const done = async (project: string, job: string) => {
			const { state } = await api.finished(project, job);
			if (state !== 'done') throw new Error(`the demo could not be made ready: a job ${state}`);
		};
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', await demoArchive(spacing));
		for (const job of body.jobs) await done(body.project, job);
		if (build) await done(body.project, (await api.call<{ job: string }>('POST', `/projects/${body.project}/build`)).body.job);
		await api.findings(body.project);
		await atRest(databaseUrl);
	} finally {
		await server.stop();
	}
}

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
	const databaseUrl = await copyOf(`demo_${spacing}${build ? '_built' : ''}`, (url) => withDemo(url, spacing, build));
	const server = await startServer(environment, databaseUrl);
	const api = client(server);
	const { body } = await api.call<{ projects: { id: string }[] }>('GET', '/projects');
	return { server, api, project: body.projects[0]!.id };
}
