<script lang="ts">
	import { fenceTraces, parallelTraces, traceAlongHole, traceThrough } from '#core/sections/along-section';
	import { roving } from '$lib/ui/roving';
	import { typedLines } from '$lib/ui/typed-numbers';
	import type { SectionBeside } from '$lib/api/types';
	import { freshSet, setsOf } from '$lib/workbench/section-sets';
	import type { Workspace } from '$lib/workspace.svelte';
	interface Props {
		workspace: Workspace;
		/** Id of the section in the pane. */
		shown: string;
		show: (id: string | null) => void;
	}
	let { workspace, shown, show }: Props = $props();
	const section = $derived(workspace.interpretation?.section);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');
	let spacing = $state(250);
	let beside = $state(4);
	let fenceLength = $state(1500);
	const text = $derived((section?.trace ?? []).map((p) => p.map((v) => Number(v.toFixed(1))).join(' ')).join('\n'));

	const corridor = $derived(section?.corridor ?? 100);
	const sections = $derived(workspace.interpretation?.sections ?? []);
	const sets = $derived(setsOf(sections));
	const atHand = $derived(workspace.sections.find((s) => s.id === shown));
	const store = (trace: [number, number][]) => workspace.store('section', { trace, corridor });
	/** Changes one section; what is left empty is that of the main section, or of the workbench, again. */
	const change = (s: SectionBeside, part: { name?: string; corridor?: number | null; exaggeration?: number | null }) =>
		workspace.changeSections([{ id: s.id, ...part }]);
	/** Takes over what was typed for a section; what was refused does not stay in the field. */
	async function take(field: HTMLInputElement, s: SectionBeside, part: Parameters<typeof change>[1]) {
		const [key] = Object.keys(part) as (keyof typeof part)[];
		const was = s[key!] ?? '';
		if (!(await change(s, part))) field.value = String(was);
	}
	/** The main line as a section that stays when another main line is drawn. */
	function keepMain() {
		if (!section || section.trace.length < 2) return workspace.say('Draw or type the main line first.');
		void workspace.addSections([{ trace: section.trace }]);
	}
	async function renameSet(field: HTMLInputElement, { name, sections: list }: { name: string; sections: readonly SectionBeside[] }) {
		const set = field.value.trim();
		if (!set || !(await workspace.changeSections(list.map(({ id }) => ({ id, set }))))) field.value = name;
	}
	/** What was typed; null when the field was emptied, as it is when that is no number. */
	const own = (field: HTMLInputElement) => (Number.isFinite(field.valueAsNumber) ? field.valueAsNumber : null);
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
		const name = freshSet(sections, kind === 'parallel' ? 'Parallel' : 'Fence');
		void workspace.addSections(traces.map((trace) => ({ trace, set: name })));
	}
</script>

<div class="bg-base-100 rule absolute top-8 right-2 z-10 flex w-80 max-w-[calc(100%-1rem)] flex-col gap-2 border p-2.5 text-sm shadow-sm">
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
	{#if atHand && atHand.trace.length > 1}
		<button
			class="btn btn-xs self-start"
			title="Profiles, lines for other programs: what is made of this section stays with it"
			onclick={() => (workspace.making = { inputs: [atHand.id] })}>Make of section {atHand.name}…</button
		>
	{/if}
	{#if sections.length}
		<div class="rule max-h-56 overflow-y-auto border-t pt-2">
			<table class="plain text-xs">
				<thead
					><tr><th>Section</th><th class="whitespace-nowrap">Corridor</th><th>Vert. ×</th><th><span class="sr-only">Take out</span></th></tr
					></thead
				>
				<tbody use:roving={{ items: 'input, button', grid: true }}>
					{#each sets as set (set.name)}
						{#if set.name}
							<tr>
								<td colspan="3" class="pt-2"
									><input
										class="input input-xs w-full font-medium"
										aria-label="Name of the set {set.name}"
										value={set.name}
										onchange={(e) => renameSet(e.currentTarget, set)}
									/></td
								>
								<td class="pt-2"
									><button
										class="btn btn-ghost btn-xs"
										aria-label="Take out the set {set.name}"
										title="Take out the set; Ctrl Z brings it back"
										onclick={() => workspace.removeSections(set.sections.map((s) => s.id))}>×</button
									></td
								>
							</tr>
						{/if}
						{#each set.sections as s (s.id)}
							<tr class={shown === s.id ? 'bg-base-200' : ''}>
								<td
									><span class="flex items-center gap-1"
										><button class="btn btn-xs" title="Show it here" onclick={() => show(s.id)}>show</button><input
											class="input input-xs w-18"
											aria-label="Name of section {s.name}"
											value={s.name}
											onchange={(e) => {
												const name = e.currentTarget.value.trim();
												if (name) void take(e.currentTarget, s, { name });
												else e.currentTarget.value = s.name;
											}}
										/></span
									></td
								>
								<td
									><input
										class="input input-xs numbers w-14"
										type="number"
										min="0"
										aria-label="Corridor of {s.name}"
										placeholder={String(corridor)}
										value={s.corridor ?? ''}
										onchange={(e) => take(e.currentTarget, s, { corridor: own(e.currentTarget) })}
									/></td
								>
								<td
									><input
										class="input input-xs numbers w-12"
										type="number"
										min="0.1"
										max="100"
										step="any"
										aria-label="Vertical exaggeration of {s.name}"
										placeholder={String(workspace.bench.state.exaggeration)}
										value={s.exaggeration ?? ''}
										onchange={(e) => take(e.currentTarget, s, { exaggeration: own(e.currentTarget) })}
									/></td
								>
								<td
									><button
										class="btn btn-ghost btn-xs"
										aria-label="Take out section {s.name}"
										onclick={() => workspace.removeSections([s.id])}>×</button
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
