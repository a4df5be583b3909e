<script lang="ts">
	import type { Unit } from '#core/units/column';
	import { hasWords } from '$lib/ui/fold';
	import ListFilter from '$lib/ui/ListFilter.svelte';
	import { spaced } from '$lib/ui/numbers';
	import { roving } from '$lib/ui/roving';
	import PickBox from '$lib/ui/PickBox.svelte';
	import { Picks } from '$lib/ui/picks.svelte';

	/** Many codes to one unit. */
	let {
		codes,
		units,
		lumping,
		set
	}: {
		codes: { code: string; count: number }[];
		units: Unit[];
		lumping: Record<string, string>;
		set: (lumping: Record<string, string>) => unknown;
	} = $props();
	let filter = $state('');
	const unitOf = (code: string) => units.find((u) => u.id === lumping[code]);
	const listed = $derived(codes.filter((c) => hasWords(`${c.code} ${unitOf(c.code)?.name ?? 'no unit'}`, filter)));
	const shown = $derived(listed.map((c) => c.code));
	const picks = new Picks<string>();
	const picked = $derived(picks.of(shown));
	/** All that are picked to one unit, as one change. */
	function give(unit: string) {
		set({ ...lumping, ...Object.fromEntries(picked.map((code) => [code, unit])) });
		picks.clear();
	}
</script>

<ListFilter bind:value={filter} label="Find codes or units" shown={listed.length} all={codes.length} />
{#if picked.length}
	<div class="bg-base-200 sticky top-0 z-10 mb-1 flex items-center gap-2 p-1.5 text-sm" role="group" aria-label="For the picked codes">
		<span class="whitespace-nowrap">{picked.length} picked:</span>
		<select
			class="select select-xs min-w-0 flex-1"
			aria-label="Unit of the picked codes"
			value=""
			onchange={(e) => {
				give(e.currentTarget.value === '-' ? '' : e.currentTarget.value);
				e.currentTarget.value = '';
			}}
		>
			<option value="" disabled>to unit…</option>
			{#each units as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
			<option value="-">no unit</option>
		</select>
		<button class="btn btn-xs" onclick={() => picks.clear()}>None</button>
	</div>
{/if}

<table class="plain text-sm">
	<thead
		><tr
			><th class="w-6"><PickBox {picks} list={shown} label="Pick all codes that are shown" /></th><th>Code</th><th class="right">Rows</th
			><th>Unit</th></tr
		></thead
	>
	<tbody use:roving={{ items: 'input, select', grid: true }}>
		{#each listed as c (c.code)}
			{@const unit = unitOf(c.code)}
			<tr>
				<td><PickBox {picks} list={shown} of={c.code} label="Pick {c.code}" /></td>
				<td class="max-w-28 truncate" title={c.code}>{c.code}</td>
				<td class="right numbers">{spaced(c.count)}</td>
				<td>
					<span class="flex items-center gap-1.5">
						<span class="h-3.5 w-3.5 shrink-0 border border-(--ink)/60" style="background:{unit?.color ?? 'transparent'}"></span>
						<select
							class="select select-xs w-full min-w-0 pr-6 text-ellipsis"
							aria-label="Unit of {c.code}"
							value={lumping[c.code] ?? ''}
							onchange={(e) => set({ ...lumping, [c.code]: e.currentTarget.value })}
						>
							<option value="">no unit</option>
							{#each units as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
						</select>
					</span>
				</td>
			</tr>
		{/each}
	</tbody>
</table>
