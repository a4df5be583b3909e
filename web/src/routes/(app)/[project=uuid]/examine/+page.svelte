<script lang="ts">
	import { PenLine } from '$lib/icons';
	import PaneGrid from '$lib/panes/PaneGrid.svelte';
	import StageScreen from '$lib/ui/StageScreen.svelte';
	import { useWorkspace } from '$lib/workspace.svelte';

	const workspace = useWorkspace();
	const section = $derived(workspace.interpretation!.section);

	/** Another one that was set in a pane is listed too. */
	const exaggerations = $derived([...new Set([1, 1.5, 2, 3, 5, 10, workspace.bench.state.exaggeration])].sort((a, b) => a - b));

	function drawSection() {
		workspace.draw = { what: 'section', done: (trace) => void workspace.store('section', { trace, corridor: section.corridor }) };
	}
</script>

<div class="grid h-full grid-rows-[auto_minmax(0,1fr)]">
	<div class="bg-base-100 rule flex min-h-[38px] flex-wrap items-center gap-x-4 gap-y-1 border-b px-3 py-0.5 text-sm">
		<button class="btn btn-sm" onclick={drawSection}><PenLine size={15} />Draw section</button>
		<label class="flex items-center gap-2 whitespace-nowrap" title="Holes nearer to the section than this are projected onto it"
			>Corridor ± <input
				class="input input-xs numbers w-20"
				type="number"
				min="0"
				step="10"
				value={section.corridor}
				disabled={section.trace.length < 2}
				onchange={(e) => workspace.store('section', { trace: section.trace, corridor: e.currentTarget.valueAsNumber || 0 })}
			/>
			{workspace.project!.lengthUnit}</label
		>
		<label class="flex items-center gap-2 whitespace-nowrap"
			>Vertical exaggeration <select class="select select-xs w-18" bind:value={workspace.bench.state.exaggeration}
				>{#each exaggerations as v (v)}<option value={v}>{v}×</option>{/each}</select
			></label
		>
		<label class="flex items-center gap-2 whitespace-nowrap"
			><input type="checkbox" class="checkbox checkbox-xs" bind:checked={workspace.bench.state.filled} />filled section</label
		>
		<label class="flex items-center gap-2 whitespace-nowrap"
			><input
				type="checkbox"
				class="checkbox checkbox-xs"
				checked={workspace.bench.state.slice.kind === 'section'}
				onchange={(e) =>
					(workspace.bench.state.slice = { ...workspace.bench.state.slice, kind: e.currentTarget.checked ? 'section' : 'none' })}
				disabled={section.trace.length < 2}
			/>cut space at the section</label
		>
	</div>
	<StageScreen><PaneGrid {workspace} stage="examine" initial={['space', 'map', 'section']} /></StageScreen>
</div>
