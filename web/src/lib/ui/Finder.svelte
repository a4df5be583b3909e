<script lang="ts">
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import { STAGES } from '$lib/stages';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace, close }: { workspace: Workspace; close: () => void } = $props();
	untrack(() => workspace.need('holes'));
	let text = $state('');
	let at = $state(0);
	let input: HTMLInputElement;

	interface Entry {
		label: string;
		kind: string;
		run: () => void;
	}
	const entries = $derived<Entry[]>([
		{ label: 'Build model', kind: 'run', run: () => void workspace.build() },
		{ label: 'Undo', kind: 'run', run: () => void workspace.undo(false) },
		{ label: 'Redo', kind: 'run', run: () => void workspace.undo(true) },
		...STAGES.map((s) => ({ label: `Go to ${s.label}`, kind: 'stage', run: () => void goto(`/${workspace.id}/${s.id}`) })),
		...workspace.bench.viewpoints.map((v) => ({
			label: v.name,
			kind: 'viewpoint',
			run: () => void workspace.attempt(() => workspace.bench.goTo(v.id))
		})),
		...workspace.units.map((u) => ({ label: u.name, kind: 'unit', run: () => (workspace.selection = { kind: 'unit', id: u.id }) })),
		...(workspace.sets.paths?.holes ?? []).map((h) => ({
			label: h.name,
			kind: 'hole',
			run: () => {
				workspace.selection = { kind: 'hole', name: h.name };
				workspace.probe = { x: h.collar[0], y: h.collar[1], z: h.collar[2], what: h.name, from: 'find' };
			}
		})),
		...workspace.objects.map((o) => ({ label: o.name, kind: 'object', run: () => (workspace.selection = { kind: 'object', id: o.id }) }))
	]);
	const found = $derived(entries.filter((e) => e.label.toLowerCase().includes(text.trim().toLowerCase())).slice(0, 12));

	$effect(() => input.focus());

	function keys(event: KeyboardEvent) {
		event.stopPropagation();
		if (event.key === 'Escape') close();
		else if (event.key === 'ArrowDown') at = Math.min(found.length - 1, at + 1);
		else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
		else if (event.key === 'Enter' && found[at]) choose(found[at]!);
		else return;
		event.preventDefault();
	}

	function choose(e: Entry) {
		close();
		e.run();
	}
</script>

<div class="fixed inset-0 z-50 bg-black/20" role="presentation" onclick={close}></div>
<div class="bg-base-100 rule fixed top-16 left-1/2 z-50 w-[480px] -translate-x-1/2 border shadow-xl" role="dialog" aria-label="Find or run">
	<input
		bind:this={input}
		class="w-full px-4 py-3 outline-none"
		placeholder="a hole, a unit, an object, a command"
		aria-label="Find or run"
		bind:value={text}
		oninput={() => (at = 0)}
		onkeydown={keys}
	/>
	<ul class="rule border-t py-1" role="listbox" aria-label="Found">
		{#each found as e, i (e.kind + e.label + i)}
			<li role="option" aria-selected={i === at}>
				<button class="flex w-full justify-between px-4 py-1.5 text-left {i === at ? 'bg-base-200' : ''}" onclick={() => choose(e)}
					><span>{e.label}</span><span class="quiet text-sm">{e.kind}</span></button
				>
			</li>
		{:else}
			<li class="quiet px-4 py-2">Nothing is called that.</li>
		{/each}
	</ul>
</div>
