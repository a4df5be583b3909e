<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';

	/** What of a project can not be read, and where it is set anew. */
	let { workspace }: { workspace: Workspace } = $props();
	const damaged = $derived(workspace.interpretation?.damaged ?? []);
	const WHERE: Readonly<Record<string, readonly [stage: string, label: string]>> = {
		table: ['gather', 'Take it out under Gather, and bring it in again'],
		rules: ['check', 'Set it anew under Check'],
		section: ['examine', 'Draw it anew under Examine'],
		model: ['build', 'Set it anew under Build']
	};
	const OTHERWISE = ['interpret', 'Set it anew under Interpret'] as const;
</script>

{#if damaged.length}
	<section class="border-error bg-base-100 max-h-40 shrink-0 overflow-y-auto border-b border-l-4 px-3 py-2 text-sm" role="alert">
		<h2 class="font-semibold">
			{damaged.length === 1 ? 'One part' : `${damaged.length} parts`} of this project cannot be read. The rest is here; what is made of
			{damaged.length === 1 ? 'it' : 'them'} is not built until {damaged.length === 1 ? 'it is' : 'they are'} set anew.
		</h2>
		<ul>
			{#each damaged as d (d.object)}
				{@const [stage, label] = WHERE[d.kind] ?? OTHERWISE}
				<li>
					<span class="font-medium">{d.name}</span>: {d.what}.
					<a class="link" href="/{workspace.id}/{stage}">{label}</a>, or open an archive of the project.
				</li>
			{/each}
		</ul>
	</section>
{/if}
