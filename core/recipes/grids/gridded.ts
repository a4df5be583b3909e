import { packOfRaster } from '../../formats/raster-pack';
import * as yup from 'yup';
import { segmentsOf } from '../../grids/barriers';
import { crossValidate, type Validation } from '../../grids/cross-validation';
import { frameBox, frameOf, MOST_CELLS, niceAbove, quarterOf, requireOverlap, type Frame, type Rectangle } from '../../grids/frame';
import { grid, METHODS, MOST_KRIGED, STRETCHED, type Gridding, type GriddingInput } from '../../grids/gridding';
import { frameBoxOf } from '../../grids/methods/box';
import { COMBINE, gatherPoints, usualSpacing, type Combine } from '../../grids/points';
import { fail } from '../../problem';
import { featuresOf, gridOf, gridReport, numbersIn, readingsIn, unitOf } from '../opened';
import { columnOf, numberFrom, oneOfWords, perhaps, wholeFrom } from '../parameters';
import { playing, recipe, theOne, type Described, type Given, type ProjectFacts, type RowsFacts } from '../recipe';
import { GRID, LINES, perhapsOf, READINGS } from '../roles';
import { keepWithin } from './masked';

type Extent = 'readings' | 'project' | 'typed';

interface GriddedParameters extends Gridding {
	column: string;
	combine: Combine;
	extent: Extent;
	cell: number | null;
	minX: number | null;
	minY: number | null;
	maxX: number | null;
	maxY: number | null;
	gives: 'value' | 'error';
	check: 'no' | 'one' | 'groups';
}

const SEARCHING = ['inverse-distance', 'kriging', 'kriging-trend', 'kriging-drift', 'kriging-indicator'] as const;
const KRIGING = ['kriging', 'kriging-trend', 'kriging-drift', 'kriging-indicator'] as const;
const of = (...is: string[]) => ({ when: { parameter: 'method', is } });
const typed = { when: { parameter: 'extent', is: ['typed'] } };

const parameters = yup
	.object({
		column: columnOf('readings', 'Column'),
		method: oneOfWords('Method', METHODS, 'inverse-distance', { help: 'How values between readings are found.' }),
		power: numberFrom('Power', 2, 0.1, 20, { ...of('inverse-distance'), help: 'Higher lets the nearest readings count for more.' }),
		smoothing: numberFrom('Smoothing', 0, 0, 1e6, {
			...of('inverse-distance'),
			unit: 'length',
			help: 'Added to distances, so that single readings do not stand out; 0 goes through them.'
		}),
		most: wholeFrom('Most readings', 24, 0, 10_000, { ...of(...SEARCHING), help: 'The nearest so many count; 0 is all.' }),
		least: wholeFrom('Fewest readings', 1, 1, 1000, { ...of(...SEARCHING), help: 'A cell that finds fewer stays empty.' }),
		radius: numberFrom('Radius', 0, 0, 1e7, {
			...of(...SEARCHING, 'nearest'),
			unit: 'length',
			help: 'Readings farther away do not count; 0 is without limit.'
		}),
		sectors: oneOfWords('Sectors', { '1': 'not parted', '4': 'in quarters', '8': 'in eighths' }, '1', {
			...of(...SEARCHING),
			help: 'Takes readings from all around, where they lie in clusters or lines.'
		}),
		stretch: numberFrom('Reaches farther one way', 1, 1, 100, {
			...of(...STRETCHED),
			help: 'How many times farther readings count along a direction: across the lines of a survey, along a channel. 1 is all around alike.'
		}),
		azimuth: numberFrom('That way', 0, 0, 360, { ...of(...STRETCHED), unit: 'degrees', help: 'Clockwise from north.' }),
		beyond: oneOfWords('Beyond the readings', { empty: 'empty', nearest: 'nearest reading' }, 'empty', of('linear', 'natural-neighbour')),
		tension: numberFrom('Tension', 0.25, 0, 0.99, {
			...of('minimum-curvature'),
			help: '0 bends least and may swing beyond the readings; towards 1 it is drawn tight between them.'
		}),
		degree: wholeFrom('Degree', 1, 0, 6, { ...of('trend'), help: '1 is a plane; higher degrees bend more.' }),
		variogram: oneOfWords('Variogram', { fitted: 'fitted to the readings', typed: 'typed' }, 'fitted', of(...KRIGING)),
		shape: oneOfWords('Shape', { spherical: 'spherical', exponential: 'exponential', gaussian: 'gaussian' }, 'spherical', of(...KRIGING)),
		nugget: numberFrom('Nugget', 0, 0, 1e12, {
			when: { parameter: 'variogram', is: ['typed'] },
			help: 'Variance of readings at one place.'
		}),
		sill: numberFrom('Sill above it', 1, 0, 1e12, { when: { parameter: 'variogram', is: ['typed'] } }),
		range: numberFrom('Range', 100, 1e-9, 1e7, { when: { parameter: 'variogram', is: ['typed'] }, unit: 'length' }),
		drift: oneOfWords('Trend', { plane: 'plane', quadratic: 'second degree' }, 'plane', of('kriging-trend')),
		above: numberFrom('Above', 0, -1e12, 1e12, { ...of('kriging-indicator'), help: 'What is mapped is the chance of a value above this.' }),
		gives: oneOfWords(
			'Gives',
			{ value: 'the value', error: 'its standard error' },
			'value',
			of('kriging', 'kriging-trend', 'kriging-drift')
		),
		combine: oneOfWords('Several in one cell', COMBINE, 'all', { help: 'What becomes of readings that fall into one cell.' }),
		extent: oneOfWords('Extent', { readings: 'of the readings', project: 'of the project', typed: 'typed' }, 'readings', {
			whenRole: { role: 'frame', played: false }
		}),
		minX: perhaps('West', -1e8, 1e8, { ...typed, unit: 'length' }),
		maxX: perhaps('East', -1e8, 1e8, { ...typed, unit: 'length' }),
		minY: perhaps('South', -1e8, 1e8, { ...typed, unit: 'length' }),
		maxY: perhaps('North', -1e8, 1e8, { ...typed, unit: 'length' }),
		cell: perhaps('Cell', 1e-6, 1e6, {
			unit: 'length',
			whenRole: { role: 'frame', played: false },
			help: 'Left empty: a fifth of the usual distance between readings.'
		}),
		check: oneOfWords('Cross-validation', { no: 'no', one: 'leave out one by one', groups: 'leave out by groups of ten' }, 'one', {
			help: 'Estimates each reading from the others and tells how far that is off.'
		})
	})
	.noUnknown();

/** The rectangle that a grid of some readings is to cover. */
function wantedBox(
	p: Pick<GriddedParameters, 'extent' | 'minX' | 'minY' | 'maxX' | 'maxY'>,
	own: Rectangle | null,
	project: ProjectFacts
): Rectangle | null {
	if (p.extent === 'project')
		return (
			project.extent ??
			fail('no-extent', 'the project has no extent yet', 'Set it under Build, or take the extent of the readings.', 'extent')
		);
	if (p.extent === 'readings') return own;
	const { minX, minY, maxX, maxY } = p;
	if (minX === null || minY === null || maxX === null || maxY === null)
		return fail('no-extent', 'a typed extent needs west, east, south and north', 'Type all four.', 'minX');
	if (!(maxX > minX && maxY > minY))
		return fail('no-extent', 'east must be above west, and north above south', 'Swap them.', maxX > minX ? 'maxY' : 'maxX');
	return { minX, minY, maxX, maxY };
}

/** The rectangle of readings, with half a usual spacing around it. */
const about = (r: Pick<RowsFacts, 'rows' | 'box'>): Rectangle | null => {
	if (!r.box) return null;
	const margin = Math.max(usualSpacing(r.rows, r.box) / 2, 1e-9);
	return { minX: r.box.minX - margin, minY: r.box.minY - margin, maxX: r.box.maxX + margin, maxY: r.box.maxY + margin };
};

/** A fifth of the usual distance between readings, and no more than a million cells. */
function firstCell(r: RowsFacts | undefined, project: ProjectFacts): number {
	const box = r?.box ?? project.extent;
	if (!box) return 10;
	const spacing = usualSpacing(Math.max(1, r?.rows ?? 100), box);
	const most = Math.sqrt(((box.maxX - box.minX) * (box.maxY - box.minY)) / 1e6);
	return niceAbove(Math.max(spacing / 5, most)) || 1;
}

/** The column that is most likely meant: one of the kept values, not a place, a depth or a number of a sample. */
const PLACES = ['easting', 'northing', 'elevation', 'from', 'to', 'depth', 'top', 'base', 'totalDepth', 'azimuth', 'inclination'];
export const likelyColumn = (r: RowsFacts | undefined, type: 'number' | 'date' | 'text' = 'number'): string => {
	const fit = r?.columns.filter((c) => c.type === type) ?? [];
	return (fit.find((c) => !PLACES.includes(c.key)) ?? fit[0])?.key ?? '';
};

/** The column of a log that is likely its codes. */
export const likelyCodes = (r: RowsFacts | undefined): string =>
	r?.columns.some((c) => c.key === 'code') ? 'code' : likelyColumn(r, 'text');

/** @throws ProblemError `unknown-column`, `not-numbers` */
export function refuseColumn(g: Described, key: string, types: readonly string[], where = 'column'): void {
	if (!g.rows) return;
	const c = g.rows.columns.find((x) => x.key === key);
	const fit = g.rows.columns.filter((x) => types.includes(x.type)).map((x) => x.key);
	if (!c)
		fail(
			'unknown-column',
			`${g.name} has no column "${key}"`,
			fit.length ? `It has ${fit.join(', ')}.` : `It has none of that kind.`,
			where
		);
	else if (!types.includes(c.type))
		fail(
			'wrong-column',
			`the column "${key}" of ${g.name} holds ${c.type === 'text' ? 'text' : `a ${c.type}`}`,
			`Choose one of ${fit.join(', ') || '…'}.`,
			where
		);
}

/** Cells of a frame that was asked for, before it is made. */
function cellsOf(inputs: readonly Described[], p: GriddedParameters, project: ProjectFacts): number {
	if (playing(inputs, 'frame').length) return 0;
	const rows = theOne(inputs, 'readings').rows;
	const box = wantedBox(p, rows ? about(rows) : null, project);
	if (!box) return 0;
	const frame = frameOf(box, p.cell ?? firstCell(rows, project));
	return frame.nx * frame.ny;
}

/** Values between readings at places, by any method. */
export const gridded = recipe<GriddedParameters>({
	id: 'gridded',
	title: 'Grid of readings',
	about: 'A grid: values between readings at places, by a method of your choice, with how far it is off where a reading is left out.',
	version: 2,
	answers: 'grid-of-readings',
	previews: true,
	form: 'grid',
	roles: {
		readings: { ...READINGS, prefers: ['places', 'stations'] },
		frame: perhapsOf(GRID, 'Cells as of'),
		outline: perhapsOf(LINES, 'Within'),
		barriers: perhapsOf(LINES, 'Barriers', 8),
		along: perhapsOf(GRID, 'Along (kriging along a grid)')
	},
	parameters: parameters as never,
	suggest(inputs, project) {
		const rows = theOne(inputs, 'readings').rows;
		const few = (rows?.rows ?? 0) <= 400;
		return {
			...(parameters.getDefault() as Partial<GriddedParameters>),
			column: likelyColumn(rows),
			cell: firstCell(rows, project),
			check: few ? 'one' : 'no'
		};
	},
	refuse(inputs, p) {
		refuseColumn(theOne(inputs, 'readings'), p.column, ['number']);
		if (p.least > p.most && p.most > 0) fail('bad-search', 'the fewest readings are more than the most', 'Lower the fewest.', 'least');
		if (p.method === 'kriging-drift' && !playing(inputs, 'along').length)
			fail(
				'input-missing',
				'kriging along a grid needs the grid that the mean follows',
				'Choose it as "Along", for example the terrain.',
				'along'
			);
	},
	estimate(inputs, p, project) {
		const cells = cellsOf(inputs, p, project);
		return { bytes: cells * (p.method === 'minimum-curvature' ? 70 : 8), seconds: 0 };
	},
	async run(inputs, p, { project, tasks, progress, preview }) {
		const given = theOne(inputs, 'readings');
		const r = readingsIn(given);
		const values = numbersIn(given, r, p.column);
		const reference = playing(inputs, 'frame')[0];
		const own = gatherPoints(r.x, r.y, values, null).points;
		const ownFacts = { rows: own.x.length, columns: [], box: frameBoxOf(own) };
		const whole: Frame = reference
			? gridOf(reference)
			: frameOf(wantedBox(p, about(ownFacts), project)!, p.cell ?? firstCell(ownFacts, project));
		let frame: Frame = { x0: whole.x0, y0: whole.y0, dx: whole.dx, dy: whole.dy, nx: whole.nx, ny: whole.ny };
		if (frame.nx * frame.ny > MOST_CELLS)
			fail('too-fine', `${reference!.name} has more cells than a grid may have`, 'Choose another.', 'frame');
		requireOverlap(frameBox(frame), widened(frameBoxOf(own), frame), [reference?.name ?? 'the extent', given.name], 'readings');
		if (preview)
			do frame = quarterOf(frame);
			while (frame.nx * frame.ny > MOST_PREVIEWED);
		const { points, report } = gatherPoints(r.x, r.y, values, frame, p.combine);
		const input: GriddingInput = { points, barriers: segmentsOf(playing(inputs, 'barriers').flatMap(featuresOf)) };
		const along = playing(inputs, 'along')[0];
		if (along && p.method === 'kriging-drift') input.along = gridOf(along);
		const asked: Gridding = p.method.startsWith('kriging') && p.most === 0 ? { ...p, most: Math.min(MOST_KRIGED, points.value.length) } : p;
		const wantsError = p.gives === 'error' && ['kriging', 'kriging-trend', 'kriging-drift'].includes(p.method);
		const made = await grid(
			asked,
			input,
			frame,
			(task) => tasks.rows(task),
			(share) => progress('gridding', 0.7 * share),
			wantsError
		);
		const raster = made.raster;
		if (wantsError) raster.values = raster.values.map((v) => Math.sqrt(Math.max(0, v)));
		if (raster.values.every(Number.isNaN))
			fail('nothing-gridded', 'no cell finds as many readings as it needs', 'Widen the radius, or lower the fewest readings.', 'radius');
		const masked = keepWithin(raster, playing(inputs, 'outline'));
		const checked =
			preview || p.check === 'no'
				? null
				: crossValidate(asked, input, p.check === 'groups' ? 10 : 0, (s) => progress('leaving out', 0.7 + 0.3 * s));
		return {
			pack: packOfRaster(raster, unitOf(r, p.column)),
			report: {
				...gridReport(raster),
				method: METHODS[p.method],
				column: p.column,
				of: given.name,
				readings: report,
				...(made.misfit === null ? {} : { missedBy: made.misfit }),
				...(masked ? { masked } : {}),
				...likeDegrees(given.name, frameBoxOf(own), project),
				...(made.variogram
					? {
							variogram: { ...plainVariogram(made.variogram.variogram), fitted: made.variogram.fitted ? 'yes' : 'no' },
							lags: made.variogram.lags
						}
					: {}),
				...(checked ? validationReport(checked, input, r.row) : {}),
				words: wordsOf(given, p, frame, project)
			}
		};
	}
});

/** What is said of places that are probably degrees in a project that counts in metres; nothing of others. */
function likeDegrees(name: string, b: Rectangle, { lengthUnit }: ProjectFacts): { finding?: string } {
	const [wide, high] = [b.maxX - b.minX, b.maxY - b.minY];
	const onGlobe = Math.max(Math.abs(b.minX), Math.abs(b.maxX)) <= 180 && Math.max(Math.abs(b.minY), Math.abs(b.maxY)) <= 90;
	if (!onGlobe || Math.max(wide, high) > 3 || Math.max(wide, high) === 0) return {};
	const size = `${Number(wide.toPrecision(2))} × ${Number(high.toPrecision(2))} ${lengthUnit}`;
	return { finding: `the places of ${name} lie within ${size}: they look like degrees; say so where they were brought in` };
}

/** Cells of a preview at most. */
const MOST_PREVIEWED = 60_000;

const widened = (b: Rectangle, f: Frame): Rectangle => ({
	minX: b.minX - Math.abs(f.dx),
	minY: b.minY - Math.abs(f.dy),
	maxX: b.maxX + Math.abs(f.dx),
	maxY: b.maxY + Math.abs(f.dy)
});

const plainVariogram = (v: { nugget: number; structures: readonly { shape: string; sill: number; range: number }[] }) => ({
	nugget: v.nugget,
	shape: v.structures[0]!.shape,
	sill: v.structures[0]!.sill,
	range: v.structures[0]!.range
});

/** What cross-validation found: the figures, and the readings that are missed most with their place and row. */
function validationReport(v: Validation, { points }: GriddingInput, rows: Uint32Array) {
	return {
		validation: { left: v.count, meanError: v.meanError, rms: v.rms, meanAbsolute: v.meanAbsolute, correlation: v.correlation },
		worst: v.worst.slice(0, 10).map((i) => ({
			row: rows[points.from[i]!]! + 1,
			x: points.x[i]!,
			y: points.y[i]!,
			read: points.value[i]!,
			estimated: v.estimates[i]!,
			error: v.estimates[i]! - points.value[i]!
		}))
	};
}

/** How a grid was made, in words that can go into a report. */
function wordsOf(given: Given, p: GriddedParameters, f: Frame, { lengthUnit }: ProjectFacts): string {
	const way: Record<string, string> = {
		'inverse-distance': `, power ${p.power}${p.smoothing ? `, smoothing ${p.smoothing} ${lengthUnit}` : ''}`,
		'minimum-curvature': `, tension ${p.tension}`,
		trend: ` of degree ${p.degree}`,
		'kriging-trend': ` (${p.drift === 'plane' ? 'plane' : 'second degree'})`,
		'kriging-indicator': `, above ${p.above}`
	};
	const farther = p.stretch !== 1 && STRETCHED.includes(p.method) ? `, ${p.stretch} times farther towards ${p.azimuth}°` : '';
	return `${p.gives === 'error' ? 'Standard error of' : 'Grid of'} "${p.column}" of ${given.name} by ${METHODS[p.method]}${way[p.method] ?? ''}${farther}, cells of ${f.dx} ${lengthUnit}, ${f.nx} × ${f.ny}.`;
}
