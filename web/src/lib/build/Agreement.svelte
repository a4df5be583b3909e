<script lang="ts">
	import type { Agreement } from '#core/project/report';
	import { spaced } from '$lib/ui/numbers';
	import type { Workspace } from '$lib/workspace.svelte';

	/** How far logs and model agree, by logged unit, and where they differ. */
	let { workspace, title, a }: { workspace: Workspace; title: string; a: Agreement } = $props();
	const unit = $derived(workspace.project!.lengthUnit);
	const nameOf = (id: string) => workspace.allUnits.find((u) => u.id === id)?.name ?? id;
</script>

<h2 class="panel-title mt-4 mb-1">{title}</h2>
<p class="text-sm">
	<span class="numbers font-medium">{(100 * a.share).toFixed(1)} %</span> of <span class="numbers">{spaced(a.compared)} {unit}</span> logged have
	the same unit in the model.
</p>
<table class="plain numbers text-sm">
	<thead><tr><th>Logged</th><th class="right">{unit}</th><th class="right">agrees</th><th>else mostly</th></tr></thead>
	<tbody>
		{#each a.units as u (u.unit)}
			{@const other = u.modelled.filter((m) => m.unit !== u.unit).sort((x, y) => y.length - x.length)[0]}
			<tr
				><td>{nameOf(u.unit)}</td><td class="right">{spaced(u.logged)}</td><td class="right"
					>{((100 * u.agreed) / u.logged).toFixed(1)} %</td
				><td class="truncate">{other && other.length > 0.001 * u.logged ? (other.unit === null ? 'outside' : nameOf(other.unit)) : ''}</td
				></tr
			>
		{/each}
	</tbody>
</table>
<details class="mt-2">
	<summary class="cursor-pointer text-sm">Where they differ, longest first ({a.mismatches.length})</summary>
	<ul class="numbers text-sm">
		{#each a.mismatches.slice(0, 60) as m (m.hole + m.from)}
			<li>
				<button
					class="hover:bg-base-200 flex w-full justify-between gap-2"
					onclick={() => {
						workspace.selection = { kind: 'hole', name: m.hole };
						workspace.probe = { x: m.x, y: m.y, z: m.z, what: `${m.hole} at ${m.from.toFixed(1)} ${unit}`, from: 'report' };
					}}
					><span class="truncate">{m.hole} {spaced(m.from, 1)}–{spaced(m.to, 1)}</span><span class="truncate"
						>{nameOf(m.logged)}, model {nameOf(m.modelled)}</span
					></button
				>
			</li>
		{/each}
	</ul>
</details>
