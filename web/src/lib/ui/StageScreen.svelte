<script lang="ts">
	import { untrack, type Snippet } from 'svelte';
	import { List, PanelLeftOpen, X } from '$lib/icons';
	import Legend from '$lib/legend/Legend.svelte';
	import Details from '$lib/legend/Details.svelte';
	import { useWorkspace } from '$lib/workspace.svelte';

	/** A stage: its panel on the left, panes, legend and details on the right. Where there is no room beside the panes, the two are drawers over them. */
	let {
		aside,
		children,
		width = 300,
		legend = true,
		name = 'Panel'
	}: { aside?: Snippet; children: Snippet; width?: number; legend?: boolean; /** Of the panel on the left. */ name?: string } = $props();
	const workspace = useWorkspace();
	let room = $state(innerWidth);
	const narrow = $derived(room < 900);
	let drawer = $state<'aside' | 'legend' | null>(null);
	const shut = () => (drawer = null);
	// What is made, or was looked up, is shown, wherever that was asked for.
	$effect(() => {
		if (workspace.making || workspace.routine || workspace.lookedUp) untrack(() => narrow && (drawer = 'legend'));
		workspace.lookedUp = null;
	});
	const DRAWER = 'fixed top-11 bottom-[26px] z-30 w-[min(340px,calc(100vw-40px))] shadow-xl';
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && drawer && shut()} />
<div class="flex h-full min-h-0 flex-col" bind:clientWidth={room}>
	{#if narrow}
		<div class="bg-base-100 rule flex shrink-0 items-center gap-2 border-b px-2 py-1">
			{#if aside}<button
					class="btn btn-sm {drawer === 'aside' ? 'btn-active' : ''}"
					aria-expanded={drawer === 'aside'}
					onclick={() => (drawer = drawer === 'aside' ? null : 'aside')}><PanelLeftOpen size={16} />{name}</button
				>{/if}
			{#if legend}<button
					class="btn btn-sm ml-auto {drawer === 'legend' ? 'btn-active' : ''}"
					aria-expanded={drawer === 'legend'}
					onclick={() => (drawer = drawer === 'legend' ? null : 'legend')}><List size={16} />Legend</button
				>{/if}
		</div>
	{/if}
	<div
		class="grid min-h-0 flex-1"
		style="grid-template-columns: {narrow ? 'minmax(0, 1fr)' : `${aside ? `${width}px ` : ''}minmax(0, 1fr)${legend ? ' 248px' : ''}`}"
	>
		{#if aside}<div
				class="bg-base-100 rule min-h-0 overflow-y-auto border-r p-4 {narrow ? `${DRAWER} left-0` : ''}"
				hidden={narrow && drawer !== 'aside'}
			>
				{#if narrow}<button class="btn btn-ghost btn-sm btn-square float-right" aria-label="Close {name}" onclick={shut}
						><X size={16} /></button
					>{/if}{@render aside()}
			</div>{/if}
		<div class="min-h-0 min-w-0">{@render children()}</div>
		{#if legend}
			<aside
				class="bg-base-100 rule min-h-0 grid-rows-[minmax(0,1fr)_auto] border-l {narrow ? `${DRAWER} right-0` : ''} {narrow &&
				drawer !== 'legend'
					? 'hidden'
					: 'grid'}"
				aria-label="Legend and details"
			>
				<div class="min-h-0 overflow-y-auto p-3"><Legend {workspace} /></div>
				<div class="rule max-h-[58vh] overflow-y-auto border-t p-3"><Details {workspace} /></div>
			</aside>
		{/if}
	</div>
</div>
