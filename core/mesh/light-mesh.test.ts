import { describe, expect, it } from 'vitest';
import { p10, p6 } from '../../bench/grounds';
import { sampled } from '../../bench/sampled';
import { LABELS, decodeDrawnMesh, encodeDrawnMesh } from '../formats/drawn-mesh';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import type { SolidMesh } from './cut-lattice';
import { drawingOrder, inDrawingOrder } from './drawing-order';
import { volumeOf, solidOf } from './extract';
import { lightMesh } from './light-mesh';

const built = async (truth: Parameters<typeof sampled>[0], spacing: number) =>
	(await buildModel(fitGround(sampled(truth)), { spacing })).mesh;
/** Edges of a solid that an odd number of its triangles have. */
function oddEdges(mesh: SolidMesh, unit: number): number {
	const { triangles } = solidOf(mesh, unit);
	const count = new Map<string, number>();
	for (let t = 0; t < triangles.length; t += 3)
		for (let c = 0; c < 3; c++) {
			const [a, b] = [triangles[t + c]!, triangles[t + ((c + 1) % 3)]!];
			const key = `${Math.min(a, b)} ${Math.max(a, b)}`;
			count.set(key, (count.get(key) ?? 0) + 1);
		}
	return [...count.values()].filter((n) => n % 2).length;
}

describe('a model with few triangles', async () => {
	const mesh = await built(p6(), 60);
	it('is the same where it has few enough', () => expect(lightMesh(mesh, mesh.front.length)).toBe(mesh));

	it.each([20_000, 6_000, 1_000, 400])('has at most %d of them, closed solids, and the box as it was', (most) => {
		expect(mesh.front.length).toBeGreaterThan(most);
		const light = lightMesh(mesh, most);
		expect(light.front.length).toBeLessThanOrEqual(most);
		expect(light.triangles.every((v) => 3 * v < light.positions.length)).toBe(true);
		expect(light.volumes).toBe(mesh.volumes);
		for (const unit of mesh.volumes.keys()) expect([unit, oddEdges(light, unit)]).toEqual([unit, 0]);
		for (const c of [0, 1, 2]) {
			const range = ({ positions }: SolidMesh) => {
				const own = positions.filter((_, i) => i % 3 === c);
				return [Math.min(...own), Math.max(...own)];
			};
			expect(range(light)).toEqual(range(mesh));
		}
	});

	it('has the volumes of its solids nearly, where they are not thinner than its cells', () => {
		const light = lightMesh(mesh, 15_000);
		for (const [unit, volume] of mesh.volumes) expect(Math.abs(volumeOf(solidOf(light, unit)) / volume - 1)).toBeLessThan(0.03);
	});

	it('keeps the sides of faults apart', async () => {
		const faulted = await built(p10(), 100);
		const light = lightMesh(faulted, faulted.front.length >> 2);
		for (const unit of faulted.volumes.keys()) expect(oddEdges(light, unit)).toBe(0);
		expect(new Set(light.surface)).toEqual(new Set(faulted.surface));
	});
});

describe('the order of drawing', async () => {
	const mesh = { ...(await built(p10(), 100)) };
	const own = { ...mesh, frontBlock: mesh.front, backBlock: mesh.back };
	const ordered = inDrawingOrder(own, LABELS);

	it('is that in which a drawn model arrives: what is told by vertex fits it', () => {
		const drawn = decodeDrawnMesh(encodeDrawnMesh(ordered, 0.5));
		expect(drawn.triangles).toEqual(ordered.triangles);
		expect(drawn.positions.length).toBe(ordered.positions.length);
		drawn.positions.forEach((v, i) => expect(Math.abs(v - ordered.positions[i]!)).toBeLessThanOrEqual(0.2501));
	});

	it('changes no solid, and is that of itself', () => {
		for (const [unit, volume] of mesh.volumes) expect(volumeOf(solidOf(ordered, unit)) / volume).toBeCloseTo(1, 9);
		const again = drawingOrder(
			ordered,
			LABELS.map((l) => ordered[l])
		);
		expect([...again.triangles].every((t, i) => t === i)).toBe(true);
		expect([...again.vertices].every((v, i) => v === i)).toBe(true);
	});
});
