<script lang="ts">
	import { page } from '$app/state';
	import { keepInAddress } from '$lib/ui/address';
	import type { Shaping } from '#core/project/shaping';
	import FirstSteps from '$lib/interpret/FirstSteps.svelte';
	import { untrack } from 'svelte';
	import type { CodeOfLog } from '#core/logs/relog';
	import CodeProposals from '$lib/interpret/CodeProposals.svelte';
	import CodesEditor from '$lib/interpret/CodesEditor.svelte';
	import LogsEditor from '$lib/interpret/LogsEditor.svelte';
	import { newUnit } from '$lib/interpret/new-unit';
	import { rowsOfCodes } from '$lib/interpret/rows-of-codes';
	import ColumnEvidence from '$lib/interpret/ColumnEvidence.svelte';
	import ColumnEditor from '$lib/interpret/ColumnEditor.svelte';
	import DivisionsEditor from '$lib/interpret/DivisionsEditor.svelte';
	import FollowedFaults from '$lib/interpret/FollowedFaults.svelte';
	import FaultsEditor from '$lib/interpret/FaultsEditor.svelte';
	import RanksEditor from '$lib/interpret/RanksEditor.svelte';
	import ShapeEditor from '$lib/interpret/ShapeEditor.svelte';
	import PaneGrid from '$lib/panes/PaneGrid.svelte';
	import { roving } from '$lib/ui/roving';
	import StageScreen from '$lib/ui/StageScreen.svelte';
	import { useWorkspace } from '$lib/workspace.svelte';

	const workspace = useWorkspace();
	type Tab = 'codes' | 'logs' | 'column' | 'ranks' | 'faults' | 'shape' | 'divide';
	const asked = page.url.searchParams.get('tab') ?? '';
	let tab = $state<Tab>(['logs', 'column', 'ranks', 'faults', 'shape', 'divide'].includes(asked) ? (asked as Tab) : 'codes');
	$effect(() => keepInAddress('tab', tab === 'codes' ? '' : tab));
	const part = $derived(workspace.interpretation!);
	const units = $derived(part.column.units);
	const open = $derived(part.codes.filter((c) => !(part.lumping.codes[c.code] ?? units.some((u) => u.id === c.code))));
	const shaping = $derived.by((): Shaping => {
		const { revision: _, ...rest } = part.shaping;
		return rest;
	});
	/** The log whose codes are lumped: that of the model, or the first that was logged. */
	const log = $derived.by(() => {
		const named = workspace.tables.find((t) => t.name === part.shaping.log?.table);
		return named ?? workspace.tables.find((t) => t.state['kind'] === 'intervals' && !t.state['versionOf']) ?? null;
	});
	let details = $state.raw<ReadonlyMap<string, CodeOfLog>>(new Map());
	/** By name, of codes that do not stand in the log: those have proposals of their own. */
	const proposed = $derived(
		Object.entries(part.proposal).filter(
			([code, unit]) => unit && !part.lumping.codes[code] && !details.has(code) && (details.size || !log)
		)
	);
	let asOf = '';
	$effect(() => {
		const key = tab === 'codes' && log && !part.shaping.log?.column ? `${log.id} ${log.contentHash}` : '';
		if (!key || key === asOf) return;
		asOf = key;
		void workspace.api.ask('listLogCodes', { object: log!.id }).then(
			({ codes }) => key === asOf && (details = new Map(codes.map((c) => [c.code, c]))),
			// Without them the codes are listed all the same.
			() => {}
		);
	});
	/** What is picked among the codes is selected in all panes, so that one sees where in the ground it is. */
	let glowing = false;
	function glow(codes: string[]) {
		untrack(() => {
			if (!log || (!codes.length && !glowing)) return;
			const rows = rowsOfCodes(workspace.sets.of(log.id), codes);
			glowing = rows.length > 0;
			workspace.selection = rows.length ? { kind: 'rows', table: log.id, rows } : null;
		});
	}
	/** A new unit of some codes: as one change. */
	function makeUnit(name: string, codes: string[]): Promise<boolean> {
		const unit = newUnit(
			name,
			units,
			shaping.divisions.flatMap((d) => d.column)
		);
		return workspace.store('lumping', {
			codes: { ...part.lumping.codes, ...Object.fromEntries(codes.map((c) => [c, unit.id])) },
			add: [unit]
		});
	}
	const setLumping = (codes: Record<string, string>) => workspace.store('lumping', { codes });
	const setShaping = (values: Partial<Shaping>) => workspace.store('shaping', values);
	const TABS = $derived([
		['codes', 'Codes'],
		['logs', 'Logs'],
		['column', 'Column'],
		['ranks', 'Ranks'],
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
				class="relative border-b-2 px-1.5 py-2.5 text-sm {tab === id
					? 'border-primary font-medium'
					: 'hover:bg-base-200 border-transparent'}"
				onclick={() => (tab = id)}
				>{label}{#if id === 'codes' && open.length}<span
						class="badge badge-xs badge-warning numbers absolute -right-1 top-0.5 px-1"
						title="without unit">{open.length}<span class="sr-only"> without unit</span></span
					>{/if}</button
			>
		{/each}
	</div>
	{#if tab === 'codes'}
		<p class="quiet mb-2 text-sm">What each code of the loggers is taken to be. Many codes can be one unit.</p>
		{#if part.codes.length === 0}<p>No codes yet: bring in logged intervals under Gather.</p>{/if}
		<FirstSteps {workspace} only="units" />
		{#if log && !part.shaping.log?.column}<CodeProposals {workspace} {log} lumping={part.lumping.codes} set={setLumping} />{/if}
		{#if proposed.length}<button
				class="btn btn-sm btn-primary mb-2 w-full"
				onclick={() => setLumping({ ...part.lumping.codes, ...Object.fromEntries(proposed) })}
				>Take {proposed.length} proposed by name</button
			>{/if}
		<CodesEditor
			codes={part.codes}
			{units}
			lumping={part.lumping.codes}
			set={setLumping}
			{details}
			unit={workspace.project?.lengthUnit}
			onpick={glow}
			make={makeUnit}
		/>
	{:else if tab === 'logs'}
		<LogsEditor {workspace} />
	{:else if tab === 'ranks'}
		<RanksEditor {workspace} />
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
		<ColumnEvidence {workspace} {units} change={(list) => workspace.store('column', { units: list })} />
	{:else if tab === 'faults'}
		<p class="quiet mb-2 text-sm">
			A fault cuts everything from one unit downwards: right through, up to another fault, or to a tip line where it dies out. Its trace is
			drawn on the map; its elevation comes from the terrain.
		</p>
		<FollowedFaults {workspace} faults={part.faults} />
		{#if !part.faults.follows}<FaultsEditor
				{workspace}
				{units}
				faults={part.faults.faults}
				change={(faults) => workspace.store('faults', { faults })}
			/>{/if}
	{:else if tab === 'shape'}
		<ShapeEditor {workspace} {units} {shaping} change={setShaping} />
	{:else}
		<DivisionsEditor {workspace} {units} {shaping} change={setShaping} />
	{/if}
{/snippet}

<StageScreen {aside} width={352} name="Interpret"><PaneGrid {workspace} stage="interpret" initial={['map']} /></StageScreen>
