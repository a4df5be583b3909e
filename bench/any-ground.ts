import { RADIANS } from '#core/geometry/angles';
import type { FaultSpec } from '#core/model/ground';
import {
	gaps,
	inRows,
	noisy,
	oneInTwenty,
	oneWrong,
	pick,
	slipped,
	twins,
	withoutUnit,
	wrongCodes,
	type Damage,
	type Random
} from './damages';
import { FAR, run } from './imperfect';
import type { Case } from './imperfect-cases';
import { below, BOX, grid, plane, stack, terrainOf, waves } from './imperfect-grounds';
import { random } from './problems';
import type { Truth } from './sampled';

// Grounds of the kinds of the table with every measure drawn: what holds there for one ground has to hold for its kind.

const between = (r: Random, low: number, high: number) => low + (high - low) * r();
/** Share of the damaged holes that is to be named, and of all others that may be with them. */
const NAMED = 0.9;
const MOST_ACCUSED = 0.04;
const names = 'abcdefghijklmnop';

/** Holes of about 70: on a grid of any shape, in lines of close holes, or anywhere; upright, or inclined one way. */
function holes(r: Random): Truth['holes'] {
	const nx = Math.round(between(r, 6, 11));
	const lines = Math.round(between(r, 4, 7));
	const pattern = r();
	const own =
		pattern < 0.5
			? grid(r, nx, Math.round(70 / nx))
			: pattern < 0.75
				? grid(r, lines, Math.round(70 / lines))
				: Array.from({ length: 70 }, () => ({ x: between(r, 10, 990), y: between(r, 10, 990) }));
	if (r() < 0.6) return own;
	const [azimuth, inclination] = [between(r, 0, 360), between(r, -80, -60)];
	return own.map((h) => ({ ...h, azimuth: azimuth + between(r, -8, 8), inclination: inclination + between(r, -4, 4), depth: 420 }));
}
/** Elevations of bases that follow one shape. */
function shape(r: Random): (x: number, y: number) => number {
	const [w, v, high, low] = [waves(r, 1500, 800), waves(r, 900, 600), between(r, 5, 60), between(r, 0, 12)];
	const [east, north] = [between(r, -0.25, 0.25), between(r, -0.25, 0.25)];
	return (x, y) => high * w(x, y) + low * v(x, y) + east * (x - 500) + north * (y - 500);
}
function piles(r: Random, count: number, thick: () => number, share: number, top: number): (x: number, y: number) => number[] {
	const [s, t] = [shape(r), Array.from({ length: count - 1 }, () => ({ mean: thick(), of: waves(r, 1200, 600) }))];
	return (x, y) => {
		let z = top + s(x, y);
		return [z, ...t.map(({ mean, of }) => (z -= mean * Math.max(0, 1 + share * 1.6 * of(x, y))))];
	};
}

/** A straight fault near the middle, right through the ground. @returns also how far a place lies on the side that it dips to */
function straight(r: Random, id: string, strike: number, dip: number): { spec: FaultSpec; from: ReturnType<typeof plane> } {
	const [x0, y0] = [between(r, 390, 610), between(r, 390, 610)];
	const dipAzimuth = (strike + (r() < 0.5 ? 90 : 270)) % 360;
	const at = (d: number): [number, number] => [x0 + d * Math.sin(strike * RADIANS), y0 + d * Math.cos(strike * RADIANS)];
	return {
		spec: { id, name: id, trace: [at(-1500), at(1500)], dip, dipAzimuth, youngestCut: 'a', halfWidth: 2, on: true },
		from: plane(dip, dipAzimuth, x0, y0, 0)
	};
}

/** A fault as it was drawn: as it is, or with its dip off by 2°, or its trace by 10 m. */
function roughly(r: Random, fault: FaultSpec, strike: number): FaultSpec {
	const off = pick(['no', 'dip', 'trace'], r);
	const by = r() < 0.5 ? -1 : 1;
	if (off === 'dip') return { ...fault, dip: fault.dip + 2 * by };
	if (off === 'no') return fault;
	const [east, north] = [10 * by * Math.cos(strike * RADIANS), -10 * by * Math.sin(strike * RADIANS)];
	return { ...fault, trace: fault.trace.map(([x, y]): [number, number] => [x + east, y + north]) };
}

interface Kind {
	name: string;
	draw(r: Random): { truth: Truth; input?: Case['input'] };
	/** Of what single imperfections leave, and of what 5 % of wrong codes do. */
	share?: [number, number];
}

const KINDS: Kind[] = [
	{
		name: 'layers',
		draw: (r) => {
			const n = Math.round(between(r, 3, 7));
			const bases = piles(r, n, () => between(r, 20, 80), 0, between(r, -100, -40));
			return { truth: { box: BOX, column: stack(names.slice(0, n + 1)), unitAt: (x, y, z) => below(bases(x, y), z), holes: holes(r) } };
		}
	},
	{
		name: 'uneven',
		draw: (r) => {
			const n = Math.round(between(r, 3, 6));
			const bases = piles(r, n, () => between(r, 25, 80), between(r, 0.2, 0.7), between(r, -100, -40));
			return { truth: { box: BOX, column: stack(names.slice(0, n + 1)), unitAt: (x, y, z) => below(bases(x, y), z), holes: holes(r) } };
		},
		share: [0.98, 0.95]
	},
	{
		name: 'seams',
		draw: (r) => {
			const n = 2 * Math.round(between(r, 2, 5)) + 1;
			let drawn = 0;
			const bases = piles(
				r,
				n,
				() => (drawn++ % 2 === 0 ? between(r, 2, 5) : between(r, 18, 45)),
				between(r, 0.2, 0.5),
				between(r, -90, -40)
			);
			return { truth: { box: BOX, column: stack(names.slice(0, n + 1)), unitAt: (x, y, z) => below(bases(x, y), z), holes: holes(r) } };
		},
		share: [0.98, 0.95]
	},
	{
		name: 'lens',
		draw: (r) => {
			const s = shape(r);
			const [cx, cy, rx, ry, turn, most] = [
				between(r, 350, 650),
				between(r, 350, 650),
				between(r, 220, 420),
				between(r, 200, 320),
				Math.PI * r(),
				between(r, 25, 80)
			];
			const sharp = r() < 0.4;
			return {
				truth: {
					box: BOX,
					column: stack('abcd'),
					unitAt: (x, y, z) => {
						const [u, v] = [(x - cx) * Math.cos(turn) + (y - cy) * Math.sin(turn), (y - cy) * Math.cos(turn) - (x - cx) * Math.sin(turn)];
						const e = Math.max(0, 1 - (u / rx) ** 2 - (v / ry) ** 2);
						const t = most * (sharp ? Math.sqrt(e) : e);
						const middle = -190 + s(x, y);
						return below([middle + 100, middle + t / 2, middle - t / 2], z);
					},
					holes: holes(r)
				}
			};
		},
		share: [0.98, 0.95]
	},
	{
		name: 'fault',
		draw: (r) => {
			const n = Math.round(between(r, 3, 6));
			const bases = piles(r, n, () => between(r, 30, 80), r() < 0.5 ? 0 : 0.3, between(r, -100, -60));
			const [strike, throws] = [between(r, 0, 180), between(r, 15, 80) * (r() < 0.5 ? -1 : 1)];
			const { spec: fault, from } = straight(r, 'f', strike, between(r, 25, 85));
			const drawn = roughly(r, fault, strike);
			return {
				truth: {
					box: BOX,
					column: stack(names.slice(0, n + 1)),
					unitAt: (x, y, z) => below(bases(x, y), z + (from(x, y, z) >= 0 ? throws : 0)),
					holes: holes(r),
					faults: [fault]
				},
				input: () => ({ faults: [drawn] })
			};
		}
	},
	{
		name: 'erosion',
		draw: (r) => {
			const n = Math.round(between(r, 2, 4));
			const [older, e] = [piles(r, n, () => between(r, 40, 90), 0.2, between(r, -140, -60)), waves(r, 1200, 700)];
			const [dip, deep, rough, thick] = [between(r, -0.3, 0.3), between(r, -160, -80), between(r, 10, 35), between(r, 25, 60)];
			return {
				truth: {
					box: BOX,
					column: [['p', 'conformable'], ['q', 'erosional'], ...stack(names.slice(0, n + 1))],
					unitAt: (x, y, z) => {
						const base = deep + rough * e(x, y);
						return below([base + thick, base, ...older(x, y).map((b) => Math.min(b + dip * (x - 500), base))], z);
					},
					holes: holes(r)
				}
			};
		}
	},
	{
		name: 'weathering',
		draw: (r) => {
			const [a, b, high] = [waves(r, 900, 500), waves(r, 320, 200), between(r, 10, 40)];
			const top = (x: number, y: number) => -55 + high * a(x, y) + 8 * b(x, y);
			const n = Math.round(between(r, 2, 4));
			const t = Array.from({ length: n }, () => ({ mean: between(r, 8, 30), of: waves(r, 900, 500) }));
			return {
				truth: {
					box: { ...BOX, minZ: -220 },
					column: stack(names.slice(0, n + 1)),
					unitAt: (x, y, z) => {
						let own = top(x, y);
						return below(
							t.map(({ mean, of }) => (own -= mean * (1 + 0.5 * of(x, y)))),
							z
						);
					},
					holes: grid(r, 9, 8),
					surface: top
				},
				input: () => ({ terrain: terrainOf(top) })
			};
		},
		share: [0.98, 0.93]
	},
	{
		name: 'stock',
		draw: (r) => {
			const [w, s] = [waves(r, 1400, 900), shape(r)];
			const [cx, cy, wide, grows, long] = [
				between(r, 400, 600),
				between(r, 400, 600),
				between(r, 110, 220),
				between(r, -0.4, 0.4),
				between(r, 1, 1.6)
			];
			const [lean, turn, roof] = [between(r, -0.4, 0.4), Math.PI * r(), between(r, -120, -30)];
			return {
				truth: {
					box: BOX,
					column: [['n', 'intrusive'], ...stack('abc')],
					unitAt: (x, y, z) => {
						const [dx, dy] = [x - cx - lean * (z + 200), y - cy];
						const [u, v] = [dx * Math.cos(turn) + dy * Math.sin(turn), dy * Math.cos(turn) - dx * Math.sin(turn)];
						if (z < roof && Math.hypot(u / long, v) < wide + grows * (z + 200) + 15 * w(y, z)) return 0;
						return (
							1 +
							below(
								[-110, -230].map((b) => b + 0.5 * s(x, y)),
								z
							)
						);
					},
					holes: holes(r)
				}
			};
		},
		share: [0.97, 0.95]
	},
	{
		name: 'sheet',
		draw: (r) => {
			const [w, t] = [waves(r, 1300, 900), waves(r, 800, 500)];
			const azimuth = between(r, 0, 360);
			const dip = between(r, 25, 80);
			const from = plane(dip, azimuth, between(r, 420, 580), between(r, 420, 580), -200);
			const [half, share, s] = [between(r, 5, 15), between(r, 0, 0.6), shape(r)];
			return {
				truth: {
					box: BOX,
					column: [['v', 'intrusive'], ...stack('ab')],
					unitAt: (x, y, z) =>
						Math.abs(from(x, y, z) - 10 * w(x + z, y - z)) < half * (1 + share * 1.6 * t(x + z, y - z))
							? 0
							: 1 + below([-200 + 0.4 * s(x, y)], z),
					holes: grid(r, 9, 8).map((h) => ({
						...h,
						azimuth: (azimuth + 180 + between(r, -25, 25)) % 360,
						inclination: -between(r, 50, 70),
						depth: 420
					}))
				}
			};
		},
		share: [0.97, 0.95]
	},
	{
		name: 'two faults',
		draw: (r) => {
			const n = Math.round(between(r, 3, 5));
			const bases = piles(r, n, () => between(r, 35, 80), 0.2, between(r, -100, -60));
			const turn = between(r, 0, 180);
			const faults = [0, 1].map((k) => {
				const strike = (turn + k * between(r, 40, 90)) % 180;
				const own = straight(r, `f${k}`, strike, between(r, 40, 85));
				return { ...own, by: between(r, 20, 60) * (r() < 0.5 ? -1 : 1), drawn: roughly(r, own.spec, strike) };
			});
			return {
				truth: {
					box: BOX,
					column: stack(names.slice(0, n + 1)),
					unitAt: (x, y, z) => below(bases(x, y), z + faults.reduce((s, f) => s + (f.from(x, y, z) >= 0 ? f.by : 0), 0)),
					holes: holes(r),
					faults: faults.map((f) => f.spec)
				},
				input: () => ({ faults: faults.map((f) => f.drawn) })
			};
		}
	},
	{
		name: 'channel',
		draw: (r) => {
			const [s, w] = [shape(r), waves(r, 1500, 900)];
			const [turn, wide, deep, at] = [Math.PI * r(), between(r, 130, 260), between(r, 40, 110), between(r, -80, 80)];
			return {
				truth: {
					box: BOX,
					column: [['q', 'conformable'], ['e', 'erosional'], ...stack('abc')],
					unitAt: (x, y, z) => {
						const d = (x - 500) * Math.cos(turn) + (y - 500) * Math.sin(turn) - at - 60 * w(x, y);
						const top = -60 + 0.2 * s(x, y);
						const base = top - 15 - deep * Math.exp(-((d / wide) ** 2));
						return below([top, base, ...[-120, -190].map((b) => Math.min(b + s(x, y), base))], z);
					},
					holes: holes(r)
				}
			};
		},
		share: [0.98, 0.95]
	},
	{
		name: 'pinch-out',
		draw: (r) => {
			const s = shape(r);
			const [edge, grows, turn] = [between(r, 350, 650), between(r, 0.08, 0.25), 2 * Math.PI * r()];
			const w = waves(r, 1500, 900);
			return {
				truth: {
					box: BOX,
					column: stack('abcde'),
					unitAt: (x, y, z) => {
						const along = (x - 500) * Math.cos(turn) + (y - 500) * Math.sin(turn) + 500 + 60 * w(x, y);
						const [one, two] = [Math.max(0, (along - edge) * grows), Math.max(0, (edge + 60 - along) * grows)];
						const top = -90 + s(x, y);
						return below([top, top - one, top - one - 50, top - one - 50 - two], z);
					},
					holes: holes(r)
				}
			};
		},
		share: [0.98, 0.95]
	}
];

const DAMAGES: [string, Damage | undefined, 0 | 1][] = [
	['none', undefined, 0],
	['a wrong code', oneWrong, 0],
	['any wrong code', (h, t, r) => wrongCodes(h, t, r, 1), 0],
	['5 %', oneInTwenty, 1],
	['1 m', noisy(1), 0],
	['twins 20 m', (h, _, r) => twins(h, r, 20), 0],
	['without unit', withoutUnit, 0],
	['slipped', slipped, 0],
	['gaps', gaps(0.1), 0],
	['rows', inRows(10), 0],
	['5 % of rows', inRows(10, 20), 1]
];

/** Any ground of any kind, with any imperfection. @param only names of the kind and of the imperfection, where they are not drawn, too */
export function anyCase(r: Random, only: { kind?: string | undefined; damage?: string | undefined } = {}): Case & { kind: string } {
	const kind = pick(
		KINDS.filter((k) => !only.kind || k.name === only.kind),
		r
	);
	const { truth, input } = kind.draw(r);
	const [name, damage, much] = pick(
		DAMAGES.filter(([d]) => (!only.damage || d === only.damage) && (d !== 'twins 20 m' || truth.box.minZ === BOX.minZ)),
		r
	);
	const share = (kind.share ?? [0.985, 0.95])[much];
	return {
		name: `${kind.name}, ${name}`,
		kind: kind.name,
		truth: () => truth,
		...(damage ? { damage } : {}),
		...(input ? { input } : {}),
		aim: { share, ...(kind.name === 'sheet' || kind.name === 'stock' ? { overlap: much ? 0.6 : 0.75 } : { volume: much ? 0.1 : 0.05 }) }
	};
}

/** So many random grounds, and those that miss what their kind is to reach. Bodies that five holes meet are known within a fifth; what is missed is printed to be looked at. */
export async function benchAny(count: number, first: number, kind?: string, damage?: string): Promise<void> {
	console.log(
		`\n${count} grounds drawn at random, ${KINDS.length} kinds, ${DAMAGES.length} imperfections, about 70 holes; those that miss their aims`
	);
	const byKind = new Map(KINDS.map((k) => [k.name, { missed: 0, of: 0 }]));
	for (let s = first; s < first + count; s++) {
		const { kind: own, ...c } = anyCase(random(s * 7919 + 13), { kind, damage });
		const o = await run(c, s);
		const missed = [
			...(o.crash ? [`CRASH ${o.crash}`] : []),
			...(o.share < (c.aim.share ?? 0) ? [`share ${o.share.toFixed(3)}`] : []),
			...(o.volume > (c.aim.volume ?? Infinity) ? [`volume ${(100 * o.volume).toFixed(1)} % ${o.unit}`] : []),
			...(o.overlap < (c.aim.overlap ?? 0) ? [`overlap ${o.overlap.toFixed(2)}`] : []),
			...(o.named < NAMED * o.damaged ? [`named ${o.named} of ${o.damaged}`] : []),
			...(o.far < FAR ? [`far ${o.far.toFixed(4)}`] : []),
			...(o.accused > MOST_ACCUSED ? [`accused ${(100 * o.accused).toFixed(1)} %`] : [])
		];
		const sum = byKind.get(own)!;
		sum.of++;
		if (!missed.length) continue;
		sum.missed++;
		console.log(`${String(s).padEnd(6)}${c.name.padEnd(28)}${missed.join(', ')}`);
	}
	for (const [kind, { missed, of }] of byKind) if (of) console.log(`${kind.padEnd(12)} ${of - missed} of ${of}`);
}
