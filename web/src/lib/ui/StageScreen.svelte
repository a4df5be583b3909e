<script lang="ts">
	import type { Snippet } from 'svelte';
	import Legend from '$lib/legend/Legend.svelte';
	import Details from '$lib/legend/Details.svelte';
	import { useWorkspace } from '$lib/workspace.svelte';
	let { aside, children, width = 300, legend = true }: { aside?: Snippet; children: Snippet; width?: number; legend?: boolean } = $props();
	const workspace = useWorkspace();
</script>

<div class="grid h-full min-h-0" style="grid-template-columns: {aside ? `${width}px ` : ''}minmax(0, 1fr){legend ? ' 248px' : ''}">
	{#if aside}<div class="bg-base-100 rule min-h-0 overflow-y-auto border-r p-4">{@render aside()}</div>{/if}
	<div class="min-h-0 min-w-0">{@render children()}</div>
	{#if legend}
		<aside class="bg-base-100 rule grid min-h-0 grid-rows-[minmax(0,1fr)_auto] border-l" aria-label="Legend and details">
			<div class="min-h-0 overflow-y-auto p-3"><Legend {workspace} /></div>
			<div class="rule max-h-72 overflow-y-auto border-t p-3"><Details {workspace} /></div>
		</aside>
	{/if}
</div>
