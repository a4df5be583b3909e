const STORE = 'malachite.keys';
const TEXT_INPUTS = new Set(['checkbox', 'radio', 'button', 'submit', 'range', 'color', 'file']);

/** Whether a key belongs to what has the focus: a field that takes text, a list, an editor. A checkbox takes none but the space bar. */
export function isTyping(event: KeyboardEvent): boolean {
	const at = event.target;
	if (!(at instanceof HTMLElement)) return false;
	if (at.isContentEditable || at.closest('textarea, select, [role=grid], [role=combobox], dialog')) return true;
	return at instanceof HTMLInputElement && !TEXT_INPUTS.has(at.type);
}

/** Shortcuts of one key, which those who speak to their computer, or whose hands meet keys by chance, may switch off. */
class SingleKeys {
	on = $state(read());

	set(on: boolean): void {
		this.on = on;
		try {
			localStorage.setItem(STORE, on ? 'on' : 'off');
		} catch {
			// Kept for this page only.
		}
	}

	/** Whether a key press is one of them. */
	takes(event: KeyboardEvent): boolean {
		return this.on && !event.defaultPrevented && !event.ctrlKey && !event.metaKey && !event.altKey && !isTyping(event);
	}
}

function read(): boolean {
	try {
		return localStorage.getItem(STORE) !== 'off';
	} catch {
		return true;
	}
}

export const singleKeys = new SingleKeys();
