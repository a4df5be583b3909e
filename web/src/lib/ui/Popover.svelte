<script lang="ts">
	import type { Snippet } from 'svelte';

	/** What hangs below a button: it takes the focus, Escape and a press elsewhere close it, and the button has the focus again. */
	let { label, close, children, at = 'right-0 top-9' }: { label: string; close: () => void; children: Snippet; at?: string } = $props();
	let node: HTMLDivElement;
	/** Free room to the edges of the window, px. */
	const EDGE = 8;
	/** Moves it into the window, wherever its button is; what is higher than the room below scrolls. */
	function intoWindow() {
		node.style.translate = '';
		const { left, right, top } = node.getBoundingClientRect();
		const over = Math.max(0, right - (innerWidth - EDGE));
		node.style.translate = `${Math.round(left - over < EDGE ? EDGE - left : -over)}px`;
		node.style.maxHeight = `${Math.max(120, innerHeight - EDGE - top)}px`;
	}
	$effect(() => {
		const before = document.activeElement;
		intoWindow();
		const sized = new ResizeObserver(intoWindow);
		sized.observe(node);
		(node.querySelector<HTMLElement>('button:not([disabled]), input, select, a[href]') ?? node).focus();
		const press = (e: PointerEvent) => {
			if (!node.contains(e.target as Node) && !(before?.contains(e.target as Node) ?? false)) close();
		};
		document.addEventListener('pointerdown', press);
		return () => {
			sized.disconnect();
			document.removeEventListener('pointerdown', press);
			if (node.contains(document.activeElement) || document.activeElement === document.body)
				if (before instanceof HTMLElement && before.isConnected) before.focus();
		};
	});
</script>

<svelte:window onresize={intoWindow} />

<div
	bind:this={node}
	class="bg-base-100 rule absolute z-40 max-w-[calc(100vw-16px)] overflow-y-auto border shadow-lg {at}"
	role="dialog"
	aria-label={label}
	tabindex="-1"
	onkeydown={(e) => {
		if (e.key !== 'Escape') return;
		e.stopPropagation();
		close();
	}}
>
	{@render children()}
</div>
