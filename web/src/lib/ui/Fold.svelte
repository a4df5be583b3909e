<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A part that can be folded away. It is open by itself where it holds something; what a person opened or closed stays so, whatever comes in meanwhile. */
	let {
		filled,
		look = '',
		title,
		lazy = false,
		children
	}: {
		filled: boolean;
		look?: string;
		title: Snippet;
		/** What it holds is there only while it is open. */
		lazy?: boolean;
		children: Snippet;
	} = $props();
	let chosen = $state<boolean | null>(null);
	const open = $derived(chosen ?? filled);
</script>

<details class={look} bind:open={() => open, (is) => (chosen = is)}>
	{@render title()}
	{#if open || !lazy}{@render children()}{/if}
</details>
