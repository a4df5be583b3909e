<script lang="ts">
	import type { MadeResult } from '$lib/api/types';
	import { hasWords } from '$lib/ui/fold';
	import SeverityMark from '$lib/ui/SeverityMark.svelte';
	import type { Workspace } from '$lib/workspace.svelte';

	/** What results say of the ground that nobody would expect: water above the terrain, wells that stand above their collar. */
	let { workspace, filter }: { workspace: Workspace; filter: string } = $props();
	let results = $state.raw<MadeResult[]>([]);
	/** What results are known by: when it changes, they are read again. */
	const known = $derived(workspace.made.map((o) => `${o.id} ${o.contentHash} ${o.name}`).join());
	$effect(() => {
		if (!known) return void (results = []);
		let left = false;
		workspace.api.ask('listResults').then(
			(a) => !left && (results = a.results),
			() => {}
		);
		return () => (left = true);
	});
	const findings = $derived(
		results.flatMap((r) => {
			const said = r.built?.report['finding'];
			return typeof said === 'string' && (!filter || hasWords(`${said} ${r.name}`, filter)) ? [{ ...r, said }] : [];
		})
	);
</script>

{#if findings.length}
	<section class="mt-4" aria-label="What results say">
		<h2 class="mb-1 text-sm font-semibold">What results say</h2>
		<ul class="text-sm">
			{#each findings as f (f.id)}
				<li>
					<a
						class="hover:bg-base-200 flex gap-2 px-1 py-1.5"
						href="/{workspace.id}/examine?select=object~{f.id}"
						onclick={() => (workspace.selection = { kind: 'object', id: f.id })}
						title="Show {f.name} under Examine"
						><span class="shrink-0"><SeverityMark severity="noted" /></span><span class="min-w-0"
							>{f.said[0]!.toUpperCase()}{f.said.slice(1)}<span class="quiet block"
								>{f.name}{f.state === 'up to date' ? '' : `, ${f.state}`}</span
							></span
						></a
					>
				</li>
			{/each}
		</ul>
	</section>
{/if}
