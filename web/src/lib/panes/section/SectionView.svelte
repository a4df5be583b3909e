<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';
	import Exaggeration from '../Exaggeration.svelte';
	import SolidsChoice from '../SolidsChoice.svelte';

	/** What a section pane shows beside the cut. */
	let {
		workspace,
		my = $bindable()
	}: {
		workspace: Workspace;
		my: { barWidth: number; grid: boolean; dips: boolean; names: boolean; units: boolean; solids: string | null; over: string | null };
	} = $props();
	const others = $derived(workspace.solidObjects);
</script>

<div class="bg-base-100 rule absolute top-8 right-2 z-10 flex w-56 flex-col gap-1.5 border p-2.5 text-sm shadow-sm">
	<Exaggeration {workspace} />
	{#if others.length > 1}
		<SolidsChoice {workspace} label="Model" none="the one at hand" bind:value={my.solids} />
		<SolidsChoice {workspace} label="Lines over it" none="none" bind:value={my.over} />
	{/if}
	<label class="flex items-center justify-between gap-2"
		>Width of holes, px<input class="input input-xs numbers w-16" type="number" min="1" max="40" bind:value={my.barWidth} /></label
	>
	<label class="flex items-center gap-2"
		><input
			type="checkbox"
			class="checkbox checkbox-xs"
			checked={workspace.bench.state.filled}
			onchange={(e) => (workspace.bench.state.filled = e.currentTarget.checked)}
		/>model filled</label
	>
	<label class="flex items-center gap-2"
		><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.grid} />lines of elevation and distance</label
	>
	<label class="flex items-center gap-2"
		><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.dips} />orientations as apparent dips</label
	>
	<label class="flex items-center gap-2"
		><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.names} />names of holes, ± how far off</label
	>
	<label class="flex items-center gap-2"
		><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.units} />names of units where there is room</label
	>
</div>
