<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A dialog: focus stays in it and goes back to where it was, Escape and a press beside it close it. */
	let { label, close, children, width = 480 }: { label: string; close: () => void; children: Snippet; width?: number } = $props();
	let dialog: HTMLDialogElement;
	$effect(() => {
		const before = document.activeElement;
		dialog.showModal();
		return () => {
			if (dialog.open) dialog.close();
			if (before instanceof HTMLElement && before.isConnected) before.focus();
		};
	});
</script>

<dialog
	bind:this={dialog}
	aria-label={label}
	class="bg-base-100 text-base-content rule m-auto max-h-[85vh] max-w-[94vw] overflow-y-auto border p-0 shadow-xl backdrop:bg-black/20"
	style="width: {width}px"
	oncancel={(e) => {
		e.preventDefault();
		close();
	}}
	onkeydown={(e) => e.stopPropagation()}
	onclick={(e) => {
		if (e.target === dialog) close();
	}}
>
	{@render children()}
</dialog>
