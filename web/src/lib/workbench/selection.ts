import type { Selection } from '../workspace-parts';

/** So many characters of an address are for the selection; a longer one is not kept in it. */
const LONGEST = 1500;

/** A selection as a word of the address, nothing when there is none or it is too long for one. */
export function selectionText(s: Selection | null): string {
	if (!s) return '';
	const text =
		s.kind === 'hole'
			? `hole~${s.name}`
			: s.kind === 'holes'
				? `holes~${s.names.map(encodeURIComponent).join('/')}`
				: s.kind === 'rows'
					? `rows~${s.table}~${s.rows.join('~')}`
					: s.kind === 'objects'
						? `objects~${s.ids.join('~')}`
						: `${s.kind}~${s.id}`;
	return text.length > LONGEST ? '' : text;
}

/** The selection that an address tells, or none: an address can say anything. */
export function selectionOf(text: string | null): Selection | null {
	if (!text || text.length > LONGEST) return null;
	const at = text.indexOf('~');
	const [kind, rest] = [text.slice(0, at), text.slice(at + 1)];
	if (at < 1 || !rest) return null;
	if (kind === 'hole') return { kind, name: rest };
	if (kind === 'unit' || kind === 'fault' || kind === 'object') return { kind, id: rest };
	if (kind === 'objects') return picked(null, rest.split('~').filter(Boolean));
	try {
		if (kind === 'holes') return { kind, names: rest.split('/').map(decodeURIComponent).filter(Boolean) };
	} catch {
		return null;
	}
	if (kind !== 'rows') return null;
	const [table, ...numbers] = rest.split('~');
	const rows = numbers.filter((n) => /^\d{1,9}$/.test(n)).map(Number);
	return rows.length && rows.length === numbers.length ? { kind, table: table!, rows } : null;
}

/** Some objects as a selection: of one, that one; of none, none. @param before what is selected besides */
export function picked(before: Selection | null, ids: readonly string[]): Selection | null {
	const known = before?.kind === 'object' ? [before.id] : before?.kind === 'objects' ? before.ids : [];
	const all = [...new Set([...known, ...ids])];
	return all.length > 1 ? { kind: 'objects', ids: all } : all[0] ? { kind: 'object', id: all[0] } : null;
}

/** The selection after an object was pressed: that one alone, or with Ctrl or Shift besides those that are selected; one that is, is let go. */
export function afterPress(
	before: Selection | null,
	id: string,
	event: Pick<MouseEvent, 'ctrlKey' | 'metaKey' | 'shiftKey'>
): Selection | null {
	if (!event.ctrlKey && !event.metaKey && !event.shiftKey) return { kind: 'object', id };
	if (before?.kind === 'object' && before.id === id) return null;
	if (before?.kind === 'objects' && before.ids.includes(id))
		return picked(
			null,
			before.ids.filter((x) => x !== id)
		);
	return picked(before, [id]);
}

/**
 * The selection after some rows of a table were pressed or swept: these alone, or with Ctrl besides those of the table that are selected;
 * one that was pressed and is selected is let go.
 */
export function afterRows(
	before: Selection | null,
	table: string,
	rows: readonly number[],
	event: Pick<MouseEvent, 'ctrlKey' | 'metaKey'>
): Selection | null {
	const known = (event.ctrlKey || event.metaKey) && before?.kind === 'rows' && before.table === table ? before.rows : [];
	const all = new Set(known);
	if (rows.length === 1 && all.has(rows[0]!)) all.delete(rows[0]!);
	else for (const r of rows) all.add(r);
	return all.size ? { kind: 'rows', table, rows: [...all] } : null;
}
