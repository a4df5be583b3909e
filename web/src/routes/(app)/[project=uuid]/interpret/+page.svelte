<script lang="ts">
	import { page } from '$app/state';
	import { keepInAddress } from '$lib/ui/address';
	import type { Shaping } from '#core/project/shaping';
	import FirstSteps from '$lib/interpret/FirstSteps.svelte';
	import CodesEditor from '$lib/interpret/CodesEditor.svelte';
	import ColumnEditor from '$lib/interpret/ColumnEditor.svelte';
	import DivisionsEditor from '$lib/interpret/DivisionsEditor.svelte';
	import FaultsEditor from '$lib/interpret/FaultsEditor.svelte';
	import ShapeEditor from '$lib/interpret/ShapeEditor.svelte';
	import PaneGrid from '$lib/panes/PaneGrid.svelte';
	import { roving } from '$lib/ui/roving';
	import StageScreen from '$lib/ui/StageScreen.svelte';
	import { useWorkspace } from '$lib/workspace.svelte';

	const workspace = useWorkspace();
	type Tab = 'codes' | 'column' | 'faults' | 'shape' | 'divide';
	const asked = page.url.searchParams.get('tab') ?? '';
	let tab = $state<Tab>(['column', 'faults', 'shape', 'divide'].includes(asked) ? (asked as Tab) : 'codes');
	$effect(() => keepInAddress('tab', tab === 'codes' ? '' : tab));
	const part = $derived(workspace.interpretation!);
	const units = $derived(part.column.units);
	const open = $derived(part.codes.filter((c) => !part.lumping.codes[c.code]));
	const proposed = $derived(Object.entries(part.proposal).filter(([code, unit]) => unit && !part.lumping.codes[code]));
	const shaping = $derived.by((): Shaping => {
		const { revision: _, ...rest } = part.shaping;
		return rest;
	});
	const setLumping = (codes: Record<string, string>) => workspace.store('lumping', { codes });
	const setShaping = (values: Partial<Shaping>) => workspace.store('shaping', values);
	const TABS = $derived([
		['codes', open.length ? `Codes, ${open.length} without unit` : 'Codes'],
		['column', 'Column'],
		['faults', 'Faults'],
		['shape', 'Shape'],
		['divide', 'Divide']
	] as const);
</script>

{#snippet aside()}
	<div
		class="rule -mx-4 -mt-4 mb-3 flex flex-wrap border-b px-1"
		role="tablist"
		aria-label="Interpret"
		use:roving={{ items: '[role=tab]', press: true }}
	>
		{#each TABS as [id, label] (id)}
			<button
				role="tab"
				aria-selected={tab === id}
				class="border-b-2 px-2.5 py-2.5 {tab === id ? 'border-primary font-medium' : 'hover:bg-base-200 border-transparent'}"
				onclick={() => (tab = id)}>{label}</button
			>
		{/each}
	</div>
	{#if tab === 'codes'}
		<p class="quiet mb-2 text-sm">What each code of the loggers is taken to be. Many codes can be one unit.</p>
		{#if part.codes.length === 0}<p>No codes yet: bring in logged intervals under Gather.</p>{/if}
		<FirstSteps {workspace} only="units" />
		{#if proposed.length}<button
				class="btn btn-sm btn-primary mb-2 w-full"
				onclick={() => setLumping({ ...part.lumping.codes, ...Object.fromEntries(proposed) })}
				>Take {proposed.length} proposed by name</button
			>{/if}
		<CodesEditor codes={part.codes} {units} lumping={part.lumping.codes} set={setLumping} />
	{:else if tab === 'column'}
		<p class="quiet mb-2 text-sm">
			Youngest at the top; the last is the basement. The kind says how the lower boundary meets what is older.
		</p>
		<FirstSteps {workspace} only="units" />
		<ColumnEditor
			{units}
			taken={shaping.divisions.flatMap((d) => d.column.map((u) => u.id))}
			change={(list) => workspace.store('column', { units: list })}
		/>
	{:else if tab === 'faults'}
		<p class="quiet mb-2 text-sm">
			A fault cuts everything from one unit downwards: right through, up to another fault, or to a tip line where it dies out. Its trace is
			drawn on the map; its elevation comes from the terrain.
		</p>
		<FaultsEditor {workspace} {units} faults={part.faults.faults} change={(faults) => workspace.store('faults', { faults })} />
	{:else if tab === 'shape'}
		<ShapeEditor {workspace} {units} {shaping} change={setShaping} />
	{:else}
		<DivisionsEditor {workspace} {units} {shaping} change={setShaping} />
	{/if}
{/snippet}

<StageScreen {aside} width={330} name="Interpret"><PaneGrid {workspace} stage="interpret" initial={['map']} /></StageScreen>
