import { unzipSync } from 'fflate';
import { fail } from '../problem';
import type { Sheet } from './xlsx';

const MOST_CELLS = 20_000_000;
const ENTITIES: Record<string, string> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };
const plainText = (xml: string): string =>
	xml.replace(/&(#x[\da-f]+|#\d+|\w+);/gi, (all, name: string) =>
		name[0] === '#'
			? String.fromCodePoint(
					Math.min(0x10ffff, name[1] === 'x' || name[1] === 'X' ? parseInt(name.slice(2), 16) : Number(name.slice(1))) || 32
				)
			: (ENTITIES[name.toLowerCase()] ?? all)
	);

const attribute = (tag: string, name: string): string | undefined => new RegExp(`\\s${name}="([^"]*)"`).exec(tag)?.[1];

/** What a cell holds: numbers and dates as the file keeps them, not as they are shown. */
function valueOf(tag: string, content: string): string {
	const type = attribute(tag, 'office:value-type');
	if (type === 'float' || type === 'currency' || type === 'percentage') return attribute(tag, 'office:value') ?? '';
	if (type === 'date') return (attribute(tag, 'office:date-value') ?? '').replace('T', ' ').replace(/ 00:00:00$/, '');
	if (type === 'boolean') return attribute(tag, 'office:boolean-value') ?? '';
	if (type === 'time') {
		const t = /^PT(\d+)H(\d+)M(\d+)/.exec(attribute(tag, 'office:time-value') ?? '');
		if (t) return `${t[1]!.padStart(2, '0')}:${t[2]!.padStart(2, '0')}${t[3] === '00' ? '' : `:${t[3]}`}`;
	}
	const paragraphs = [
		...content.replace(/<office:annotation[\s\S]*?<\/office:annotation>/g, '').matchAll(/<text:p[^>]*?(?:\/>|>([\s\S]*?)<\/text:p>)/g)
	].map((m) =>
		plainText(
			(m[1] ?? '')
				.replace(/<text:s(?:\s+text:c="(\d+)")?\s*\/>/g, (_, n?: string) => ' '.repeat(Math.min(100, Number(n ?? 1))))
				.replace(/<text:(tab|line-break)\s*\/>/g, ' ')
				.replace(/<[^>]*>/g, '')
		)
	);
	return paragraphs.join('\n').trim();
}

/**
 * Reads all sheets of an OpenDocument spreadsheet (ISO/IEC 26300): cells as the file keeps them; cells that are merged downwards hold the
 * same in each row.
 * @throws ProblemError `not-a-workbook`, `sheet-too-large`
 */
export function readOdsSheets(bytes: Uint8Array, name: string): Sheet[] {
	const content = unzipSync(bytes, { filter: (f) => f.name === 'content.xml' })['content.xml'];
	if (!content) return fail('not-a-workbook', `${name} holds no content`, 'Save it again as ODS or XLSX.', name);
	const xml = new TextDecoder().decode(content);
	if (/<!DOCTYPE|<!ENTITY/i.test(xml.slice(0, 4096)))
		return fail('unsafe-xml', `${name} declares entities of its own`, 'Save it again.', name);
	const sheets: Sheet[] = [];
	let cells = 0;
	for (const table of xml.matchAll(/<table:table\s[^>]*table:name="([^"]*)"[^>]*>([\s\S]*?)<\/table:table>/g)) {
		const rows: string[][] = [];
		let empty = 0;
		const merged = new Map<number, { value: string; rows: number }>();
		for (const row of table[2]!.matchAll(/<table:table-row([^>]*?)(?:\/>|>([\s\S]*?)<\/table:table-row>)/g)) {
			const out: string[] = [];
			for (const cell of (row[2] ?? '').matchAll(
				/<table:(covered-)?table-cell([^>]*?)(?:\/>|>([\s\S]*?)<\/table:(?:covered-)?table-cell>)/g
			)) {
				const tag = cell[2]!;
				const times = Math.min(16_384, Number(attribute(tag, 'table:number-columns-repeated') ?? 1));
				const above = cell[1] ? merged.get(out.length) : undefined;
				const value = above && above.rows > 0 ? above.value : valueOf(tag, cell[3] ?? '');
				if (above && above.rows > 0) above.rows--;
				const spanned = Number(attribute(tag, 'table:number-rows-spanned') ?? 1);
				if (spanned > 1) merged.set(out.length, { value, rows: spanned - 1 });
				if (value === '' && times > 1000) continue;
				for (let k = 0; k < times; k++) out.push(value);
			}
			while (out.length && out[out.length - 1] === '') out.pop();
			const times = Math.min(1_048_576, Number(attribute(row[1]!, 'table:number-rows-repeated') ?? 1));
			// Rows without anything count only when something stands below them.
			if (out.length === 0) {
				empty += times;
				continue;
			}
			cells += (empty + times) * Math.max(1, out.length);
			if (cells > MOST_CELLS)
				return fail(
					'sheet-too-large',
					`${name} has more than ${MOST_CELLS.toLocaleString('en')} cells`,
					'Split it, or save it as CSV.',
					name
				);
			for (; empty > 0; empty--) rows.push([]);
			for (let k = 0; k < times; k++) rows.push([...out]);
		}
		if (rows.length) sheets.push({ name: plainText(table[1]!), rows });
	}
	return sheets;
}
