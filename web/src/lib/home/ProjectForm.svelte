<script module lang="ts">
	export interface ProjectValues {
		name: string;
		author: string;
		description: string;
		crs: number;
		lengthUnit: 'm' | 'ft';
	}
</script>

<script lang="ts">
	import { untrack } from 'svelte';
	import { Plus } from '$lib/icons';
	import SystemChoice from '$lib/ui/SystemChoice.svelte';

	/** What a project says of itself, for a new one or one that there is. */
	let {
		values,
		submit,
		act,
		busy = false
	}: {
		values: ProjectValues;
		submit: (values: ProjectValues) => void;
		act: string;
		busy?: boolean;
	} = $props();
	const start = $state.snapshot(untrack(() => values));
	let form = $state({
		name: start.name,
		author: start.author,
		description: start.description,
		crs: start.crs,
		lengthUnit: start.lengthUnit
	});
</script>

<form
	class="flex flex-col gap-3"
	onsubmit={(e) => {
		e.preventDefault();
		if (form.name.trim()) submit({ ...form, name: form.name.trim() });
	}}
>
	<label class="flex flex-col gap-1">Name<input class="input input-sm w-full" required maxlength="200" bind:value={form.name} /></label>
	<label class="flex flex-col gap-1">Author<input class="input input-sm w-full" maxlength="200" bind:value={form.author} /></label>
	<label class="flex flex-col gap-1"
		>Description<textarea class="textarea textarea-sm w-full" rows="2" maxlength="5000" bind:value={form.description}></textarea></label
	>
	<SystemChoice label="Coordinate system (EPSG)" none="a local grid" bind:value={form.crs} />
	<label class="flex flex-col gap-1"
		>Length unit<select class="select select-sm w-full" bind:value={form.lengthUnit}
			><option value="m">metre</option><option value="ft">foot</option></select
		></label
	>
	<button class="btn btn-primary btn-sm" disabled={busy}><Plus size={16} />{act}</button>
</form>
