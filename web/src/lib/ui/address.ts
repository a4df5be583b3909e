import { replaceState } from '$app/navigation';

/** Keeps a word of the address up to date without another entry in the history; an empty one is taken out. */
export function keepInAddress(name: string, value: string): void {
	// The router is not up yet while the first page is drawn.
	setTimeout(() => {
		const url = new URL(location.href);
		if ((url.searchParams.get(name) ?? '') === value) return;
		if (value) url.searchParams.set(name, value);
		else url.searchParams.delete(name);
		try {
			replaceState(url, {});
		} catch {
			history.replaceState(history.state, '', url);
		}
	});
}
