<script lang="ts">
	import { ChevronDown, Redo2, Undo2 } from '$lib/icons';
	import type { NextChange } from '$lib/api/types';
	import type { Workspace } from '$lib/workspace.svelte';
	import { moment } from './moments';
	import Popover from './Popover.svelte';

	/** Undo, redo, and the list of steps behind them. */
	let { workspace }: { workspace: Workspace } = $props();
	type Change = NextChange & { undone: boolean; createdAt: string };
	let open = $state(false);
	let list = $state.raw<Change[]>([]);
	const undone = $derived(list.filter((c) => c.undone).reverse());
	const done = $derived(list.filter((c) => !c.undone));
	async function show() {
		await workspace.attempt(async () => {
			list = (await workspace.api.ask('listChanges')).changes;
			open = true;
		});
	}
	/** Takes back, or does again, all up to one step. */
	async function go(steps: number, forward: boolean) {
		open = false;
		for (let i = 0; i < steps; i++) {
			const before = workspace.changes;
			await workspace.undo(forward);
			// It was refused, or declined: what lies behind it stays, too.
			if (workspace.changes === before) return;
		}
	}
</script>

<div class="relative flex">
	<button
		class="btn btn-ghost btn-sm btn-square"
		title={workspace.changes.undo ? `Undo: ${workspace.changes.undo.label} (Ctrl Z)` : 'There is nothing to undo'}
		aria-label="Undo"
		disabled={!workspace.changes.undo}
		onclick={() => workspace.undo(false)}><Undo2 size={17} /></button
	>
	<button
		class="btn btn-ghost btn-sm btn-square"
		title={workspace.changes.redo ? `Redo: ${workspace.changes.redo.label} (Ctrl Shift Z)` : 'There is nothing to do again'}
		aria-label="Redo"
		disabled={!workspace.changes.redo}
		onclick={() => workspace.undo(true)}><Redo2 size={17} /></button
	>
	<button
		class="btn btn-ghost btn-sm w-6 px-0"
		title="Steps that can be taken back"
		aria-label="Steps that can be taken back"
		aria-expanded={open}
		disabled={!workspace.changes.undo && !workspace.changes.redo}
		onclick={() => (open ? (open = false) : show())}><ChevronDown size={15} /></button
	>
	{#if open}
		<Popover label="Steps" close={() => (open = false)}>
			<ul class="max-h-96 w-80 overflow-y-auto py-1 text-sm">
				{#each undone as c, i (c.id)}
					<li>
						<button class="quiet hover:bg-base-200 w-full px-3 py-1.5 text-left italic" onclick={() => go(undone.length - i, true)}
							>{c.label}<span class="block text-xs">taken back; do again up to here</span></button
						>
					</li>
				{/each}
				{#each done as c, i (c.id)}
					<li>
						<button class="hover:bg-base-200 w-full px-3 py-1.5 text-left" onclick={() => go(i + 1, false)}
							>{c.label}<span class="quiet block text-xs">{moment(c.createdAt)}{c.by ? `, ${c.by}` : ''}</span></button
						>
					</li>
				{/each}
			</ul>
			<p class="quiet rule border-t px-3 py-1.5 text-xs">Press a step to take it back with all that came after it.</p>
		</Popover>
	{/if}
</div>
