<script lang="ts">
	import { onDestroy, untrack } from 'svelte';
	import { Hammer, X } from '$lib/icons';
	import { problemText } from '$lib/api/client';
	import type { Workspace } from '$lib/workspace.svelte';
	import { candidates, makeableOf } from './choices';
	import { Preview } from './preview.svelte';
	import { RecipeChoice } from './recipe-choice.svelte';
	import ReadingsLine from './ReadingsLine.svelte';
	import RecipeFields from './RecipeFields.svelte';

	/** Makes a named result: what of, by which recipe, with which parameters. */
	let { workspace }: { workspace: Workspace } = $props();
	const wanted = untrack(() => workspace.making!);
	const choice = new RecipeChoice(untrack(() => workspace));
	choice.chosen = wanted.recipe ?? '';
	const preview = new Preview(untrack(() => workspace));
	let looking = $state(true);
	onDestroy(() => preview.end());
	/** The map follows what is chosen, where the recipe is quick. */
	function look() {
		if (recipe?.previews && looking) preview.show(choice.chosen, $state.snapshot(choice.inputs), $state.snapshot(choice.parameters));
		else preview.end();
	}
	let name = $state('');
	/** The name as it was proposed: as long as nobody changed it, it follows. */
	let proposed = $state('');
	let busy = $state(false);
	const recipe = $derived(choice.recipe);
	/** Recipes that take all that is given come first. */
	const fitting = $derived(makeableOf(workspace.objects, choice.list, wanted.inputs ?? []));
	const possible = $derived(
		[...fitting, ...choice.list.filter((r) => !fitting.includes(r))].map((r) => ({
			...r,
			lacking: r.roles.filter((role) => role.least > 0 && candidates(workspace.objects, role, null).length < role.least).map((x) => x.title)
		}))
	);
	untrack(() =>
		workspace.attempt(async () => {
			await choice.read();
			const first = wanted.recipe ? choice.list.find((r) => r.id === choice.chosen || r.answers === choice.chosen) : fitting[0];
			if (first) choose(first.id);
		})
	);

	/** Names and first values for what is chosen. */
	async function suggest(keep: Record<string, unknown>) {
		const s = await choice.suggest(keep);
		if (!s) return;
		if (name === proposed) name = s.name;
		proposed = s.name;
		look();
	}
	/** A parameter whose first value comes from the data. */
	const follows = (name: string) => {
		const p = recipe?.parameters.find((x) => x.name === name);
		return p !== undefined && (p.columnsOf !== undefined || ['cell', 'step', 'expression'].includes(name));
	};
	function choose(id: string) {
		choice.choose(id, wanted.inputs ?? []);
		if (recipe)
			void suggest(
				Object.fromEntries(Object.entries(wanted.parameters ?? {}).filter(([k]) => recipe.parameters.some((p) => p.name === k)))
			);
	}
	async function make() {
		if (!recipe) return;
		busy = true;
		choice.problem = '';
		try {
			const { chosen, inputs, parameters } = choice;
			const { id } = await workspace.api.ask('makeResult', {
				body: {
					recipe: chosen,
					...(name.trim() || proposed ? { name: name.trim() || proposed } : {}),
					inputs,
					parameters
				}
			});
			await workspace.api.start('build', { body: { objects: [id] } });
			await workspace.refresh();
			workspace.making = null;
			workspace.bench.state.hidden[`thing:${id}`] = false;
			workspace.selection = { kind: 'object', id };
		} catch (error) {
			choice.problem = problemText(error);
		} finally {
			busy = false;
		}
	}
</script>

<form
	aria-label="Make a result"
	onsubmit={(e) => {
		e.preventDefault();
		void make();
	}}
>
	<div class="flex items-center justify-between">
		<h2 class="panel-title">Make a result</h2>
		<button type="button" class="btn btn-ghost btn-xs btn-square" aria-label="Close" onclick={() => (workspace.making = null)}
			><X size={14} /></button
		>
	</div>
	<label class="mb-1.5 flex flex-col text-sm"
		>What<select class="select select-xs w-full" value={choice.chosen} onchange={(e) => choose(e.currentTarget.value)}>
			<option value="" disabled>Choose…</option>
			{#each possible as r (r.id)}<option value={r.id} disabled={r.lacking.length > 0}
					>{r.title}{r.lacking.length ? ` (needs: ${r.lacking.join(', ')})` : ''}</option
				>{/each}
		</select></label
	>
	{#if recipe}
		<p class="quiet mb-1.5 text-sm">{recipe.about}</p>
		<RecipeFields
			{workspace}
			{recipe}
			inputs={choice.inputs}
			parameters={choice.parameters}
			offered={choice.offered}
			setInput={(role, ids) => {
				choice.inputs[role] = ids;
				// Other data have other first values: what depends on them is proposed anew, what was chosen besides stays.
				void suggest(Object.fromEntries(Object.entries($state.snapshot(choice.parameters)).filter(([k]) => !follows(k))));
			}}
			setParameter={(key, value) => {
				choice.parameters[key] = value;
				// The proposed name tells the unit.
				if (recipe.parameters.some((p) => p.name === key && (p.unitsOf || p.ranksOf))) void suggest($state.snapshot(choice.parameters));
				else look();
			}}
		/>
		<label class="mt-1.5 flex flex-col text-sm"
			>Name<input class="input input-xs w-full" maxlength="200" bind:value={name} placeholder={proposed} /></label
		>
		{#if recipe.previews}
			<label class="mt-1.5 flex items-center gap-2 text-sm"
				><input type="checkbox" class="checkbox checkbox-xs" bind:checked={looking} onchange={look} />preview on the map{#if preview.busy}<span
						class="loading loading-dots loading-xs"
						role="status"
						aria-label="Preview is made"
					></span>{/if}</label
			>
			{#if preview.problem && looking}<p class="text-warning mt-1 text-sm" role="status">{preview.problem}</p>{/if}
			{#if preview.report}<ReadingsLine report={preview.report} />{/if}
		{/if}
		{#if choice.problem}<p role="alert" class="text-error mt-1.5 text-sm">{choice.problem}</p>{/if}
		<button class="btn btn-primary btn-xs mt-2 w-full" disabled={busy}><Hammer size={13} />Make and build</button>
	{:else if choice.list.length}
		<p class="quiet text-sm">A result has a name, stays with what it is made of, and is built again when that changes.</p>
	{/if}
</form>
