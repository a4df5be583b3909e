/** One tab stop for many things of one kind: arrows, Home and End go from one to the next, Tab leaves them. */
interface Roving {
	/** What they are, as a selector below the node. */
	items: string;
	/** Pressed as soon as it has the focus, as tabs are. */
	press?: boolean;
	/** They stand in rows (of a table, or lines of a list): up and down go from row to row, left and right within one. */
	grid?: boolean;
}

/** The thing in the next row that stands at the same place in it, or the last of it. */
function stepRow(list: readonly HTMLElement[], at: number, by: 1 | -1): HTMLElement | undefined {
	const rowOf = (e: HTMLElement) => e.closest('tr, li');
	const own = rowOf(list[at]!);
	const place = list.filter((e) => rowOf(e) === own).indexOf(list[at]!);
	const beyond = by > 0 ? list.slice(at) : list.slice(0, at).reverse();
	const next = beyond.map(rowOf).find((r) => r !== own);
	const there = list.filter((e) => rowOf(e) === next);
	return next ? there[Math.min(place, there.length - 1)] : undefined;
}

/** @param node holds the things; those that come and go later are followed */
export function roving(node: HTMLElement | SVGElement, options: Roving): { destroy(): void } {
	const items = () =>
		[...node.querySelectorAll<HTMLElement>(options.items)].filter((e) => !e.hasAttribute('disabled') && e.getClientRects().length > 0);
	const chosen = (list: HTMLElement[]) =>
		list.find((e) => e === document.activeElement) ??
		list.find((e) => e.getAttribute('aria-selected') === 'true' || e.getAttribute('aria-current') === 'true') ??
		list.find((e) => e.tabIndex === 0) ??
		list[0];
	const settle = () => {
		const list = items();
		const one = chosen(list);
		for (const e of list) {
			const wanted = e === one ? 0 : -1;
			if (e.tabIndex !== wanted) e.tabIndex = wanted;
		}
	};
	const keys = (event: KeyboardEvent) => {
		if (event.altKey || event.ctrlKey || event.metaKey) return;
		const list = items();
		const at = list.indexOf(document.activeElement as HTMLElement);
		if (at < 0) return;
		if (options.grid && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
			event.preventDefault();
			event.stopPropagation();
			stepRow(list, at, event.key === 'ArrowDown' ? 1 : -1)?.focus();
			return settle();
		}
		const to = { ArrowRight: at + 1, ArrowDown: at + 1, ArrowLeft: at - 1, ArrowUp: at - 1, Home: 0, End: list.length - 1 }[event.key];
		if (to === undefined) return;
		event.preventDefault();
		event.stopPropagation();
		const next = list[Math.min(list.length - 1, Math.max(0, to))]!;
		next.focus();
		if (options.press && next !== list[at]) next.click();
		settle();
	};
	settle();
	const watch = new MutationObserver(settle);
	watch.observe(node, {
		childList: true,
		subtree: true,
		attributes: true,
		attributeFilter: ['aria-selected', 'aria-current', 'disabled', 'hidden']
	});
	const target: EventTarget = node;
	const onKey = (e: Event) => keys(e as KeyboardEvent);
	target.addEventListener('keydown', onKey);
	target.addEventListener('focusin', settle);
	return {
		destroy() {
			watch.disconnect();
			target.removeEventListener('keydown', onKey);
			target.removeEventListener('focusin', settle);
		}
	};
}
