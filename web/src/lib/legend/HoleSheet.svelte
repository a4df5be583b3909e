<script lang="ts">
	import { X } from '$lib/icons';
	import { problemText } from '$lib/api/client';
	import type { HoleSheet, RowPage } from '$lib/api/types';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace, hole, close }: { workspace: Workspace; hole: string; close: () => void } = $props();
	let sheet = $state.raw<HoleSheet | null>(null);
	let rows = $state.raw<RowPage | null>(null);
	let tab = $state('path');
	let problem = $state('');
	let closer: HTMLButtonElement;
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	$effect(() => closer.focus());
	$effect(() => {
		workspace.api.ask('getHole', { hole }).then(
			(h) => (sheet = h),
			(e) => (problem = problemText(e))
		);
	});
	$effect(() => {
		rows = null;
		if (tab === 'path') return;
		workspace.api.ask('listRows', { object: tab, limit: 1000, hole }).then(
			(r) => (rows = r),
			(e) => (problem = problemText(e))
		);
	});
	const nameOf = (id: string) => workspace.tables.find((t) => t.id === id)?.name ?? 'Table';
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && close()} />
<div class="fixed inset-0 z-40 bg-black/20" role="presentation" onclick={close}></div>
<div
	class="bg-base-100 rule fixed top-14 right-6 bottom-10 left-28 z-40 mx-auto flex max-w-5xl flex-col border shadow-xl"
	role="dialog"
	aria-label="Hole {hole}"
>
	<header class="rule flex items-center gap-4 border-b px-4 py-2">
		<h2 class="panel-title">{hole}</h2>
		{#if sheet}<p class="numbers quiet text-sm">
				collar {spaced(sheet.collar[0], 1)} E, {spaced(sheet.collar[1], 1)} N, {spaced(sheet.collar[2], 1)}
				{unit} · end {spaced(sheet.end[0], 1)} E, {spaced(sheet.end[1], 1)} N, {spaced(sheet.end[2], 1)}
				{unit} · {spaced(sheet.totalDepth, 1)}
				{unit} long
			</p>{/if}
		<button bind:this={closer} class="btn btn-ghost btn-sm btn-square ml-auto" aria-label="Close" onclick={close}><X size={16} /></button>
	</header>
	{#if problem}<p class="text-error p-4" role="alert">{problem}</p>{/if}
	{#if sheet}
		<div class="rule flex flex-wrap gap-1 border-b px-3 py-1" role="tablist">
			<button
				class="btn btn-xs {tab === 'path' ? 'btn-active' : 'btn-ghost'}"
				role="tab"
				aria-selected={tab === 'path'}
				onclick={() => (tab = 'path')}>Path</button
			>
			{#each sheet.rows as r (r.table)}<button
					class="btn btn-xs {tab === r.table ? 'btn-active' : 'btn-ghost'}"
					role="tab"
					aria-selected={tab === r.table}
					onclick={() => (tab = r.table)}>{nameOf(r.table)} <span class="quiet">{r.count}{r.left ? ` + ${r.left} out` : ''}</span></button
				>{/each}
		</div>
		<div class="min-h-0 flex-1 overflow-auto px-4 py-2">
			{#if tab === 'path'}
				<table class="plain numbers">
					<thead class="bg-base-100 sticky top-0"
						><tr
							>{#each [`Measured depth, ${unit}`, 'Azimuth, °', 'Inclination, °', `TVD, ${unit}`, 'Easting', 'Northing', `Elevation, ${unit}`, `Dogleg, ° in 30 ${unit}`] as h (h)}<th
									class="right">{h}</th
								>{/each}</tr
						></thead
					>
					<tbody
						>{#each sheet.path as r, i (i)}<tr
								>{#each [[r.measuredDepth, 2], [r.azimuth, 1], [r.inclination, 1], [r.trueVerticalDepth, 2], [r.easting, 2], [r.northing, 2], [r.elevation, 2], [r.doglegSeverity, 2]] as const as [v, n], k (k)}<td
										class="right">{spaced(v, n)}</td
									>{/each}</tr
							>{/each}</tbody
					>
				</table>
			{:else if rows}
				<table class="plain numbers">
					<thead class="bg-base-100 sticky top-0"
						><tr
							><th>Line</th>{#each rows.table.header as h (h)}<th>{h}</th>{/each}{#each rows.calculated as c (c.name)}<th>{c.name}</th
								>{/each}</tr
						></thead
					>
					<tbody
						>{#each rows.rows as r, k (r.n)}<tr class={r.excluded ? 'line-through opacity-50' : ''}
								><td class="quiet"><a class="link" href="/{workspace.id}/check?table={tab}&row={r.n}">{r.line}</a></td
								>{#each r.cells as c, i (i)}<td>{c}</td>{/each}{#each rows.calculated as c (c.name)}<td>{c.cells[k]}</td>{/each}</tr
							>{/each}</tbody
					>
				</table>
				{#if rows.total > rows.rows.length}<p class="quiet py-2">The first {rows.rows.length} of {rows.total} rows.</p>{/if}
			{:else}<p class="quiet">Loading…</p>{/if}
		</div>
	{:else if !problem}<p class="quiet p-4">Loading…</p>{/if}
</div>
