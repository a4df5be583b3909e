import * as yup from 'yup';
import type { Feature } from 'geojson';
import { smooth } from '../../grids/shape';
import { gridOf } from '../opened';
import { numberFrom, perhaps } from '../parameters';
import { recipe, theOne } from '../recipe';
import { GRID } from '../roles';

/** Arrows down the slope of a water table. */
export const flowArrows = recipe<{ apart: number | null; smoothing: number }>({
	id: 'flow-arrows',
	title: 'Arrows of flow',
	about: 'Lines on the map: arrows the way water goes, down the slope of a grid of heads; each tells its gradient.',
	version: 1,
	previews: true,
	form: 'lines',
	roles: { grid: { ...GRID, title: 'Heads' } },
	parameters: yup
		.object({
			apart: perhaps('Apart', 1e-6, 1e6, { unit: 'length', help: 'Left empty: about 25 across.' }),
			smoothing: numberFrom('Smoothed over', 0, 0, 1e6, { unit: 'length' })
		})
		.noUnknown() as never,
	run(inputs, p) {
		const given = theOne(inputs, 'grid');
		const whole = gridOf(given);
		const r = p.smoothing > 0 ? { ...whole, values: smooth(whole, p.smoothing) } : whole;
		const [wide, high] = [r.nx * Math.abs(r.dx), r.ny * Math.abs(r.dy)];
		const apart = Math.max(p.apart ?? Math.max(wide, high) / 25, Math.abs(r.dx), Math.max(wide, high) / 200);
		const step = Math.max(1, Math.round(apart / Math.abs(r.dx)));
		const found: { x: number; y: number; east: number; north: number }[] = [];
		let steepest = 0;
		for (let j = Math.max(1, step >> 1); j < r.ny - 1; j += step)
			for (let i = Math.max(1, step >> 1); i < r.nx - 1; i += step) {
				const at = j * r.nx + i;
				const east = (r.values[at + 1]! - r.values[at - 1]!) / (2 * r.dx);
				const north = (r.values[at + r.nx]! - r.values[at - r.nx]!) / (2 * r.dy);
				if (!Number.isFinite(east + north) || (east === 0 && north === 0)) continue;
				steepest = Math.max(steepest, Math.hypot(east, north));
				found.push({ x: r.x0 + i * r.dx, y: r.y0 + j * r.dy, east, north });
			}
		const features = found.map(({ x, y, east, north }): Feature => {
			const gradient = Math.hypot(east, north);
			// Its length goes with the root of the gradient, so that gentle flow is seen, too.
			const length = 0.85 * apart * Math.sqrt(gradient / steepest);
			const [ux, uy] = [-east / gradient, -north / gradient];
			const [tx, ty] = [x + (ux * length) / 2, y + (uy * length) / 2];
			const head = (turn: number) => {
				const [c, s] = [Math.cos(turn), Math.sin(turn)];
				return [tx - 0.3 * length * (ux * c - uy * s), ty - 0.3 * length * (ux * s + uy * c)];
			};
			return {
				type: 'Feature',
				properties: { gradient, azimuth: ((Math.atan2(ux, uy) * 180) / Math.PI + 360) % 360 },
				geometry: {
					type: 'MultiLineString',
					coordinates: [
						[
							[x - (ux * length) / 2, y - (uy * length) / 2],
							[tx, ty]
						],
						[head(0.45), [tx, ty], head(-0.45)]
					]
				}
			};
		});
		return { pack: { info: { features }, arrays: {} }, report: { arrows: features.length, steepest, words: `Flow down ${given.name}.` } };
	}
});
