<script lang="ts">
	import { fenceTraces, parallelTraces, traceAlongHole, traceThrough } from '#core/sections/along-section';
	import { roving } from '$lib/ui/roving';
	import { typedLines } from '$lib/ui/typed-numbers';
	import type { SectionLine } from '$lib/api/types';
	import type { Workspace } from '$lib/workspace.svelte';
	import { freshLetters, freshSet, setsOf } from './sets';
	let {
		workspace,
		shown,
		show
	}: { workspace: Workspace; /** Number of the section in the pane, 0 the main one. */ shown: number; show: (i: number) => void } =
		$props();
	const section = $derived(workspace.interpretation?.section);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	let spacing = $state(250);
	let beside = $state(4);
	let fenceLength = $state(1500);
	const MOST_LINES = 500;
	const text = $derived((section?.trace ?? []).map((p) => p.map((v) => Number(v.toFixed(1))).join(' ')).join('\n'));

	const corridor = $derived(section?.corridor ?? 100);
	const lines = $derived(section?.lines ?? []);
	const sets = $derived(setsOf(lines));
	const store = (trace: [number, number][]) => workspace.store('section', { trace, corridor });
	async function storeLines(changed: SectionLine[]) {
		const done = await workspace.store('section', { trace: section!.trace, corridor, lines: changed });
		// Numbers of the sections behind those that were taken out are others.
		if (done && changed.length < lines.length) show(0);
		return done;
	}
	/** Changes one line of the set; a value that is left empty is that of the main line again. */
	function change(i: number, part: Partial<SectionLine>) {
		const changed = lines.map((l, k) =>
			k === i ? (Object.fromEntries(Object.entries({ ...l, ...part }).filter(([, v]) => v !== undefined)) as unknown as SectionLine) : l
		);
		void storeLines(changed);
	}
	/** The main line as a section that stays when another main line is drawn. */
	function keepMain() {
		if (!section || section.trace.length < 2) return workspace.say('Draw or type the main line first.');
		void storeLines([...lines, { name: freshLetters(lines, 1)[0]!, trace: section.trace }]);
	}
	const renameSet = (was: string, name: string) =>
		void storeLines(lines.map((l) => ((l.set ?? '') === was ? { ...l, set: name.trim() || was } : l)));
	const own = (field: HTMLInputElement) => (Number.isFinite(field.valueAsNumber) ? field.valueAsNumber : undefined);
	function typed(value: string) {
		try {
			void store(typedLines(value, [2, 3], workspace.project?.decimal).map((p) => [p[0]!, p[1]!] as [number, number]));
		} catch (error) {
			workspace.say(`The trace was not taken: ${(error as Error).message}.`, 'error');
		}
	}
	function throughHoles() {
		const names = workspace.selectedHoles;
		const places = (workspace.sets.paths?.holes ?? []).filter((h) => names.has(h.name)).map((h) => [h.collar[0], h.collar[1]] as const);
		if (places.length < 2) return workspace.say('Select two or more holes first: by box, lasso or polygon on the map.');
		void store(traceThrough(places, corridor));
	}
	function alongHole() {
		const [name] = workspace.selectedHoles;
		const h = name === undefined ? -1 : workspace.sets.holeNumber(name);
		if (h < 0) return workspace.say('Select a hole first.');
		void store(traceAlongHole(workspace.sets.paths!, h, Math.max(corridor, 100)));
	}
	function set(kind: 'parallel' | 'fence') {
		if (!section || section.trace.length < 2) return workspace.say('Draw or type the main line first.');
		if (!(spacing > 0)) return workspace.say('The spacing must be greater than 0.');
		const traces =
			kind === 'parallel' ? parallelTraces(section.trace, spacing, beside, beside) : fenceTraces(section.trace, spacing, fenceLength);
		if (lines.length + traces.length > MOST_LINES)
			return workspace.say(
				`That would be ${lines.length + traces.length} sections; at most ${MOST_LINES} are kept. Choose a wider spacing, or take a set out.`
			);
		const name = freshSet(lines, kind === 'parallel' ? 'Parallel' : 'Fence');
		const letters = freshLetters(lines, traces.length);
		void storeLines([...lines, ...traces.map((trace, i) => ({ name: letters[i]!, trace, set: name }))]);
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
	<div class="flex flex-wrap gap-1">
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
		<div class="flex flex-wrap gap-1">
			<button class="btn btn-xs" onclick={() => set('parallel')}>Parallel set</button><button
				class="btn btn-xs"
				onclick={() => set('fence')}>Fence across</button
			>
			<button class="btn btn-xs ml-auto" title="Keeps the main line as a section of its own" onclick={keepMain}>Keep the main line</button>
		</div>
	</div>
	{#if lines.length}
		<div class="rule max-h-56 overflow-y-auto border-t pt-2">
			<table class="plain text-xs">
				<thead><tr><th>Section</th><th>Corridor ±</th><th>Vert. ×</th><th><span class="sr-only">Take out</span></th></tr></thead>
				<tbody use:roving={{ items: 'input, button', grid: true }}>
					{#each sets as set (set.name)}
						{#if set.name}
							<tr>
								<td colspan="3" class="pt-2"
									><input
										class="input input-xs w-full font-medium"
										aria-label="Name of the set {set.name}"
										value={set.name}
										onchange={(e) => renameSet(set.name, e.currentTarget.value)}
									/></td
								>
								<td class="pt-2"
									><button
										class="btn btn-ghost btn-xs"
										aria-label="Take out the set {set.name}"
										title="Take out the set; Ctrl Z brings it back"
										onclick={() => storeLines(lines.filter((l) => l.set !== set.name))}>×</button
									></td
								>
							</tr>
						{/if}
						{#each set.numbers.filter((n) => n > 0) as n (n)}
							{@const l = lines[n - 1]!}
							<tr class={shown === n ? 'bg-base-200' : ''}>
								<td
									><span class="flex items-center gap-1"
										><button class="btn btn-xs" title="Show it here" onclick={() => show(n)}>show</button><input
											class="input input-xs w-14"
											aria-label="Name of section {n}"
											value={l.name}
											onchange={(e) => change(n - 1, { name: e.currentTarget.value.trim() || l.name })}
										/></span
									></td
								>
								<td
									><input
										class="input input-xs numbers w-14"
										type="number"
										min="0"
										aria-label="Corridor of {l.name}"
										placeholder={String(corridor)}
										value={l.corridor ?? ''}
										onchange={(e) => change(n - 1, { corridor: own(e.currentTarget) })}
									/></td
								>
								<td
									><input
										class="input input-xs numbers w-12"
										type="number"
										min="0.1"
										max="100"
										step="any"
										aria-label="Vertical exaggeration of {l.name}"
										placeholder={String(workspace.bench.state.exaggeration)}
										value={l.exaggeration ?? ''}
										onchange={(e) => change(n - 1, { exaggeration: own(e.currentTarget) })}
									/></td
								>
								<td
									><button
										class="btn btn-ghost btn-xs"
										aria-label="Take out section {l.name}"
										onclick={() => storeLines(lines.filter((_, k) => k !== n - 1))}>×</button
									></td
								>
							</tr>
						{/each}
					{/each}
				</tbody>
			</table>
		</div>
	{/if}
</div>
