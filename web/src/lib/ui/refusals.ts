type Field = HTMLInputElement | HTMLSelectElement | HTMLTextAreaElement;

/** A refusal belongs to the field that was changed so shortly before, ms. */
const SHORTLY = 6000;
let last: { field: Field; at: number } | null = null;
let marked: { field: Field; note: HTMLElement } | null = null;

const isField = (e: EventTarget | null): e is Field =>
	e instanceof HTMLInputElement || e instanceof HTMLSelectElement || e instanceof HTMLTextAreaElement;

/** Takes the mark off the field that was refused. */
function clear(): void {
	if (!marked) return;
	marked.field.removeAttribute('aria-invalid');
	marked.field.removeAttribute('aria-describedby');
	marked.note.remove();
	marked = null;
}

/**
 * Marks the field whose value was just refused, with why: what stands in it is not what is stored. Does nothing when no field was
 * changed shortly before.
 */
export function markRefused(why: string): void {
	if (!last || performance.now() - last.at > SHORTLY || !last.field.isConnected) return;
	const { field } = last;
	// A form that says itself what is wrong says it better.
	if (field.hasAttribute('aria-describedby') && marked?.field !== field) return;
	clear();
	const note = document.createElement('span');
	note.id = 'refused-value';
	note.className = 'refused-note';
	note.textContent = `Not stored. ${why}`;
	field.setAttribute('aria-invalid', 'true');
	field.setAttribute('aria-describedby', note.id);
	field.insertAdjacentElement('afterend', note);
	marked = { field, note };
}

/** Follows what is changed in a document, so that a refusal finds its field. @returns stops following */
export function followRefusals(root: Document): () => void {
	const changed = (event: Event) => {
		if (isField(event.target)) last = { field: event.target, at: performance.now() };
	};
	const typed = (event: Event) => {
		if (event.target === marked?.field) clear();
	};
	root.addEventListener('change', changed, true);
	root.addEventListener('input', typed, true);
	return () => {
		root.removeEventListener('change', changed, true);
		root.removeEventListener('input', typed, true);
		clear();
		last = null;
	};
}
