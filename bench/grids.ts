import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { frameOf } from '#core/grids/frame';
import { grid, type Gridding } from '#core/grids/gridding';
import { plainGridding, readingsOfFunction } from '#core/grids/for-tests';
import type { Points } from '#core/grids/points';
import { inTasks } from '#core/model/compute';
import { continued } from '#core/potential/filters';
import { threadPool } from '../cli/threads';

const surface = (x: number, y: number) => 40 * Math.sin(x / 170) + 30 * Math.cos(y / 130);
const FRAME = frameOf({ minX: 400_000, minY: 4_990_000, maxX: 401_000, maxY: 4_991_000 }, 1);

/** What numpy and scipy make of the same readings, seconds; kriging by a twin written here: the same neighbours, one dense solve a cell. */
const PEER = `
import sys, time, numpy as np
from scipy.interpolate import griddata
from scipy.spatial import cKDTree
folder = sys.argv[1]
nodes = np.arange(1000) + 0.5
gx, gy = np.meshgrid(nodes, nodes)
def read(n):
    a = np.loadtxt(folder + '/points-%d.csv' % n, delimiter=',', skiprows=1)
    return a[:, :2] - [400000, 4990000], a[:, 2]
out = {}
p, v = read(220)
for name in ('nearest', 'linear'):
    t = time.perf_counter(); griddata(p, v, (gx, gy), method=name); out[name] = time.perf_counter() - t
t = time.perf_counter()
q = np.column_stack([gx.ravel(), gy.ravel()])
z = np.empty(len(q))
for k in range(0, len(q), 100000):
    d = ((q[k:k+100000, None, :] - p[None]) ** 2).sum(-1)
    w = 1 / np.maximum(d, 1e-12); z[k:k+100000] = (w * v).sum(1) / w.sum(1)
out['inverse-distance'] = time.perf_counter() - t
p, v = read(5000)
tree = cKDTree(p)
def cov(h): r = np.minimum(h / 400, 1); return 1500 * (1 - (1.5 * r - 0.5 * r ** 3))
t = time.perf_counter()
part = q[:20000]
_, near = tree.query(part, k=24)
own = p[near]
c = cov(np.linalg.norm(own[:, :, None] - own[:, None], axis=-1))
a = np.ones((len(part), 25, 25)); a[:, :24, :24] = c; a[:, 24, 24] = 0
b = np.ones((len(part), 25, 1)); b[:, :24, 0] = cov(np.linalg.norm(own - part[:, None], axis=-1))
w = np.linalg.solve(a, b)[:, :24, 0]; (w * v[near]).sum(1)
out['kriging'] = (time.perf_counter() - t) * len(q) / len(part)
f = np.random.default_rng(1).normal(size=(2000, 2000))
t = time.perf_counter()
padded = np.pad(f, 200, mode='reflect')
kx = np.fft.fftfreq(2400) * 2 * np.pi; k = np.hypot(*np.meshgrid(kx, kx))
np.fft.ifft2(np.fft.fft2(padded) * np.exp(-k * 5)).real[200:-200, 200:-200]
out['fft'] = time.perf_counter() - t
print(' '.join('%s=%.3f' % i for i in out.items()))
`;

/** Gridding to a million cells and filters of fields, beside scipy, numpy and gdal_grid on the same readings. */
export async function benchGrids(folder: string): Promise<void> {
	const points = new Map<number, Points>();
	for (const n of [220, 5000, 50_000]) {
		const p = readingsOfFunction(n, 3, surface);
		points.set(n, p);
		writeFileSync(join(folder, `points-${n}.csv`), `x,y,v\n${Array.from(p.x, (x, i) => `${x},${p.y[i]},${p.value[i]}`).join('\n')}\n`);
	}
	const peers = new Map(
		execFileSync('/usr/bin/python3', ['-c', PEER, folder], { encoding: 'utf8' })
			.trim()
			.split(' ')
			.map((t) => [t.split('=')[0]!, Number(t.split('=')[1])] as const)
	);
	const vrt = join(folder, 'points.vrt');
	writeFileSync(
		vrt,
		`<OGRVRTDataSource><OGRVRTLayer name="points-220"><SrcDataSource>${join(folder, 'points-220.csv')}</SrcDataSource><GeometryType>wkbPoint</GeometryType><GeometryField encoding="PointFromColumns" x="x" y="y" z="v"/></OGRVRTLayer></OGRVRTDataSource>`
	);
	const gdal = (algorithm: string): number => {
		const size = '-txe 400000 401000 -tye 4990000 4991000 -outsize 1000 1000'.split(' ');
		const t = performance.now();
		execFileSync('gdal_grid', ['-q', ...size, '-a', algorithm, '-l', 'points-220', vrt, join(folder, 'out.tif')], { stdio: 'pipe' });
		return (performance.now() - t) / 1000;
	};
	const pool = threadPool();
	const { rows } = inTasks(pool.run);
	const line = async (what: string, n: number, more: Partial<Gridding>, peer: string) => {
		await grid(
			plainGridding(more),
			{ points: points.get(n)!, barriers: new Float64Array(0) },
			frameOf({ minX: 400_000, minY: 4_990_000, maxX: 401_000, maxY: 4_991_000 }, 50),
			rows
		);
		const t = performance.now();
		await grid(plainGridding(more), { points: points.get(n)!, barriers: new Float64Array(0) }, FRAME, rows);
		console.log(`${what.padEnd(44)}${((performance.now() - t) / 1000).toFixed(2).padStart(8)} s   ${peer}`);
	};
	const scipy = (name: string) => `scipy/numpy ${peers.get(name)!.toFixed(2)} s`;
	console.log('\nTo 1 000 000 cells');
	await line(
		'220 readings, inverse distance, all',
		220,
		{ method: 'inverse-distance' },
		`gdal_grid ${gdal('invdist:power=2').toFixed(2)} s, ${scipy('inverse-distance')}`
	);
	await line('220, nearest', 220, { method: 'nearest' }, `gdal_grid ${gdal('nearest').toFixed(2)} s, ${scipy('nearest')}`);
	await line('220, linear', 220, { method: 'linear' }, `gdal_grid ${gdal('linear').toFixed(2)} s, ${scipy('linear')}`);
	await line('220, natural neighbour', 220, { method: 'natural-neighbour' }, 'no peer in Debian');
	await line('50 000, minimum curvature', 50_000, { method: 'minimum-curvature', tension: 0.25 }, 'no peer in Debian');
	await line(
		'5 000, kriging, 24 neighbours',
		5000,
		{ method: 'kriging', most: 24, variogram: 'typed', sill: 1500, range: 400 },
		scipy('kriging')
	);
	await pool.close();
	const field = {
		x0: 0,
		y0: 0,
		dx: 1,
		dy: 1,
		nx: 2000,
		ny: 2000,
		values: Float32Array.from({ length: 4e6 }, (_, k) => Math.sin(k * 0.37) + Math.cos(k * 0.0011))
	};
	const t = performance.now();
	continued(field, 5);
	console.log(
		`${'field of 2 000 × 2 000 continued upwards'.padEnd(44)}${((performance.now() - t) / 1000).toFixed(2).padStart(8)} s   ${scipy('fft')}`
	);
	console.log(`greatest memory ${Math.round(process.resourceUsage().maxRSS / 1024)} MB`);
}
