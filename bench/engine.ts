import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { planeNormal } from '#core/geometry/angles';
import { cutLattice, type CutMesh } from '#core/mesh/cut-lattice';
import { cutSection, type Trace } from '#core/sections/section';
import { latticeOf, nodeCount, nodePositions } from '#core/mesh/lattice';
import { openEdges, solidOf, unitsIn } from '#core/mesh/extract';
import { buildModel } from '#core/model/build';
import { inTasks, unitsInTasks } from '#core/model/compute';
import { threadPool } from '../cli/threads';
import { p10 } from './grounds';
import { random } from './problems';
import { sampled, type Truth } from './sampled';
import { asCut, slimShares } from './slim';

const seconds = (from: number) => ((performance.now() - from) / 1000).toFixed(2);
const middle = (v: readonly number[]) => [...v].sort((a, b) => a - b)[v.length >> 1]!;
/** Shares of triangles whose least angle is below 10° and 1°, in words. */
const shares = (mesh: CutMesh): string =>
	slimShares(mesh)
		.map((share) => `${(100 * share).toFixed(2)} %`)
		.join(' and ');
const memory = () => `${Math.round(process.resourceUsage().maxRSS / 1024)} MB at most so far`;

/** Six gently folded surfaces in 10 × 10 km, three faults, 5 000 holes. */
export function wide(): Truth {
	const box = { minX: 0, minY: 0, minZ: -1000, maxX: 10_000, maxY: 10_000, maxZ: 0 };
	const faults = [
		{
			id: 'a',
			name: 'A',
			trace: [
				[2500, 0],
				[2900, 10_000]
			],
			dip: 70,
			dipAzimuth: 90,
			up: 60
		},
		{
			id: 'b',
			name: 'B',
			trace: [
				[5200, 0],
				[5000, 10_000]
			],
			dip: 65,
			dipAzimuth: 270,
			up: -45
		},
		{
			id: 'c',
			name: 'C',
			trace: [
				[0, 7000],
				[10_000, 7300]
			],
			dip: 75,
			dipAzimuth: 180,
			up: 50
		}
	] as const;
	const planes = faults.map((f) => {
		const [a, b] = f.trace;
		const strike = (Math.atan2(b[0] - a[0], b[1] - a[1]) * 180) / Math.PI;
		const azimuth = [strike + 90, strike - 90].sort(
			(p, q) => Math.cos(((q - f.dipAzimuth) * Math.PI) / 180) - Math.cos(((p - f.dipAzimuth) * Math.PI) / 180)
		)[0]!;
		const n = planeNormal(f.dip, (azimuth + 360) % 360);
		return (x: number, y: number, z: number) => n[0] * (x - a[0]) + n[1] * (y - a[1]) + n[2] * z;
	});
	const levels = [-80, -180, -260, -380, -470, -600];
	const field = (x: number, y: number, z: number) => {
		let up = 0;
		faults.forEach((f, k) => (up += planes[k]!(x, y, z) >= 0 ? f.up : 0));
		return z + up - 60 * Math.sin(x / 900) * Math.cos(y / 1300) - 0.02 * (x - 5000);
	};
	const r = random(2);
	return {
		box,
		column: [...levels, NaN].map((_, i) => [`u${i}`, 'conformable'] as const),
		unitAt: (x, y, z) => {
			const v = field(x, y, z);
			const i = levels.findIndex((l) => v >= l);
			return i < 0 ? levels.length : i;
		},
		holes: Array.from({ length: 5000 }, () => ({ x: 10_000 * r(), y: 10_000 * r(), depth: 460 + 80 * r() })),
		faults: faults.map((f) => ({
			id: f.id,
			name: f.name,
			trace: f.trace.map((p) => [...p] as [number, number]),
			dip: f.dip,
			dipAzimuth: f.dipAzimuth,
			youngestCut: 'u0',
			halfWidth: 2,
			on: true
		}))
	};
}

/** A whole build, many places, one surface beside a peer's, and a large model. */
export async function benchEngine(folder: string): Promise<void> {
	const input = sampled(p10());
	const xyz = Float64Array.from({ length: 3e6 }, ((r) => (_: unknown, i: number) => (i % 3 === 2 ? -1000 * r() : 2000 * r()))(random(1)));
	console.log('\nP10 at 25 m, and a million places');
	// Threads take turns, so that both meet the same machine; the middle of many rounds, for it has other things to do, too.
	const sides = ['1', '2'].map((threads) => {
		process.env['MALACHITE_THREADS'] = threads;
		return { threads, pool: threadPool(), builds: [] as number[], places: [] as number[] };
	});
	let mesh: CutMesh | null = null;
	for (let round = 0; round < 12; round++)
		for (const { pool, builds, places } of sides) {
			const threaded = inTasks(pool.run);
			const start = performance.now();
			const ground = await threaded.fit(input);
			({ mesh } = await buildModel(ground, { spacing: 25, ...threaded }));
			const built = performance.now();
			await unitsInTasks(ground, xyz, pool.run);
			// The first rounds make the code warm.
			if (round < 3) continue;
			builds.push((built - start) / 1000);
			places.push((performance.now() - built) / 1000);
		}
	for (const { threads, builds, places } of sides)
		console.log(
			`${threads} ${threads === '1' ? 'thread ' : 'threads'}  build ${middle(builds).toFixed(2)} s (least ${Math.min(...builds).toFixed(2)}), ${mesh!.front.length} triangles; 1 000 000 places ${middle(places).toFixed(2)} s; ${memory()}`
		);
	const bare = await buildModel(await inTasks(sides[1]!.pool.run).fit(input), {
		spacing: 25,
		...inTasks(sides[1]!.pool.run),
		mend: asCut
	});
	console.log(`           least angle below 10° and 1°: ${shares(mesh!)} of the triangles; as they were cut ${shares(bare.mesh)}`);
	const pace = middle(sides[0]!.builds.map((one, i) => one / sides[1]!.builds[i]!));
	console.log(`           a build ${pace.toFixed(2)} times as fast on two`);
	const moved = Array.from({ length: 40 }, (_, i): Trace => [
		[100 + 20 * i, 0],
		[400 + 30 * i, 2000]
	]);
	const at = performance.now();
	for (const trace of moved) cutSection(mesh!, trace);
	console.log(`           a section moved over it: ${((performance.now() - at) / moved.length).toFixed(1)} ms each`);
	// One hole less, then all of them: nothing is taken over from the first build but warm threads.
	const gone = input.contacts[0]!.hole;
	const without = {
		...input,
		contacts: input.contacts.filter((c) => c.hole !== gone),
		observations: input.observations.filter((o) => o.hole !== gone)
	};
	const threaded = inTasks(sides[1]!.pool.run);
	const first = performance.now();
	await buildModel(await threaded.fit(without), { spacing: 25, ...threaded });
	const second = performance.now();
	await buildModel(await threaded.fit(input), { spacing: 25, ...threaded });
	console.log(`           with a hole less ${((second - first) / 1000).toFixed(2)} s, then with it ${seconds(second)} s`);
	for (const { pool } of sides) await pool.close();

	const box = { minX: 0, minY: 0, minZ: 0, maxX: 2000, maxY: 2000, maxZ: 1000 };
	const l = latticeOf(box, 10);
	const nodes = Uint32Array.from({ length: nodeCount(l) }, (_, i) => i);
	const places = nodePositions(l, nodes);
	const values = new Float64Array(nodes.length);
	for (let i = 0; i < values.length; i++)
		values[i] = places[3 * i + 2]! - 500 - 120 * Math.sin(places[3 * i]! / 230) * Math.cos(places[3 * i + 1]! / 310);
	let best = Infinity;
	let count = 0;
	let whole = 0;
	for (let k = 0; k < 6; k++) {
		const start = performance.now();
		const mesh = await cutLattice(
			l,
			{ function: 0, above: { leaf: 0, label: 0 }, below: { leaf: 1, label: 1 } },
			[{ values, level: 0, surface: 0 }],
			0.002
		);
		best = Math.min(best, (performance.now() - start) / 1000);
		count = mesh.surface.reduce((n, s) => n + (s === 0 ? 1 : 0), 0);
		whole = mesh.surface.length;
	}
	writeFileSync(join(folder, 'array'), values);
	const script = `import numpy as np, time, sys
from skimage.measure import marching_cubes
a=np.fromfile(sys.argv[1]+'/array').reshape(${l.nz + 1},${l.ny + 1},${l.nx + 1})
b=1e9
for k in range(6):
    s=time.perf_counter(); v,f,n,w=marching_cubes(a,0.0); b=min(b,time.perf_counter()-s)
print(b,len(f))`;
	const [time, faces] = execFileSync('/usr/bin/python3', ['-c', script, folder], { encoding: 'utf8' }).split(' ').map(Number) as [
		number,
		number
	];
	console.log(
		`\nOne surface through ${l.nx} × ${l.ny} × ${l.nz} cells\nhere          ${best.toFixed(2)} s, ${count} triangles, ${((1e6 * best) / count).toFixed(2)} µs each; ${whole} with both closed solids, ${((1e6 * best) / whole).toFixed(2)} µs each\nscikit-image  ${time.toFixed(2)} s, ${faces} triangles, ${((1e6 * time) / faces).toFixed(2)} µs each`
	);

	const many = sampled(wide());
	const pool = threadPool();
	const all = inTasks(pool.run);
	const start = performance.now();
	const ground = await all.fit(many);
	const fitted = seconds(start);
	const { mesh: large, lattice } = await buildModel(ground, { spacing: 37, ...all });
	await pool.close();
	const open = unitsIn(large).reduce((n, u) => n + openEdges(solidOf(large, u)), 0);
	console.log(
		`\n${many.contacts.length} contacts of 5 000 holes, six surfaces, three faults, ${lattice.nx * lattice.ny * lattice.nz} cells\nfields ${fitted} s, all ${seconds(start)} s, ${large.front.length} triangles, open edges ${open}, ${memory()}`
	);
}
