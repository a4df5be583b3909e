<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';

	/** Which solids a pane shows: a model, a kept one, or crossed models. */
	let {
		workspace,
		label,
		none,
		value = $bindable()
	}: { workspace: Workspace; label: string; /** What stands for none. */ none: string; value: string | null } = $props();
	const list = $derived(workspace.solidObjects);
</script>

<label class="flex items-center justify-between gap-2"
	>{label}<select
		class="select select-xs w-28"
		value={list.some((o) => o.id === value) ? value : ''}
		onchange={(e) => (value = e.currentTarget.value || null)}
	>
		<option value="">{none}</option>
		{#each list as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
	</select></label
>
