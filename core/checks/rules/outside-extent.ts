import type { Found, Rule } from '../finding';

/** A collar outside the box of the project. */
export const outsideExtent: Rule = {
	id: 'outside-extent',
	title: 'Outside the extent',
	severity: 'noted',
	reason: 'It still shapes the model, but the model does not reach it.',
	scope: 'holes',
	*check({ tables, rows, extent }): Iterable<Found> {
		if (!extent) return;
		for (const table of tables) {
			const { easting, northing } = table.numbers;
			if (table.kind !== 'collars' || !easting || !northing) continue;
			for (const row of rows(table)) {
				const [x, y] = [easting[row]!, northing[row]!];
				if (x >= extent.minX && x <= extent.maxX && y >= extent.minY && y <= extent.maxY) continue;
				yield {
					table,
					row,
					column: 'easting',
					hole: table.text['hole']![row]!,
					message: `${table.text['hole']![row]} lies outside the extent of the project`,
					hint: 'Widen the extent under Build, or leave it.'
				};
			}
		}
	}
};
