<script lang="ts">
	import { fenceTraces, parallelTraces, traceAlongHole, traceThrough } from '#core/sections/along-section';
	import { typedLines } from '$lib/ui/typed-numbers';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace }: { workspace: Workspace } = $props();
	const section = $derived(workspace.interpretation?.section);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	let spacing = $state(250);
	let beside = $state(4);
	let fenceLength = $state(1500);
	const MOST_LINES = 500;
	const text = $derived((section?.trace ?? []).map((p) => p.map((v) => Number(v.toFixed(1))).join(' ')).join('\n'));

	const corridor = $derived(section?.corridor ?? 100);
	async function store(trace: [number, number][], lines: { name: string; trace: [number, number][] }[] | null) {
		const done = await workspace.store('section', { trace, corridor, ...(lines ? { lines } : {}) });
		if (done && lines) workspace.bench.state.section = 0;
		return done;
	}
	function typed(value: string) {
		try {
			void store(
				typedLines(value, [2, 3], workspace.project?.decimal).map((p) => [p[0]!, p[1]!] as [number, number]),
				null
			);
		} catch (error) {
			workspace.say(`The trace was not taken: ${(error as Error).message}.`, 'error');
		}
	}
	function throughHoles() {
		const names = workspace.selectedHoles;
		const places = (workspace.sets.paths?.holes ?? []).filter((h) => names.has(h.name)).map((h) => [h.collar[0], h.collar[1]] as const);
		if (places.length < 2) return workspace.say('Select two or more holes first: by box, lasso or polygon on the map.');
		void store(traceThrough(places, corridor), null);
	}
	function alongHole() {
		const [name] = workspace.selectedHoles;
		const h = name === undefined ? -1 : workspace.sets.holeNumber(name);
		if (h < 0) return workspace.say('Select a hole first.');
		void store(traceAlongHole(workspace.sets.paths!, h, Math.max(corridor, 100)), null);
	}
	function set(kind: 'parallel' | 'fence') {
		if (!section || section.trace.length < 2) return workspace.say('Draw or type the main line first.');
		if (!(spacing > 0)) return workspace.say('The spacing must be greater than 0.');
		const traces =
			kind === 'parallel' ? parallelTraces(section.trace, spacing, beside, beside) : fenceTraces(section.trace, spacing, fenceLength);
		if (traces.length > MOST_LINES)
			return workspace.say(`That would be ${traces.length} sections; at most ${MOST_LINES} are kept. Choose a wider spacing.`);
		void store(
			section.trace,
			traces.map((trace, i) => ({ name: letter(i + 1), trace }))
		);
	}
	/** B, C … Z, AA, AB … */
	function letter(i: number): string {
		return i < 26 ? String.fromCharCode(65 + i) : letter(Math.floor(i / 26) - 1) + String.fromCharCode(65 + (i % 26));
	}
</script>

<div class="bg-base-100 rule absolute top-8 right-2 z-10 flex w-72 flex-col gap-2 border p-2.5 text-sm shadow-sm">
	<label
		>Main line, one vertex a line: easting northing
		<textarea
			class="textarea textarea-sm coordinates mt-1 w-full"
			rows="3"
			aria-label="Vertices of the section"
			value={text}
			onchange={(e) => typed(e.currentTarget.value)}></textarea>
	</label>
	<label class="flex items-center justify-between gap-2" title="Holes nearer than this are projected onto the section"
		>Corridor ±<span
			><input
				class="input input-xs numbers w-20"
				type="number"
				min="0"
				step="10"
				value={corridor}
				disabled={!section || section.trace.length < 2}
				onchange={(e) => workspace.store('section', { trace: section!.trace, corridor: Math.max(0, e.currentTarget.valueAsNumber || 0) })}
			/>
			{unit}</span
		></label
	>
	<div class="flex gap-1">
		<button class="btn btn-xs" onclick={throughHoles}>Through selected holes</button><button class="btn btn-xs" onclick={alongHole}
			>Along the hole</button
		>
	</div>
	<div class="rule flex flex-col gap-1.5 border-t pt-2">
		<label class="flex items-center justify-between gap-2"
			>Spacing<span><input class="input input-xs numbers w-20" type="number" min="1" bind:value={spacing} /> {unit}</span></label
		>
		<label class="flex items-center justify-between gap-2"
			>Lines on each side<input class="input input-xs numbers w-20" type="number" min="1" max="100" bind:value={beside} /></label
		>
		<label class="flex items-center justify-between gap-2"
			>Length of fence lines<span><input class="input input-xs numbers w-20" type="number" min="1" bind:value={fenceLength} /> {unit}</span
			></label
		>
		<div class="flex gap-1">
			<button class="btn btn-xs" onclick={() => set('parallel')}>Parallel set</button><button
				class="btn btn-xs"
				onclick={() => set('fence')}>Fence across</button
			>
			{#if section?.lines?.length}<button class="btn btn-xs btn-ghost ml-auto" onclick={() => store(section.trace, [])}
					>Only the main line</button
				>{/if}
		</div>
	</div>
</div>
