<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';

	interface Noted {
		kind?: string;
		message: string;
		hint: string;
		hole?: string | undefined;
	}
	/** What the engine noted; a hole that it doubts can be believed as it is. */
	let { workspace, list }: { workspace: Workspace; list: readonly Noted[] } = $props();
	const MOST = 40;
	const certain = $derived(workspace.interpretation?.shaping.certain ?? []);
	function believe(hole: string, on: boolean) {
		const rest = certain.filter((h) => h !== hole);
		void workspace.store('shaping', { certain: on ? [...rest, hole] : rest });
	}
</script>

{#snippet noted(f: Noted)}
	<li class="rule border-b py-1">
		{f.message}. <span class="quiet">{f.hint}</span>
		{#if f.hole && ['against-neighbours', 'alone-at-base', 'believed'].includes(f.kind ?? '')}
			{@const hole = f.hole}
			{@const on = certain.includes(hole)}
			<span class="whitespace-nowrap">
				<button class="link" onclick={() => (workspace.selection = { kind: 'hole', name: hole })}>Go to it</button>
				<button
					class="link ml-2"
					title={on ? 'Weigh it against its neighbours again' : 'Honour it as it was logged, whatever its neighbours say'}
					onclick={() => believe(hole, !on)}>{on ? 'Weigh it again' : 'This is so'}</button
				>
			</span>
			{#if on !== (f.kind === 'believed')}<span class="quiet">Holds with the next build.</span>{/if}
		{/if}
	</li>
{/snippet}

{#if list.length}
	<h2 class="panel-title mt-4 mb-1">What the engine noted</h2>
	<ul class="text-sm">
		{#each list.slice(0, MOST) as f, i (i)}{@render noted(f)}{/each}
	</ul>
	{#if list.length > MOST}
		<details class="text-sm">
			<summary class="quiet cursor-pointer">and {list.length - MOST} more</summary>
			<ul>
				{#each list.slice(MOST) as f, i (i)}{@render noted(f)}{/each}
			</ul>
		</details>
	{/if}
{/if}
