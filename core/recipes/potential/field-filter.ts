import { packOfRaster } from '../../formats/raster-pack';
import * as yup from 'yup';
import { quarterOf } from '../../grids/frame';
import type { Raster } from '../../grids/raster';
import { resample } from '../../grids/resample';
import {
	analyticSignal,
	continued,
	horizontalGradient,
	lineNoise,
	lowPass,
	regional,
	tilt,
	toPole,
	verticalDerivative
} from '../../potential/filters';
import { fail } from '../../problem';
import { gridOf, gridReport } from '../opened';
import { numberFrom, oneOfWords, wholeFrom } from '../parameters';
import { recipe, theOne } from '../recipe';
import { GRID } from '../roles';

const FILTERS = {
	continued: 'at another height',
	vertical: 'vertical derivative',
	gradient: 'size of the slope',
	pole: 'reduced to the pole',
	analytic: 'analytic signal',
	tilt: 'tilt angle',
	regional: 'regional (polynomial)',
	residual: 'residual (less the polynomial)',
	low: 'long waves only',
	high: 'short waves only',
	levelled: 'without what lines leave (micro-levelling)'
} as const;

interface Filter {
	filter: keyof typeof FILTERS;
	height: number;
	order: number;
	inclination: number;
	declination: number;
	degree: number;
	wave: number;
	azimuth: number;
	spacing: number;
}
const of = (...is: string[]) => ({ when: { parameter: 'filter', is } });

const RUN: Record<Filter['filter'], (r: Raster, p: Filter) => Float32Array> = {
	continued: (r, p) => continued(r, p.height),
	vertical: (r, p) => verticalDerivative(r, p.order),
	gradient: horizontalGradient,
	pole: (r, p) => toPole(r, p),
	analytic: analyticSignal,
	tilt,
	regional: (r, p) => regional(r, p.degree),
	residual: (r, p) => {
		const wide = regional(r, p.degree);
		return r.values.map((v, k) => v - wide[k]!);
	},
	low: (r, p) => lowPass(r, p.wave),
	high: (r, p) => {
		const long = lowPass(r, p.wave);
		return r.values.map((v, k) => v - long[k]!);
	},
	levelled: (r, p) => {
		const noise = lineNoise(r, p.azimuth, p.spacing);
		return r.values.map((v, k) => v - noise[k]!);
	}
};

/** Filters of magnetic and gravity fields on grids. */
export const fieldFilter = recipe<Filter>({
	id: 'field-filter',
	title: 'Filter of a field',
	about: 'A grid: a magnetic or gravity field at another height, its derivatives, reduced to the pole, its regional and residual part.',
	version: 2,
	previews: true,
	form: 'grid',
	roles: { grid: { ...GRID, title: 'Field' } },
	parameters: yup
		.object({
			filter: oneOfWords('What', FILTERS, 'pole'),
			height: numberFrom('Higher by', 50, -1e5, 1e6, {
				...of('continued'),
				unit: 'length',
				help: 'Below 0 is downwards, where noise grows.'
			}),
			order: wholeFrom('Order', 1, 1, 3, of('vertical')),
			inclination: numberFrom('Inclination', 60, -90, 90, {
				...of('pole'),
				unit: 'degrees',
				help: "Of the earth's field, down from horizontal."
			}),
			declination: numberFrom('Declination', 0, -180, 180, {
				...of('pole'),
				unit: 'degrees',
				help: 'Clockwise from the north of the grid.'
			}),
			degree: wholeFrom('Degree', 1, 0, 6, of('regional', 'residual')),
			wave: numberFrom('Wave length', 500, 1e-6, 1e7, { ...of('low', 'high'), unit: 'length' }),
			azimuth: numberFrom('Lines run', 90, 0, 360, { ...of('levelled'), unit: 'degrees', help: 'Clockwise from north.' }),
			spacing: numberFrom('Lines apart', 100, 1e-6, 1e6, { ...of('levelled'), unit: 'length' })
		})
		.noUnknown() as never,
	estimate: (inputs) => {
		const cells = Number(theOne(inputs, 'grid').report['cells'] ?? 0);
		return { bytes: cells * 4 * 40, seconds: 0 };
	},
	run(inputs, p, { preview, project }) {
		const given = theOne(inputs, 'grid');
		const whole = gridOf(given);
		if (Math.abs(Math.abs(whole.dx) - Math.abs(whole.dy)) > 0.01 * Math.abs(whole.dx) && p.filter === 'levelled')
			fail('not-square', `the cells of ${given.name} are not square`, 'Give it square cells first.', 'grid');
		if (!whole.values.some(Number.isFinite)) fail('no-values', `${given.name} has no values`, 'Choose another.', 'grid');
		const r = preview ? resample(whole, quarterOf(whole), 'mean') : whole;
		const raster = { ...r, values: RUN[p.filter](r, p) };
		return {
			pack: packOfRaster(raster, unitOf(p, r.unit, project.lengthUnit)),
			report: { ...gridReport(raster), words: `${given.name}, ${FILTERS[p.filter]}${told(p)}.` }
		};
	}
});

/** Unit of what a filter gives, of a field whose unit is known. */
function unitOf({ filter, order }: Filter, own: string | undefined, length: string): string {
	if (!own || filter === 'tilt') return filter === 'tilt' ? '°' : '';
	const powers = { vertical: order, gradient: 1, analytic: 1 } as Partial<Record<Filter['filter'], number>>;
	const power = powers[filter] ?? 0;
	return power === 0 ? own : `${own}/${length}${power > 1 ? '⁰¹²³'[power] : ''}`;
}

function told(p: Filter): string {
	const words: Partial<Record<Filter['filter'], string>> = {
		continued: ` by ${p.height}`,
		vertical: `, order ${p.order}`,
		pole: `, inclination ${p.inclination}°, declination ${p.declination}°`,
		regional: `, degree ${p.degree}`,
		residual: `, degree ${p.degree}`,
		low: `, above ${p.wave}`,
		high: `, below ${p.wave}`,
		levelled: `, lines ${p.azimuth}°, ${p.spacing} apart`
	};
	return words[p.filter] ?? '';
}
