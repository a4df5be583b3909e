<script lang="ts">
	import type { CodeGroups, ProjectObject } from '$lib/api/types';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Units that are proposed for codes without one, to be taken one by one or together. */
	let {
		workspace,
		log,
		lumping,
		set
	}: { workspace: Workspace; log: ProjectObject; lumping: Record<string, string>; set: (lumping: Record<string, string>) => unknown } =
		$props();
	let found = $state.raw<CodeGroups['groups']>([]);
	let asOf = '';
	$effect(() => {
		const i = workspace.interpretation;
		const key = `${log.id} ${log.contentHash} ${i?.column.revision} ${i?.lumping.revision}`;
		if (key === asOf) return;
		asOf = key;
		void workspace.api.ask('proposeCodeGroups', { object: log.id }).then(
			({ groups }) => key === asOf && (found = groups),
			// Codes are given to units by hand all the same.
			() => key === asOf && (found = [])
		);
	});
	const nameOf = (id: string) => workspace.units.find((u) => u.id === id)?.name ?? id;
	const take = (groups: CodeGroups['groups']) =>
		set({ ...lumping, ...Object.fromEntries(groups.flatMap((g) => g.codes.map((c) => [c, g.unit]))) });
</script>

{#if found.length}
	<section class="bg-base-200 mb-3 p-2 text-sm" aria-label="Units that are proposed">
		<h3 class="panel-title mb-1">Proposed</h3>
		<ul class="max-h-52 overflow-y-auto">
			{#each found as g (g.codes.join() + g.unit)}
				<li class="mb-1 flex items-start gap-1.5">
					<span class="min-w-0 flex-1"
						><span class="font-medium">{g.codes.join(', ')}</span> → {nameOf(g.unit)}<br /><span class="quiet text-xs">{g.evidence}</span
						></span
					>
					<button class="btn btn-xs" aria-label="Take {g.codes.join(', ')} for {nameOf(g.unit)}" onclick={() => take([g])}>Take</button>
				</li>
			{/each}
		</ul>
		{#if found.length > 1}<button class="btn btn-xs btn-primary mt-1" onclick={() => take(found)}>Take all {found.length}</button>{/if}
	</section>
{/if}
