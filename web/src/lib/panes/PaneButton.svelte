<script lang="ts">
	import type { Snippet } from 'svelte';
	/** A button in the head of a pane: it opens a panel, or turns a tool on, and shows so. */
	let {
		active,
		expanded,
		pressed,
		title,
		press,
		children
	}: { active: boolean; expanded?: boolean; pressed?: boolean; title?: string; press: () => void; children: Snippet } = $props();
</script>

<button class="btn btn-xs {active ? 'btn-active' : 'bg-base-100'}" aria-expanded={expanded} aria-pressed={pressed} {title} onclick={press}
	>{@render children()}</button
>
