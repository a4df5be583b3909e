import { describe, expect, it } from 'vitest';
import { evaluateField } from './field-kernel';
import type { FieldData } from './data';
import { evaluatePlain, gradientAt, inBlock, valueAt } from './field';
import { fitField } from './fit';
import { eachPatch } from './local';

const random = (seed: number) => {
	let s = seed;
	return () => (s = (s * 48271) % 2147483647) / 2147483647;
};
const wavy = (x: number, y: number) => 40 * Math.sin(x / 180) + 25 * Math.cos(y / 130);
/** Contacts of three wavy surfaces, cut by a fault at x = 1000 that drops the east by 60. */
function contacts(n: number, seed: number, faulted = false): FieldData {
	const r = random(seed);
	const points = Array.from({ length: n }, (_, i) => {
		const [x, y] = [2000 * r(), 2000 * r()];
		const east = faulted && x > 1000;
		return { x, y, z: wavy(x, y) - 90 * (i % 3) - (east ? 60 : 0), group: i % 3, block: east ? 1 : 0 };
	});
	return { groupCount: 3, faultCount: faulted ? 1 : 0, points, values: [], gradients: [], bounds: [] };
}

describe('a field of many contacts', () => {
	const data = contacts(3600, 3);
	const { field, unsettled } = fitField(data, { range: 2800 });
	const b = inBlock(field, 0);

	it('is fitted in patches and honours every contact', () => {
		expect(field.local).not.toBeNull();
		expect(field.weights.length).toBeLessThan(1000);
		expect(unsettled).toEqual([]);
		for (const p of data.points) expect(Math.abs(valueAt(b, p.x, p.y, p.z) - field.levels[p.group]!) * field.unit).toBeLessThan(1e-3);
	});

	it('lies nearer to the truth between contacts than one of a tenth of them', () => {
		const off = (n: number) => {
			const f = fitField(contacts(n, 3), { range: 2800 }).field;
			const own = inBlock(f, 0);
			const r = random(77);
			let sum = 0;
			for (let i = 0; i < 400; i++) {
				const [x, y, g] = [150 + 1700 * r(), 150 + 1700 * r(), i % 3];
				sum += ((valueAt(own, x, y, wavy(x, y) - 90 * g) - f.levels[g]!) * f.unit) ** 2;
			}
			return Math.sqrt(sum / 400);
		};
		const [few, many] = [off(360), off(3600)];
		expect(many).toBeLessThan(few / 4);
		expect(many).toBeLessThan(0.6);
	});

	it('is the same from the kernel and from its plain twin', () => {
		const r = random(5);
		const xyz = Float64Array.from({ length: 3 * 700 }, (_, i) => (i % 3 === 2 ? -400 + 600 * r() : -300 + 2600 * r()));
		const plain = new Float64Array(700);
		evaluatePlain(b, xyz, plain);
		evaluateField(field, 0, xyz).forEach((v, i) => expect(v).toBeCloseTo(plain[i]!, 10));
	});

	it('has the gradient of its own values, across the seams of patches too', () => {
		const e = 1e-3;
		const r = random(9);
		for (let i = 0; i < 60; i++) {
			const p: [number, number, number] = [2000 * r(), 2000 * r(), -250 + 300 * r()];
			const g = gradientAt(b, ...p);
			for (let c = 0; c < 3; c++) {
				const [up, down] = [[...p], [...p]] as [[number, number, number], [number, number, number]];
				up[c]! += e;
				down[c]! -= e;
				expect(((valueAt(b, ...up) - valueAt(b, ...down)) / (2 * e)) * field.unit).toBeCloseTo(g[c]!, 4);
			}
		}
	});

	it('has weights of patches that sum to one wherever all cells have patches', () => {
		const full = { ...field.local!, patchOf: field.local!.patchOf.map((_, i) => i) };
		const r = random(4);
		for (let i = 0; i < 200; i++) {
			let sum = 0;
			const at = (c: 0 | 1 | 2) => full.origin[c] + full.cell * (1 + (full.size[c] - 2) * r());
			eachPatch(full, at(0), at(1), at(2), (_, w) => (sum += w));
			expect(sum).toBeCloseTo(1, 12);
		}
	});

	it('does not depend on the order of the data', () => {
		const other = fitField({ ...data, points: [...data.points].reverse() }, { range: 2800 }).field;
		expect(other.weights).toEqual(field.weights);
		expect(other.local!.weights).toEqual(field.local!.weights);
	});

	it('keeps to bounds that it would break', () => {
		// A hole that stays above the first surface down to far below where the contacts put it.
		const bound = { x: 777, y: 888, z: wavy(777, 888) - 12, group: 0, sense: 1 as const, block: 0, source: 'deep' };
		const fit = fitField({ ...data, bounds: [bound] }, { range: 2800 });
		const own = inBlock(fit.field, 0);
		expect(valueAt(b, bound.x, bound.y, bound.z)).toBeLessThan(field.levels[0]!);
		expect(valueAt(own, bound.x, bound.y, bound.z) - fit.field.levels[0]!).toBeGreaterThan(-1e-6);
	});

	it('jumps across a fault, and nowhere else', () => {
		const faulted = contacts(3000, 8, true);
		const f = fitField(faulted, { range: 2800 }).field;
		const [west, east] = [inBlock(f, 0), inBlock(f, 1)];
		for (const y of [200, 900, 1500]) {
			const z = wavy(1000, y);
			expect(Math.abs((valueAt(west, 1000, y, z) - f.levels[0]!) * f.unit)).toBeLessThan(2);
			expect(Math.abs((valueAt(east, 1000, y, z - 60) - f.levels[0]!) * f.unit)).toBeLessThan(2);
		}
	});

	it('with contacts at one place that contradict each other is refused or smoothed, never garbage', () => {
		const twice = { ...data, points: [...data.points, ...data.points.slice(0, 40).map((p) => ({ ...p, z: p.z + 0.002 }))] };
		const own = fitField(twice, { range: 2800 }).field;
		const near = inBlock(own, 0);
		for (const p of data.points.slice(100, 200))
			expect(Math.abs(valueAt(near, p.x, p.y, p.z) - own.levels[p.group]!) * own.unit).toBeLessThan(0.5);
	});

	it('takes a nugget as the error of a datum', () => {
		const wild = { ...data.points[17]!, z: data.points[17]!.z + 30 };
		const points = data.points.map((p, i) => (i === 17 ? { ...wild, nugget: 1 } : p));
		const own = fitField({ ...data, points }, { range: 2800 }).field;
		const off = Math.abs(valueAt(inBlock(own, 0), wild.x, wild.y, wild.z) - own.levels[wild.group]!) * own.unit;
		expect(off).toBeGreaterThan(10);
	});
});

describe('a field of many contacts and orientations', () => {
	const slope = (x: number, y: number) => [(40 / 180) * Math.cos(x / 180), -(25 / 130) * Math.sin(y / 130)] as const;
	const r = random(21);
	const gradients = Array.from({ length: 400 }, () => {
		const [x, y] = [2000 * r(), 2000 * r()];
		const [sx, sy] = slope(x, y);
		const n = Math.hypot(sx, sy, 1);
		return { x, y, z: wavy(x, y) - 45, gradient: [-sx / n, -sy / n, 1 / n] as [number, number, number], block: 0 };
	});
	const data = { ...contacts(900, 5), gradients };
	const { field } = fitField(data, { range: 2800 });
	const b = inBlock(field, 0);

	it('has them in its patches, and lies as they say', () => {
		expect(field.local!.gradientPoints.length).toBeGreaterThan(0);
		const off = gradients.map((g) => {
			const at = gradientAt(b, g.x, g.y, g.z);
			const cos = (at[0] * g.gradient[0] + at[1] * g.gradient[1] + at[2] * g.gradient[2]) / Math.hypot(...at);
			return (Math.acos(Math.min(1, cos)) * 180) / Math.PI;
		});
		const sorted = off.sort((p, q) => p - q);
		expect(sorted[200]).toBeLessThan(1.5);
		expect(sorted[380]).toBeLessThan(8);
	});

	it('still honours every contact', () => {
		for (const p of data.points) expect(Math.abs(valueAt(b, p.x, p.y, p.z) - field.levels[p.group]!) * field.unit).toBeLessThan(1e-3);
	});

	it('has the same values by the kernel, and gradients that fit its values', () => {
		const xyz = Float64Array.from({ length: 300 }, (_, i) => [2000 * r(), 2000 * r(), -150 + 200 * r()][i % 3]!);
		const plain = new Float64Array(100);
		evaluatePlain(b, xyz, plain);
		evaluateField(field, 0, xyz).forEach((v, i) => expect(v).toBeCloseTo(plain[i]!, 9));
		const h = 0.01;
		for (let i = 0; i < 30; i++) {
			const [x, y, z] = [xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!];
			const g = gradientAt(b, x, y, z);
			expect(g[2]).toBeCloseTo(((valueAt(b, x, y, z + h) - valueAt(b, x, y, z - h)) / (2 * h)) * field.unit, 4);
			expect(g[0]).toBeCloseTo(((valueAt(b, x + h, y, z) - valueAt(b, x - h, y, z)) / (2 * h)) * field.unit, 4);
		}
	});
});
