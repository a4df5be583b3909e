<script lang="ts">
	import { kindOf } from '$lib/workbench/kinds';
	import { CONTOUR, DRAWN, FAULT_RED, HELD, INK, NOTED, RULE } from '#core/palette';
	import { untrack } from 'svelte';
	import { ChevronDown, ChevronRight } from '$lib/icons';
	import { ranksOf } from '#core/units/at-rank';
	import { columnOf } from '#core/datasets/dataset';
	import { proposePattern } from '#core/styles/patterns';
	import { painter } from '#core/styles/style';
	import type { ProjectObject } from '$lib/api/types';
	import { hasWords } from '$lib/ui/fold';
	import { roving } from '$lib/ui/roving';
	import ListFilter from '$lib/ui/ListFilter.svelte';
	import type { Workspace } from '$lib/workspace.svelte';
	import CurvesEditor from './CurvesEditor.svelte';
	import StyleEditor from './StyleEditor.svelte';
	import RampKey from '$lib/panes/RampKey.svelte';
	import { unitAfter } from '$lib/panes/grid-value';
	import Shown from './Shown.svelte';
	import Symbol from './Symbol.svelte';
	import UnitsAtRank from './UnitsAtRank.svelte';
	import { stateOfMade } from '$lib/results/choices';
	import StateMark from '$lib/results/StateMark.svelte';

	let { workspace }: { workspace: Workspace } = $props();
	untrack(() => workspace.need('holes', 'report', 'things'));
	const bench = $derived(workspace.bench.state);
	const units = $derived(workspace.units);
	const ranks = $derived(ranksOf(workspace.stratigraphy.schemes));
	const divisions = $derived(workspace.interpretation?.shaping.divisions.filter((d) => d.on) ?? []);
	const partIds = $derived(new Set(divisions.flatMap((d) => d.column.map((u) => u.id))));
	/** Units with the parts of a divided one below it. */
	const listed = $derived(units.flatMap((u) => [u, ...divisions.filter((d) => d.unit === u.id).flatMap((d) => d.column)]));
	const faults = $derived(workspace.interpretation?.faults.faults ?? []);
	const contacts = $derived(new Map((workspace.report?.surfaces ?? []).map((s) => [s.unit, s.contacts])));
	const along = $derived(workspace.along);
	const collars = $derived(workspace.tables.find((t) => t.state['kind'] === 'collars'));
	const onMap = $derived(workspace.tables.filter((t) => kindOf(t).at === 'map' || kindOf(t).directions));
	let open = $state<string | null>(null);
	const blocks = $derived(workspace.report?.blocks ?? []);
	let filter = $state('');
	const fits = (name: string) => hasWords(name, filter);
	const drawn = $derived(workspace.things.filter((t) => t.kind !== 'picture' || !t.core));
	const made = $derived(workspace.made.filter((o) => o.kind !== 'kept-model'));
	const isMade = $derived(new Set(made.map((o) => o.id)));
	const things = $derived(drawn.filter((t) => !isMade.has(t.id)));
	const sources = $derived([...(collars ? [collars] : []), ...onMap]);
	/** What the filter goes over, by the name under which it is hidden. */
	const rows = $derived([
		...(workspace.atRank ? workspace.groups : listed).map((u) => ({ key: `unit:${u.id}`, name: u.name })),
		...faults.map((f) => ({ key: `fault:${f.id}`, name: f.name })),
		...blocks.map((b) => ({ key: `block:${b.id}`, name: b.name })),
		...sources.map((t) => ({ key: `data:${t.id}`, name: t.name })),
		...things.map((t) => ({ key: `thing:${t.id}`, name: t.name })),
		...made.map((o) => ({ key: `thing:${o.id}`, name: o.name }))
	]);
	const found = $derived(rows.filter((r) => fits(r.name)));
	function showFound(on: boolean) {
		for (const r of found) bench.hidden[r.key] = !on;
	}

	function onlyThis(id: string) {
		// A divided unit is shown with its parts.
		const wanted = new Set([id, ...divisions.filter((d) => d.unit === id).flatMap((d) => d.column.map((u) => u.id))]);
		const alone = listed.every((u) => wanted.has(u.id) === workspace.shown(`unit:${u.id}`));
		for (const u of listed) bench.hidden[`unit:${u.id}`] = alone ? false : !wanted.has(u.id);
	}
	function onlyBlock(id: string) {
		const alone = blocks.every((b) => (b.id === id) === workspace.shown(`block:${b.id}`));
		for (const b of blocks) bench.hidden[`block:${b.id}`] = alone ? false : b.id !== id;
	}
	function recolor(id: string, color: string) {
		const recolored = <T extends { id: string }>(list: T[]) => list.map((u) => (u.id === id ? { ...u, color } : u));
		if (!partIds.has(id)) return void workspace.store('column', { units: recolored(units) });
		const { revision: _, ...shaping } = workspace.interpretation!.shaping;
		void workspace.store('shaping', { ...shaping, divisions: shaping.divisions.map((d) => ({ ...d, column: recolored(d.column) })) });
	}
	/** Colour of the symbol of a data set: its own, or that of its first row. */
	function symbolColor(id: string): string {
		const set = workspace.sets.of(id);
		if (!set) return RULE;
		const style = workspace.sets.style(set);
		if (!style.by || set.rowCount === 0) return style.color;
		return painter({ columns: set.columns }, style, workspace.sets.defaults).css(0);
	}
	const by = (id: string) => {
		const set = workspace.sets.of(id);
		return set ? (columnOf(set, workspace.sets.style(set).by)?.label ?? '') : '';
	};
</script>

{#snippet key(id: string)}
	{@const t = drawn.find((x) => x.id === id)}
	{#if (t?.kind === 'grid' || t?.kind === 'places') && workspace.shown(`thing:${id}`)}
		{#if open === id}<StyleEditor {workspace} set={t.set} ofGrid={t.kind === 'grid'} />
		{:else if workspace.sets.painter(t.set).scale}
			<button
				class="mb-1 ml-7 block text-left"
				title="Histogram, scale and range of {t.name}"
				aria-label="Style of {t.name}"
				aria-expanded="false"
				onclick={() => (open = id)}
				><RampKey
					label={t.kind === 'places' ? by(id) : ''}
					scale={workspace.sets.painter(t.set).scale!}
					unit={t.kind === 'grid' ? unitAfter(t.raster.unit) : ''}
				/></button
			>
		{/if}
		{#if open === id}<button class="link quiet mb-1 ml-7 text-xs" onclick={() => (open = null)}>Close the style</button>{/if}
	{/if}
{/snippet}
{#snippet opacity(name: string, label: string)}
	<input
		type="range"
		min="0.05"
		max="1"
		step="0.05"
		class="range range-xs w-14"
		aria-label="Opacity of {label}"
		title="Opacity"
		value={workspace.opacityOf(name)}
		oninput={(e) => (bench.opacity[name] = Number(e.currentTarget.value))}
	/>
{/snippet}
{#snippet dataSet(t: ProjectObject, shape: 'tube' | 'dot' | 'disc', name: string)}
	{@const set = open === t.id ? workspace.sets.of(t.id) : null}
	<div class="flex items-center gap-2">
		<button
			class="shrink-0"
			aria-expanded={open === t.id}
			aria-label="Style of {name}"
			title="Change how it is drawn"
			onclick={() => (open = open === t.id ? null : t.id)}><Symbol color={symbolColor(t.id)} {shape} id={t.id} /></button
		>
		<button
			class="min-w-0 flex-1 truncate text-left text-sm hover:underline"
			title="{name}{by(t.id) ? ` by ${by(t.id)}` : ''}"
			onclick={() => (workspace.selection = { kind: 'object', id: t.id })}
			>{name}{#if by(t.id)}<span class="quiet">, {by(t.id)}</span>{/if}</button
		>
		<button
			class="quiet grid place-items-center"
			aria-label="{open === t.id ? 'Close' : 'Open'} the style of {name}"
			onclick={() => (open = open === t.id ? null : t.id)}
			>{#if open === t.id}<ChevronDown size={14} />{:else}<ChevronRight size={14} />{/if}</button
		>
		<Shown {workspace} name={`data:${t.id}`} label={name} />
	</div>
	{#if open === t.id}
		{#if set}<StyleEditor {workspace} {set} />{:else}<p class="quiet py-1 pl-9 text-sm" role="status">Loading its rows…</p>{/if}
	{/if}
{/snippet}

<h2 class="panel-title mb-1.5">Legend</h2>
{#if workspace.paint}
	<div class="border-info mb-2 border-l-4 px-2 text-sm" role="status">
		Surfaces show: {workspace.paint.label}. <button class="link" onclick={() => (workspace.paint = null)}>Show units</button>
	</div>
{/if}
<ListFilter bind:value={filter} label="Find in the legend" shown={found.length} all={rows.length} least={18} />
{#if filter}<p class="mb-1 flex gap-2 text-sm">
		<button class="btn btn-xs" disabled={!found.length} onclick={() => showFound(true)}>Show these</button><button
			class="btn btn-xs"
			disabled={!found.length}
			onclick={() => showFound(false)}>Hide these</button
		>
	</p>{/if}
{#if units.length === 0}
	<p class="quiet text-sm">No units yet. Put them into the column under Interpret.</p>
{/if}
{#if ranks.length && units.length}
	<label class="mb-1 flex items-center gap-2 text-sm"
		>Units at
		<select
			class="select select-xs min-w-0 flex-1"
			aria-label="Show units at"
			value={workspace.atRank?.key ?? ''}
			onchange={(e) => (bench.rank = e.currentTarget.value || null)}
		>
			<option value="">no rank, as they are</option>
			{#each ranks as r (r.key)}<option value={r.key}>{r.name}</option>{/each}
		</select></label
	>
{/if}
{#if workspace.atRank}<UnitsAtRank {workspace} {fits} />
{:else}
	<ul class="flex flex-col" aria-label="Units, youngest first" use:roving={{ items: 'input, button', grid: true }}>
		{#each listed.filter((u) => fits(u.name)) as u (u.id)}
			<li
				class="group flex items-center gap-2 {partIds.has(u.id) ? 'pl-4' : ''} {workspace.shown(`unit:${u.id}`)
					? ''
					: 'quiet line-through'}"
			>
				<label class="relative block shrink-0 cursor-pointer" title="Change the colour">
					<Symbol color={u.color} pattern={proposePattern(u.name)} id="unit-{u.id}" />
					<input
						type="color"
						class="absolute inset-0 w-7 cursor-pointer opacity-0"
						aria-label="Colour of {u.name}"
						value={u.color}
						onchange={(e) => recolor(u.id, e.currentTarget.value)}
					/>
				</label>
				<button
					class="min-w-0 flex-1 truncate text-left text-sm hover:underline {workspace.selection?.kind === 'unit' &&
					workspace.selection.id === u.id
						? 'font-semibold'
						: ''}"
					title="{u.name}: press for details"
					onclick={() => (workspace.selection = { kind: 'unit', id: u.id })}>{u.name}</button
				>
				<button
					class="quiet hidden text-xs group-focus-within:block group-hover:block hover:underline pointer-coarse:block"
					onclick={() => onlyThis(u.id)}>only this</button
				>
				<span class="numbers quiet text-xs group-focus-within:hidden group-hover:hidden pointer-coarse:hidden" title="contacts"
					>{contacts.get(u.id) ?? ''}</span
				>
				<Shown {workspace} name={`unit:${u.id}`} label={u.name} />
			</li>
		{/each}
	</ul>
{/if}
{#each workspace.otherSolids as other (other.id)}
	<h3 class="quiet mt-2 mb-0.5 truncate text-xs" title="Another model that a pane shows">{other.name}</h3>
	<ul class="flex flex-col" aria-label="Units of {other.name}">
		{#each other.column.filter((u) => fits(u.name)) as u (u.id)}
			<li class="flex items-center gap-2 {workspace.shown(`unit:${u.id}`) ? '' : 'quiet line-through'}">
				<Symbol color={u.color} pattern={proposePattern(u.name)} id="other-{other.id}-{u.id}" />
				<span class="min-w-0 flex-1 truncate text-sm" title={u.name}>{u.name}</span>
				<Shown {workspace} name={`unit:${u.id}`} label={`${u.name} of ${other.name}`} />
			</li>
		{/each}
	</ul>
{/each}
{#if faults.length}
	<h3 class="quiet mt-2 mb-0.5 text-xs">Structures</h3>
	{#each faults.filter((f) => fits(f.name)) as f (f.id)}
		<div class="flex items-center gap-2">
			<svg width="28" height="12" aria-hidden="true"
				><path d="M1 6h26" stroke={FAULT_RED} stroke-width="2.4" /><path d="M10 6v5M18 6v5" stroke={FAULT_RED} stroke-width="1.4" /></svg
			>
			<button
				class="min-w-0 flex-1 truncate text-left text-sm hover:underline"
				onclick={() => (workspace.selection = { kind: 'fault', id: f.id })}>{f.name}</button
			>
			<Shown {workspace} name={`fault:${f.id}`} label={f.name} />
		</div>
	{/each}
{/if}
{#if blocks.length > 1}
	<h3 class="quiet mt-2 mb-0.5 text-xs">Fault blocks</h3>
	{#each blocks.filter((b) => fits(b.name)) as b (b.id)}
		<div class="group flex items-center gap-2 {workspace.shown(`block:${b.id}`) ? '' : 'quiet line-through'}">
			<svg width="28" height="14" aria-hidden="true"
				><path
					d="M2 12h10l4-10H6z M16 12h10l1-4-8-6h-2z"
					fill="currentColor"
					fill-opacity=".14"
					stroke={FAULT_RED}
					stroke-width="1.1"
				/></svg
			>
			<span class="min-w-0 flex-1 truncate text-sm" title={b.name}>{b.name}</span>
			<button
				class="quiet hidden text-xs group-focus-within:block group-hover:block hover:underline pointer-coarse:block"
				onclick={() => onlyBlock(b.id)}>only this</button
			>
			<Shown {workspace} name={`block:${b.id}`} label={b.name} />
		</div>
	{/each}
{/if}
<h3 class="quiet mt-2 mb-0.5 text-xs">Observations</h3>
{#if collars}{@render dataSet(collars, 'dot', 'Collars')}{/if}
<div class="flex items-center gap-2">
	<svg width="28" height="14" aria-hidden="true"><path d="M5 2l14 10" stroke={INK} stroke-width="3" /></svg>
	<span class="flex-1 text-sm">Holes</span><span class="numbers quiet text-xs">{workspace.sets.paths?.holes.length ?? 0}</span><Shown
		{workspace}
		name="holes"
		label="holes"
	/>
</div>
{#if workspace.alongTables.length}
	<label class="ml-9 flex items-center gap-2 text-sm"
		>with
		<select
			class="select select-xs min-w-0 flex-1"
			aria-label="Draw holes with"
			value={along}
			onchange={(e) => (bench.along = e.currentTarget.value)}
		>
			{#each workspace.alongTables as t (t.id)}<option value={t.id}>{t.name}</option>{/each}
		</select>
	</label>
	{#each workspace.alongTables as t (t.id)}{#if t.id === along}{@render dataSet(t, 'tube', t.name)}{/if}{/each}
	<div class="ml-9"><CurvesEditor {workspace} /></div>
{/if}
{#each onMap.filter((t) => fits(t.name)) as t (t.id)}{@render dataSet(t, kindOf(t).directions ? 'disc' : 'dot', t.name)}{/each}
{#if workspace.findingPlaces.length}
	<div class="flex items-center gap-2">
		<svg width="28" height="14" aria-hidden="true"
			><path d="M3.5 4.5l2-2h4l2 2v4l-2 2h-4l-2-2z" fill="none" stroke={HELD} stroke-width="1.6" /><circle
				cx="20"
				cy="6.5"
				r="4.4"
				fill="none"
				stroke={NOTED}
				stroke-width="1.6"
			/></svg
		>
		<span class="flex-1 text-sm">Findings, held back and noted</span><span class="numbers quiet text-xs"
			>{workspace.findingPlaces.length}</span
		><Shown {workspace} name="findings" label="findings" />
	</div>
{/if}
{#if things.length}
	<h3 class="quiet mt-2 mb-0.5 text-xs">Brought in</h3>
	{#each things.filter((t) => fits(t.name)) as t (t.id)}
		<div class="flex items-center gap-2">
			<Symbol color={DRAWN} shape={t.kind === 'layer' ? 'line' : 'fill'} id={t.id} />
			<button
				class="min-w-0 flex-1 truncate text-left text-sm hover:underline {workspace.pickedObjects.includes(t.id) ? 'font-semibold' : ''}"
				onclick={(e) => workspace.press(t.id, e)}>{t.name}</button
			>
			{@render opacity(`thing:${t.id}`, t.name)}
			<Shown {workspace} name={`thing:${t.id}`} label={t.name} />
		</div>
		{@render key(t.id)}
	{/each}
{/if}
<div class="mt-2 mb-0.5 flex items-center justify-between">
	<h3 class="quiet text-xs">Results</h3>
	<span class="flex gap-2"
		><button
			class="link quiet text-xs"
			title="Run a chain of steps, kept as a text file, on what is chosen"
			onclick={() => ((workspace.making = null), (workspace.routine = {}))}>Routine…</button
		><button
			class="link quiet text-xs"
			title="Make something of tables, models, grids and layers"
			onclick={() => ((workspace.routine = null), (workspace.making = {}))}>Make…</button
		></span
	>
</div>
{#each made.filter((o) => fits(o.name)) as o (o.id)}
	{@const state = stateOfMade(o, workspace.jobOf(o.id) !== undefined)}
	<div class="flex items-center gap-2">
		<span class="grid w-7 place-items-center"><StateMark {state} /></span>
		<button
			class="min-w-0 flex-1 truncate text-left text-sm hover:underline {workspace.pickedObjects.includes(o.id) ? 'font-semibold' : ''}"
			title="{o.name}: {state}"
			onclick={(e) => workspace.press(o.id, e)}>{o.name}</button
		>
		{#if drawn.some((t) => t.id === o.id)}
			{@render opacity(`thing:${o.id}`, o.name)}
			<Shown {workspace} name={`thing:${o.id}`} label={o.name} />
		{/if}
	</div>
	{@render key(o.id)}
{/each}
<h3 class="quiet mt-2 mb-0.5 text-xs">Model and terrain</h3>
<div class="flex items-center gap-2">
	<span class="w-7"></span><span class="flex-1 text-sm">Volumes</span>{@render opacity('volumes', 'volumes')}<Shown
		{workspace}
		name="volumes"
		label="volumes"
	/>
</div>
<div class="flex items-center gap-2">
	<span class="w-7"></span><span class="flex-1 text-sm">Geology on the map</span>{@render opacity('geology', 'geology on the map')}<Shown
		{workspace}
		name="geology"
		label="geology on the map"
	/>
</div>
<div class="flex items-center gap-2">
	<span class="w-7"></span><span class="flex-1 text-sm">Terrain</span>{@render opacity('terrain', 'terrain')}<Shown
		{workspace}
		name="terrain"
		label="terrain"
	/>
</div>
<div class="flex items-center gap-2">
	<svg width="28" height="12" aria-hidden="true"><path d="M1 9c8-9 12 3 26-6" stroke={CONTOUR} fill="none" stroke-width="1.2" /></svg>
	<span class="flex-1 text-sm">Contours</span>
	<input
		class="input input-xs numbers w-16"
		type="number"
		min="0"
		step="any"
		aria-label="Contour interval"
		title="Contour interval; empty chooses one"
		placeholder="auto"
		value={bench.contourInterval ?? ''}
		onchange={(e) => (bench.contourInterval = e.currentTarget.valueAsNumber > 0 ? e.currentTarget.valueAsNumber : null)}
	/>
	<Shown {workspace} name="contours" label="contours" />
</div>
