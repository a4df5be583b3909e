import { valueColumns } from '../../tables/table';
import { plainNumber, type Found, type Rule } from '../finding';
import { middleOf } from './spread';

const FEWEST = 20;

/** A measured value far from all others of its column. */
export const outlier: Rule = {
	id: 'outlier',
	title: 'Far outlier',
	severity: 'noted',
	reason: 'One wild value can carry a whole estimate; it may be true, a slip, or in another unit.',
	scope: 'table',
	bounds: { times: { label: 'How many times the usual spread', value: 10, unit: '×', least: 1, most: 10_000 } },
	*check({ tables, rows, looksAt, bound }): Iterable<Found> {
		const times = bound('times');
		for (const table of tables)
			for (const column of valueColumns(table)) {
				if (!looksAt(table, column)) continue;
				const values = table.numbers[column]!;
				const used = [...rows(table)];
				if (used.length < FEWEST) continue;
				const own = Float64Array.from(used, (r) => values[r]!);
				// Per cent that pile up below a hundred (recovery, quality of rock) have no far side: what is low among them is bad rock, no slip.
				if (pilesUp(own)) continue;
				// Concentrations spread evenly on a logarithmic scale; what can be negative or zero spreads on its own.
				let positive = 0;
				let filled = 0;
				for (const v of own) {
					if (Number.isNaN(v)) continue;
					filled++;
					if (v > 0) positive++;
				}
				if (filled < FEWEST) continue;
				const log = positive >= 0.95 * filled;
				const scaled = log ? own.map((v) => (v > 0 ? Math.log(v) : NaN)) : own;
				const m = middleOf(scaled);
				if (!m || !(m.spread > 0)) continue;
				for (let i = 0; i < used.length; i++) {
					const off = (scaled[i]! - m.middle) / m.spread;
					if (!(Math.abs(off) > times)) continue;
					// Along a curve a slip stands alone; what its neighbours have, too, is another rock.
					const alike = (k: number) =>
						used[k] !== undefined &&
						table.text['hole']?.[used[k]] === table.text['hole']?.[used[i]!] &&
						Math.abs(scaled[k]! - scaled[i]!) < 2 * m.spread;
					if (table.kind === 'readings' && (alike(i - 1) || alike(i + 1))) continue;
					yield {
						table,
						row: used[i]!,
						column,
						...(table.text['hole'] ? { hole: table.text['hole'][used[i]!]! } : {}),
						message: `${column} ${plainNumber(own[i]!)} is far ${off > 0 ? 'above' : 'below'} all others; half of them lie ${off > 0 ? 'below' : 'above'} ${plainNumber(Number((log ? Math.exp(m.middle) : m.middle).toPrecision(3)))}`,
						hint: 'Compare with the certificate: a decimal slip, another unit, or a true bonanza.'
					};
				}
			}
	}
};

/** Whether values lie between 0 and 100, and half of them in the last fifth below it, with some that reach it. */
function pilesUp(values: Float64Array): boolean {
	let [filled, high, full] = [0, 0, 0];
	for (const v of values) {
		if (Number.isNaN(v)) continue;
		if (v < 0 || v > 100) return false;
		filled++;
		if (v >= 80) high++;
		if (v >= 99.5) full++;
	}
	return full > 0 && 2 * high >= filled;
}
