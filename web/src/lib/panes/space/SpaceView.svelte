<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';
	import Exaggeration from '../Exaggeration.svelte';
	import SolidsChoice from '../SolidsChoice.svelte';

	/** How the block is looked at: what of it is seen, and what stands beside it. */
	let {
		workspace,
		my = $bindable(),
		backgrounds,
		fromTop,
		isCut
	}: {
		workspace: Workspace;
		my: {
			only: string;
			background: string;
			parallel: boolean;
			peel: number;
			apart: number;
			axes: boolean;
			names: boolean;
			depths: boolean;
			solids: string | null;
		};
		backgrounds: readonly string[];
		/** Units of the model from the top of the column down. */
		fromTop: readonly { name: string }[];
		isCut: boolean;
	} = $props();
</script>

<div class="bg-base-100 rule absolute top-10 left-2 flex w-56 flex-col gap-1.5 border p-2.5 text-sm shadow-sm">
	<Exaggeration {workspace} />
	{#if workspace.solidObjects.length > 1}<SolidsChoice {workspace} label="Model" none="the one at hand" bind:value={my.solids} />{/if}
	<label class="flex items-center justify-between gap-2"
		>Holes shown<select class="select select-xs w-28" bind:value={my.only}
			><option value="all">all</option><option value="selection">the selection</option><option value="corridor">the corridor</option
			></select
		></label
	>
	<label class="flex items-center justify-between gap-2"
		>Background<select class="select select-xs w-28" bind:value={my.background}
			>{#each backgrounds as p (p)}<option value={p}>{p}</option>{/each}</select
		></label
	>
	<label class="flex items-center gap-2"
		><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.parallel} />parallel projection</label
	>
	{#if fromTop.length > 1}
		<label class="flex flex-col gap-0.5"
			><span class="flex justify-between gap-2"
				>Peel off<span class="quiet truncate">{my.peel ? `down to ${fromTop[my.peel - 1]?.name ?? ''}` : 'nothing'}</span></span
			><input type="range" class="range range-xs" min="0" max={fromTop.length - 1} step="1" bind:value={my.peel} /></label
		>
		<label class="flex flex-col gap-0.5" title="Lifts each unit off the one below; holes, faults and terrain stand aside meanwhile"
			><span class="flex justify-between gap-2"
				>Lift units apart<span class="quiet numbers">{isCut ? 'not while cut open' : `${my.apart} % of the height`}</span></span
			><input type="range" class="range range-xs" min="0" max="60" step="5" disabled={isCut} bind:value={my.apart} /></label
		>
	{/if}
	<label class="flex items-center gap-2"
		><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.axes} />axes with coordinates</label
	>
	<label class="flex items-center gap-2"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.names} />names of holes</label
	>
	<label class="flex items-center gap-2"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.depths} />depth marks</label>
</div>
