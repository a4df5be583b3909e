import type { Hole } from '#core/holes/holes';
import { positionAt } from '#core/holes/path';
import { buildModel } from '#core/model/build';
import { unitsAt } from '#core/model/classify';
import { fitGround } from '#core/model/fit-ground';
import { CASES, type Case } from './imperfect-cases';
import { random } from './problems';
import { logsOf, seenIn, type Truth } from './sampled';

export interface Outcome {
	share: number;
	/** Worst relative error of the volume of a unit that holds at least a fiftieth of the box, and whose. */
	volume: number;
	unit: string;
	/** Common volume of the intrusion that fits worst, or of the first unit, as a share of both. */
	overlap: number;
	/** Damaged holes that some finding names, and those that were not damaged and are accused of being at odds. */
	named: number;
	damaged: number;
	accused: number;
	/** Of the places farther than two hole distances from the one hole that is damaged: share at which nothing changes; 1 when it is not one. */
	far: number;
	seconds: number;
	crash?: string;
}

/** Least share of places far from the one damaged hole at which nothing may change. */
export const FAR = 0.999;
/** Share of what is damaged that has to be named, and of the other holes that may be named with it. */
const NAMED = 0.9;
const ACCUSED = 0.02;
/** Kinds of findings that accuse a hole. */
const ACCUSING = [
	'odd-unit',
	'unit-missing',
	'out-of-order',
	'against-neighbours',
	'twins-differ',
	'passes-alone',
	'alone-at-base',
	'contradicting-contacts'
];

/** Runs a case. Places nearer than `near` to a boundary do not count. @param spacing builds the solids, too, and measures their volumes; 0 asks the fields */
export async function run(c: Case, seed: number, spacing = 0, near = 8): Promise<Outcome> {
	const r = random(seed);
	const t = c.truth(r);
	const holes = logsOf(t);
	const damaged = c.damage?.(holes, t, r) ?? [];
	const more = c.input?.(t, r);
	const farFrom = farOf(t, holes, damaged);
	const clean = farFrom && fitGround(seenIn(t, logsOf(t), more).input);
	const start = performance.now();
	const none = { far: 0, share: 0, volume: 1, unit: '', overlap: 0, named: 0, damaged: damaged.length, accused: 0, seconds: 0 };
	try {
		const { input, findings } = seenIn(t, holes, more);
		const ground = fitGround(input);
		const count = new Map<string, { truth: number; found: number; both: number }>();
		const of = (id: string) => count.get(id) ?? count.set(id, { truth: 0, found: 0, both: 0 }).get(id)!;
		const q = random(99);
		let [right, all, asBefore, far] = [0, 0, 0, 0];
		const { box } = t;
		const places = Array.from({ length: 12_000 }, () => [
			box.minX + 20 + (box.maxX - box.minX - 40) * q(),
			box.minY + 20 + (box.maxY - box.minY - 40) * q(),
			box.minZ + (box.maxZ - box.minZ) * q()
		]).filter(([x, y, z]) => !(t.surface && z! > t.surface(x!, y!)) && !(c.drilled && (z! < c.drilled[0] || z! > c.drilled[1])));
		const n = places.length;
		const xyz = Float64Array.from(places.flat());
		const [units, unitsOfClean] = [await unitsAt(ground, xyz), clean && (await unitsAt(clean, xyz))];
		for (let i = 0; i < n; i++) {
			const [x, y, z] = places[i] as [number, number, number];
			const u = t.unitAt(x, y, z);
			const [own, got] = [t.column[u]![0], input.column[units[i]!]?.id ?? ''];
			of(own).truth++;
			of(got).found++;
			if (own === got) of(own).both++;
			if (
				[
					[near, 0, 0],
					[-near, 0, 0],
					[0, near, 0],
					[0, -near, 0],
					[0, 0, near],
					[0, 0, -near]
				].some(([a, b, d]) => t.unitAt(x + a!, y + b!, z + d!) !== u)
			)
				continue;
			all++;
			if (own === got) right++;
			if (!unitsOfClean || !farFrom!(x, y)) continue;
			far++;
			if (input.column[unitsOfClean[i]!]?.id === got) asBefore++;
		}
		const volumes = await volumesFound(ground, c.drilled ? 0 : spacing);
		// Of the solids the whole box counts.
		const inBox = new Map<string, number>();
		const m = 80;
		const cell = ((box.maxX - box.minX) * (box.maxY - box.minY) * (box.maxZ - box.minZ)) / m ** 3;
		if (volumes)
			for (let i = 0; i < m ** 3; i++) {
				const [x, y, z] = [
					box.minX + ((box.maxX - box.minX) * ((i % m) + 0.5)) / m,
					box.minY + ((box.maxY - box.minY) * ((Math.floor(i / m) % m) + 0.5)) / m,
					box.minZ + ((box.maxZ - box.minZ) * (Math.floor(i / m ** 2) + 0.5)) / m
				];
				const id = t.surface && z > t.surface(x, y) ? '' : t.column[t.unitAt(x, y, z)]![0];
				inBox.set(id, (inBox.get(id) ?? 0) + cell);
			}
		const off = (id: string, v: { truth: number; found: number }) =>
			Math.abs(volumes ? (volumes.get(id) ?? 0) / inBox.get(id)! - 1 : v.found / v.truth - 1);
		const worst = [...count]
			.filter(([id, v]) => id !== '' && v.truth > n / 60)
			.map(([id, v]) => ({ id, off: off(id, v) }))
			.sort((a, b) => b.off - a.off)[0];
		const bodies = t.column.filter(([, contact], i) => i === 0 || contact === 'intrusive').map(([id]) => count.get(id));
		const accused = new Set(
			[
				...findings.filter((f) => ACCUSING.includes(f.rule)).map((f) => f.hole),
				...ground.findings.filter((f) => ACCUSING.includes(f.kind)).map((f) => f.hole)
			].filter((h): h is string => !!h)
		);
		return {
			share: right / all,
			volume: worst?.off ?? 0,
			unit: worst?.id ?? '',
			overlap: Math.min(...bodies.map((v) => (v ? v.both / (v.truth + v.found - v.both) : 0))),
			named: damaged.filter((d) => accused.has(d)).length,
			damaged: damaged.length,
			accused: [...accused].filter((a) => !damaged.includes(a)).length / holes.length,
			far: far ? asBefore / far : 1,
			seconds: (performance.now() - start) / 1000
		};
	} catch (error) {
		return { ...none, crash: error instanceof Error ? (error.stack ?? error.message).split('\n').slice(0, 3).join(' | ') : String(error) };
	}
}

/** Whether a place lies farther than two hole distances from the one hole that is damaged; null when it is not one. */
function farOf(t: Truth, holes: readonly Hole[], damaged: readonly string[]): ((x: number, y: number) => boolean) | null {
	const hole = damaged.length === 1 ? holes.find((h) => h.name === damaged[0]) : undefined;
	if (!hole) return null;
	const { box } = t;
	const limit = 2 * Math.sqrt(((box.maxX - box.minX) * (box.maxY - box.minY)) / t.holes.length);
	const along = Array.from({ length: 21 }, (_, i) => positionAt(hole.path, (i / 20) * hole.path.totalDepth));
	return (x, y) => along.every((p) => Math.hypot(x - p[0]!, y - p[1]!) > limit);
}

/** Volumes of the solids, by unit and in all. */
async function volumesFound(ground: ReturnType<typeof fitGround>, spacing: number): Promise<Map<string, number> | null> {
	if (!spacing) return null;
	const { mesh } = await buildModel(ground, { spacing });
	return new Map([...mesh.volumes].map(([u, v]) => [ground.input.column[u]?.id ?? '', v]));
}

/** The table: each case with some seeds. */
export async function benchImperfect(seeds: number, spacing: number, only: string[]): Promise<boolean> {
	console.log(
		`\nGrounds and imperfections, ${seeds} seeds, 72 holes of 1000 × 1000 × 400 m${spacing ? `, spacing ${spacing} m` : ''}; least share of right places farther than 8 m from a boundary, worst volume, least overlap of an intrusion; of one damaged hole, least share of places far from it at which nothing changes`
	);
	let met = true;
	for (const c of CASES.filter((x) => only.length === 0 || only.some((o) => x.name.includes(o)))) {
		const runs: Outcome[] = [];
		for (let s = 1; s <= seeds; s++) runs.push(await run(c, s, spacing));
		const [share, volume, overlap] = [
			Math.min(...runs.map((o) => o.share)),
			Math.max(...runs.map((o) => o.volume)),
			Math.min(...runs.map((o) => o.overlap))
		];
		const fails = runs.filter((o) => o.crash);
		const sum = (f: (o: Outcome) => number) => runs.reduce((n, o) => n + f(o), 0);
		const damaged = sum((o) => o.damaged);
		const far = Math.min(...runs.map((o) => o.far));
		const ok =
			fails.length === 0 &&
			share >= (c.aim.share ?? 0) &&
			volume <= (c.aim.volume ?? Infinity) &&
			overlap >= (c.aim.overlap ?? 0) &&
			sum((o) => o.named) >= NAMED * damaged &&
			sum((o) => o.accused) <= ACCUSED * seeds &&
			far >= FAR;
		met &&= ok;
		console.log(
			`${ok ? 'met   ' : 'MISSED'} ${c.name.padEnd(24)} share ${runs.map((o) => o.share.toFixed(3)).join(' ')}  volume ${runs.map((o) => `${(100 * o.volume).toFixed(1)}${o.unit}`).join(' ')} %  overlap ${overlap.toFixed(2)}  named ${damaged ? `${sum((o) => o.named)}/${damaged}` : '–'}  accused ${((100 * sum((o) => o.accused)) / seeds).toFixed(1)} %${damaged === seeds ? `  far ${far.toFixed(4)}` : ''}  ${(sum((o) => o.seconds) / seeds).toFixed(2)} s${fails.length ? `  CRASH ${fails[0]!.crash}` : ''}`
		);
	}
	return met;
}
