import { rowsOfHoles } from '../../tables/row-index';
import { valueColumns } from '../../tables/table';
import { plainNumber, type Found, type Rule } from '../finding';

const FEWEST = 4;
/** Powers of ten between the units that are exchanged: per cent, grams per ton or parts per million, parts per billion. */
const STEPS = [3, 4];

/** All values of a hole stand a thousand or ten thousand times above or below those of all others: a batch in another unit. */
export const otherUnit: Rule = {
	id: 'other-unit',
	title: 'Batch in another unit',
	severity: 'noted',
	reason: 'Parts per billion among parts per million are a thousand times too high, and carry every mean with them.',
	scope: 'table',
	*check({ tables, looksAt, uses }): Iterable<Found> {
		for (const table of tables) {
			const index = rowsOfHoles(table);
			if (!index || index.size < 3) continue;
			for (const column of valueColumns(table)) {
				if (!looksAt(table, column)) continue;
				const values = table.numbers[column]!;
				const groups: { hole: string; rows: number[]; middle: number; low: number; high: number }[] = [];
				for (const [hole, all] of index) {
					const rows = all.filter((r) => uses(table, r) && values[r]! > 0);
					if (rows.length < FEWEST) continue;
					const logs = rows.map((r) => Math.log10(values[r]!)).sort((a, b) => a - b);
					groups.push({ hole, rows, middle: logs[logs.length >> 1]!, low: logs[0]!, high: logs[logs.length - 1]! });
				}
				if (groups.length < 3) continue;
				const middles = groups.map((g) => g.middle).sort((a, b) => a - b);
				const middle = middles[middles.length >> 1]!;
				const usual = groups.filter((g) => Math.abs(g.middle - middle) < 1.5);
				if (usual.length < groups.length / 2) continue;
				const [low, high] = [Math.min(...usual.map((g) => g.low)), Math.max(...usual.map((g) => g.high))];
				for (const g of groups) {
					const off = g.middle - middle;
					if (
						!STEPS.some((s) => Math.abs(Math.abs(off) - s) < 0.8) ||
						(off > 0 ? g.low + 0.3 * STEPS[0]! < high - 1 && g.low < middle + 1 : g.high > middle - 1 && g.high > low + 1)
					)
						continue;
					const times = 10 ** Math.round(Math.abs(off));
					yield {
						table,
						row: g.rows[0]!,
						column,
						hole: g.hole,
						all: g.rows,
						message: `${g.rows.length} values of ${column} in ${g.hole} are about ${times.toLocaleString('en')} times ${off > 0 ? 'above' : 'below'} those of other holes (middle ${plainNumber(Number((10 ** g.middle).toPrecision(3)))} against ${plainNumber(Number((10 ** middle).toPrecision(3)))})`,
						hint: 'Look at the unit on the certificate of that batch; a calculated column can bring it to that of the others.'
					};
				}
			}
		}
	}
};
