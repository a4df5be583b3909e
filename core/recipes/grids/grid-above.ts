import * as yup from 'yup';
import { contours } from 'd3-contour';
import type { Feature } from 'geojson';
import { frameBox, requireOverlap } from '../../grids/frame';
import { resample } from '../../grids/resample';
import { gridOf } from '../opened';
import { numberFrom } from '../parameters';
import { recipe, theOne } from '../recipe';
import { GRID } from '../roles';

/** Where one grid lies above another: a water table above the terrain, for example. */
export const gridAbove = recipe<{ by: number }>({
	id: 'grid-above',
	title: 'Where a grid lies above another',
	about: 'Faces on the map: where one grid lies above another; water above the terrain is a finding.',
	version: 1,
	form: 'faces',
	roles: { first: { ...GRID, title: 'Grid' }, second: { ...GRID, title: 'above' } },
	parameters: yup.object({ by: numberFrom('By more than', 0, -1e6, 1e6) }).noUnknown() as never,
	run(inputs, { by }) {
		const [first, second] = [theOne(inputs, 'first'), theOne(inputs, 'second')];
		const [a, b] = [gridOf(first), gridOf(second)];
		requireOverlap(frameBox(a), frameBox(b), [first.name, second.name], 'second');
		const other = resample(b, a, 'straight').values;
		let [cells, worst, sum] = [0, 0, 0];
		let place: { x: number; y: number } | null = null;
		const over = Array.from(a.values, (v, k) => {
			const d = v - other[k]! - by;
			if (!(d > 0)) return 0;
			cells++;
			sum += d;
			if (d > worst) [worst, place] = [d, { x: a.x0 + (k % a.nx) * a.dx, y: a.y0 + Math.floor(k / a.nx) * a.dy }];
			return 1;
		});
		const polygons = cells ? contours().size([a.nx, a.ny]).smooth(false).contour(over, 0.5).coordinates : [];
		const features: Feature[] = polygons.map((polygon) => ({
			type: 'Feature',
			properties: { name: `${first.name} above ${second.name}` },
			geometry: {
				type: 'Polygon',
				coordinates: polygon.map((ring) => ring.map(([u, v]) => [a.x0 + (u! - 0.5) * a.dx, a.y0 + (v! - 0.5) * a.dy]))
			}
		}));
		const cell = Math.abs(a.dx * a.dy);
		return {
			pack: { info: { features }, arrays: {} },
			report: {
				...(cells
					? { finding: `${first.name} lies above ${second.name} in ${cells.toLocaleString('en').replaceAll(',', ' ')} cells` }
					: {}),
				words: cells ? `Where ${first.name} lies above ${second.name}.` : `${first.name} lies above ${second.name} nowhere.`,
				cells,
				area: cells * cell,
				volume: sum * cell,
				most: worst,
				...(place ? { at: place } : {})
			}
		};
	}
});
