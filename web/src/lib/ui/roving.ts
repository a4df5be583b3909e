/** One tab stop for many things of one kind: arrows, Home and End go from one to the next, Tab leaves them. */
export interface Roving {
	/** What they are, as a selector below the node. */
	items: string;
	/** Pressed as soon as it has the focus, as tabs are. */
	press?: boolean;
}

/** @param node holds the things; those that come and go later are followed */
export function roving(node: HTMLElement, options: Roving): { destroy(): void } {
	const items = () =>
		[...node.querySelectorAll<HTMLElement>(options.items)].filter((e) => !e.hasAttribute('disabled') && e.offsetParent !== null);
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
	node.addEventListener('keydown', keys);
	node.addEventListener('focusin', settle);
	return {
		destroy() {
			watch.disconnect();
			node.removeEventListener('keydown', keys);
			node.removeEventListener('focusin', settle);
		}
	};
}
