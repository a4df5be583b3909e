<script lang="ts">
	import { moved, shifted } from './layer-order';
	import type { Workspace } from '$lib/workspace.svelte';

	/** The layers of the map in their order, the uppermost first. */
	let {
		workspace,
		order,
		names
	}: { workspace: Workspace; /** From the lowest up. */ order: readonly string[]; names: Readonly<Record<string, string>> } = $props();
	let dragged = $state<string | null>(null);
	const set = (list: string[]) => (workspace.bench.state.order = list);
</script>

<div class="bg-base-100 rule absolute top-10 left-2 w-60 border p-2.5 text-sm shadow-sm">
	<p class="quiet mb-1 text-xs">The uppermost stands first. Drag, or focus and use the arrow keys.</p>
	<ol>
		{#each [...order].reverse() as n (n)}
			<li
				draggable="true"
				ondragstart={() => (dragged = n)}
				ondragover={(e) => e.preventDefault()}
				ondrop={() => dragged && dragged !== n && set(moved(order, dragged, n))}
			>
				<button
					class="hover:bg-base-200 w-full cursor-grab px-1 py-0.5 text-left"
					onkeydown={(e) =>
						(e.key === 'ArrowUp' || e.key === 'ArrowDown') && (e.preventDefault(), set(shifted(order, n, e.key === 'ArrowUp' ? 1 : -1)))}
					>{names[n]}</button
				>
			</li>
		{/each}
	</ol>
	<label class="mt-1 flex items-center gap-2 border-t pt-1.5"
		><input
			type="checkbox"
			class="checkbox checkbox-xs"
			checked={workspace.shown('graticule')}
			onchange={() => workspace.toggle('graticule')}
		/>graticule with coordinates</label
	>
	<button class="link mt-1 text-xs" onclick={() => set([])}>order as it was</button>
</div>
