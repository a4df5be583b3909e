<script lang="ts">
	import type { LogDifferences, ProjectObject } from '$lib/api/types';
	import { rowsBetween } from '$lib/panes/log/log-places';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Where a log says something else than another one. */
	let { workspace, log, others }: { workspace: Workspace; log: ProjectObject; others: readonly ProjectObject[] } = $props();
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	let other = $state('');
	let differences = $state.raw<LogDifferences | null>(null);
	$effect(() => {
		void [log.id, log.contentHash, other];
		differences = null;
	});
	const compare = () =>
		workspace.attempt(async () => {
			differences = await workspace.api.ask('compareLogs', { object: log.id, with: other, by: 'unit', limit: 10000 });
		});
	/** Selects the intervals that differ, so that they glow in all panes. */
	function show() {
		const set = workspace.sets.of(log.id);
		const { paths } = workspace.sets;
		if (!set || !paths || !differences) return workspace.say('The log is still read.');
		const number = new Map(paths.holes.map((h, i) => [h.name, i]));
		const rows = differences.differences.flatMap((d) => {
			const hole = number.get(d.hole);
			return hole === undefined ? [] : rowsBetween(set, paths.holes.length, hole, d.from + 1e-4, d.to - 1e-4);
		});
		if (rows.length) workspace.selection = { kind: 'rows', table: log.id, rows: [...new Set(rows)] };
		else workspace.say('Only the other log has intervals there.');
	}
	const nameOf = (code: string) =>
		workspace.allUnits.find((u) => u.id === (workspace.unitOfCode(code) || code))?.name ?? (code || 'nothing');
</script>

<section class="rule mt-3 border-t pt-2 text-sm" aria-label="Compare logs">
	<h3 class="panel-title mb-1">Where it differs</h3>
	<div class="flex gap-1.5">
		<select class="select select-xs min-w-0 flex-1" aria-label="Compare with" bind:value={other}>
			<option value="" disabled>from which log?</option>
			{#each others as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
		</select>
		<button class="btn btn-xs" disabled={!other} onclick={compare}>Compare</button>
	</div>
	{#if differences}
		<p class="mt-1" role="status">
			{#if differences.total}<span class="numbers">{spaced(differences.length, 1)} {unit}</span> of
				<span class="numbers">{spaced(differences.compared, 1)}</span>
				are of another unit, in {differences.total}
				{differences.total === 1 ? 'stretch' : 'stretches'}:
				<button class="btn btn-xs" title="They glow in space, on sections and in the log" onclick={show}>Show where</button>{:else}They say
				the same everywhere.{/if}
		</p>
		<ul class="max-h-64 overflow-y-auto text-xs">
			{#each differences.differences.slice(0, 500) as d, i (i)}
				<li>
					<button class="w-full truncate text-left hover:underline" onclick={() => (workspace.selection = { kind: 'hole', name: d.hole })}
						><span class="numbers">{d.hole} {spaced(d.from, 1)}–{spaced(d.to, 1)}</span>: {nameOf(d.a)}, there {nameOf(d.b)}</button
					>
				</li>
			{/each}
		</ul>
	{/if}
</section>
