<script lang="ts">
	import { proposePattern } from '#core/styles/patterns';
	import { roving } from '$lib/ui/roving';
	import type { Workspace } from '$lib/workspace.svelte';
	import Shown from './Shown.svelte';
	import Symbol from './Symbol.svelte';

	/** Units of the model at hand put together at a rank. */
	let { workspace, fits }: { workspace: Workspace; fits: (name: string) => boolean } = $props();

	function onlyThis(id: string) {
		const alone = workspace.groups.every((g) => (g.id === id) === workspace.shown(`unit:${g.id}`));
		for (const g of workspace.groups) workspace.bench.state.hidden[`unit:${g.id}`] = !alone && g.id !== id;
	}
</script>

<ul
	class="flex flex-col"
	aria-label="Units at the rank {workspace.atRank?.name}, youngest first"
	use:roving={{ items: 'button', grid: true }}
>
	{#each workspace.groups.filter((g) => fits(g.name)) as g (g.id)}
		<li class="group flex items-center gap-2 {workspace.shown(`unit:${g.id}`) ? '' : 'quiet line-through'}">
			<span class="block shrink-0"><Symbol color={g.color} pattern={proposePattern(g.name)} id="rank-{g.id}" /></span>
			<button
				class="min-w-0 flex-1 truncate text-left text-sm hover:underline {workspace.selection?.kind === 'unit' &&
				workspace.selection.id === g.id
					? 'font-semibold'
					: ''}"
				title="{g.name}: {g.units.map((u) => u.name).join(', ')}"
				onclick={() => (workspace.selection = { kind: 'unit', id: g.id })}>{g.name}</button
			>
			<button
				class="quiet hidden text-xs group-focus-within:block group-hover:block hover:underline pointer-coarse:block"
				onclick={() => onlyThis(g.id)}>only this</button
			>
			{#if g.of.length > 1}<span
					class="numbers quiet text-xs group-focus-within:hidden group-hover:hidden pointer-coarse:hidden"
					title="units that it is made of">{g.of.length}</span
				>{/if}
			<Shown {workspace} name="unit:{g.id}" label={g.name} />
		</li>
	{/each}
</ul>
