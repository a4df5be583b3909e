import { describe, expect, it } from 'vitest';
import { p1, p3 } from '../../bench/problems';
import { writeImageData } from '../formats/image-data';
import { ensemble, perturb, type Errors } from './ensemble';

const none: Errors = { contact: 0, orientation: 0, faultDip: 0, faultTrace: 0 };
const some: Errors = { contact: 10, orientation: 5, faultDip: 4, faultTrace: 15 };

describe('moved data', () => {
	const { input } = p3();
	it('without errors are the data', () => expect(perturb(input, none, 5)).toEqual(input));
	it('are the same for the same seed, and others for another', () => {
		expect(perturb(input, some, 5)).toEqual(perturb(input, some, 5));
		expect(perturb(input, some, 6).contacts).not.toEqual(perturb(input, some, 5).contacts);
	});
	it('do not depend on the order of rows', () => {
		const turned = perturb({ ...input, contacts: [...input.contacts].reverse() }, some, 5).contacts.reverse();
		expect(turned).toEqual(perturb(input, some, 5).contacts);
	});
	it('have the spread that was asked for', () => {
		const by = perturb(input, some, 9).contacts.map((c, i) => c.z - input.contacts[i]!.z);
		const sd = Math.sqrt(by.reduce((s, v) => s + v * v, 0) / by.length);
		expect(sd).toBeGreaterThan(8);
		expect(sd).toBeLessThan(12);
		expect(Math.abs(by.reduce((s, v) => s + v, 0) / by.length)).toBeLessThan(2.5);
	});
	it('stay angles: dips within 0 and 90, overturned when they pass it', () => {
		const steep = {
			...input,
			orientations: Array.from({ length: 200 }, (_, i) => ({
				x: i,
				y: 0,
				z: 0,
				dip: i % 2 ? 1 : 89,
				dipAzimuth: 10,
				polarity: 1 as const,
				unit: 0
			}))
		};
		const moved = perturb(steep, { ...some, orientation: 8 }, 3).orientations;
		for (const o of moved) {
			expect(o.dip).toBeGreaterThanOrEqual(0);
			expect(o.dip).toBeLessThanOrEqual(90);
			expect(o.dipAzimuth).toBeGreaterThanOrEqual(0);
			expect(o.dipAzimuth).toBeLessThan(360);
		}
		expect(moved.some((o) => o.polarity === -1)).toBe(true);
	});
});

describe('an ensemble', () => {
	const { input } = p1();
	it('without errors is sure of everything', async () => {
		const e = await ensemble(input, { members: 3, spacing: 200, errors: none, seed: 1 });
		expect([e.members, e.failed]).toEqual([3, 0]);
		expect(Math.max(...e.entropy)).toBe(0);
		for (const v of e.volumes) expect([v.p10, v.p90]).toEqual([v.model, v.model]);
		expect(e.volumes.reduce((s, v) => s + v.p50, 0)).toBeCloseTo(4e9, 0);
	});
	it('has probabilities that sum to one, doubt near the contacts only, and volumes about those of the model', async () => {
		const e = await ensemble(input, { members: 24, spacing: 100, errors: { ...none, contact: 12 }, seed: 4 });
		const cells = e.size[0] * e.size[1] * e.size[2];
		for (let i = 0; i < cells; i += 17) {
			let sum = 0;
			for (let u = 0; u < 4; u++) sum += e.probability[u * cells + i]!;
			expect(sum).toBeCloseTo(1, 6);
		}
		const sure = e.entropy.filter((v) => v === 0).length;
		expect(sure / cells).toBeGreaterThan(0.5);
		expect(sure).toBeLessThan(cells);
		for (const v of e.volumes) {
			expect(v.p10).toBeLessThanOrEqual(v.p50);
			expect(v.p50).toBeLessThanOrEqual(v.p90);
			expect(Math.abs(v.p50 / v.model - 1)).toBeLessThan(0.06);
		}
	});
	it('is the same for the same seed', async () => {
		const options = { members: 4, spacing: 250, errors: some, seed: 11 };
		expect(await ensemble(input, options)).toEqual(await ensemble(input, options));
	});
	it('can be stopped, and says how far it is', async () => {
		const stop = new AbortController();
		const said: string[] = [];
		await expect(
			ensemble(input, {
				members: 50,
				spacing: 250,
				errors: some,
				seed: 1,
				signal: stop.signal,
				progress: (what) => said.push(what) && said.length === 3 && stop.abort()
			})
		).rejects.toThrow();
		expect(said).toEqual(['model 1 of 50', 'model 2 of 50', 'model 3 of 50']);
	});
});

describe('VTK image data', () => {
	it('hold the arrays one after the other, with harmless names', () => {
		const bytes = writeImageData(
			[2, 1, 1],
			[10, 20, -5],
			[1, 2, 3],
			[
				{ name: 'a "b" <c>', values: Float32Array.of(1.5, 2) },
				{ name: 'd', values: Float32Array.of(3, NaN) }
			]
		);
		const text = new TextDecoder('latin1').decode(bytes);
		expect(text).toContain('WholeExtent="0 2 0 1 0 1" Origin="10 20 -5" Spacing="1 2 3"');
		expect(text).toContain('Name="a b c" format="appended" offset="0"');
		expect(text).toContain('Name="d" format="appended" offset="12"');
		const start = text.indexOf('>_') + 2;
		const view = new DataView(bytes.buffer, start);
		expect([view.getUint32(0, true), view.getFloat32(4, true), view.getUint32(12, true), view.getFloat32(16, true)]).toEqual([
			8, 1.5, 8, 3
		]);
	});
});

it('the entropy of a cell is that of its probabilities over the logarithm of the number of units', async () => {
	const { input } = p1();
	const e = await ensemble(input, { members: 12, spacing: 200, errors: { ...none, contact: 40 }, seed: 2 });
	const cells = e.size[0] * e.size[1] * e.size[2];
	let doubted = 0;
	for (let i = 0; i < cells; i++) {
		let sum = 0;
		for (let u = 0; u < 4; u++) {
			const p = e.probability[u * cells + i]!;
			if (p > 0) sum -= p * Math.log2(p);
		}
		expect(e.entropy[i]).toBeCloseTo(sum / 2, 5);
		if (sum > 0) doubted++;
	}
	expect(doubted).toBeGreaterThan(10);
});
