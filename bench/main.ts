import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { client, startServer } from '../e2e/server';
import { demoArchive } from '../e2e/demo-archive';
import { benchAny } from './any-ground';
import { benchEngine } from './engine';
import { benchField } from './field';
import { benchFuzz } from './fuzz';
import { benchGrids } from './grids';
import { benchImperfect } from './imperfect';
import { benchLoading } from './loading';
import { PROBLEMS } from './figures';
import './grid-problems';
import { benchGraph } from './graph';
import { benchRelogging } from './relogging';
import { benchWorkbench } from './workbench';

/** Speed and memory, each figure beside a peer's on the same input in one run. `./malachite bench [problems|grounds [name]|any [count] [first seed] [kind] [imperfection]|fuzz [count] [first seed]|field|engine|grids|import|demo|workbench|relogging|graph|loading]`; `alone` leaves out the peers that take minutes. */
const wanted = process.argv.slice(2);
const on = (name: string) => wanted.length === 0 || wanted.includes(name);
const folder = mkdtempSync(join(tmpdir(), 'malachite-bench-'));
const seconds = async <T>(work: () => T | Promise<T>): Promise<[number, T]> => {
	const start = performance.now();
	const result = await work();
	return [(performance.now() - start) / 1000, result];
};

if (on('problems')) {
	console.log('\nTest problems, spacing 25 m');
	for (const figuresOf of Object.values(PROBLEMS))
		for (const f of await figuresOf(25))
			console.log(`${f.id.padEnd(5)}${f.met ? 'met    ' : 'MISSED '}${f.what}: ${f.text}  (aim ${f.aim})`);
}

if (on('grounds'))
	await benchImperfect(
		5,
		25,
		wanted.filter((w) => w !== 'grounds')
	);

if (wanted[0] === 'any') await benchAny(Number(wanted[1] ?? 300), Number(wanted[2] ?? 1), wanted[3], wanted[4]);

if (wanted[0] === 'fuzz') await benchFuzz(Number(wanted[1] ?? 1000), Number(wanted[2] ?? 1));

if (on('field')) await benchField(folder, !wanted.includes('alone'));

if (on('engine')) await benchEngine(folder);

if (on('grids')) await benchGrids(folder);

if (on('import') || on('demo')) {
	const server = await startServer();
	const api = client(server);
	if (on('demo')) {
		const { body } = await api.call<{ project: string; jobs: string[] }>('POST', '/archives', await demoArchive(40));
		for (const job of body.jobs) await api.finished(body.project, job);
		console.log('\nDemo model, 60 holes, 6 surfaces, one fault, 40 m');
		for (const which of ['first', 'after clearing']) {
			if (which !== 'first') {
				const { body: i } = await api.call<{ model: { revision: number } }>('GET', `/projects/${body.project}/interpretation`);
				await api.call('PUT', `/projects/${body.project}/spacing`, { spacing: 40.001, revision: i.model.revision });
			}
			const [time] = await seconds(async () => {
				const { body: b } = await api.call<{ job: string }>('POST', `/projects/${body.project}/build`);
				await api.finished(body.project, b.job);
				await api.call('GET', `/projects/${body.project}/mesh`);
			});
			const { readFileSync } = await import('node:fs');
			const peak = /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.process.pid}/status`, 'utf8'))?.[1];
			console.log(
				`${which.padEnd(15)} press to mesh at the reader ${time.toFixed(2)} s, peak memory of the server ${Math.round(Number(peak) / 1024)} MB`
			);
		}
	}
	if (on('import')) {
		for (const [holes, each] of [
			[500, 200],
			[5000, 200]
		] as const)
			await benchImport(holes, each);
	}

	/** From file to stored and checked, beside a raw copy of the same file; then one edit in it. */
	async function benchImport(holes: number, each: number): Promise<void> {
		const { body: p } = await api.call<{ id: string }>('POST', '/projects', { name: `Bench ${holes * each}` });
		const rows = ['HoleID,From,To,Lithology,Logger'];
		const collars = ['HoleID,Easting,Northing,Elevation,Depth'];
		for (let h = 0; h < holes; h++) {
			collars.push(`H${h},${400000 + (h % 100) * 25},${4990000 + Math.floor(h / 100) * 25},100,${2 * each}`);
			for (let i = 0; i < each; i++) rows.push(`H${h},${2 * i},${2 * i + 2},${['SST', 'MDST', 'LST'][i % 3]},KB`);
		}
		const bring = async (name: string, text: string, kind: string, mapping: Record<string, string>) => {
			const { body } = await api.call<{ file: { id: string } }>(
				'POST',
				`/projects/${p.id}/files?name=${name}`,
				new TextEncoder().encode(text)
			);
			const { body: b } = await api.call<{ job: string }>('POST', `/projects/${p.id}/imports`, {
				fileId: body.file.id,
				name,
				as: 'table',
				kind,
				mapping
			});
			return api.finished(p.id, b.job);
		};
		await bring('collars', collars.join('\n'), 'collars', {
			HoleID: 'hole',
			Easting: 'easting',
			Northing: 'northing',
			Elevation: 'elevation',
			Depth: 'totalDepth'
		});
		const file = rows.join('\n') + '\n';
		const [time, job] = await seconds(() =>
			bring('log', file, 'intervals', { HoleID: 'hole', From: 'from', To: 'to', Lithology: 'code', Logger: 'keep' })
		);
		writeFileSync(join(folder, 'log.csv'), file);
		const [copy] = await seconds(() =>
			execFileSync('psql', [
				server.databaseUrl,
				'-q',
				'-c',
				'create table if not exists bench_copy (hole text, "from" float8, "to" float8, code text, logger text)',
				'-c',
				`\\copy bench_copy from '${join(folder, 'log.csv')}' csv header`
			])
		);
		const { readFileSync } = await import('node:fs');
		const peak = /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.process.pid}/status`, 'utf8'))?.[1];
		console.log(
			`\n${(holes * each).toLocaleString('en')} interval rows\nhere   drop to stored and checked ${time.toFixed(2)} s (${job.state}), peak memory of the server ${Math.round(Number(peak) / 1024)} MB\npsql   raw \\copy of the same file  ${copy.toFixed(2)} s`
		);
		const { body: list } = await api.call<{ objects: { id: string; name: string }[] }>('GET', `/projects/${p.id}`);
		const table = list.objects.find((o) => o.name === 'log')!.id;
		for (const value of ['1', '0', '3']) {
			const [edit] = await seconds(async () => {
				await api.call('PATCH', `/projects/${p.id}/tables/${table}/rows/1000`, { column: 'From', value });
				await api.call('GET', `/projects/${p.id}/tables/${table}/rows?offset=900&limit=200`);
			});
			console.log(`here   one edit, re-checked and shown ${(1000 * edit).toFixed(0)} ms`);
		}
	}
	await server.stop();
}

if (on('workbench')) await benchWorkbench();
if (on('relogging')) await benchRelogging();
if (on('graph')) await benchGraph();

if (on('loading')) await benchLoading();
