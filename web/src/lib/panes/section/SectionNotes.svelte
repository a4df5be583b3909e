<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';

	/** What the section is for just now, and how the model in it stands. */
	let { workspace, drawingContact, hasModel }: { workspace: Workspace; drawingContact: boolean; hasModel: boolean } = $props();
</script>

{#if drawingContact}<p class="bg-info text-info-content absolute bottom-9 left-1/2 -translate-x-1/2 px-3 py-1 text-sm" role="status">
		Draw the contact: press for each vertex, twice or Enter to end, Esc to leave
	</p>{/if}
{#if !hasModel}<p class="absolute bottom-9 left-16 bg-white/80 px-2 py-0.5 text-sm" role="status">
		{workspace.object('model')?.missing === false
			? 'The model is on its way…'
			: workspace.modelBuild
				? 'The model is being built, and is drawn when it is ready.'
				: 'No model yet: press Build model under Build.'}
	</p>
{:else if workspace.model?.light}<p class="absolute bottom-9 left-16 bg-white/80 px-2 py-0.5 text-sm" role="status">
		{workspace.model.light.words}
	</p>
{:else if workspace.object('model')?.outOfDate}<p
		class="absolute bottom-2 left-1/2 -translate-x-1/2 border border-(--noted) bg-white/90 px-2 text-sm text-(--noted)"
	>
		{workspace.modelBuild ? 'Out of date; being built anew' : 'The model shown is out of date'}
	</p>{/if}
