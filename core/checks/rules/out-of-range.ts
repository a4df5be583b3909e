import { plainNumber, type Found, type Rule } from '../finding';

type Range = readonly [number, number, string];
const DEPTH: Range = [0, Infinity, 'below 0'];
const DIP: Range = [0, 90, 'outside 0 to 90°'];
const ROUND: Range = [-360, 360, 'outside −360 to 360°'];
const STEEP: Range = [-90, 90, 'outside −90 to 90°'];

const RANGES: Record<string, Record<string, Range>> = {
	surveys: { depth: DEPTH, inclination: STEEP, azimuth: ROUND },
	collars: { totalDepth: [Number.MIN_VALUE, Infinity, 'not above 0'], inclination: STEEP, azimuth: ROUND },
	intervals: { from: DEPTH, thickness: DEPTH },
	assays: { from: DEPTH },
	readings: { depth: DEPTH },
	holeOrientations: { depth: DEPTH, dip: DIP, dipAzimuth: ROUND, strike: ROUND, alpha: DIP, beta: ROUND, plunge: DIP, trend: ROUND },
	orientations: { dip: DIP, dipAzimuth: ROUND, strike: ROUND, plunge: DIP, trend: ROUND }
};

/** Angles and depths that can not be. */
export const outOfRange: Rule = {
	id: 'out-of-range',
	title: 'Out of range',
	severity: 'held',
	reason: 'An angle or depth outside its range is a slip or another convention.',
	scope: 'holes',
	*check({ tables, rows }): Iterable<Found> {
		for (const table of tables) {
			const columns = Object.entries(RANGES[table.kind] ?? {}).filter(([key]) => table.headers[key] && table.numbers[key]);
			if (columns.length === 0) continue;
			for (const row of rows(table))
				for (const [column, [low, high, words]] of columns) {
					const v = table.numbers[column]![row]!;
					if (!(v < low || v > high)) continue;
					yield {
						table,
						row,
						column,
						...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}),
						message: `${table.headers[column]} ${plainNumber(v)} is ${words}`,
						hint: 'Mend the value or exclude the row.'
					};
				}
		}
	}
};
