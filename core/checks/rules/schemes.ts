import type { Table } from '../../tables/table';
import { plainCode } from '../../units/column';
import { chronology, rankConflicts, unitsByName, type Scheme } from '../../units/scheme';
import type { Found, Rule } from '../finding';

/** The columns of a table that are called like ranks of a scheme, the highest rank first. */
function rankColumns(scheme: Scheme, table: Table): { key: string; header: string; rank: number }[] {
	return scheme.ranks.flatMap((name, rank) => {
		const key = Object.keys(table.text).find((k) => plainCode(table.headers[k] ?? k) === plainCode(name) && k !== 'hole');
		return key ? [{ key, header: table.headers[key] ?? key, rank }] : [];
	});
}

/** An older unit of a scheme on a younger one inside one hole. */
export const againstScheme: Rule = {
	id: 'against-scheme',
	title: 'Against the scheme',
	severity: 'noted',
	reason: 'The log is upside-down at this boundary, a fault repeats the units, or the scheme has them in the wrong order.',
	scope: 'holes',
	ofVersions: true,
	*check({ tables, byHole, schemes = [], lengthUnit }): Iterable<Found> {
		for (const scheme of schemes) {
			const byName = unitsByName(scheme);
			const place = new Map(chronology(scheme).map((u, i) => [u.id, i]));
			const parts = new Map<string, Set<string>>();
			for (const u of scheme.units) {
				const own = new Set<string>();
				for (let at = u; at && !own.has(at.id); at = scheme.units.find((x) => x.id === at.parent)!) own.add(at.id);
				parts.set(u.id, own);
			}
			for (const table of tables) {
				const from = table.numbers['from'];
				const ranked = from ? rankColumns(scheme, table) : [];
				const hasCodes = from && table.text['code'] && !ranked.some((c) => c.key === 'code');
				const columns = hasCodes ? [...ranked, { key: 'code' }] : ranked;
				if (columns.length === 0) continue;
				for (const [hole, rows] of byHole(table)) {
					rows.sort((a, b) => from![a]! - from![b]!);
					for (const c of columns) {
						const cells = table.text[c.key]!;
						for (let i = 1; i < rows.length; i++) {
							const [above, below] = [byName(cells[rows[i - 1]!]!), byName(cells[rows[i]!]!)];
							if (!above || !below || above.id === below.id) continue;
							// A part and what it is a part of have no order.
							if (parts.get(above.id)!.has(below.id) || parts.get(below.id)!.has(above.id)) continue;
							if (place.get(above.id)! < place.get(below.id)!) continue;
							yield {
								table,
								row: rows[i]!,
								column: c.key,
								hole,
								message: `${above.name} lies on the younger ${below.name} at ${from![rows[i]!]} ${lengthUnit}, by the scheme ${scheme.name}`,
								hint: 'Check the log and the scheme; where a fault or a fold repeats the units, leave it.',
								others: [rows[i - 1]!]
							};
							break;
						}
					}
				}
			}
		}
	}
};

/** A row whose units at several ranks do not belong together. */
export const ranksDisagree: Rule = {
	id: 'ranks-disagree',
	title: 'Ranks that disagree',
	severity: 'noted',
	reason: 'A part lies in something else than the scheme says, or a boundary of one rank goes through a unit of a lower one.',
	scope: 'holes',
	ofVersions: true,
	*check({ tables, byHole, schemes = [] }): Iterable<Found> {
		for (const scheme of schemes)
			for (const table of tables) {
				const from = table.numbers['from'];
				const columns = from ? rankColumns(scheme, table) : [];
				if (columns.length < 2) continue;
				const cells = columns.map((c) => ({ ...c, cells: table.text[c.key]! }));
				for (const [hole, rows] of byHole(table)) {
					rows.sort((a, b) => from![a]! - from![b]!);
					for (const conflict of rankConflicts(scheme, cells, rows))
						yield {
							table,
							row: conflict.row,
							column: columns.find((c) => c.header === conflict.column)!.key,
							hole,
							message: conflict.message,
							hint: 'Mend the log or the scheme: a parent spans all its parts.'
						};
				}
			}
	}
};
