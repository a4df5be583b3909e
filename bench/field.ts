import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { FieldData } from '#core/fields/data';
import { fitField } from '#core/fields/fit';
import { evaluateInTasks } from '#core/fields/compute';
import { threadPool } from '../cli/threads';

/** Franke's function in three dimensions (Franke 1982, extended by a third coordinate). */
const franke = (x: number, y: number, z: number): number =>
	0.75 * Math.exp(-((9 * x - 2) ** 2 + (9 * y - 2) ** 2 + (9 * z - 2) ** 2) / 4) +
	0.75 * Math.exp(-((9 * x + 1) ** 2) / 49 - (9 * y + 1) / 10 - (9 * z + 1) / 10) +
	0.5 * Math.exp(-((9 * x - 7) ** 2 + (9 * y - 3) ** 2 + (9 * z - 5) ** 2) / 4) -
	0.2 * Math.exp(-((9 * x - 4) ** 2) - (9 * y - 7) ** 2 - (9 * z - 5) ** 2);

const EVALUATIONS = 1_000_000;
const SIZES = [500, 2000, 8000, 32_000];
/** The peer holds all pairs in memory up to this size, and asks 50 neighbours above it. */
const DENSE_PEER = 8000;

/** P9: a field of three dimensions from many points, fitted and evaluated, beside scipy's radial basis functions (thin plate splines, as they come) on the same points. */
export async function benchField(folder: string, peer: boolean): Promise<void> {
	console.log(
		`\nP9: fit and ${EVALUATIONS / 1e6} million evaluations of Franke's function in 3D; RMS error at the targets\npoints   here: fit s  evaluate s  error      scipy: fit s  evaluate s  error      times as fast`
	);
	const totals: [number, number][] = [];
	const pool = threadPool();
	try {
		for (const n of SIZES) {
			let s = 12345;
			const random = () => (s = (s * 48271) % 2147483647) / 2147483647;
			const points = Float64Array.from({ length: 3 * n }, random);
			const targets = Float64Array.from({ length: 3 * EVALUATIONS }, random);
			const truth = (t: Float64Array, i: number) => franke(t[3 * i]!, t[3 * i + 1]!, t[3 * i + 2]!);
			const values = Float64Array.from({ length: n }, (_, i) => truth(points, i));
			const data: FieldData = {
				groupCount: 0,
				faultCount: 0,
				points: [],
				gradients: [],
				bounds: [],
				values: Array.from(values, (value, i) => ({ x: points[3 * i]!, y: points[3 * i + 1]!, z: points[3 * i + 2]!, value, block: 0 }))
			};
			const rms = (v: ArrayLike<number>, scale: number) => {
				let sum = 0;
				for (let i = 0; i < EVALUATIONS; i++) sum += (v[i]! * scale - truth(targets, i)) ** 2;
				return Math.sqrt(sum / EVALUATIONS);
			};
			const start = performance.now();
			const { field } = fitField(data, { range: 4, drift: 'linear' });
			const fitted = performance.now();
			const out = await evaluateInTasks(field, 0, targets, pool.run);
			const done = performance.now();
			totals.push([n, (done - start) / 1000]);
			const line = `${String(n).padEnd(9)}${((fitted - start) / 1000).toFixed(2).padStart(11)}${((done - fitted) / 1000).toFixed(2).padStart(12)}  ${rms(out, field.unit).toExponential(2)}`;
			if (!peer) {
				console.log(line);
				continue;
			}
			for (const [name, array] of [
				['points', points],
				['targets', targets],
				['values', values]
			] as const)
				writeFileSync(join(folder, name), array);
			const script = `import numpy as np, time, sys
from scipy.interpolate import RBFInterpolator
d=sys.argv[1]; p=np.fromfile(d+'/points').reshape(-1,3); v=np.fromfile(d+'/values'); t=np.fromfile(d+'/targets').reshape(-1,3)
a=time.perf_counter(); f=RBFInterpolator(p,v,neighbors=${n > DENSE_PEER ? 50 : 'None'}); b=time.perf_counter()
o=np.concatenate([f(q) for q in np.array_split(t,100)]); c=time.perf_counter(); o.tofile(d+'/out'); print(b-a, c-b)`;
			const [fit, evaluate] = execFileSync('/usr/bin/python3', ['-c', script, folder], { encoding: 'utf8' }).split(' ').map(Number) as [
				number,
				number
			];
			const back = readFileSync(join(folder, 'out'));
			const theirs = rms(new Float64Array(back.buffer.slice(back.byteOffset, back.byteOffset + back.byteLength)), 1);
			console.log(
				`${line}   ${fit.toFixed(2).padStart(13)}${evaluate.toFixed(2).padStart(12)}  ${theirs.toExponential(2)}   ${((fit + evaluate) / ((done - start) / 1000)).toFixed(1).padStart(9)}`
			);
		}
	} finally {
		await pool.close();
	}
	const [low, high] = [totals[1]!, totals[3]!];
	console.log(
		`growth of the time from ${low[0]} to ${high[0]} points: exponent ${(Math.log(high[1] / low[1]) / Math.log(high[0] / low[0])).toFixed(2)}`
	);
}
