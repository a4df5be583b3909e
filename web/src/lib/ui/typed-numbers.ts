/** A number as people type it, or why it is none. */
export type Typed = { value: number } | { problem: string };

/** Mark between whole and fraction that a project is written with. */
type DecimalMark = '.' | ',';

const plain = (text: string): string =>
	text
		.trim()
		.replace(/[\u00a0\u2007\u2009\u202f ']/g, '')
		.replace(/^\u2212/, '-');

/**
 * Reads a number in both habits: 12.5 and 12,5 are the same. What could mean two things, as 1,234 where the project writes its
 * fractions with a point, is refused.
 */
export function typedNumber(text: string, decimal: DecimalMark = '.'): Typed {
	const t = plain(text);
	if (!/^[+-]?(\d[\d.,]*|[.,]\d+)(e[+-]?\d+)?$/i.test(t)) return { problem: `"${text.trim().slice(0, 40)}" is not a number` };
	const marks = [...t].filter((c) => c === '.' || c === ',');
	const value = (s: string): Typed =>
		Number.isFinite(Number(s)) ? { value: Number(s) } : { problem: `"${text.trim().slice(0, 40)}" is not a number` };
	if (marks.length === 0) return value(t);
	const kinds = new Set(marks);
	if (kinds.size === 2) {
		// Both marks: the last one is that of the fraction, the other one groups three digits each.
		const last = t.lastIndexOf('.') > t.lastIndexOf(',') ? '.' : ',';
		const group = last === '.' ? ',' : '.';
		const [whole, fraction = ''] = [t.slice(0, t.lastIndexOf(last)), t.slice(t.lastIndexOf(last) + 1)];
		if (
			whole.includes(last) ||
			!whole
				.split(group)
				.slice(1)
				.every((g) => g.length === 3)
		)
			return { problem: `"${text.trim().slice(0, 40)}" is not a number` };
		return value(`${whole.replaceAll(group, '')}.${fraction}`);
	}
	const [mark] = marks as [string];
	const groups = t.split(mark);
	const grouped = groups.slice(1).every((g) => /^\d{3}$/.test(g)) && /^[+-]?\d{1,3}$/.test(groups[0]!) && !/^[+-]?0/.test(groups[0]!);
	if (marks.length > 1) return grouped ? value(t.replaceAll(mark, '')) : { problem: `"${text.trim().slice(0, 40)}" is not a number` };
	if (mark === decimal || !grouped) return value(t.replace(mark, '.'));
	return { problem: `"${t}" can be read in two ways: write ${t.replace(mark, '')} or ${t.replace(mark, decimal)}` };
}

/**
 * Reads lines of numbers: between them blanks, semicolons, or commas with a blank behind; a comma between digits is that of a fraction.
 * @throws Error that names the line
 */
export function typedLines(text: string, count: readonly [number, number], decimal: DecimalMark = '.'): number[][] {
	const out: number[][] = [];
	text.split(/\r?\n/).forEach((line, i) => {
		if (line.trim() === '') return;
		let cells = line
			.trim()
			.split(/[;\s]+|,\s+|,$/)
			.filter((c) => c !== '');
		// One word with as many commas as there must be: they stand between the numbers.
		if (cells.length < count[0] && /^[^;\s]+$/.test(line.trim())) cells = line.trim().split(',');
		if (cells.length < count[0] || cells.length > count[1])
			throw new Error(
				`line ${i + 1} has ${cells.length} numbers; ${count[0] === count[1] ? count[0] : `${count[0]} to ${count[1]}`} are expected, with blanks between them`
			);
		out.push(
			cells.map((c) => {
				const typed = typedNumber(c, decimal);
				if ('problem' in typed) throw new Error(`line ${i + 1}: ${typed.problem}`);
				return typed.value;
			})
		);
	});
	return out;
}

/** The same, with what is wrong as a text: for a field that shows it while somebody types. */
export function typedOrWhy(text: string, count: readonly [number, number], decimal?: DecimalMark): { rows: number[][]; problem: string } {
	try {
		return { rows: typedLines(text, count, decimal), problem: '' };
	} catch (error) {
		return { rows: [], problem: (error as Error).message };
	}
}

/**
 * Lets every field for a number take both habits: such a field drops a comma without a word, so that 12,5 would become 125. What can be
 * read in two ways, or is no number, is not taken, and the field says why.
 * @param decimal the mark of the project that is open
 */
export function followNumberFields(root: Document, decimal: () => DecimalMark): () => void {
	const isField = (t: EventTarget | null): t is HTMLInputElement => t instanceof HTMLInputElement && t.type === 'number';
	/** What was typed, where the field itself would not hold it. */
	const typed = new WeakMap<HTMLInputElement, string>();
	const put = (field: HTMLInputElement, value: string) => {
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(field, value);
		field.dispatchEvent(new Event('input', { bubbles: true }));
	};
	const before = (event: Event): void => {
		const e = event as InputEvent;
		if (!isField(e.target)) return;
		const field = e.target;
		const pasted = e.data ?? e.dataTransfer?.getData('text/plain') ?? '';
		if (e.inputType === 'insertFromPaste' && /[,\s\u00a0\u202f']/.test(pasted.trim())) {
			e.preventDefault();
			const read = typedNumber(pasted, decimal());
			if ('value' in read) put(field, String(read.value));
			else tell(field, read.problem);
			return;
		}
		if (e.inputType !== 'insertText' || e.data !== ',') return;
		e.preventDefault();
		typed.set(field, ',');
		// As if a point had been typed at the cursor.
		root.execCommand('insertText', false, '.');
	};
	const tell = (field: HTMLInputElement, problem: string): void => {
		field.setCustomValidity(problem);
		field.reportValidity();
		setTimeout(() => field.setCustomValidity(''), 4000);
	};
	const change = (event: Event): void => {
		if (!isField(event.target)) return;
		const field = event.target;
		const comma = typed.get(field);
		typed.delete(field);
		if (field.validity.badInput) {
			event.stopImmediatePropagation();
			return tell(field, 'This is not a number, and was not taken.');
		}
		if (!comma) return;
		const read = typedNumber(field.value.replace('.', ','), decimal());
		if ('value' in read) return;
		event.stopImmediatePropagation();
		tell(field, read.problem);
	};
	root.addEventListener('beforeinput', before, true);
	root.addEventListener('change', change, true);
	return () => {
		root.removeEventListener('beforeinput', before, true);
		root.removeEventListener('change', change, true);
	};
}
