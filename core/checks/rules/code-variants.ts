import { plainCode, unitOfCode } from '../../units/column';
import type { Found, Rule } from '../finding';

/** Codes that differ only by case, blanks, punctuation or one letter, and are not taken to be the same unit. */
export const codeVariants: Rule = {
	id: 'code-variants',
	title: 'One code in several spellings',
	severity: 'noted',
	reason: 'Spellings that nobody put together become different rocks.',
	scope: 'table',
	mends: ['propose'],
	*check({ tables, rows, looksAt, lumping }): Iterable<Found> {
		for (const table of tables) {
			const codes = table.text['code'];
			if (!codes || !looksAt(table, 'code')) continue;
			const count = new Map<string, { rows: number; first: number }>();
			for (const row of rows(table)) {
				const known = count.get(codes[row]!);
				if (known) known.rows++;
				else if (codes[row] !== '') count.set(codes[row]!, { rows: 1, first: row });
			}
			for (const cluster of clusters([...count.keys()])) {
				const sorted = [...cluster].sort((a, b) => count.get(b)!.rows - count.get(a)!.rows || (a < b ? -1 : 1));
				const main = sorted[0]!;
				for (const code of sorted.slice(1)) {
					const unit = lumping && unitOfCode(lumping, code);
					if (unit && unit === unitOfCode(lumping, main)) continue;
					yield {
						table,
						row: count.get(code)!.first,
						column: 'code',
						...(table.text['hole'] ? { hole: table.text['hole'][count.get(code)!.first]! } : {}),
						message: `"${code}" (${count.get(code)!.rows} ${count.get(code)!.rows === 1 ? 'row' : 'rows'}) is nearly "${main}" (${count.get(main)!.rows} rows)`,
						hint: 'Give both the same unit under Interpret, or mend the spelling.',
						proposal: main
					};
				}
			}
		}
	}
};

const MOST_CODES = 3000;

/** Groups of codes that are the same without case and punctuation, or one slip apart when they are long enough for that to be one. */
export function clusters(codes: readonly string[]): string[][] {
	const groups = new Map<string, string[]>();
	for (const c of codes) {
		const key = plainCode(c);
		if (key === '') continue;
		const group = groups.get(key);
		if (group) group.push(c);
		else groups.set(key, [c]);
	}
	const keys = [...groups.keys()];
	const parent = new Map(keys.map((k) => [k, k]));
	const root = (k: string): string => (parent.get(k) === k ? k : root(parent.get(k)!));
	if (keys.length <= MOST_CODES)
		for (let i = 0; i < keys.length; i++)
			for (let j = i + 1; j < keys.length; j++) {
				const [a, b] = [keys[i]!, keys[j]!];
				// Digits tell units apart: S1 and S2 are not a slip.
				if (Math.min(a.length, b.length) >= 5 && !/\d/.test(a + b) && (oneSlip(a, b) || isShort(a, b))) parent.set(root(a), root(b));
			}
	const merged = new Map<string, string[]>();
	for (const k of keys) merged.set(root(k), [...(merged.get(root(k)) ?? []), ...groups.get(k)!]);
	return [...merged.values()].filter((g) => g.length > 1);
}

/** Whether one word is the other cut short: `sandst` for `sandstone`. */
function isShort(a: string, b: string): boolean {
	const [short, long] = a.length < b.length ? [a, b] : [b, a];
	return long.length - short.length <= 5 && long.startsWith(short) && !WHOLE.has(short);
}

/** Words that begin others, and mean something else. */
const WHOLE = new Set([
	'gravel',
	'quartz',
	'marble',
	'basalt',
	'chert',
	'shale',
	'slate',
	'chalk',
	'peat',
	'green',
	'black',
	'white',
	'brown',
	'upper',
	'lower',
	'middle'
]);

/** Whether one letter added, left out, changed, or two neighbours exchanged make one word of the other. */
function oneSlip(a: string, b: string): boolean {
	if (Math.abs(a.length - b.length) > 1) return false;
	let i = 0;
	while (i < a.length && i < b.length && a[i] === b[i]) i++;
	const [restA, restB] = [a.slice(i), b.slice(i)];
	if (restA.slice(1) === restB || restB.slice(1) === restA || restA.slice(1) === restB.slice(1)) return true;
	return restA.length > 1 && restA[0] === restB[1] && restA[1] === restB[0] && restA.slice(2) === restB.slice(2);
}
