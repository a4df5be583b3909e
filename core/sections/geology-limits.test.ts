import { expect, it } from 'vitest';
import { p1 } from '../../bench/problems';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import { geologyAtSurface, ringArea } from './geology-map';

it('the geology at the surface of a model with limits holds units only, and ends at the outline', async () => {
	const { input } = p1();
	const trace: [number, number][] = [
		[400, 400],
		[1600, 400],
		[1600, 1600],
		[400, 1600]
	];
	// A terrain inside the box, so that the outline cuts it.
	const terrain = { x0: 0, y0: 0, dx: 2000, dy: 2000, nx: 2, ny: 2, values: Float32Array.of(-50, -50, -50, -50) };
	const { mesh } = await buildModel(fitGround({ ...input, terrain, limits: [{ kind: 'outline', trace }] }), { spacing: 100 });
	const rings = geologyAtSurface(mesh, true);
	expect([...rings.keys()].every((u) => u >= 0)).toBe(true);
	const area = [...rings.values()].flat().reduce((s, r) => s + ringArea(r), 0);
	expect(area / 1200 ** 2).toBeCloseTo(1, 1);
});
