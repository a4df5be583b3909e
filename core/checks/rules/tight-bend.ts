import { lineDirection, RADIANS } from '../../geometry/angles';
import { cross, dot, length } from '../../geometry/vector';
import { plainNumber, type Found, type Rule } from '../finding';

/** A bend between two stations that no drill string goes through. */
export const tightBend: Rule = {
	id: 'tight-bend',
	title: 'Impossible bend',
	severity: 'noted',
	reason: 'A slip in azimuth or inclination bends the hole more than steel allows, and everything below is in the wrong place.',
	scope: 'holes',
	bounds: { severity: { label: 'Greatest bend over 30 units of length', value: 20, unit: '°', least: 0.1, most: 180 } },
	*check({ tables, byHole, lengthUnit, bound }): Iterable<Found> {
		const most = bound('severity');
		for (const table of tables) {
			const { depth, azimuth, inclination } = table.numbers;
			if (table.kind !== 'surveys' || !depth || !azimuth || !inclination) continue;
			for (const [hole, rows] of byHole(table)) {
				rows.sort((a, b) => depth[a]! - depth[b]!);
				for (let i = 1; i < rows.length; i++) {
					const [above, below] = [rows[i - 1]!, rows[i]!];
					const run = depth[below]! - depth[above]!;
					if (!(run > 0)) continue;
					const [a, b] = [lineDirection(azimuth[above]!, inclination[above]!), lineDirection(azimuth[below]!, inclination[below]!)];
					const bend = Math.atan2(length(cross(a, b)), dot(a, b)) / RADIANS;
					// A short step magnifies the error of the instrument.
					if (bend < 2 || (bend / run) * 30 <= most) continue;
					yield {
						table,
						row: below,
						column: 'azimuth',
						hole,
						message: `${hole} bends by ${bend.toFixed(1)}° from ${plainNumber(depth[above]!)} to ${plainNumber(depth[below]!)} ${lengthUnit}, that is ${((bend / run) * 30).toFixed(0)}° over 30 ${lengthUnit}`,
						hint: 'Look for a slip in azimuth, inclination or depth of this station or the one above.',
						others: [above]
					};
				}
			}
		}
	}
};
