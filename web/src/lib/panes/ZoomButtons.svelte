<script lang="ts">
	import { Minus, Plus, Scan } from '$lib/icons';

	/** Nearer, farther and all, for who has neither wheel nor keyboard. */
	let { by, all }: { by: (factor: number) => void; all: () => void } = $props();
</script>

<span class="flex gap-1">
	<button class="btn btn-xs btn-square bg-base-100" aria-label="Nearer" title="Nearer (+)" onclick={() => by(1.25)}
		><Plus size={13} /></button
	>
	<button class="btn btn-xs btn-square bg-base-100" aria-label="Farther" title="Farther (−)" onclick={() => by(1 / 1.25)}
		><Minus size={13} /></button
	>
	<button class="btn btn-xs btn-square bg-base-100" aria-label="Show all" title="Show all (0)" onclick={all}><Scan size={13} /></button>
</span>
