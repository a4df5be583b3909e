<script lang="ts">
	import { RotateCcw } from '$lib/icons';
	import type { LogChanges, ProjectObject } from '$lib/api/types';
	import { moment } from '$lib/ui/moments';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** What was changed in a version of a log, to be taken back one by one. */
	let {
		workspace,
		log,
		act
	}: { workspace: Workspace; log: ProjectObject; /** Does something, and reads again. */ act: (work: () => Promise<unknown>) => unknown } =
		$props();
	let changes = $state.raw<LogChanges | null>(null);
	let asOf = '';
	$effect(() => {
		const key = `${log.id} ${log.contentHash}`;
		if (key === asOf) return;
		// Those of another log are not taken back here.
		if (!asOf.startsWith(log.id)) changes = null;
		asOf = key;
		void workspace.api.ask('listRelogged', { object: log.id }).then(
			(c) => key === asOf && (changes = c),
			(error) => workspace.tell(error)
		);
	});
	const restore = (what: { rows?: number[]; all?: boolean; unplaced?: boolean }) =>
		act(() => workspace.api.ask('restoreIntervals', { object: log.id, body: { ...what, revision: log.revision } }));
</script>

{#if changes && (changes.total || changes.unplaced.length)}
	<section class="rule mt-3 border-t pt-2 text-sm" aria-label="Relogged">
		<h3 class="panel-title mb-1">Relogged <span class="numbers quiet font-normal">{spaced(changes.total)}</span></h3>
		<ul class="max-h-64 overflow-y-auto">
			{#each changes.changes as c (c.n)}
				<li class="flex items-center gap-1.5">
					<button
						class="min-w-0 flex-1 truncate text-left hover:underline"
						title="{c.what}{c.by ? ` by ${c.by}` : ''}{c.at ? `, ${moment(c.at)}` : ''}{c.note
							? `. ${c.note}`
							: ''}. Before: {Object.entries(c.before)
							.map(([k, v]) => `${k} ${v || 'empty'}`)
							.join(', ')}"
						onclick={() =>
							(workspace.selection = c.what === 'left out' ? { kind: 'hole', name: c.hole } : { kind: 'rows', table: log.id, rows: [c.n] })}
						><span class="numbers">{c.hole} {c.from}–{c.to}</span>
						{c.what === 'relogged' ? c.code || 'not sampled' : c.what}</button
					>
					<button
						class="btn btn-ghost btn-xs btn-square"
						aria-label="Take back {c.hole} {c.from} to {c.to}"
						title="As it was"
						onclick={() => restore({ rows: [c.n] })}><RotateCcw size={13} /></button
					>
				</li>
			{/each}
		</ul>
		{#if changes.total > changes.changes.length}<p class="quiet text-xs">
				The first {changes.changes.length}; all are in the table.
			</p>{/if}
		{#if changes.total}<button class="btn btn-xs mt-1" onclick={() => restore({ all: true })}>Take all back</button>{/if}
		{#if changes.unplaced.length}
			<p class="text-warning mt-1.5">Without an interval since the log was read from another file:</p>
			<ul class="text-xs">
				{#each changes.unplaced as u, i (i)}<li>{u.hole} {u.place}: {u.column} {u.value}</li>{/each}
			</ul>
			<button class="btn btn-xs mt-1" onclick={() => restore({ unplaced: true })}>Let these go</button>
		{/if}
	</section>
{/if}
