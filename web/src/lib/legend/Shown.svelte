<script lang="ts">
	import { Eye, EyeOff } from '$lib/icons';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Shows or hides what a line of the legend stands for. */
	let { workspace, name, label }: { workspace: Workspace; name: string; label: string } = $props();
	const on = $derived(workspace.shown(name));
</script>

<button
	class="quiet hover:text-base-content grid place-items-center"
	aria-pressed={on}
	aria-label="{on ? 'Hide' : 'Show'} {label}"
	title={on ? 'Hide' : 'Show'}
	onclick={() => workspace.toggle(name)}
>
	{#if on}<Eye size={15} />{:else}<EyeOff size={15} />{/if}
</button>
