import { plainNumber, type CheckContext, type Found, type Rule } from '../finding';
import type { Table } from '../../tables/table';
import { middleOf } from './spread';

/** A collar far from all others: swapped coordinates, a decimal slip, or another grid. */
export const misplacedCollar: Rule = {
	id: 'misplaced-collar',
	title: 'Collar far from the rest',
	severity: 'held',
	reason: 'A hole in the wrong place draws every surface after it.',
	scope: 'table',
	notOfHoles: true,
	mends: ['swap', 'propose'],
	bounds: { times: { label: 'How many times the usual distance from the middle', value: 12, unit: '×', least: 2, most: 10_000 } },
	*check(context): Iterable<Found> {
		for (const table of context.tables) {
			if (table.kind !== 'collars' && table.kind !== 'orientations' && table.kind !== 'places') continue;
			yield* farRows(context, table);
		}
	}
};

function* farRows({ rows, bound, lengthUnit }: CheckContext, table: Table): Iterable<Found> {
	const { easting, northing } = table.numbers;
	const used = [...rows(table)];
	if (!easting || !northing || used.length < 6) return;
	const x = middleOf(Float64Array.from(used, (r) => easting[r]!))!;
	const y = middleOf(Float64Array.from(used, (r) => northing[r]!))!;
	const usual = Math.max(x.spread, y.spread, 1e-9);
	const reach = bound('times') * usual;
	const isNear = (e: number, n: number) => Math.hypot(e - x.middle, n - y.middle) <= reach;
	for (const row of used) {
		const [e, n] = [easting[row]!, northing[row]!];
		if (isNear(e, n)) continue;
		const away = Math.hypot(e - x.middle, n - y.middle);
		const say = { table, row, ...(table.text['hole'] ? { hole: table.text['hole'][row]! } : {}) };
		if (isNear(n, e)) {
			yield {
				...say,
				column: 'easting',
				message: `easting ${plainNumber(e)} and northing ${plainNumber(n)} look swapped`,
				hint: 'Swap the two.'
			};
			continue;
		}
		// A second cluster of holes is a place of its own.
		const company = used.some(
			(other) => other !== row && Math.hypot(easting[other]! - e, northing[other]! - n) <= Math.max(usual, 0.1 * away)
		);
		const slip = (['easting', 'northing'] as const)
			.flatMap((c) => [1e-3, 1e-2, 0.1, 10, 100, 1000].map((f) => ({ c, v: (c === 'easting' ? e : n) * f })))
			.find(({ c, v }) => isNear(c === 'easting' ? v : e, c === 'easting' ? n : v));
		yield {
			...say,
			// Far away alone is no proof: a satellite hole may well stand there.
			...(slip || (away > 20 * reach && !company) ? {} : { severity: 'noted' as const }),
			column: slip?.c ?? 'easting',
			message: `${plainNumber(e)} E ${plainNumber(n)} N lies ${plainNumber(Math.round(away))} ${lengthUnit} from the middle of the others${slip ? `; a decimal slip: ${plainNumber(slip.v)} would be among them` : ''}`,
			hint: 'Mend the coordinates, or exclude the row. If it is in another grid, bring it in as a table of its own.',
			...(slip ? { proposal: plainNumber(slip.v) } : {})
		};
	}
}
