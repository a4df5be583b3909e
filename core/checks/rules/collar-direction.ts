import { rowOfLeast } from '../../tables/row-index';
import { lineDirection, RADIANS } from '../../geometry/angles';
import { dot } from '../../geometry/vector';
import { plainNumber, type Found, type Rule } from '../finding';

/** The direction that the collar gives and the one that its first station gives differ. */
export const collarDirection: Rule = {
	id: 'collar-direction',
	title: 'Collar against its first station',
	severity: 'noted',
	reason: 'One of the two was written by another convention, or belongs to another hole; the survey counts.',
	scope: 'holes',
	bounds: { angle: { label: 'Greatest angle between the two', value: 10, unit: '°', most: 180 } },
	*check({ tables, holes, byHole, lengthUnit, bound }): Iterable<Found> {
		const most = bound('angle');
		for (const table of tables) {
			const { depth, azimuth, inclination } = table.numbers;
			if (table.kind !== 'surveys' || !depth || !azimuth || !inclination) continue;
			for (const [hole, rows] of byHole(table)) {
				const collar = holes.get(hole);
				const [az, inc] = [
					collar?.table.numbers['azimuth']?.[collar.row] ?? NaN,
					collar?.table.numbers['inclination']?.[collar.row] ?? NaN
				];
				if (Number.isNaN(az) || Number.isNaN(inc)) continue;
				const first = rowOfLeast(rows, depth);
				if (depth[first]! > 60) continue;
				const angle =
					Math.acos(Math.max(-1, Math.min(1, dot(lineDirection(az, inc), lineDirection(azimuth[first]!, inclination[first]!))))) / RADIANS;
				if (angle > most)
					yield {
						table,
						row: first,
						column: 'azimuth',
						hole,
						message: `${hole} begins towards ${plainNumber(azimuth[first]!)}°, ${plainNumber(inclination[first]!)}° at ${plainNumber(depth[first]!)} ${lengthUnit}, ${angle.toFixed(0)}° off the ${plainNumber(az)}°, ${plainNumber(inc)}° of its collar`,
						hint: 'Mend the one that is wrong. Where both are written otherwise, say so for their tables.'
					};
			}
		}
	}
};
