<script lang="ts">
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import type { ManualPage } from '$lib/manual/pages';
	import { VIEWS } from '$lib/panes/views';
	import Dialog from './Dialog.svelte';
	import type { RecipeInfo } from '$lib/api/types';
	import { freeOnes, recipes } from '$lib/results/choices';
	import { STAGES } from '$lib/stages';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace, stage, close }: { workspace: Workspace; stage: string; close: () => void } = $props();
	untrack(() => workspace.need('holes'));
	let text = $state('');
	let at = $state(0);
	let input: HTMLInputElement;
	const id = $props.id();
	let manual = $state.raw<ManualPage[]>([]);
	let made = $state.raw<RecipeInfo[]>([]);
	void recipes().then(
		(list) => (made = freeOnes(list)),
		() => {}
	);
	$effect(() => void import('$lib/manual/pages').then((m) => (manual = m.MANUAL)));

	interface Entry {
		label: string;
		kind: string;
		run: () => void;
		/** What it selects or begins stands in the details. */
		details?: true;
	}
	const entries = $derived<Entry[]>([
		{ label: 'Build model', kind: 'run', run: () => void workspace.build() },
		...(workspace.made.length || workspace.models.length > 1
			? [{ label: 'Build everything that is out of date', kind: 'run', run: () => void workspace.buildAll() }]
			: []),
		...made.map((r) => ({
			label: `Make: ${r.title}`,
			kind: 'make',
			details: true as const,
			run: () => (workspace.making = { recipe: r.id })
		})),
		{ label: 'Run a routine', kind: 'run', details: true as const, run: () => (workspace.routine = {}) },
		...(workspace.models.length > 1
			? workspace.models.map((m) => ({ label: `Work on ${m.name}`, kind: 'model', run: () => void workspace.goToModel(m.id) }))
			: []),
		{ label: 'Undo', kind: 'run', run: () => void workspace.undo(false) },
		{ label: 'Redo', kind: 'run', run: () => void workspace.undo(true) },
		{ label: 'All projects', kind: 'stage', run: () => void goto('/') },
		...VIEWS.map((v) => ({
			label: `Show ${v.label}`,
			kind: 'pane',
			run: () => void goto(`/${workspace.id}/examine?panes=${v.id}`)
		})),
		...STAGES.map((s) => ({ label: `Go to ${s.label}`, kind: 'stage', run: () => void goto(`/${workspace.id}/${s.id}`) })),
		...workspace.bench.viewpoints.map((v) => ({
			label: v.name,
			kind: 'viewpoint',
			run: () => void workspace.attempt(() => workspace.bench.goTo(v.id))
		})),
		...workspace.units.map((u) => ({
			label: u.name,
			kind: 'unit',
			details: true as const,
			run: () => (workspace.selection = { kind: 'unit', id: u.id })
		})),
		...(workspace.sets.paths?.holes ?? []).map((h) => ({
			label: h.name,
			kind: 'hole',
			details: true as const,
			run: () => {
				workspace.selection = { kind: 'hole', name: h.name };
				workspace.probe = { x: h.collar[0], y: h.collar[1], z: h.collar[2], what: h.name, from: 'find' };
			}
		})),
		...workspace.objects.map((o) => ({
			label: o.name,
			kind: 'object',
			details: true as const,
			run: () => (workspace.selection = { kind: 'object', id: o.id })
		})),
		...manual.flatMap((m) =>
			m.headings.map((h) => ({ label: h.text, kind: `manual: ${m.title}`, run: () => void goto(`/docs/${m.name}#${h.id}`) }))
		)
	]);
	const found = $derived(entries.filter((e) => e.label.toLowerCase().includes(text.trim().toLowerCase())).slice(0, 12));

	$effect(() => input.focus());

	function keys(event: KeyboardEvent) {
		if (event.key === 'ArrowDown') at = Math.min(found.length - 1, at + 1);
		else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
		else if (event.key === 'Enter' && found[at]) void choose(found[at]!);
		else return;
		event.preventDefault();
	}

	async function choose(e: Entry) {
		close();
		// Where no details stand beside the panes, the way leads to a stage where they do.
		if (e.details && !STAGES.find((s) => s.id === stage)?.panes) await goto(`/${workspace.id}/examine`);
		e.run();
		if (e.details) workspace.lookedUp = {};
	}
</script>

<Dialog label="Find or run" {close}>
	<input
		bind:this={input}
		class="w-full px-4 py-3 outline-none"
		placeholder="a hole, a unit, an object, a command, a page of the manual"
		aria-label="Find or run"
		role="combobox"
		aria-expanded="true"
		aria-controls="{id}-list"
		aria-activedescendant={found[at] ? `${id}-${at}` : undefined}
		autocomplete="off"
		bind:value={text}
		oninput={() => (at = 0)}
		onkeydown={keys}
	/>
	<ul id="{id}-list" class="rule border-t py-1" role="listbox" aria-label="Found">
		{#each found as e, i (e.kind + e.label + i)}
			<!-- svelte-ignore a11y_click_events_have_key_events -->
			<li
				id="{id}-{i}"
				role="option"
				aria-selected={i === at}
				class="flex cursor-pointer justify-between gap-3 px-4 py-1.5 {i === at ? 'bg-base-200' : 'hover:bg-base-200'}"
				onclick={() => choose(e)}
			>
				<span class="truncate">{e.label}</span><span class="quiet shrink-0 text-sm">{e.kind}</span>
			</li>
		{:else}
			<li class="quiet px-4 py-2" role="option" aria-selected="false" aria-disabled="true">Nothing is called that.</li>
		{/each}
	</ul>
</Dialog>
