<script lang="ts">
	import { Copy } from '$lib/icons';
	import type { Workspace } from '$lib/workspace.svelte';

	/** How a result was made, from the files on, in words that can go into a report. @prop known what it was built as: read again when that changes */
	let { workspace, id, known }: { workspace: Workspace; id: string; known: string } = $props();
	let open = $state(false);
	let steps = $state.raw<{ name: string; words: string }[]>([]);
	$effect(() => {
		void known;
		if (!open) return;
		const own = id;
		void workspace.attempt(async () => {
			const told = await workspace.api.ask('getAccount', { object: own });
			if (own === id) steps = told.steps;
		});
	});
	const copy = () =>
		workspace.attempt(async () => {
			await navigator.clipboard.writeText(steps.map((s) => `${s.name}: ${s.words}`).join('\n'));
			workspace.say('How it was made is on the clipboard.');
		});
</script>

<details class="mt-2 text-sm" bind:open>
	<summary class="cursor-pointer">How it was made</summary>
	{#if steps.length}
		<ol class="mt-1 list-decimal pl-5">
			{#each steps as s, i (i)}<li><span class="font-medium">{s.name}:</span> {s.words}</li>{/each}
		</ol>
		<button class="btn btn-xs mt-1" onclick={copy}><Copy size={13} />Copy</button>
	{:else}<p class="quiet" role="status">Reading…</p>{/if}
</details>
