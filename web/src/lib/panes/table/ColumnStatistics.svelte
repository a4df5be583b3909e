<script lang="ts">
	import { X } from '$lib/icons';
	import type { ColumnStatistics } from '#core/tables/choose';
	import { problemText } from '$lib/api/client';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';
	let {
		workspace,
		table,
		column,
		filter,
		find,
		version,
		close
	}: { workspace: Workspace; table: string; column: string; filter: string; find: string; version: string; close: () => void } = $props();
	let s = $state.raw<ColumnStatistics | null>(null);
	let problem = $state('');
	$effect(() => {
		void version;
		workspace.api
			.ask('columnStatistics', {
				object: table,
				column,
				filter: filter || undefined,
				find: find || undefined
			})
			.then(
				(a) => {
					s = a.statistics;
					problem = '';
				},
				(e) => (problem = problemText(e))
			);
	});
	const short = (v: number) => (Number.isFinite(v) ? String(Number(v.toPrecision(5))) : '–');
</script>

<aside class="pane-aside rule bg-base-100 w-60 shrink-0 overflow-y-auto border-l p-2.5 text-sm" aria-label="Statistics of {column}">
	<div class="mb-1 flex items-center justify-between">
		<h3 class="panel-title truncate">{column}</h3>
		<button class="btn btn-ghost btn-xs btn-square" aria-label="Close the statistics" onclick={close}><X size={13} /></button>
	</div>
	{#if problem}<p class="text-error" role="alert">{problem}</p>
	{:else if s}
		<dl class="numbers grid grid-cols-[auto_1fr] gap-x-3">
			<dt class="quiet">rows in use</dt>
			<dd class="text-right">{spaced(s.rows)}</dd>
			<dt class="quiet">empty</dt>
			<dd class="text-right">{spaced(s.missing)}</dd>
			<dt class="quiet">different</dt>
			<dd class="text-right">{spaced(s.different)}</dd>
			{#if s.numbers}
				{#each [['least', s.numbers.least], ['quarter', s.numbers.quartiles[0]], ['median', s.numbers.median], ['three quarters', s.numbers.quartiles[1]], ['greatest', s.numbers.greatest], ['mean', s.numbers.mean], ['standard deviation', s.numbers.deviation]] as const as [name, v] (name)}<dt
						class="quiet"
					>
						{name}
					</dt>
					<dd class="text-right">{short(v)}</dd>{/each}
			{/if}
		</dl>
		{#if s.numbers && s.numbers.count}
			{@const most = Math.max(...s.numbers.histogram.counts)}
			<svg
				viewBox="0 0 220 60"
				class="mt-2 w-full"
				role="img"
				aria-label="Histogram from {short(s.numbers.least)} to {short(s.numbers.greatest)}"
			>
				{#each s.numbers.histogram.counts as n, i (i)}<rect
						x={(i * 220) / s.numbers.histogram.counts.length}
						y={58 - (56 * n) / most}
						width={220 / s.numbers.histogram.counts.length - 1}
						height={(56 * n) / most}
						fill="var(--color-primary)"
					/>{/each}
				<path d="M0 58.5h220" stroke="currentColor" stroke-opacity=".5" />
			</svg>
		{:else if s.classes}
			<ul class="numbers mt-2">
				{#each s.classes.slice(0, 60) as c (c.name)}<li class="flex justify-between gap-2">
						<span class="truncate">{c.name}</span><span>{spaced(c.count)}</span>
					</li>{/each}
			</ul>
		{/if}
	{:else}<p class="quiet" role="status">Counting…</p>{/if}
</aside>
