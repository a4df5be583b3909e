import type { Box } from '#core/geometry/box';
import { buildModel } from '#core/model/build';
import { fitGround } from '#core/model/fit-ground';
import type { FaultSpec } from '#core/model/ground';
import { ProblemError } from '#core/problem';
import type { ContactKind } from '#core/units/column';
import { random } from './problems';
import { logsOf, seenIn, type Truth } from './sampled';

const BOX: Box = { minX: 0, minY: 0, minZ: -200, maxX: 400, maxY: 400, maxZ: 0 };
const KINDS: ContactKind[] = ['conformable', 'conformable', 'conformable', 'erosional', 'onlapping', 'intrusive'];

/** What came of a small random ground whose logs were damaged at random: it was built, refused with a problem, or it broke. */
export interface FuzzResult {
	seed: number;
	outcome: 'built' | 'refused' | 'broken';
	why?: string;
}

/**
 * A ground of two to eight units of random kinds, thickness and dip, up to two faults, three to sixteen holes, of which rows are lost, doubled,
 * swapped, shifted, cut short or given other codes; the solids must fill the box and be no less than nothing.
 */
export async function fuzzOne(seed: number, solids = true): Promise<FuzzResult> {
	const r = random(seed);
	const n = 2 + Math.floor(7 * r());
	const column: Truth['column'] = Array.from(
		{ length: n },
		(_, k) => [`u${k}`, k === n - 1 ? 'conformable' : KINDS[Math.floor(KINDS.length * r())]!] as const
	);
	const waves = column.map(() => ({ a: 25 * r(), k: 0.005 + 0.03 * r(), p: 6 * r(), dip: 0.4 * (r() - 0.5) }));
	const thick = column.map(() => (r() < 0.3 ? 2 : 10) + 40 * r());
	const bodies = column.map(() => ({
		x: 400 * r(),
		y: 400 * r(),
		z: -200 * r(),
		size: 10 + 70 * r(),
		nx: r() - 0.5,
		ny: r() - 0.5,
		nz: r() - 0.5,
		sheet: r() < 0.5
	}));
	const unitAt = (x: number, y: number, z: number): number => {
		for (const [k, [, kind]] of column.entries()) {
			const b = bodies[k]!;
			if (kind !== 'intrusive') continue;
			const off = b.sheet ? Math.abs(b.nx * (x - b.x) + b.ny * (y - b.y) + b.nz * (z - b.z)) * 6 : Math.hypot(x - b.x, y - b.y, z - b.z);
			if (off < b.size) return k;
		}
		let base = -20;
		for (const [k, [, kind]] of column.entries()) {
			if (kind === 'intrusive') continue;
			const w = waves[kind === 'conformable' ? 0 : k]!;
			base -= thick[k]!;
			if (z >= base + w.a * Math.sin(w.k * x + w.p) * Math.cos(w.k * y) + w.dip * (x - 200)) return k;
		}
		return n - 1;
	};
	const faults: FaultSpec[] = Array.from({ length: Math.floor(3 * r()) }, (_, k) => ({
		id: `f${k}`,
		name: `F${k}`,
		trace: [
			[400 * r(), 0],
			[400 * r(), 400]
		],
		dip: 20 + 70 * r(),
		dipAzimuth: 360 * r(),
		youngestCut: `u${Math.floor(n * r())}`,
		halfWidth: 5 * r(),
		on: true
	}));
	const truth: Truth = {
		box: BOX,
		column,
		unitAt,
		faults,
		holes: Array.from({ length: 3 + Math.floor(14 * r()) }, () => ({
			x: 400 * r(),
			y: 400 * r(),
			azimuth: 360 * r(),
			inclination: -40 - 50 * r(),
			depth: 40 + 180 * r()
		}))
	};
	const holes = logsOf(truth);
	for (const h of holes) {
		const pickRow = () => Math.floor(r() * h.intervals.length);
		while (r() < 0.35 && h.intervals.length) {
			const k = pickRow();
			const v = h.intervals[k]!;
			const damage = Math.floor(6 * r());
			if (damage === 0) h.intervals.splice(k, 1);
			else if (damage === 1) h.intervals[k] = { ...v, code: r() < 0.3 ? 'odd' : column[Math.floor(n * r())]![0] };
			else if (damage === 2) h.intervals[k] = { ...v, to: v.from + (v.to - v.from) * r() };
			else if (damage === 3) h.intervals.splice(k, 0, { ...v });
			else if (damage === 4) h.intervals.reverse();
			else {
				const by = 30 * (r() - 0.5);
				h.intervals.splice(
					0,
					h.intervals.length,
					...h.intervals.map((i) => ({ ...i, from: Math.max(0, i.from + by), to: Math.max(0.1, i.to + by) }))
				);
			}
		}
	}
	try {
		const ground = fitGround(seenIn(truth, holes).input);
		if (!solids) return { seed, outcome: 'built' };
		const { mesh } = await buildModel(ground, { spacing: 40 });
		let sum = 0;
		for (const [unit, v] of mesh.volumes) {
			if (!(v >= -1e-6 * 32e6)) return { seed, outcome: 'broken', why: `unit ${unit} has a volume of ${v}` };
			sum += v;
		}
		const box = 400 * 400 * 200;
		return Math.abs(sum / box - 1) < 1e-6
			? { seed, outcome: 'built' }
			: { seed, outcome: 'broken', why: `volumes add up to ${sum / box} of the box` };
	} catch (error) {
		if (error instanceof ProblemError) return { seed, outcome: 'refused', why: error.problem.kind };
		return {
			seed,
			outcome: 'broken',
			why: error instanceof Error ? (error.stack ?? error.message).split('\n').slice(0, 4).join(' | ') : String(error)
		};
	}
}

/** Many of them; prints each that broke with its seed. @returns how many broke */
export async function benchFuzz(count: number, first = 1): Promise<number> {
	const counts = { built: 0, refused: 0, broken: 0 };
	const start = performance.now();
	for (let seed = first; seed < first + count; seed++) {
		const o = await fuzzOne(seed);
		counts[o.outcome]++;
		if (o.outcome === 'broken') console.log(`seed ${seed}: ${o.why}`);
	}
	console.log(
		`\n${count} random grounds with random damage: ${counts.built} built, ${counts.refused} refused with a reason, ${counts.broken} broken, ${((performance.now() - start) / 1000).toFixed(0)} s`
	);
	return counts.broken;
}
