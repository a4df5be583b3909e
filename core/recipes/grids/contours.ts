import * as yup from 'yup';
import { contourLines, contourStep } from '../../grids/contour-lines';
import { smooth } from '../../grids/shape';
import { fail } from '../../problem';
import { gridOf } from '../opened';
import { numberFrom, perhaps } from '../parameters';
import { recipe, theOne } from '../recipe';
import { GRID } from '../roles';

const MOST_LINES = 500;

/** Lines of equal value of a grid. */
export const contours = recipe<{ step: number | null; base: number; smoothing: number }>({
	id: 'contours',
	title: 'Contours',
	about: 'Lines of equal value of a grid, each with its value.',
	version: 1,
	previews: true,
	form: 'lines',
	roles: { grid: GRID },
	parameters: yup
		.object({
			step: perhaps('Every', 1e-9, 1e9, { help: 'Left empty: a round step that makes about ten.' }),
			base: numberFrom('Beginning at', 0, -1e9, 1e9),
			smoothing: numberFrom('Smoothed over', 0, 0, 1e6, { unit: 'length', help: 'Before they are drawn; the grid stays as it is.' })
		})
		.noUnknown() as never,
	run(inputs, p) {
		const given = theOne(inputs, 'grid');
		const whole = gridOf(given);
		const r = p.smoothing > 0 ? { ...whole, values: smooth(whole, p.smoothing) } : whole;
		let [least, most] = [Infinity, -Infinity];
		for (const v of r.values) if (Number.isFinite(v)) [least, most] = [Math.min(least, v), Math.max(most, v)];
		if (!(least <= most)) fail('no-values', `${given.name} has no values`, 'Choose another.', 'grid');
		const step = p.step ?? contourStep(least, most);
		if ((most - least) / step > MOST_LINES)
			fail(
				'too-many-contours',
				`a step of ${step} makes ${Math.round((most - least) / step)} contours`,
				`Take ${contourStep(least, most)} or more.`,
				'step'
			);
		const features = contourLines(r, step, p.base);
		return {
			pack: { info: { features }, arrays: {} },
			report: { step, contours: features.length, least, most, words: `Contours of ${given.name}, every ${step}.` }
		};
	}
});
