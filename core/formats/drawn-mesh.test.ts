import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { BlockMesh } from '../model/blocks';
import { seededRandom } from '../statistics/random';
import { decodeDrawnMesh, encodeDrawnMesh, partsOfDrawn } from './drawn-mesh';
import { readPack, writePack } from './pack';

function mesh(seed: number, vertices: number, count: number): BlockMesh {
	const { uniform } = seededRandom(seed);
	const label = () => Int16Array.from({ length: count }, () => Math.floor(4 * uniform()) - 1);
	return {
		positions: Float64Array.from({ length: 3 * vertices }, () => 402_000 + 900 * uniform()),
		triangles: Uint32Array.from({ length: 3 * count }, () => Math.floor(vertices * uniform())),
		front: label(),
		back: label(),
		surface: label(),
		frontBlock: label(),
		backBlock: label(),
		volumes: new Map()
	};
}
/** Triangles as their labels and rounded corners, sorted: what is drawn, whatever the order. */
const drawn = (m: Omit<BlockMesh, 'volumes'>, step: number) =>
	Array.from(m.front, (f, t) =>
		[
			f,
			m.back[t],
			m.surface[t],
			m.frontBlock[t],
			m.backBlock[t],
			...[0, 1, 2].flatMap((c) => [0, 1, 2].map((a) => Math.round((m.positions[3 * m.triangles[3 * t + c]! + a]! - 402_000) / (4 * step))))
		].join()
	).sort();

describe('a model as it is drawn', () => {
	it('has the same triangles with the same labels, to half a step', () => {
		fc.assert(
			fc.property(
				fc.integer({ min: 1, max: 1e6 }),
				fc.integer({ min: 3, max: 60 }),
				fc.integer({ min: 0, max: 200 }),
				fc.integer({ min: 1, max: 80 }),
				(seed, vertices, count, most) => {
					const m = mesh(seed, vertices, count);
					const packs = encodeDrawnMesh(m, 0.02, most);
					expect(packs).toHaveLength(Math.max(1, Math.ceil(count / most)));
					// Parts come as they come.
					const back = decodeDrawnMesh(packs.map((p) => readPack(writePack(p))).reverse());
					expect(back.front.length).toBe(count);
					// Vertices that are shared stay shared, and no other ones come together.
					expect(new Set(back.triangles).size).toBe(new Set(m.triangles).size);
					const corners = (x: Omit<BlockMesh, 'volumes'>) =>
						[...x.triangles].flatMap((v) => [0, 1, 2].map((a) => x.positions[3 * v + a]!)).sort((a, b) => a - b);
					const [was, is] = [corners(m), corners(back)];
					was.forEach((v, i) => expect(Math.abs(v - is[i]!)).toBeLessThanOrEqual(0.0100001));
				}
			),
			{ numRuns: 60 }
		);
	});
	it('keeps the sense of each triangle and its own labels', () => {
		const m = mesh(7, 40, 120);
		m.positions.forEach((v, i) => (m.positions[i] = 402_000 + Math.round((v - 402_000) / 0.08) * 0.08));
		expect(drawn(decodeDrawnMesh(encodeDrawnMesh(m, 0.02)), 0.02)).toEqual(drawn(m, 0.02));
	});
	it('is the same in one part or in many', () => {
		const m = mesh(8, 90, 300);
		const whole = decodeDrawnMesh(encodeDrawnMesh(m, 0.02));
		for (const most of [1, 7, 150, 299, 300, 5000]) expect(decodeDrawnMesh(encodeDrawnMesh(m, 0.02, most))).toEqual(whole);
	});
	it('of which a part is missing, came twice or is of another model is refused', () => {
		const packs = encodeDrawnMesh(mesh(4, 60, 200), 0.02, 50);
		const others = encodeDrawnMesh(mesh(5, 60, 210), 0.02, 50);
		expect(packs.map(partsOfDrawn)).toEqual([4, 4, 4, 4]);
		for (const wrong of [packs.slice(1), packs.slice(0, 3), [...packs, packs[0]!], [packs[0]!, packs[1]!, packs[1]!, packs[3]!]])
			expect(() => decodeDrawnMesh(wrong)).toThrow('did not arrive whole');
		expect(() => decodeDrawnMesh([...packs.slice(0, 3), others[3]!])).toThrow('did not arrive whole');
	});
	it('that did not arrive whole is refused, not drawn wrong or for ever', () => {
		const pack = encodeDrawnMesh(mesh(3, 30, 80), 0.02)[0]!;
		for (const name of ['runs', 'corners', 'places']) {
			const cut = { ...pack, arrays: { ...pack.arrays, [name]: pack.arrays[name]!.slice(0, -3) as Uint8Array } };
			expect(() => decodeDrawnMesh([cut])).toThrow('did not arrive whole');
			const odd = { ...pack, arrays: { ...pack.arrays, [name]: new Uint8Array(pack.arrays[name]!.length).fill(255) } };
			expect(() => decodeDrawnMesh([odd])).toThrow('did not arrive whole');
		}
	});
});
