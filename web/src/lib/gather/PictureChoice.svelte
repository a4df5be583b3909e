<script lang="ts">
	import { sectionTitle } from '#core/sections/letters';
	import { typedOrWhy } from '$lib/ui/typed-numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Where a picture lies: as its world file says, by control points, hung on the section, or along a hole. */
	let {
		workspace,
		placed,
		width,
		height,
		core = null,
		value = $bindable()
	}: {
		workspace: Workspace;
		placed: boolean;
		width: number;
		height: number;
		core?: { hole: string; from: number; to: number } | null;
		value: Record<string, unknown> | null;
	} = $props();
	let way = $state<'file' | 'points' | 'section' | 'core'>('points');
	let hole = $state('');
	let ends = $state({ from: 0, to: 1 });
	let text = $state('');
	let edges = $state({ left: 0, right: 1000, top: 100, bottom: -100 });
	const section = $derived(workspace.section);
	const trace = $derived(section?.trace ?? []);
	const unit = $derived(workspace.project!.lengthUnit);
	$effect(() => {
		if (placed) way = 'file';
		else if (core) {
			way = 'core';
			hole = core.hole;
			ends = { from: core.from, to: core.to };
		}
	});
	/** What is typed, or why it is not taken. */
	const typed = $derived(typedOrWhy(text, [4, 4], workspace.project?.decimal));
	const points = $derived(typed.rows);
	$effect(() => {
		value =
			way === 'points' ? { points } : way === 'section' ? { hung: { trace, ...edges } } : way === 'core' ? { core: { hole, ...ends } } : {};
	});
</script>

<fieldset class="mb-3 flex flex-wrap items-end gap-3 text-sm">
	<legend class="sr-only">Place of the picture</legend>
	<label class="flex flex-col gap-1"
		>The picture lies
		<select class="select select-xs w-56" bind:value={way}>
			{#if placed}<option value="file">where its world file says</option>{/if}
			<option value="points">by control points or corners</option>
			<option value="section" disabled={trace.length < 2}>on the section {section ? sectionTitle(section.name) : ''}</option>
			<option value="core">along a hole: a photograph of core</option>
		</select>
	</label>
	{#if way === 'points'}
		<label class="flex flex-col gap-1"
			>Column, row (0 0 is the top left; it has {width} × {height}), easting, northing<textarea
				class="textarea textarea-sm numbers h-16 w-96"
				bind:value={text}
				placeholder="0 0 402000 4993000"></textarea>{#if typed.problem && text.trim()}<span class="text-error" role="alert"
					>{typed.problem}</span
				>{/if}</label
		>
		<span class="quiet pb-1.5">{points.length} {points.length === 1 ? 'point' : 'points'}; at least 2, three or more fit freely</span>
	{:else if way === 'section'}
		{#each [['left', `left edge at, ${unit} along`], ['right', `right edge at, ${unit} along`], ['top', `top at elevation, ${unit}`], ['bottom', `bottom at elevation, ${unit}`]] as const as [key, label] (key)}
			<label class="flex flex-col gap-1"
				>{label}<input class="input input-xs numbers w-32" type="number" step="any" bind:value={edges[key]} /></label
			>
		{/each}
	{:else if way === 'core'}
		<label class="flex flex-col gap-1"
			>Hole<input class="input input-xs w-32" bind:value={hole} required placeholder="name of the hole" /></label
		>
		<label class="flex flex-col gap-1"
			>upper end, {unit}<input class="input input-xs numbers w-28" type="number" step="any" min="0" bind:value={ends.from} /></label
		>
		<label class="flex flex-col gap-1"
			>lower end, {unit}<input class="input input-xs numbers w-28" type="number" step="any" min="0" bind:value={ends.to} /></label
		>
		{#if core}<span class="quiet pb-1.5">read from the name of the file</span>{/if}
	{/if}
</fieldset>
