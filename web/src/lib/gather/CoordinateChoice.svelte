<script lang="ts">
	import SystemChoice from '$lib/ui/SystemChoice.svelte';
	import { typedOrWhy } from '$lib/ui/typed-numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** How coordinates of a file are brought into the system of the project: as they are, from another system, or from a site grid. */
	let {
		workspace,
		epsg,
		stated,
		value = $bindable()
	}: { workspace: Workspace; epsg: number | null; stated: boolean; value: Record<string, unknown> | null } = $props();
	const project = $derived(workspace.project!.crs);
	let way = $state<'same' | 'epsg' | 'site'>('same');
	let code = $state(0);
	let shift = $state(0);
	let pairs = $state('');

	$effect(() => {
		if (epsg && project && epsg !== project) {
			way = 'epsg';
			code = epsg;
		}
	});
	/** What is typed, or why it is not taken. */
	const typed = $derived(typedOrWhy(pairs, [4, 4], workspace.project?.decimal));
	const points = $derived(typed.rows);
	$effect(() => {
		value = {
			...(way === 'epsg' && code > 0 ? { fromEpsg: code } : {}),
			...(way === 'site' && points.length >= 2 ? { sitePoints: points } : {}),
			...(shift ? { verticalShift: shift } : {})
		};
	});
</script>

<fieldset class="mb-3 flex flex-wrap items-end gap-3 text-sm">
	<legend class="sr-only">Coordinates</legend>
	<label class="flex flex-col gap-1"
		>Coordinates are in
		<select class="select select-xs w-72" bind:value={way}>
			<option value="same">the project's system{project ? `, EPSG:${project}` : ' (local grid)'}</option>
			{#if project}<option value="epsg">another system</option>{/if}
			<option value="site">a site grid, by common points</option>
		</select>
	</label>
	{#if way === 'epsg'}<div class="w-80"><SystemChoice label="System of the file" degrees bind:value={code} /></div>{/if}
	{#if way === 'site'}<label class="flex flex-col gap-1"
			>Common points: site E, site N, project E, project N<textarea
				class="textarea textarea-sm numbers h-16 w-80"
				bind:value={pairs}
				placeholder="1000 1000 402310.5 4992011.0"></textarea>{#if typed.problem && pairs.trim()}<span class="text-error" role="alert"
					>{typed.problem}</span
				>{/if}</label
		><span class="quiet pb-1.5">{points.length} {points.length === 1 ? 'point' : 'points'}; at least 2</span>{/if}
	<label class="flex flex-col gap-1"
		>Vertical shift, {workspace.project!.lengthUnit}<input
			class="input input-xs numbers w-24"
			type="number"
			step="any"
			bind:value={shift}
		/></label
	>
	{#if epsg && !project}<p class="pb-1">
			It says EPSG:{epsg}, and the project is on a local grid.
			<button
				class="link"
				onclick={() =>
					workspace.attempt(async () => {
						await workspace.api.ask('patchProject', { body: { crs: epsg, revision: workspace.project!.revision } });
						await workspace.refresh();
					})}>Make it the system of the project</button
			>
		</p>{/if}
	{#if stated && !epsg && way === 'same' && project}<p class="text-warning pb-1">
			The file does not say in which system it is: check that it is EPSG:{project}.
		</p>{/if}
</fieldset>
