<script lang="ts">
	import { degrees, geographicOf, type Geographic } from '$lib/workbench/geographic.svelte';
	import { spaced } from './numbers';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace }: { workspace: Workspace } = $props();
	const p = $derived(workspace.probe);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	let geographic = $state.raw<Geographic | null>(null);
	$effect(() => {
		void geographicOf(workspace.project?.crs ?? 0).then((g) => (geographic = g));
	});
	const lonLat = $derived(p && geographic ? geographic.forward([p.x, p.y]) : null);
</script>

<footer class="bg-base-100 rule coordinates flex items-center gap-5 overflow-hidden border-t px-3 whitespace-nowrap" aria-label="Probe">
	{#if p}
		<span>E {spaced(p.x, 1)}</span><span>N {spaced(p.y, 1)}</span>
		<span>Z {p.z === null || Number.isNaN(p.z) ? '–' : `${spaced(p.z, 1)} ${unit}`}</span>
		{#if lonLat && lonLat.every(Number.isFinite)}<span class="quiet">{degrees(lonLat[1], 'NS')} {degrees(lonLat[0], 'EW')}</span>{/if}
		<span class="rule min-w-0 truncate border-l pl-5 font-sans text-[13px]">{p.what}</span>
	{:else}
		<span class="quiet min-w-0 truncate font-sans text-[13px]">Move the pointer over a pane: the same place is marked in all of them</span>
	{/if}
	<span class="ml-auto shrink-0">{workspace.project?.crs ? `EPSG:${workspace.project.crs}` : 'local grid'}</span>
	<span class="shrink-0">VE {workspace.bench.state.exaggeration}×</span>
</footer>
