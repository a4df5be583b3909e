<script lang="ts">
	import Fold from '$lib/ui/Fold.svelte';
	import { Plus, Trash2 } from '$lib/icons';
	import type { FinerParts } from '#core/model/finer';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Where the model is to be finer than its spacing. */
	let { workspace }: { workspace: Workspace } = $props();
	const unit = $derived(workspace.project!.lengthUnit);
	const stored = $derived(workspace.interpretation!.model);
	const finer = $derived<FinerParts>(stored.finer ?? { surfaces: [], units: [], dense: false });
	const rows = $derived([
		...finer.surfaces.map((f, i) => ({ ...f, list: 'surfaces' as const, i })),
		...finer.units.map((f, i) => ({ ...f, list: 'units' as const, i }))
	]);
	const save = (change: Partial<FinerParts>) => workspace.store('spacing', { spacing: stored.spacing, finer: { ...finer, ...change } });
	const half = $derived(Number((stored.spacing / 2).toPrecision(3)));
	const nameOf = (list: 'surfaces' | 'units', id: string) => {
		const u = workspace.allUnits.find((x) => x.id === id);
		return list === 'units' ? `inside ${u?.name ?? id}` : `${u?.contact === 'intrusive' ? 'boundary' : 'base'} of ${u?.name ?? id}`;
	};
	function add(value: string) {
		const [list, id] = [value.slice(0, value.indexOf(' ')) as 'surfaces' | 'units', value.slice(value.indexOf(' ') + 1)];
		if (finer[list].some((f) => f.unit === id)) return workspace.say('It is in the list already.');
		void save({ [list]: [...finer[list], { unit: id, spacing: half }] });
	}
</script>

<Fold filled={rows.length > 0 || finer.dense} look="mb-3">
	{#snippet title()}<summary class="cursor-pointer text-sm">Finer in parts</summary>{/snippet}
	<ul class="mt-1 text-sm" aria-label="Finer parts">
		{#each rows as r (r.list + r.unit)}
			<li class="flex items-center gap-2 py-0.5">
				<span class="min-w-0 flex-1 truncate" title={nameOf(r.list, r.unit)}>{nameOf(r.list, r.unit)}</span>
				<input
					class="input input-xs numbers w-20"
					type="number"
					min="0"
					step="any"
					aria-label="Spacing {nameOf(r.list, r.unit)}, {unit}"
					value={r.spacing}
					onchange={(e) =>
						e.currentTarget.valueAsNumber > 0 &&
						save({ [r.list]: finer[r.list].map((f, i) => (i === r.i ? { ...f, spacing: e.currentTarget.valueAsNumber } : f)) })}
				/>
				<button
					class="btn btn-ghost btn-xs px-1"
					aria-label="Not finer: {nameOf(r.list, r.unit)}"
					onclick={() => save({ [r.list]: finer[r.list].filter((_, i) => i !== r.i) })}><Trash2 size={13} /></button
				>
			</li>
		{/each}
	</ul>
	<label class="flex items-center gap-2 py-0.5 text-sm" title="Around contacts whose neighbours are much nearer than usual"
		><input
			type="checkbox"
			class="checkbox checkbox-xs"
			checked={finer.dense}
			onchange={(e) => save({ dense: e.currentTarget.checked })}
		/>where contacts stand densely</label
	>
	<div class="mt-1 flex items-center gap-1 text-sm">
		<Plus size={13} />
		<select
			class="select select-xs min-w-0 flex-1"
			aria-label="Make a part finer"
			value=""
			onchange={(e) => {
				const v = e.currentTarget.value;
				e.currentTarget.value = '';
				if (v) add(v);
			}}
		>
			<option value="">a surface or a unit …</option>
			<optgroup label="Surfaces"
				>{#each workspace.allUnits as u (u.id)}<option value="surfaces {u.id}">{nameOf('surfaces', u.id)}</option>{/each}</optgroup
			>
			<optgroup label="Units, with the parts that divide them"
				>{#each workspace.allUnits as u (u.id)}<option value="units {u.id}">{nameOf('units', u.id)}</option>{/each}</optgroup
			>
		</select>
	</div>
</Fold>
