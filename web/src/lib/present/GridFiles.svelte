<script lang="ts">
	import { untrack } from 'svelte';
	import { Download } from '@lucide/svelte';
	import { endingsFor, titleOfEnding } from '#core/formats/known';
	import { ApiProblem } from '$lib/api/client';
	import type { RecipeInfo } from '$lib/api/types';
	import { candidates, firstChoice, fittingValues, freeOnes, NOTHING_OFFERED, recipes, type Offered } from '$lib/results/choices';
	import RecipeFields from '$lib/results/RecipeFields.svelte';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Grids that recipes make of a model as it stands, as files; no result is made of them. */
	let { workspace }: { workspace: Workspace } = $props();
	let list = $state.raw<RecipeInfo[]>([]);
	let chosen = $state('');
	let inputs = $state<Record<string, string[]>>({});
	let parameters = $state<Record<string, unknown>>({});
	let offered = $state.raw<Offered>(NOTHING_OFFERED);
	let problem = $state('');
	const recipe = $derived(list.find((r) => r.id === chosen));
	/** Whether a recipe makes a grid of a model and what else is there. */
	const fits = (r: RecipeInfo) =>
		r.atOnce &&
		r.form === 'grid' &&
		r.roles.some((role) => role.kinds.includes('model') || role.forms.includes('solids')) &&
		r.roles.every((role) => role.least === 0 || candidates(workspace.objects, role, workspace.modelId).length > 0);
	untrack(() =>
		workspace.attempt(async () => {
			list = freeOnes(await recipes()).filter(fits);
			if (list[0]) await choose(list[0].id);
		})
	);
	let turn = 0;
	/** What is linked is whole: first values are on their way for what was chosen last. */
	let asking = $state(true);
	async function suggest(keep: Record<string, unknown>) {
		const own = ++turn;
		asking = true;
		try {
			const s = await workspace.api.ask('suggestResult', { body: { recipe: chosen, inputs, parameters: keep } });
			if (own !== turn) return;
			offered = s;
			if (recipe) parameters = fittingValues(recipe, s, keep);
			problem = '';
		} catch (error) {
			if (own === turn) problem = error instanceof ApiProblem ? error.text : String(error);
		} finally {
			if (own === turn) asking = false;
		}
	}
	async function choose(id: string) {
		// The unit and the cells that were chosen stay, where the other grid has them, too.
		const kept = Object.fromEntries(Object.entries(parameters).filter(([k]) => k === 'unit' || k === 'cell'));
		chosen = id;
		inputs = recipe ? firstChoice(workspace.objects, recipe, workspace.modelId) : {};
		await suggest(kept);
	}
	/** What has to be built first. */
	const missing = $derived(workspace.objects.filter((o) => o.missing && Object.values(inputs).some((ids) => ids.includes(o.id))));
	const ready = $derived(!asking && !problem && missing.length === 0);
	const of = $derived(
		Object.entries(inputs)
			.flatMap(([role, ids]) => ids.map((i) => `${role}:${i}`))
			.join(',')
	);
</script>

{#if list.length}
	<div class="grid gap-x-8 gap-y-2 lg:grid-cols-2">
		<div>
			<label class="mb-1.5 flex flex-col text-sm"
				>What<select class="select select-xs w-full" value={chosen} onchange={(e) => void choose(e.currentTarget.value)}
					>{#each list as r (r.id)}<option value={r.id}>{r.title}</option>{/each}</select
				></label
			>
			{#if recipe}<p class="quiet mb-1.5 text-sm">{recipe.about}</p>{/if}
		</div>
		{#if recipe}<RecipeFields
				{workspace}
				{recipe}
				{inputs}
				{parameters}
				{offered}
				setInput={(role, ids) => {
					inputs[role] = ids;
					void suggest($state.snapshot(parameters));
				}}
				setParameter={(name, value) => (parameters[name] = value)}
			/>{/if}
	</div>
	{#if problem}<p class="text-error mt-2 text-sm" role="alert">{problem}</p>{/if}
	{#each missing as o (o.id)}<p class="text-warning mt-2 text-sm" role="status">
			{o.name} is not built yet. <a class="link" href="/{workspace.id}/build">Build it</a> first.
		</p>{/each}
	<div class="mt-3 flex flex-wrap gap-2">
		{#each endingsFor('grid') as format (format)}<a
				class="btn btn-sm {ready ? '' : 'btn-disabled'}"
				href={!ready
					? undefined
					: workspace.api.address('exportDerived', { recipe: chosen, format, of, parameters: JSON.stringify(parameters) })}
				download><Download size={15} />{titleOfEnding(format)}</a
			>{/each}
	</div>
{/if}
