<script lang="ts">
	import { moment } from '$lib/ui/moments';
	import { Link, Trash2 } from '$lib/icons';
	import { goto } from '$app/navigation';
	import type { Viewpoint } from '$lib/workbench/bench.svelte';
	import type { Stage } from '$lib/stages';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace, stage, close }: { workspace: Workspace; stage: Stage; close: () => void } = $props();
	let name = $state('');

	async function keep(event: SubmitEvent) {
		event.preventDefault();
		const done = await workspace.attempt(() => workspace.bench.keepViewpoint(name.trim(), stage));
		if (done) {
			workspace.say(`Kept as "${name.trim()}".`);
			name = '';
		}
	}
	async function show(v: Viewpoint) {
		await workspace.attempt(async () => {
			await workspace.bench.goTo(v.id);
			close();
			if (v.stage !== stage) await goto(`/${workspace.id}/${v.stage}`);
		});
	}
	async function copy(v: Viewpoint) {
		const address = `${location.origin}/${workspace.id}/${v.stage}?viewpoint=${v.id}`;
		try {
			await navigator.clipboard.writeText(address);
			workspace.say('The address is on the clipboard.');
		} catch {
			workspace.say(`The address is ${address}`);
		}
	}
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && close()} />
<div
	class="bg-base-100 rule absolute top-8 right-1 z-30 flex max-h-96 w-72 flex-col gap-2 overflow-y-auto border p-3 text-sm shadow-md"
	role="dialog"
	aria-label="Viewpoints"
>
	<form class="flex gap-2" onsubmit={keep}>
		<input
			class="input input-xs min-w-0 flex-1"
			placeholder="name of this view"
			aria-label="Name of the viewpoint"
			maxlength="200"
			bind:value={name}
		/>
		<button class="btn btn-xs btn-primary" disabled={!name.trim()}>Keep</button>
	</form>
	<ul>
		{#each workspace.bench.viewpoints as v (v.id)}
			<li class="flex items-center gap-1 py-0.5">
				<button
					class="min-w-0 flex-1 truncate text-left hover:underline"
					title="Kept {moment(v.createdAt)}{v.createdBy ? ` by ${v.createdBy}` : ''}"
					onclick={() => show(v)}>{v.name}</button
				>
				<button
					class="btn btn-ghost btn-xs btn-square"
					aria-label="Copy the address of {v.name}"
					title="Copy its address"
					onclick={() => copy(v)}><Link size={13} /></button
				>
				<button
					class="btn btn-ghost btn-xs btn-square"
					aria-label="Remove {v.name}"
					title="Remove"
					onclick={() => workspace.attempt(() => workspace.bench.remove(v.id))}><Trash2 size={13} /></button
				>
			</li>
		{:else}
			<li class="quiet">None kept yet. A viewpoint keeps panes, cameras, styles and filters under a name, with an address of its own.</li>
		{/each}
	</ul>
	<button class="btn btn-xs btn-ghost self-end" onclick={close}>Close</button>
</div>
