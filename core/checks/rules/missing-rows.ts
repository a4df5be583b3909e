import { isOfHoles, tableKind } from '../../tables/kinds';
import { rowsOfHoles } from '../../tables/row-index';
import type { Found, Rule } from '../finding';

/** Kinds of table in which every hole is expected. */
const EXPECTED = new Set(['surveys', 'intervals']);

/** A hole without a survey, or without rows in the log. */
export const missingRows: Rule = {
	id: 'missing-rows',
	title: 'Hole without rows',
	severity: 'noted',
	reason: 'A hole without survey is drawn straight; one without a log says nothing about the ground.',
	scope: 'holes',
	*check({ tables, byHole }): Iterable<Found> {
		for (const kind of EXPECTED) {
			const own = tables.filter((t) => t.kind === kind && isOfHoles(t.kind));
			if (own.length === 0) continue;
			for (const table of tables) {
				if (table.kind !== 'collars') continue;
				for (const [hole, rows] of byHole(table)) {
					if (own.some((t) => rowsOfHoles(t)!.get(hole)?.length)) continue;
					const row = rows[0]!;
					const { azimuth, inclination } = table.numbers;
					if (kind === 'surveys' && azimuth && inclination && Number.isFinite(azimuth[row]!) && Number.isFinite(inclination[row]!))
						continue;
					yield {
						table,
						row,
						column: 'hole',
						hole,
						message: `${hole} has no rows in ${own.map((t) => tableKind(t.kind).label.toLowerCase())[0]}`,
						hint:
							kind === 'surveys'
								? 'It is drawn vertical. Bring in its survey, or leave it when it is.'
								: 'Bring in its log, or leave it when there is none.'
					};
				}
			}
		}
	}
};
