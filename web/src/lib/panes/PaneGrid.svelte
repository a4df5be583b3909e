<script lang="ts">
	import { page } from '$app/state';
	import { onMount, untrack } from 'svelte';
	import { Bookmark, Columns2, Grid2x2, ImageDown, PanelLeft, Square } from '$lib/icons';
	import type { PaneState } from '$lib/workbench/state';
	import type { Stage } from '$lib/stages';
	import type { Workspace } from '$lib/workspace.svelte';
	import { keepInAddress } from '$lib/ui/address';
	import { singleKeys } from '$lib/ui/shortcuts.svelte';
	import SavePicture from './SavePicture.svelte';
	import Viewpoints from './Viewpoints.svelte';
	import { VIEWS, type View } from './views';

	let { workspace, stage, initial }: { workspace: Workspace; stage: Stage; initial: View[] } = $props();
	/** Loaded when a pane first shows them: each brings its own libraries. */
	/** Panes beside each other have no room for their panels below this, px. */
	const LEAST_FOR_TWO = 560;
	const VIEW_PANES = {
		map: () => import('./map/MapPane.svelte'),
		section: () => import('./section/SectionPane.svelte'),
		space: () => import('./space/SpacePane.svelte'),
		log: () => import('./log/LogPane.svelte'),
		correlation: () => import('./correlation/CorrelationPane.svelte'),
		table: () => import('./table/TablePane.svelte'),
		chart: () => import('./chart/ChartPane.svelte'),
		profiles: () => import('./profiles/ProfilesPane.svelte'),
		grids: () => import('./grids/GridsPane.svelte'),
		net: () => import('./net/NetPane.svelte'),
		lineage: () => import('./lineage/LineagePane.svelte')
	};

	// The address says what the panes show, or they are as they were left.
	untrack(() => {
		const fromUrl = (page.url.searchParams.get('panes') ?? '')
			.split(',')
			.filter((v): v is View => VIEWS.some((x) => x.id === v))
			.slice(0, 4);
		const kept = workspace.bench.panes(stage, initial);
		if (fromUrl.length && (fromUrl.length !== kept.length || fromUrl.some((v, i) => kept[i]!.view !== v)))
			workspace.bench.state.panes[stage] = fromUrl.map((view, i) => ({ view, settings: kept[i]?.settings ?? {} }));
		else if (!workspace.bench.state.panes[stage]) workspace.bench.state.panes[stage] = kept;
	});
	const panes = $derived<PaneState[]>(workspace.bench.state.panes[stage] ?? []);
	let current = $state(0);
	let width = $state(1000);
	let saving = $state<number | null>(null);
	let viewpoints = $state(false);
	/** On a small screen one pane is shown at a time; two stand above each other where there is no room beside. */
	const single = $derived(panes.length > 1 && width < LEAST_FOR_TWO);
	const stacked = $derived(panes.length === 2 && width < 720);
	const shown = $derived(panes.flatMap((pane, i) => (!single || i === Math.min(current, panes.length - 1) ? [{ pane, i }] : [])));
	const labelOf = (pane: PaneState) => VIEWS.find((v) => v.id === pane.view)!.label;

	$effect(() => keepInAddress('panes', panes.map((p) => p.view).join(',')));
	$effect(() => workspace.bench.follow());
	// What is to be drawn is drawn on a pane that is seen.
	$effect(() => {
		if (!workspace.draw) return;
		const view = workspace.draw.what === 'contact on section' ? 'section' : 'map';
		untrack(() => {
			const at = panes.findIndex((p) => p.view === view);
			if (at >= 0) current = at;
			else if (panes[current]) panes[current]!.view = view;
		});
	});
	onMount(() => {
		const leave = () => void workspace.bench.save(true);
		addEventListener('pagehide', leave);
		return () => removeEventListener('pagehide', leave);
	});

	const LAYOUTS = [
		{ n: 1, label: 'One pane', icon: Square },
		{ n: 2, label: 'Two side by side', icon: Columns2 },
		{ n: 3, label: 'One and two', icon: PanelLeft },
		{ n: 4, label: 'Two by two', icon: Grid2x2 }
	];

	function layout(n: number) {
		const spare = (['map', 'section', 'space', 'log', 'table'] as View[]).filter((v) => !panes.some((p) => p.view === v));
		workspace.bench.state.panes[stage] =
			n <= panes.length ? panes.slice(0, n) : [...panes, ...spare.slice(0, n - panes.length).map((view) => ({ view, settings: {} }))];
		current = Math.min(current, n - 1);
	}

	function keys(event: KeyboardEvent) {
		if (!singleKeys.takes(event)) return;
		const view = VIEWS.find((v) => v.key === event.key.toLowerCase());
		if (view && panes[current]) panes[current]!.view = view.id;
	}
</script>

<svelte:window onkeydown={keys} />

<div
	bind:clientWidth={width}
	class="grid h-full gap-px {single
		? 'grid-rows-[auto_minmax(0,1fr)]'
		: `${panes.length > 1 && !stacked ? 'grid-cols-2' : ''} ${panes.length > 2 || stacked ? 'grid-rows-2' : ''}`} bg-base-300"
>
	{#if single}
		<div class="bg-base-100 flex min-w-0" role="group" aria-label="Panes">
			{#each panes as pane, i (pane)}
				<button
					class="min-w-0 flex-1 truncate border-b-2 px-2 py-2 text-sm {i === shown[0]?.i
						? 'border-b-primary text-primary font-medium'
						: 'quiet border-b-transparent'}"
					aria-pressed={i === shown[0]?.i}
					onclick={() => (current = i)}>{labelOf(pane)}</button
				>
			{/each}
		</div>
	{/if}
	{#each shown as { pane, i } (pane)}
		<section
			class="bg-base-100 flex min-h-0 min-w-0 flex-col {panes.length === 3 && i === 0 && !single ? 'row-span-2' : ''}"
			aria-label="{labelOf(pane)} pane {panes.length > 1 ? i + 1 : ''}"
			onpointerdown={() => (current = i)}
			onfocusin={() => (current = i)}
		>
			<header
				class="rule relative flex h-8 shrink-0 items-center gap-1 border-b px-2 {i === current && shown.length > 1
					? 'border-b-primary'
					: ''}"
			>
				<select
					class="select select-ghost select-xs w-auto min-w-0 [field-sizing:content] font-medium"
					aria-label="What this pane shows"
					bind:value={pane.view}
				>
					{#each VIEWS as v (v.id)}<option value={v.id}>{v.label}</option>{/each}
				</select>
				<button
					class="btn btn-ghost btn-xs btn-square quiet ml-auto"
					title="Save this pane as a picture"
					aria-label="Save the {pane.view} pane as a picture"
					aria-expanded={saving === i}
					onclick={() => (saving = saving === i ? null : i)}><ImageDown size={14} /></button
				>
				{#if i === shown[0]?.i}
					<button
						class="btn btn-ghost btn-xs quiet"
						title="Viewpoints: panes, cameras and styles under a name"
						aria-expanded={viewpoints}
						onclick={() => (viewpoints = !viewpoints)}><Bookmark size={14} /><span class={single ? 'sr-only' : ''}>Viewpoints</span></button
					>
					<div class="flex" role="group" aria-label="Layout">
						{#each LAYOUTS as l (l.n)}
							<button
								class="btn btn-ghost btn-xs btn-square {panes.length === l.n ? 'text-primary' : 'quiet'}"
								title={l.label}
								aria-label={l.label}
								aria-pressed={panes.length === l.n}
								onclick={() => layout(l.n)}><l.icon size={14} /></button
							>
						{/each}
					</div>
				{/if}
				{#if saving === i}<SavePicture {workspace} id="{stage}-{i}" view={pane.view} close={() => (saving = null)} />{/if}
				{#if viewpoints && i === shown[0]?.i}<Viewpoints {workspace} {stage} close={() => (viewpoints = false)} />{/if}
			</header>
			<div class="pane-body relative min-h-0 flex-1">
				{#await VIEW_PANES[pane.view]() then { default: View }}
					<View {workspace} id="{stage}-{i}" {pane} />
				{:catch}
					<p class="p-6" role="alert">
						This view could not be loaded from the server. <button class="link" onclick={() => location.reload()}
							>Load the page again</button
						>
					</p>
				{/await}
			</div>
		</section>
	{/each}
</div>
