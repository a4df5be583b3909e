import { spawn } from 'node:child_process';
import { gzipSync } from 'node:zlib';
import PgBoss from 'pg-boss';
import { partsOfDrawn } from '#core/formats/drawn-mesh';
import { readPack } from '#core/formats/pack';
import { demoArchive } from '../e2e/demo-archive';
import { client, startServer, type Api, type TestServer } from '../e2e/server';

interface ListedJob {
	id: string;
	kind: string;
	title: string;
	after: string[];
}
const REBUILDS = 100;
const NODES = 40;
/** Of the grids that workers share. */
const CELLS = [15, 15.2, 15.4, 15.6];

/** The build graph: what runs after a change, what a node costs beside its computation, how many workers help, how large the store gets, what the browser is sent. */
export async function benchGraph(): Promise<void> {
	const server = await startServer();
	try {
		const api = client(server);
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', await demoArchive(200));
		const { project } = body;
		for (const job of body.jobs) await api.finished(project, job);
		const at = (rest: string) => `/projects/${project}${rest}`;
		const build = async (what: object = {}) => {
			const { job } = (await api.call<{ job: string }>('POST', at('/build'), what)).body;
			await api.finished(project, job);
			return job;
		};
		console.log('\nThe build graph, demo at 200 m');
		await changedRow(api, at, build);
		await overhead(api, server, at, build);
		await workers(api, server, at, build);
		await store(api, at, build);
		const bytes = async (path: string) => new Uint8Array(await (await fetch(`${server.url}/api/v1${at(path)}`)).arrayBuffer());
		const [plain, drawn] = [await bytes('/mesh'), await bytes('/mesh?drawn=true')];
		console.log(
			`to the browser  model ${(gzipSync(drawn).length / 1e6).toFixed(2)} MB as it is drawn, ${(gzipSync(plain).length / 1e6).toFixed(2)} MB as it is stored (gzip, both)`
		);
		const parts: number[] = [];
		for (let part = 0, of = 1; part < of; part++) {
			const own = await bytes(`/mesh?drawn=true&part=${part}`);
			of = partsOfDrawn(readPack(own));
			parts.push(gzipSync(own).length);
		}
		const look = gzipSync(await bytes('/mesh?drawn=true&most=100000')).length;
		console.log(
			`               first look ${(look / 1e6).toFixed(2)} MB, then ${parts.length} parts of ${(Math.max(...parts) / 1e6).toFixed(2)} MB at most`
		);
	} finally {
		await server.stop();
	}
}

type At = (rest: string) => string;
type Build = (what?: object) => Promise<string>;
const tableNamed = async (api: Api, at: At, name: string) =>
	(await api.call<{ objects: { id: string; name: string }[] }>('GET', at(''))).body.objects.find((o) => o.name === name)!.id;

async function changedRow(api: Api, at: At, build: Build): Promise<void> {
	await build({ all: true });
	const edit = async (table: string, column: string, value: string) => {
		await api.call('PATCH', at(`/tables/${await tableNamed(api, at, table)}/rows/3`), { column, value });
		const job = await build({ all: true });
		const { jobs } = (await api.call<{ jobs: ListedJob[] }>('GET', at('/jobs'))).body;
		const own = jobs.find((j) => j.id === job)!;
		return jobs.filter((j) => own.after.includes(j.id)).map((j) => j.title);
	};
	console.log(`a logged base   ran: ${(await edit('Lithology', 'To', '31.4')).join(', ')}`);
	console.log(`an assay        ran: ${(await edit('Assays', 'Sn_ppm', '17')).join(', ') || 'nothing'}`);
}

/**
 * Nodes that compute little, each of its own (coarse grids of the nearest reading), when their code is warm; beside jobs of nothing of the queue that
 * they run through.
 */
async function overhead(api: Api, server: TestServer, at: At, build: Build): Promise<void> {
	const inputs = { readings: [await tableNamed(api, at, 'Assays')] };
	const first = (await api.call<{ parameters: object }>('POST', at('/suggestions'), { recipe: 'gridded', inputs })).body.parameters;
	const make = async (cell: number) => {
		const parameters = { ...first, method: 'nearest', extent: 'project', check: 'no', cell };
		return (await api.call<{ id: string }>('POST', at('/results'), { recipe: 'gridded', name: `Every ${cell}`, inputs, parameters })).body
			.id;
	};
	const rounds: string[][] = [];
	for (let round = 0; round < 3; round++) {
		rounds.push([]);
		for (let i = 0; i < NODES; i++) rounds[round]!.push(await make(400 + NODES * round + i));
	}
	await build({ objects: rounds[0] });
	await build({ objects: rounds[1] });
	const ids = rounds[2]!;
	const start = performance.now();
	await build({ objects: ids });
	const whole = performance.now() - start;
	const { results } = (await api.call<{ results: { id: string; built: { seconds: number } | null }[] }>('GET', at('/results'))).body;
	const own = 1000 * results.reduce((sum, r) => sum + (ids.includes(r.id) ? (r.built?.seconds ?? 0) : 0), 0);
	const boss = new PgBoss({ connectionString: server.databaseUrl, schema: 'peer' });
	await boss.start();
	await boss.createQueue('nothing');
	const peerStart = performance.now();
	for (let i = 0; i < NODES; i++) await boss.send('nothing', { i });
	for (let i = 0; i < NODES; i++) {
		const [job] = await boss.fetch('nothing');
		await boss.complete('nothing', job!.id);
	}
	const peer = performance.now() - peerStart;
	await boss.stop({ graceful: false });
	console.log(
		`a node          ${(whole / NODES).toFixed(1)} ms, of which ${(own / NODES).toFixed(1)} ms compute: ${((whole - own) / NODES).toFixed(1)} ms of its own (pg-boss alone ${(peer / NODES).toFixed(1)} ms a job)`
	);
	for (const id of rounds.flat()) await api.call('DELETE', at(`/results/${id}`));
}

/** Four nodes that do not depend on each other: grids of assays by kriging, each on one core. */
async function workers(api: Api, server: TestServer, at: At, build: Build): Promise<void> {
	const inputs = { readings: [await tableNamed(api, at, 'Assays')] };
	const first = (await api.call<{ parameters: object }>('POST', at('/suggestions'), { recipe: 'gridded', inputs })).body.parameters;
	const kriged = { ...first, method: 'kriging', extent: 'project', check: 'no' };
	const ids: string[] = [];
	for (const cell of CELLS)
		ids.push(
			(
				await api.call<{ id: string }>('POST', at('/results'), {
					recipe: 'gridded',
					name: `Cells of ${cell}`,
					inputs,
					parameters: { ...kriged, cell }
				})
			).body.id
		);
	const timed = async () => {
		const start = performance.now();
		await build({ objects: ids });
		return (performance.now() - start) / 1000;
	};
	const one = await timed();
	for (const [i, id] of ids.entries()) {
		const { body: r } = await api.call<{ parameters: object; revision: number }>('GET', at(`/results/${id}`));
		await api.call('PATCH', at(`/results/${id}`), { parameters: { ...r.parameters, cell: CELLS[i]! + 0.05 }, revision: r.revision });
	}
	const second = spawn('node', ['dist/worker.js'], {
		env: { ...process.env, MALACHITE_DATABASE_URL: server.databaseUrl, MALACHITE_TASKS: 'dist' },
		stdio: 'ignore'
	});
	await new Promise((r) => setTimeout(r, 3000));
	const two = await timed();
	second.kill('SIGTERM');
	console.log(
		`four nodes      ${one.toFixed(2)} s with one worker, ${two.toFixed(2)} s with two (${(one / two).toFixed(2)} times as fast, on two cores)`
	);
	for (const id of ids) await api.call('DELETE', at(`/results/${id}`));
}

/** A hundred rebuilds with a changed row each. */
async function store(api: Api, at: At, build: Build): Promise<void> {
	const log = await tableNamed(api, at, 'Lithology');
	const size = async () => (await api.call<{ results: number }>('GET', at('/store'))).body.results / 1e6;
	const sizes: string[] = [`${(await size()).toFixed(1)} MB before`];
	const start = performance.now();
	for (let i = 1; i <= REBUILDS; i++) {
		await api.call('PATCH', at(`/tables/${log}/rows/3`), { column: 'To', value: (30 + 0.01 * i).toFixed(2) });
		await build();
		if (i === 10 || i === 50 || i === REBUILDS) sizes.push(`${(await size()).toFixed(1)} after ${i}`);
	}
	console.log(`the store       ${sizes.join(', ')} rebuilds (${((performance.now() - start) / REBUILDS / 1000).toFixed(2)} s each)`);
}
