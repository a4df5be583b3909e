import fc from 'fast-check';
import { expect, it } from 'vitest';
import { decodeDrawnRaster, encodeDrawnRaster } from './drawn-raster';
import { readPack, writePack } from './pack';

const raster = (values: number[]) => ({ x0: 5, y0: 6, dx: 10, dy: 20, nx: values.length, ny: 1, values: Float32Array.from(values) });

it('a grid as it is drawn has its values to a share of their range, and its gaps', () => {
	fc.assert(
		fc.property(fc.array(fc.oneof(fc.float({ min: -5000, max: 9000, noNaN: true }), fc.constant(NaN)), { maxLength: 80 }), (values) => {
			const r = raster(values);
			const back = decodeDrawnRaster(readPack(writePack(encodeDrawnRaster(r))));
			expect({ ...back, values: 0 }).toEqual({ ...r, values: 0 });
			const finite = r.values.filter((v) => !Number.isNaN(v));
			const step = (Math.max(...finite) - Math.min(...finite)) / 65_535;
			r.values.forEach((v, i) =>
				Number.isNaN(v) ? expect(back.values[i]).toBeNaN() : expect(Math.abs(v - back.values[i]!)).toBeLessThanOrEqual(0.51 * step + 1e-3)
			);
		})
	);
});
it('that did not arrive whole is refused', () => {
	const pack = encodeDrawnRaster(raster([1, 2, 3, 4]));
	expect(() => decodeDrawnRaster({ ...pack, arrays: { values: pack.arrays['values']!.slice(0, 2) as Uint8Array } })).toThrow(
		'did not arrive whole'
	);
	expect(() => decodeDrawnRaster({ ...pack, arrays: { values: new Uint8Array(16).fill(250) } })).toThrow('did not arrive whole');
});
