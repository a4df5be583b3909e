<script lang="ts">
	import { ranksOf, unitsAtRank } from '#core/units/at-rank';
	import type { ModelReport } from '$lib/api/types';
	import { volume } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Volumes of the units of a model, or of what they are parts of at a rank of a scheme. */
	let { workspace, report }: { workspace: Workspace; report: ModelReport } = $props();
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	const sum = $derived(report.volumes.reduce((a, v) => a + (v.partOf ? 0 : v.volume), 0));
	const ranks = $derived(ranksOf(workspace.stratigraphy.schemes));
	const colorOf = (name: string) => workspace.units.find((u) => u.name === name)?.color ?? '';
	const whole = $derived(report.volumes.filter((v) => !v.partOf));
	const sums = $derived(
		workspace.atRank
			? unitsAtRank(
					workspace.atRank,
					whole.map((v) => ({ id: v.unit, name: v.name, color: colorOf(v.name) }))
				).map((g) => ({
					...g,
					names: g.of.map((i) => whole[i]!.name).join(', '),
					value: g.of.reduce((total, i) => total + whole[i]!.volume, 0)
				}))
			: null
	);
</script>

<div class="mt-5 mb-1 flex items-center gap-2">
	<h2 class="panel-title flex-1">Volumes</h2>
	{#if ranks.length}
		<select
			class="select select-xs w-40"
			aria-label="Volumes by"
			value={workspace.atRank?.key ?? ''}
			onchange={(e) => (workspace.bench.state.rank = e.currentTarget.value || null)}
			><option value="">by unit</option>{#each ranks as r (r.key)}<option value={r.key}>by {r.name}</option>{/each}</select
		>
	{/if}
</div>
<table class="plain numbers text-sm">
	<tbody>
		{#each sums ?? [] as s (s.id)}
			<tr title={s.names}
				><td class="w-5"><span class="block h-3.5 w-4 border border-(--ink)/60" style="background:{s.color}"></span></td><th scope="row"
					>{s.name}{#if s.of.length > 1}<span class="quiet block text-xs">{s.names}</span>{/if}</th
				><td class="right whitespace-nowrap">{volume(s.value, unit)}</td></tr
			>
		{/each}
		{#each sums ? [] : report.volumes as v (v.unit)}
			<tr
				><td class="w-5"
					><span
						class="block h-3.5 w-4 border border-(--ink)/60"
						style="background:{workspace.allUnits.find((u) => u.id === v.unit)?.color ?? v.color}"
					></span></td
				><th scope="row" class={v.partOf ? 'pl-3!' : ''}
					>{v.name}{#if (v.parts?.length ?? 0) > 1}<span class="quiet block text-xs" title="Volumes of its connected parts"
							>in {v.parts!.length === 20 ? '20 or more' : v.parts!.length} parts: {v
								.parts!.slice(0, 3)
								.map((x) => `${((100 * x) / v.volume).toFixed(x / v.volume < 0.01 ? 2 : 0)} %`)
								.join(', ')}{v.parts!.length > 3 ? ' …' : ''}</span
						>{/if}</th
				><td class="right whitespace-nowrap">{volume(v.volume, unit)}</td></tr
			>
		{/each}
		<tr class="font-medium"><td></td><td>All</td><td class="right whitespace-nowrap">{volume(sum, unit)}</td></tr>
	</tbody>
</table>
