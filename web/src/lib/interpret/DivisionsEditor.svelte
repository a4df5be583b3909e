<script lang="ts">
	import Fold from '$lib/ui/Fold.svelte';
	import { unitColors } from '#core/styles/unit-colors';
	import { Plus, Trash2 } from '$lib/icons';
	import type { DivisionSpec, Shaping } from '#core/project/shaping';
	import { columnOf } from '#core/datasets/dataset';
	import { proposeLumping, type Unit } from '#core/units/column';
	import type { Workspace } from '$lib/workspace.svelte';
	import CodesEditor from './CodesEditor.svelte';
	import ColumnEditor from './ColumnEditor.svelte';
	import FaultsEditor from './FaultsEditor.svelte';
	import LogChoice from './LogChoice.svelte';

	/** Units that are divided further, each by a column of its own from any log. */
	let {
		workspace,
		units,
		shaping,
		change
	}: { workspace: Workspace; units: Unit[]; shaping: Shaping; change: (values: Partial<Shaping>) => Promise<boolean> } = $props();
	const divisions = $derived(shaping.divisions);
	const free = $derived(units.filter((u) => !divisions.some((d) => d.unit === u.id)));
	const set = (id: string, values: Partial<DivisionSpec>) =>
		change({ divisions: divisions.map((d) => (d.id === id ? { ...d, ...values } : d)) });

	function add(unit: Unit) {
		let n = divisions.length + 1;
		while (divisions.some((d) => d.id === `division-${n}`)) n++;
		void change({
			divisions: [
				...divisions,
				{
					id: `division-${n}`,
					name: `Parts of ${unit.name}`,
					on: true,
					unit: unit.id,
					log: null,
					column: [],
					lumping: {},
					faults: [],
					trends: []
				}
			]
		});
	}
	/** Codes of the log of a division with how often each stands there, as far as its rows are loaded. */
	function codesOf(d: DivisionSpec): { code: string; count: number }[] {
		const log = d.log ?? shaping.log;
		if (!log) return workspace.interpretation!.codes;
		const table = workspace.tables.find((t) => t.name === log.table);
		const data = table ? workspace.sets.of(table.id) : null;
		const column = data ? columnOf(data, log.column || 'code') : null;
		if (!column || column.type !== 'category') return [];
		const counts = new Map<string, number>();
		for (const v of column.values)
			if (column.categories[v]) counts.set(column.categories[v]!, (counts.get(column.categories[v]!) ?? 0) + 1);
		return [...counts].map(([code, count]) => ({ code, count })).sort((a, b) => b.count - a.count || (a.code < b.code ? -1 : 1));
	}
	const spacingOf = (unit: string) => workspace.interpretation!.model.finer?.units.find((f) => f.unit === unit)?.spacing ?? '';
	function setSpacing(unit: string, spacing: number) {
		const { spacing: whole, finer = { surfaces: [], units: [], dense: false } } = workspace.interpretation!.model;
		void workspace.store('spacing', {
			spacing: whole,
			finer: { ...finer, units: [...finer.units.filter((f) => f.unit !== unit), ...(spacing > 0 ? [{ unit, spacing }] : [])] }
		});
	}
	const takenBy = (id: string) => [...units, ...divisions.filter((d) => d.id !== id).flatMap((d) => d.column)].map((u) => u.id);
	/** Units from the codes themselves: a division often is a column of classes. */
	function fromCodes(d: DivisionSpec) {
		const taken = new Set(takenBy(d.id));
		const lumping: Record<string, string> = {};
		const codes = codesOf(d).slice(0, 40);
		const colors = unitColors(codes.map(({ code }) => ({ name: code })));
		const column = codes.map(({ code }, i): Unit => {
			const plain =
				code
					.toLowerCase()
					.replace(/[^a-z0-9]+/g, '-')
					.replace(/^-|-$/g, '')
					.slice(0, 30) || 'part';
			let id = plain;
			for (let n = 2; taken.has(id); n++) id = `${plain}-${n}`;
			taken.add(id);
			lumping[code] = id;
			return { id, name: code, color: colors[i]!, contact: 'conformable' };
		});
		void set(d.id, { column, lumping });
	}
</script>

<p class="quiet mb-2 text-sm">
	A unit of the model can be divided by a finer column of its own: its parts fill it, are cut by the faults that cut it, and stand in every
	pane and report as parts of it.
</p>
{#if free.length}
	<select
		class="select select-sm mb-3 w-full"
		aria-label="Divide a unit"
		value=""
		onchange={(e) => {
			const u = units.find((x) => x.id === e.currentTarget.value);
			e.currentTarget.value = '';
			if (u) add(u);
		}}
	>
		<option value="" disabled>Divide a unit …</option>
		{#each free as u (u.id)}<option value={u.id}>{u.name}</option>{/each}
	</select>
{/if}
{#each divisions as d (d.id)}
	{@const codes = codesOf(d)}
	{@const open = codes.filter((c) => !d.lumping[c.code])}
	{@const proposal = Object.entries(
		proposeLumping(
			codes.map((c) => c.code),
			d.column,
			d.lumping
		)
	).filter(([code]) => !d.lumping[code])}
	<fieldset class="rule mb-3 border p-3">
		<legend class="sr-only">{d.name}</legend>
		<div class="mb-2 flex items-center gap-2">
			<input
				type="checkbox"
				class="checkbox checkbox-xs"
				aria-label="{d.name} is on"
				title="Takes part in the model"
				checked={d.on}
				onchange={(e) => set(d.id, { on: e.currentTarget.checked })}
			/>
			<input
				class="input input-xs min-w-0 flex-1"
				aria-label="Name of the division"
				value={d.name}
				onchange={(e) => set(d.id, { name: e.currentTarget.value.trim() || d.name })}
			/>
			<button
				class="btn btn-ghost btn-xs btn-square"
				aria-label="Remove {d.name}"
				title="Remove"
				onclick={() => change({ divisions: divisions.filter((o) => o.id !== d.id) })}><Trash2 size={14} /></button
			>
		</div>
		<p class="quiet mb-1.5 text-sm">divides {units.find((u) => u.id === d.unit)?.name ?? d.unit}</p>
		<label
			class="mb-1.5 flex items-center justify-between text-sm"
			title="Edge length of triangles inside the unit; empty takes that of the model"
			>Spacing of its parts, {workspace.project!.lengthUnit}<input
				class="input input-xs numbers w-20"
				type="number"
				min="0"
				step="any"
				placeholder={String(workspace.interpretation!.model.spacing)}
				value={spacingOf(d.unit)}
				onchange={(e) => setSpacing(d.unit, e.currentTarget.valueAsNumber)}
			/></label
		>
		<LogChoice
			{workspace}
			label="Its parts are logged in"
			plain="the log of the column"
			log={d.log}
			change={(log) => set(d.id, { log, lumping: {} })}
		/>
		<h3 class="panel-title mt-3 mb-1">Parts</h3>
		{#if d.column.length === 0 && codes.length}<button class="btn btn-xs mb-2" onclick={() => fromCodes(d)}
				><Plus size={13} />A part for each of {Math.min(40, codes.length)} codes</button
			>{/if}
		<ColumnEditor
			units={d.column}
			taken={takenBy(d.id)}
			change={(column) =>
				set(d.id, {
					column,
					lumping: Object.fromEntries(Object.entries(d.lumping).filter(([, u]) => column.some((x) => x.id === u))),
					faults: d.faults.filter((f) => column.some((x) => x.id === f.youngestCut))
				})}
		/>
		{#if d.column.length}
			<Fold filled={open.length > 0} look="mt-3">
				{#snippet title()}<summary class="panel-title cursor-pointer"
						>Codes{#if open.length}<span class="quiet ml-1 font-normal">{open.length} without a part</span>{/if}</summary
					>{/snippet}
				{#if proposal.length}<button
						class="btn btn-xs btn-primary my-1 w-full"
						onclick={() => set(d.id, { lumping: { ...d.lumping, ...Object.fromEntries(proposal) } })}
						>Take {proposal.length} proposed by name</button
					>{/if}
				<CodesEditor {codes} units={d.column} lumping={d.lumping} set={(lumping) => set(d.id, { lumping })} />
			</Fold>
			<Fold filled={d.faults.length > 0} look="mt-2">
				{#snippet title()}<summary class="panel-title cursor-pointer"
						>Faults inside it only{#if d.faults.length}<span class="numbers quiet ml-1 font-normal">{d.faults.length}</span>{/if}</summary
					>{/snippet}
				<div class="pt-2"><FaultsEditor {workspace} units={d.column} faults={d.faults} change={(faults) => set(d.id, { faults })} /></div>
			</Fold>
		{/if}
	</fieldset>
{/each}
