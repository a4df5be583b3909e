<script lang="ts">
	import type { Snippet } from 'svelte';

	/** What hangs below a button: it takes the focus, Escape and a press elsewhere close it, and the button has the focus again. */
	let { label, close, children, at = 'right-0 top-9' }: { label: string; close: () => void; children: Snippet; at?: string } = $props();
	let node: HTMLDivElement;
	$effect(() => {
		const before = document.activeElement;
		(node.querySelector<HTMLElement>('button:not([disabled]), input, select, a[href]') ?? node).focus();
		const press = (e: PointerEvent) => {
			if (!node.contains(e.target as Node) && !(before?.contains(e.target as Node) ?? false)) close();
		};
		document.addEventListener('pointerdown', press);
		return () => {
			document.removeEventListener('pointerdown', press);
			if (node.contains(document.activeElement) || document.activeElement === document.body)
				if (before instanceof HTMLElement && before.isConnected) before.focus();
		};
	});
</script>

<div
	bind:this={node}
	class="bg-base-100 rule absolute z-40 max-w-[calc(100vw-16px)] border shadow-lg {at}"
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
