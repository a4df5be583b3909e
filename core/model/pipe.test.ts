import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { random } from '../../bench/problems';
import { logsOf, seenIn, type Truth } from '../../bench/sampled';
import { fitGround } from './fit-ground';
import { distanceInside, fitPipe, inwardAt, placesOnPipe, radiusOf } from './pipe';
import { unitAt } from './walk';

/** Holes of a grid, with places every 20 m; each known to be inside or outside. */
const seenOf = (inside: (x: number, y: number, z: number) => boolean, seed = 1, apart = 60) => {
	const r = random(seed);
	return Array.from({ length: 16 * 16 }, (_, i) => {
		const [x, y] = [apart * ((i % 16) + 0.4 * r()), apart * (Math.floor(i / 16) + 0.4 * r())];
		return Array.from({ length: 11 }, (_, k) => ({ x, y, z: -20 * k, hole: `H${i}`, inside: inside(x, y, -20 * k) }));
	}).flat();
};

describe('the pipe that parts inside from outside', () => {
	it('lies where an ellipse that leans and narrows lies', () => {
		fc.assert(
			fc.property(
				fc.double({ min: -0.6, max: 0.6, noNaN: true }),
				fc.double({ min: -0.6, max: 0.6, noNaN: true }),
				fc.integer({ min: 1, max: 1000 }),
				(leanX, leanY, seed) => {
					const away = (x: number, y: number, z: number) =>
						Math.hypot((x - 480 - leanX * (z + 100)) / 1.4, y - 470 - leanY * (z + 100)) - 160 - 0.1 * (z + 100);
					const pipe = fitPipe(
						[],
						seenOf((x, y, z) => away(x, y, z) < 0, seed)
					)!;
					expect(Math.abs(radiusOf(pipe) / (160 * 1.2) - 1)).toBeLessThan(0.25);
					const places = placesOnPipe(pipe, [-180, -100, -20], 24);
					expect(places).toHaveLength(72);
					const off = places.map((p) => away(p.x, p.y, p.z));
					expect(Math.sqrt(off.reduce((s, d) => s + d * d, 0) / off.length)).toBeLessThan(15);
					for (const p of places) {
						expect(Math.abs(distanceInside(pipe, p))).toBeLessThan(1e-6);
						const [u, v, w] = inwardAt(pipe, p);
						expect(distanceInside(pipe, { x: p.x + 5 * u, y: p.y + 5 * v, z: p.z + 5 * w })).toBeGreaterThan(4);
					}
				}
			),
			{ numRuns: 20, seed: 3 }
		);
	});

	it.each([
		['a roof', -50, -Infinity],
		['a floor', Infinity, -150],
		['both', -40, -160]
	])('is its wall, whatever %s it has', (_, roof, floor) => {
		const away = (x: number, y: number, z: number) => Math.hypot(x - 470 - 0.3 * z, y - 470) - 165;
		const pipe = fitPipe(
			[],
			seenOf((x, y, z) => z < roof && z > floor && away(x, y, z) < 0, 4)
		)!;
		const places = placesOnPipe(pipe, [-140, -100, -60], 24);
		expect(places).toHaveLength(72);
		const off = places.map((p) => away(p.x, p.y, p.z));
		expect(Math.sqrt(off.reduce((s, d) => s + d * d, 0) / off.length)).toBeLessThan(12);
		expect(pipe.misfit / radiusOf(pipe)).toBeLessThan(0.1);
		expect([...pipe.off.values()].every((d) => d < 0.4 * radiusOf(pipe))).toBe(true);
	});

	it('tells which hole is off it, and by how much', () => {
		const seen = seenOf((x, y) => Math.hypot(x - 480, y - 480) < 170, 5);
		const { hole } = seen.filter((o) => Math.hypot(o.x - 800, o.y - 480) < 60)[0]!;
		const pipe = fitPipe(
			[],
			seen.map((o) => (o.hole === hole ? { ...o, inside: true } : o))
		)!;
		const [[worst, by]] = [...pipe.off].sort((a, b) => b[1] - a[1]) as [[string, number]];
		expect(worst).toBe(hole);
		expect(by).toBeGreaterThan(80);
	});

	it('does not depend on the order of what was seen', () => {
		const seen = seenOf((x, y) => Math.hypot(x - 500, y - 400) < 170);
		expect(fitPipe([], [...seen].reverse())).toEqual(fitPipe([], seen));
	});

	it('tells that two bodies are no pipe', () => {
		const two = fitPipe(
			[],
			seenOf((x, y) => Math.min(Math.hypot(x - 300, y - 480), Math.hypot(x - 660, y - 480)) < 120)
		);
		const one = fitPipe(
			[],
			seenOf((x, y) => Math.hypot(x - 500, y - 480) < 170)
		);
		expect(one!.misfit / radiusOf(one!)).toBeLessThan(0.1);
		expect(two === null || two.misfit / radiusOf(two) > 0.2).toBe(true);
	});

	it('is none where few holes, or all, are inside', () => {
		expect(
			fitPipe(
				[],
				seenOf((x, y) => Math.hypot(x - 480, y - 480) < 40)
			)
		).toBeNull();
		expect(
			fitPipe(
				[],
				seenOf(() => true)
			)
		).toBeNull();
		expect(fitPipe([], [])).toBeNull();
	});
});

describe('a body whose boundary no hole crosses', () => {
	const ground = (seed: number, inside: (x: number, y: number) => boolean): Truth => {
		const r = random(seed);
		return {
			box: { minX: 0, minY: 0, minZ: -400, maxX: 1000, maxY: 1000, maxZ: 0 },
			column: [
				['n', 'intrusive'],
				['a', 'conformable'],
				['b', 'conformable']
			],
			unitAt: (x, y, z) => (inside(x, y) ? 0 : z > -130 - 0.05 * x ? 1 : 2),
			holes: Array.from({ length: 72 }, (_, i) => ({
				x: 111 * ((i % 9) + 0.35 + 0.3 * r()),
				y: 125 * (Math.floor(i / 9) + 0.35 + 0.3 * r()),
				depth: 300
			}))
		};
	};
	/** Common volume of what is modelled and the truth above the ends of the holes, as a share of both; and what was found. */
	const modelled = (t: Truth, opens: 'down' | undefined) => {
		const { input } = seenIn(t, logsOf(t), {
			column: t.column.map(([id, contact]) => ({ id, name: id, contact, ...(id === 'n' && opens ? { opens } : {}) }))
		} as never);
		const fitted = fitGround(input);
		const at = unitAt(fitted);
		let [both, either] = [0, 0];
		for (let z = -20; z > -280; z -= 40)
			for (let x = 10; x < 1000; x += 20)
				for (let y = 10; y < 1000; y += 20) {
					const [u, v] = [t.unitAt(x, y, z) === 0, at(x, y, z) === 0];
					if (u && v) both++;
					if (u || v) either++;
				}
		return { overlap: both / either, kinds: fitted.findings.map((f) => f.kind), below: at(500, 480, -390) };
	};

	it('is drawn between the holes that are in it and those beside, and that is said', () => {
		for (const seed of [1, 2, 3]) {
			const round = modelled(
				ground(seed, (x, y) => Math.hypot((x - 500) / 1.2, y - 480) < 190),
				'down'
			);
			// About ten holes are inside: more can not be told from them.
			expect(round.overlap).toBeGreaterThan(0.65);
			expect(round.kinds).toContain('boundary-not-met');
			expect(round.below).toBe(0);
			const edged = modelled(
				ground(seed, (x, y) => Math.abs(x - 500) < 120 && Math.abs(y - 500) < 260),
				undefined
			);
			expect(edged.overlap).toBeGreaterThan(0.6);
			expect(edged.kinds).toEqual(expect.arrayContaining(['boundary-not-met', 'body-closes']));
		}
	});

	it('is left out where it is said to be a sheet: a sheet needs walls', () => {
		const t = ground(1, (x, y) => Math.hypot(x - 500, y - 480) < 190);
		const { input } = seenIn(t, logsOf(t), {
			column: t.column.map(([id, contact]) => ({ id, name: id, contact, ...(id === 'n' ? { form: 'sheet' } : {}) }))
		} as never);
		expect(fitGround(input).findings.map((f) => f.kind)).toContain('intrusion-not-met');
	});
});
