<script lang="ts">
	import { untrack } from 'svelte';
	import { Download } from '$lib/icons';
	import { endingsFor, titleOfEnding } from '#core/formats/known';
	import type { RecipeInfo } from '$lib/api/types';
	import { candidates } from '$lib/results/choices';
	import { RecipeChoice } from '$lib/results/recipe-choice.svelte';
	import RecipeFields from '$lib/results/RecipeFields.svelte';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Grids that recipes make of a model as it stands, as files; no result is made of them. */
	let { workspace }: { workspace: Workspace } = $props();
	const choice = new RecipeChoice(untrack(() => workspace));
	const recipe = $derived(choice.recipe);
	/** Whether a recipe makes a grid of a model and what else is there. */
	const fits = (r: RecipeInfo) =>
		r.atOnce &&
		r.form === 'grid' &&
		r.roles.some((role) => role.kinds.includes('model') || role.forms.includes('solids')) &&
		r.roles.every((role) => role.least === 0 || candidates(workspace.objects, role, workspace.modelId).length > 0);
	untrack(() =>
		workspace.attempt(async () => {
			await choice.read(fits);
			if (choice.list[0]) choose(choice.list[0].id);
		})
	);
	function choose(id: string) {
		// The unit and the cells that were chosen stay, where the other grid has them, too.
		const kept = Object.fromEntries(Object.entries(choice.parameters).filter(([k]) => k === 'unit' || k === 'cell'));
		choice.choose(id);
		void choice.suggest(kept);
	}
	/** What has to be built first. */
	const missing = $derived(workspace.objects.filter((o) => o.missing && Object.values(choice.inputs).some((ids) => ids.includes(o.id))));
	/** What is linked is whole: first values are on their way for what was chosen last. */
	const ready = $derived(!choice.asking && !choice.problem && missing.length === 0);
	const of = $derived(
		Object.entries(choice.inputs)
			.flatMap(([role, ids]) => ids.map((i) => `${role}:${i}`))
			.join(',')
	);
</script>

{#if choice.list.length}
	<div class="grid gap-x-8 gap-y-2 lg:grid-cols-2">
		<div>
			<label class="mb-1.5 flex flex-col text-sm"
				>What<select class="select select-xs w-full" value={choice.chosen} onchange={(e) => choose(e.currentTarget.value)}
					>{#each choice.list as r (r.id)}<option value={r.id}>{r.title}</option>{/each}</select
				></label
			>
			{#if recipe}<p class="quiet mb-1.5 text-sm">{recipe.about}</p>{/if}
		</div>
		{#if recipe}<RecipeFields
				{workspace}
				{recipe}
				inputs={choice.inputs}
				parameters={choice.parameters}
				offered={choice.offered}
				setInput={(role, ids) => {
					choice.inputs[role] = ids;
					void choice.suggest($state.snapshot(choice.parameters));
				}}
				setParameter={(name, value) => (choice.parameters[name] = value)}
			/>{/if}
	</div>
	{#if choice.problem}<p class="text-error mt-2 text-sm" role="alert">{choice.problem}</p>{/if}
	{#each missing as o (o.id)}<p class="text-warning mt-2 text-sm" role="status">
			{o.name} is not built yet. <a class="link" href="/{workspace.id}/build">Build it</a> first.
		</p>{/each}
	<div class="mt-3 flex flex-wrap gap-2">
		{#each endingsFor('grid') as format (format)}<a
				class="btn btn-sm {ready ? '' : 'btn-disabled'}"
				href={!ready
					? undefined
					: workspace.api.address('exportDerived', {
							recipe: choice.chosen,
							format,
							of,
							parameters: JSON.stringify(choice.parameters)
						})}
				download><Download size={15} />{titleOfEnding(format)}</a
			>{/each}
	</div>
{/if}
