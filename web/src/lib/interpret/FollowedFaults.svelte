<script lang="ts">
	import type { Interpretation } from '$lib/api/types';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Whose faults a model has: its own, or those of another model, as they are there. */
	let { workspace, faults }: { workspace: Workspace; faults: Interpretation['faults'] } = $props();
	/** Models that have faults of their own. */
	const others = $derived(
		workspace.objects.flatMap((o) => {
			if (o.kind !== 'faults' || o.modelId === workspace.modelId || o.state['follows']) return [];
			const model = workspace.models.find((m) => m.id === o.modelId);
			return model ? [model] : [];
		})
	);
	const followed = $derived(workspace.models.find((m) => m.id === faults.follows));
	/** A model whose faults another one has can not have those of a third. */
	const behind = $derived(
		workspace.objects.some((o) => o.kind === 'faults' && o.modelId !== workspace.modelId && o.state['follows'] === workspace.modelId)
	);
	const setFollows = (follows: string | null) => workspace.store('faults', { follows });
</script>

{#if faults.follows || (others.length && !behind)}
	<label class="mb-3 flex items-center gap-2 text-sm"
		>Faults<select
			class="select select-xs min-w-0 flex-1"
			value={faults.follows ?? ''}
			onchange={async (e) => {
				const list = e.currentTarget;
				if (!(await setFollows(list.value || null))) list.value = faults.follows ?? '';
			}}
			><option value="">of this model</option>{#each others as m (m.id)}<option value={m.id}>those of {m.name}</option
				>{/each}{#if faults.follows && !followed}<option value={faults.follows}>of a model that is gone</option>{/if}</select
		></label
	>
{/if}
{#if faults.follows && followed}
	<p class="quiet mb-2 text-sm">
		As they are in {followed.name}: what is changed there holds here, too. They cut from the youngest unit on that both models have, or
		everything.
	</p>
	<ul class="rule mb-3 border text-sm">
		{#each faults.faults as f (f.id)}
			<li class="rule flex justify-between gap-2 border-b px-3 py-1 last:border-b-0">
				<button
					class="link min-w-0 truncate text-left no-underline hover:underline"
					aria-pressed={workspace.selection?.kind === 'fault' && workspace.selection.id === f.id}
					onclick={() => (workspace.selection = { kind: 'fault', id: f.id })}>{f.name}</button
				><span class="quiet numbers">{spaced(f.dip)}°{f.on ? '' : ', off'}</span>
			</li>
		{:else}<li class="quiet px-3 py-1">{followed.name} has no faults yet.</li>{/each}
	</ul>
	<div class="flex flex-wrap gap-2">
		<button class="btn btn-sm" onclick={() => workspace.goToModel(followed.id)}>Go to {followed.name}</button>
		<button class="btn btn-sm" title="A copy of them that goes its own way" onclick={() => setFollows(null)}>Keep them as its own</button>
	</div>
{:else if faults.follows}
	<div class="border-error mb-3 border-l-4 px-3 py-1 text-sm" role="alert">
		These were the faults of a model that is not in the project any more. A model can be built again once they are its own.
		<button class="btn btn-sm mt-1 block" onclick={() => setFollows(null)}>Keep them as its own</button>
	</div>
{/if}
