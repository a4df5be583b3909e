<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';

	/** How many times heights are drawn larger than they are, in all panes. */
	let { workspace }: { workspace: Workspace } = $props();
</script>

<label class="flex items-center justify-between gap-2"
	>Vertical exaggeration<input
		class="input input-xs numbers w-16"
		type="number"
		min="0.1"
		max="100"
		step="0.5"
		value={workspace.bench.state.exaggeration}
		onchange={(e) => (workspace.bench.state.exaggeration = Math.min(100, Math.max(0.1, e.currentTarget.valueAsNumber || 1)))}
	/></label
>
