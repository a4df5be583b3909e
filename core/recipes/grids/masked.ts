import { insideOf } from '../../grids/mask';
import type { Raster } from '../../grids/raster';
import { fail } from '../../problem';
import { featuresOf } from '../opened';
import type { Given } from '../recipe';

/**
 * Takes the values of cells outside of outlines away.
 * @returns how many had one
 * @throws ProblemError `no-face`, `all-masked`
 */
export function keepWithin(raster: Raster, outlines: readonly Given[]): number {
	let masked = 0;
	for (const g of outlines) {
		const inside = insideOf(featuresOf(g), raster);
		if (!inside) fail('no-face', `${g.name} holds no face and no closed line: nothing lies within it`, 'Choose one with faces.', 'outline');
		const any = raster.values.some((v) => !Number.isNaN(v));
		for (let k = 0; k < raster.values.length; k++)
			if (!inside![k] && !Number.isNaN(raster.values[k]!)) {
				raster.values[k] = NaN;
				masked++;
			}
		if (any && raster.values.every(Number.isNaN))
			fail('all-masked', `no cell with a value lies within ${g.name}`, 'Does it lie in the same coordinate system?', 'outline');
	}
	return masked;
}
