import { packOfRaster } from '../../formats/raster-pack';
import * as yup from 'yup';
import type { Raster } from '../../grids/raster';
import { aspect, curvature, medianOf, shading, slope, smooth, upslopeArea } from '../../grids/shape';
import { quarterOf } from '../../grids/frame';
import { resample } from '../../grids/resample';
import { gridOf, gridReport } from '../opened';
import { numberFrom, oneOfWords } from '../parameters';
import { recipe, theOne } from '../recipe';
import { GRID } from '../roles';

const WHAT = {
	slope: 'slope, degrees',
	aspect: 'direction it falls to, degrees',
	curvature: 'curvature',
	shade: 'light and shade',
	smooth: 'smoothed',
	median: 'median of what is around',
	upslope: 'area that drains through each cell'
} as const;

interface Shaped {
	what: keyof typeof WHAT;
	radius: number;
	azimuth: number;
	height: number;
	steep: number;
}
const light = { when: { parameter: 'what', is: ['shade'] } };

const MAKE: Record<Shaped['what'], (r: Raster, p: Shaped) => Float32Array> = {
	slope,
	aspect,
	curvature,
	shade: (r, p) => shading(r, p.azimuth, p.height, p.steep),
	smooth: (r, p) => smooth(r, p.radius),
	median: (r, p) => medianOf(r, Math.min(p.radius, 50 * Math.max(Math.abs(r.dx), Math.abs(r.dy)))),
	upslope: upslopeArea
};

function unitOf(what: Shaped['what'], own: string | undefined, length: string): string {
	if (what === 'slope' || what === 'aspect') return '°';
	if (what === 'upslope') return `${length}²`;
	return what === 'smooth' || what === 'median' ? (own ?? '') : '';
}

/** Slope, direction, curvature, shade, means of a grid, and what drains through its cells. */
export const shapedGrid = recipe<Shaped>({
	id: 'shaped-grid',
	title: 'Shape of a grid',
	about: 'A grid: slope, direction, curvature, light and shade, means, or what drains through each cell of another.',
	version: 1,
	previews: true,
	form: 'grid',
	roles: { grid: GRID },
	parameters: yup
		.object({
			what: oneOfWords('What', WHAT, 'slope'),
			radius: numberFrom('Radius', 100, 0, 1e6, { unit: 'length', when: { parameter: 'what', is: ['smooth', 'median'] } }),
			azimuth: numberFrom('Sun from', 315, 0, 360, { unit: 'degrees', ...light, help: 'Clockwise from north.' }),
			height: numberFrom('Sun above the horizon', 45, 1, 90, { unit: 'degrees', ...light }),
			steep: numberFrom('Exaggeration', 1, 0.001, 1e6, light)
		})
		.noUnknown() as never,
	run(inputs, p, { preview, project }) {
		const given = theOne(inputs, 'grid');
		const whole = gridOf(given);
		const r = preview ? resample(whole, quarterOf(whole), 'mean') : whole;
		const raster = { ...r, values: MAKE[p.what](r, p) };
		return {
			pack: packOfRaster(raster, unitOf(p.what, r.unit, project.lengthUnit)),
			report: { ...gridReport(raster), words: `${WHAT[p.what]} of ${given.name}.` }
		};
	}
});
