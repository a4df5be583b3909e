<script lang="ts">
	import { kindOf } from '$lib/workbench/kinds';
	import Fold from '$lib/ui/Fold.svelte';
	import { PenLine, Plus, Trash2, X } from '$lib/icons';
	import type { Shaping } from '#core/project/shaping';
	import { sequencesOf, type Unit } from '#core/units/column';
	import type { Workspace } from '$lib/workspace.svelte';
	import InterceptsEditor from './InterceptsEditor.svelte';
	import LinesEditor from './LinesEditor.svelte';
	import LogChoice from './LogChoice.svelte';

	/** What shapes the ground beside its holes, column and faults, in the order of thinking: data, trends, given surfaces, limits. */
	let {
		workspace,
		units,
		shaping,
		change
	}: { workspace: Workspace; units: Unit[]; shaping: Shaping; change: (values: Partial<Shaping>) => unknown } = $props();
	const unit = $derived(workspace.project!.lengthUnit);
	const allUnits = $derived([...units, ...shaping.divisions.flatMap((d) => d.column)]);
	const sets = $derived(workspace.tables.filter((t) => kindOf(t).shapes || t.name === shaping.log?.table));
	/** Sequences by the name of their youngest unit. */
	const sequences = $derived(
		sequencesOf(units).map((s) => ({
			unit: units[s.units[0]!]!,
			count: s.units.length,
			base: s.kind === 'strata' && s.base >= 0 ? units[s.base]! : null
		}))
	);
	const surfaces = $derived(['terrain', ...workspace.things.filter((t) => t.kind === 'grid' || t.kind === 'surface').map((t) => t.name)]);
	const meshes = $derived(workspace.things.filter((t) => t.kind === 'surface').map((t) => t.name));
	const grids = $derived(workspace.things.filter((t) => t.kind === 'grid').map((t) => t.name));
	type Set = Shaping['dataSets'][number];
	const setOf = (table: string): Set => shaping.dataSets.find((s) => s.table === table) ?? { table, on: true, off: [], error: 0 };
	function changeSet(table: string, values: Partial<Set>) {
		const next = { ...setOf(table), ...values };
		const plain = next.on && next.off.length === 0 && next.error === 0;
		void change({ dataSets: [...shaping.dataSets.filter((s) => s.table !== table), ...(plain ? [] : [next])] });
	}
	type Trend = Shaping['trends'][number];
	const trendOf = (id: string) => shaping.trends.find((t) => t.unit === id);
	const setTrend = (id: string, values: Partial<Trend> | null) =>
		change({ trends: [...shaping.trends.filter((t) => t.unit !== id), ...(values ? [{ ...trendOf(id), ...values, unit: id }] : [])] });
	const PLAIN = { dip: 0, dipAzimuth: 0, pitch: 0, ratios: [4, 4, 1] as [number, number, number] };
	type Limit = Shaping['limits'][number];
	const setLimit = (i: number, values: Partial<Limit>) =>
		change({ limits: shaping.limits.map((l, k) => (k === i ? { ...l, ...values } : l)) });
	const LIMITS: [Limit['kind'], string, string][] = [
		['outline', 'within an outline', 'A polygon on the map'],
		['near', 'near the data', 'No farther from a contact or from what a hole saw'],
		['under', 'under a surface', ''],
		['over', 'over a surface', ''],
		['covered', 'where a surface is known', 'Not beyond the edge of the terrain or of a grid, nor in its gaps'],
		['inside', 'inside a closed mesh', '']
	];
	function addLimit(kind: Limit['kind']) {
		if (kind === 'outline') return drawOutline(null);
		const e = workspace.project!.extent!;
		void change({
			limits: [
				...shaping.limits,
				{
					kind,
					on: true,
					by: 0,
					...(kind === 'near'
						? { distance: Math.round((e.maxX - e.minX) / 10) }
						: { surface: kind === 'inside' ? meshes[0]! : surfaces[0]! })
				}
			]
		});
	}
	function drawOutline(i: number | null) {
		workspace.draw = {
			what: 'outline',
			done: (trace) =>
				void (i === null ? change({ limits: [...shaping.limits, { kind: 'outline', on: true, by: 0, trace }] }) : setLimit(i, { trace }))
		};
	}
	type Made = Shaping['made'][number];
	const madeOf = (id: string) => shaping.made.find((m) => m.unit === id);
	const setMade = (id: string, values: Partial<Made> | null) =>
		change({
			made: [...shaping.made.filter((m) => m.unit !== id), ...(values ? [{ on: true, by: 0, ...madeOf(id), ...values, unit: id }] : [])]
		});
	function source(id: string, value: string) {
		if (value === '') return void setMade(id, null);
		const [kind, name] = [value.slice(0, 2), value.slice(2)];
		const e = workspace.project!.extent!;
		const none = { surface: undefined, follows: undefined, plane: undefined };
		void setMade(
			id,
			kind === 's:'
				? { ...none, surface: name }
				: kind === 'u:'
					? { ...none, follows: name }
					: { ...none, plane: { x: (e.minX + e.maxX) / 2, y: (e.minY + e.maxY) / 2, z: (e.minZ + e.maxZ) / 2, dip: 0, dipAzimuth: 0 } }
		);
	}
	const number = (e: Event, keep: (v: number) => unknown, ok: (v: number) => boolean = Number.isFinite) => {
		const v = (e.currentTarget as HTMLInputElement).valueAsNumber;
		if (ok(v)) void keep(v);
	};
</script>

{#snippet part(name: string, count: number, content: import('svelte').Snippet)}
	<Fold filled={count > 0} look="rule mb-1 border-b pb-1" lazy>
		{#snippet title()}<summary class="panel-title cursor-pointer py-1"
				>{name}{#if count}<span class="numbers quiet ml-1 font-normal">{count}</span>{/if}</summary
			>{/snippet}
		<div class="pt-1 pb-2">{@render content()}</div>
	</Fold>
{/snippet}

<div class="mb-2">
	<LogChoice {workspace} label="The column is made from" plain="all logged intervals" log={shaping.log} change={(log) => change({ log })} />
</div>

{#snippet lines()}<LinesEditor {workspace} units={allUnits} lines={shaping.lines} change={(l) => change({ lines: l })} />{/snippet}
{@render part('Lines and places', shaping.lines.length, lines)}

{#if allUnits.some((u) => u.contact === 'intrusive' && u.form !== 'body')}
	{#snippet intercepts()}<InterceptsEditor
			{workspace}
			units={allUnits}
			setAside={shaping.setAside ?? []}
			change={(setAside) => change({ setAside })}
		/>{/snippet}
	{@render part('Intercepts of sheets', shaping.setAside?.length ?? 0, intercepts)}
{/if}

{#snippet dataSets()}
	<p class="quiet mb-1.5 text-sm">Which data shape the model, and how far their contacts may be off.</p>
	{#each sets as t (t.id)}
		{@const s = setOf(t.name)}
		<div class="mb-1.5 text-sm">
			<div class="flex items-center gap-2">
				<label class="flex min-w-0 flex-1 items-center gap-2"
					><input
						type="checkbox"
						class="checkbox checkbox-xs"
						checked={s.on}
						onchange={(e) => changeSet(t.name, { on: e.currentTarget.checked })}
					/><span class="truncate" title={t.name}>{t.name}</span></label
				>
				{#if !kindOf(t).directions}<label class="flex items-center gap-1" title="Standard error of its contacts; 0 honours them exactly"
						>±<input
							class="input input-xs numbers w-16"
							type="number"
							min="0"
							step="any"
							aria-label="Error of {t.name}"
							value={s.error}
							onchange={(e) =>
								number(
									e,
									(v) => changeSet(t.name, { error: v }),
									(v) => v >= 0
								)}
						/>{unit}</label
					>{/if}
			</div>
			<details class="pl-6">
				<summary class="quiet cursor-pointer text-xs"
					>{s.off.length
						? `not for ${s.off.map((id) => allUnits.find((u) => u.id === id)?.name ?? id).join(', ')}`
						: 'for all units'}</summary
				>
				{#each allUnits as u (u.id)}<label class="flex items-center gap-2"
						><input
							type="checkbox"
							class="checkbox checkbox-xs"
							aria-label="{t.name} shapes {u.name}"
							checked={!s.off.includes(u.id)}
							onchange={(e) => changeSet(t.name, { off: e.currentTarget.checked ? s.off.filter((x) => x !== u.id) : [...s.off, u.id] })}
						/>{u.name}</label
					>{/each}
			</details>
		</div>
	{/each}
	{#if shaping.certain?.length}
		<h3 class="mt-2 text-sm">Believed whatever their neighbours say</h3>
		<ul class="flex flex-wrap gap-1 text-sm" aria-label="Holes that are believed">
			{#each shaping.certain as name (name)}
				<li class="bg-base-200 flex items-center gap-1 px-1.5">
					{name}<button
						class="quiet"
						aria-label="Weigh {name} again"
						title="Weigh it against its neighbours again"
						onclick={() => change({ certain: shaping.certain!.filter((n) => n !== name) })}><X size={13} /></button
					>
				</li>
			{/each}
		</ul>
	{/if}
{/snippet}
{@render part('Data sets', shaping.dataSets.length + (shaping.certain?.length ?? 0), dataSets)}

{#snippet trends()}
	<p class="quiet mb-1.5 text-sm">How each sequence likes to run: along a plane, or after another surface.</p>
	{#each sequences as q (q.unit.id)}
		{@const t = trendOf(q.unit.id)}
		<div class="mb-2 text-sm">
			<label class="flex items-center gap-2"
				><span class="min-w-0 flex-1 truncate" title={q.unit.name}>{q.unit.name}{q.count > 1 ? ` and ${q.count - 1} more` : ''}</span>
				<select
					class="select select-xs w-36"
					aria-label="Trend of {q.unit.name}"
					value={t?.anisotropy ? 'plane' : (t?.follows ?? '')}
					onchange={(e) => {
						const v = e.currentTarget.value;
						void setTrend(
							q.unit.id,
							v === '' ? null : v === 'plane' ? { anisotropy: PLAIN, follows: null } : { anisotropy: null, follows: v }
						);
					}}
				>
					<option value="">alike to all sides</option><option value="plane">along a plane</option><option value="terrain"
						>after the terrain</option
					>
					{#each sequences.filter((o) => o !== q && o.base) as o (o.unit.id)}<option value={o.base!.id}
							>after the base of {o.base!.name}</option
						>{/each}
				</select>
			</label>
			{#if t?.anisotropy}
				{@const a = t.anisotropy}
				<div class="mt-1 grid grid-cols-3 gap-1.5">
					<label class="flex flex-col"
						>Dip, °<input
							class="input input-xs numbers"
							type="number"
							min="0"
							max="90"
							value={a.dip}
							onchange={(e) =>
								number(
									e,
									(v) => setTrend(q.unit.id, { anisotropy: { ...a, dip: v } }),
									(v) => v >= 0 && v <= 90
								)}
						/></label
					>
					<label class="flex flex-col"
						>towards, °<input
							class="input input-xs numbers"
							type="number"
							min="0"
							max="360"
							value={a.dipAzimuth}
							onchange={(e) =>
								number(
									e,
									(v) => setTrend(q.unit.id, { anisotropy: { ...a, dipAzimuth: v } }),
									(v) => v >= 0 && v <= 360
								)}
						/></label
					>
					<label class="flex flex-col" title="Of the longest direction, down from the strike"
						>Pitch, °<input
							class="input input-xs numbers"
							type="number"
							min="0"
							max="180"
							value={a.pitch}
							onchange={(e) =>
								number(
									e,
									(v) => setTrend(q.unit.id, { anisotropy: { ...a, pitch: v } }),
									(v) => v >= 0 && v <= 180
								)}
						/></label
					>
					{#each ['along', 'beside', 'across'] as label, k (label)}<label
							class="flex flex-col"
							title="Length over which the ground varies alike, as a ratio"
							>{label}<input
								class="input input-xs numbers"
								type="number"
								min="0"
								step="any"
								value={a.ratios[k]}
								onchange={(e) =>
									number(
										e,
										(v) =>
											setTrend(q.unit.id, {
												anisotropy: { ...a, ratios: a.ratios.map((r, n) => (n === k ? v : r)) as [number, number, number] }
											}),
										(v) => v > 0
									)}
							/></label
						>{/each}
				</div>
			{/if}
		</div>
	{/each}
{/snippet}
{@render part('Trends', shaping.trends.length, trends)}

{#snippet made()}
	<p class="quiet mb-1.5 text-sm">
		Bases that are given: the base of a sequence is a surface, another base or a plane, moved up or down. A cover of a given thickness is
		the terrain, moved down.
	</p>
	{#each sequences.filter((q) => q.base) as q (q.unit.id)}
		{@const id = q.base!.id}
		{@const m = madeOf(id)}
		<div class="mb-2 text-sm">
			<label class="flex items-center gap-2"
				><span class="min-w-0 flex-1 truncate" title="Base of {q.base!.name}">Base of {q.base!.name}</span>
				<select
					class="select select-xs w-36"
					aria-label="Base of {q.base!.name} from"
					value={!m ? '' : m.surface ? `s:${m.surface}` : m.follows ? `u:${m.follows}` : 'p:'}
					onchange={(e) => source(id, e.currentTarget.value)}
				>
					<option value="">its contacts</option>
					{#each surfaces as s (s)}<option value="s:{s}">{s === 'terrain' ? 'the terrain' : s}</option>{/each}
					{#each sequences.filter((o) => o !== q && o.base) as o (o.unit.id)}<option value="u:{o.base!.id}">base of {o.base!.name}</option
						>{/each}
					<option value="p:">a plane</option>
				</select>
			</label>
			{#if m}
				<div class="mt-1 grid grid-cols-3 gap-1.5">
					<label class="flex flex-col" title="Up is positive: a cover has minus its thickness"
						>Moved up, {unit}<input
							class="input input-xs numbers"
							type="number"
							step="any"
							value={m.by}
							onchange={(e) => number(e, (v) => setMade(id, { by: v }))}
						/></label
					>
					{#if grids.length}<label class="col-span-2 flex flex-col"
							>less the thickness<select
								class="select select-xs"
								value={m.thickness ?? ''}
								onchange={(e) => setMade(id, { thickness: e.currentTarget.value || undefined })}
								><option value="">none</option>{#each grids as g (g)}<option value={g}>{g}</option>{/each}</select
							></label
						>{/if}
					{#if m.plane}
						{@const p = m.plane}
						{#each [['x', 'Easting'], ['y', 'Northing'], ['z', 'Elevation'], ['dip', 'Dip, °'], ['dipAzimuth', 'towards, °']] as const as [key, label] (key)}<label
								class="flex flex-col"
								>{label}<input
									class="input input-xs numbers"
									type="number"
									step="any"
									value={p[key]}
									onchange={(e) => number(e, (v) => setMade(id, { plane: { ...p, [key]: v } }))}
								/></label
							>{/each}
					{/if}
				</div>
			{/if}
		</div>
	{/each}
	{#if !sequences.some((q) => q.base)}<p class="quiet text-sm">
			No sequence of the column has a base yet: give a unit an erosional or onlapping contact.
		</p>{/if}
{/snippet}
{@render part('Given bases', shaping.made.length, made)}

{#snippet limits()}
	<p class="quiet mb-1.5 text-sm">Where the model ends, inside its box.</p>
	{#each shaping.limits as l, i (i)}
		<div class="mb-1.5 flex flex-wrap items-center gap-2 text-sm">
			<label class="flex min-w-0 flex-1 items-center gap-2"
				><input
					type="checkbox"
					class="checkbox checkbox-xs"
					checked={l.on}
					onchange={(e) => setLimit(i, { on: e.currentTarget.checked })}
				/>{LIMITS.find(([k]) => k === l.kind)![1]}</label
			>
			{#if l.kind === 'outline'}<button class="btn btn-xs" onclick={() => drawOutline(i)}>Draw again ({l.trace?.length ?? 0})</button>
			{:else if l.kind === 'near'}<label class="flex items-center gap-1"
					><input
						class="input input-xs numbers w-20"
						type="number"
						min="0"
						step="any"
						aria-label="Distance from the data"
						value={l.distance}
						onchange={(e) =>
							number(
								e,
								(v) => setLimit(i, { distance: v }),
								(v) => v > 0
							)}
					/>{unit}</label
				>
			{:else}
				<select
					class="select select-xs w-28"
					aria-label="Surface of the limit"
					value={l.surface}
					onchange={(e) => setLimit(i, { surface: e.currentTarget.value })}
					>{#each l.kind === 'inside' ? meshes : surfaces as s (s)}<option value={s}>{s}</option>{/each}</select
				>
				{#if l.kind !== 'inside' && l.kind !== 'covered'}<label class="flex items-center gap-1" title="Moved up"
						>+<input
							class="input input-xs numbers w-16"
							type="number"
							step="any"
							aria-label="Moved up"
							value={l.by}
							onchange={(e) => number(e, (v) => setLimit(i, { by: v }))}
						/>{unit}</label
					>{/if}
			{/if}
			<button
				class="btn btn-ghost btn-xs btn-square"
				aria-label="Remove the limit"
				onclick={() => change({ limits: shaping.limits.filter((_, k) => k !== i) })}><Trash2 size={14} /></button
			>
		</div>
	{/each}
	<div class="flex flex-wrap gap-1.5">
		{#each LIMITS as [kind, label, help] (kind)}{#if kind !== 'inside' || meshes.length}<button
					class="btn btn-xs"
					title={help || label}
					disabled={!workspace.project!.extent}
					onclick={() => addLimit(kind)}
					>{#if kind === 'outline'}<PenLine size={13} />{:else}<Plus size={13} />{/if}{label}</button
				>{/if}{/each}
	</div>
{/snippet}
{@render part('Limits', shaping.limits.length, limits)}
