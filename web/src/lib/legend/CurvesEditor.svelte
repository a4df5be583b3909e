<script lang="ts">
	import { COPPER, DRAWN, GREEN, HELD, NOTED } from '#core/palette';
	import { Plus, X } from '$lib/icons';
	import { titleOf, type NumberColumn } from '#core/datasets/dataset';
	import type { HoleCurve } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	let { workspace }: { workspace: Workspace } = $props();
	const curves = $derived(workspace.bench.state.curves);
	const INKS = [COPPER, DRAWN, GREEN, HELD, NOTED];
	/** Columns of numbers that lie along holes. */
	const choices = $derived(
		workspace.alongTables.flatMap((t) => {
			const set = curves.length || choosing ? workspace.sets.of(t.id) : null;
			return (set?.columns ?? [])
				.filter((c): c is NumberColumn => c.type === 'number')
				.map((c) => ({ table: t.id, column: c.key, label: titleOf(c) }));
		})
	);
	let choosing = $state(false);
	const reach = $derived.by(() => {
		const e = workspace.project?.extent;
		return e ? Number((Math.hypot(e.maxX - e.minX, e.maxY - e.minY) / 45).toPrecision(1)) : 50;
	});

	function add(value: string) {
		const [table, column] = value.split('\u001f') as [string, string];
		choosing = false;
		workspace.bench.state.curves = [
			...curves,
			{
				table,
				column,
				side: (90 + 180 * curves.length) % 360,
				reach,
				color: INKS[curves.length % INKS.length]!,
				threshold: null,
				fill: 'above'
			}
		];
	}
	const change = (i: number, part: Partial<HoleCurve>) =>
		(workspace.bench.state.curves = curves.map((c, k) => (k === i ? { ...c, ...part } : c)));
	const label = (c: HoleCurve) => choices.find((x) => x.table === c.table && x.column === c.column)?.label ?? c.column;
	let opened = $state<number | null>(null);
</script>

{#each curves as c, i (i)}
	<div class="flex items-center gap-1 py-px text-sm">
		<input
			type="color"
			class="h-4 w-6"
			aria-label="Colour of the curve of {label(c)}"
			value={c.color}
			onchange={(e) => change(i, { color: e.currentTarget.value })}
		/>
		<button
			class="min-w-0 flex-1 truncate text-left hover:underline"
			aria-expanded={opened === i}
			onclick={() => (opened = opened === i ? null : i)}>{c.shape === 'bars' ? 'bars' : 'curve'} of {label(c)}</button
		>
		<button
			class="quiet"
			aria-label="Remove the curve of {label(c)}"
			onclick={() => (workspace.bench.state.curves = curves.filter((_, k) => k !== i))}><X size={13} /></button
		>
	</div>
	{#if opened === i}
		<div class="grid grid-cols-[auto_1fr] items-center gap-x-2 gap-y-1 py-1 text-xs">
			<label for="shape-{i}" title="A line through the values, or a bar from the hole for each">drawn as</label><select
				id="shape-{i}"
				class="select select-xs w-20"
				value={c.shape ?? 'line'}
				onchange={(e) => change(i, { shape: e.currentTarget.value as 'line' | 'bars' })}
				><option value="line">curve</option><option value="bars">bars</option></select
			>
			<label for="side-{i}" title="Angle round the hole, clockwise from north">side, °</label><input
				id="side-{i}"
				class="input input-xs numbers w-20"
				type="number"
				min="0"
				max="360"
				step="15"
				value={c.side}
				onchange={(e) => change(i, { side: ((e.currentTarget.valueAsNumber || 0) + 360) % 360 })}
			/>
			<label for="reach-{i}" title="How far the greatest value stands from the hole">reach, {workspace.project?.lengthUnit}</label><input
				id="reach-{i}"
				class="input input-xs numbers w-20"
				type="number"
				min="0"
				step="any"
				value={c.reach}
				onchange={(e) => change(i, { reach: Math.max(0, e.currentTarget.valueAsNumber || 0) })}
			/>
			<label for="fill-{i}" title="Fills the curve from this value on">fill</label>
			<span class="flex gap-1"
				><select
					id="fill-{i}"
					class="select select-xs w-20"
					value={c.fill}
					onchange={(e) => change(i, { fill: e.currentTarget.value as 'above' | 'below' })}
					><option value="above">above</option><option value="below">below</option></select
				><input
					class="input input-xs numbers w-16"
					type="number"
					step="any"
					aria-label="Threshold of the fill"
					placeholder="none"
					value={c.threshold ?? ''}
					onchange={(e) => change(i, { threshold: Number.isFinite(e.currentTarget.valueAsNumber) ? e.currentTarget.valueAsNumber : null })}
				/></span
			>
		</div>
	{/if}
{/each}
{#if choosing}
	<select class="select select-xs w-full" aria-label="Column of the new curve" onchange={(e) => add(e.currentTarget.value)}
		><option value="">choose a column…</option>{#each choices as c (c.table + c.column)}<option value={`${c.table}\u001f${c.column}`}
				>{c.label}</option
			>{/each}</select
	>
{:else if curves.length < 8}
	<button class="quiet flex items-center gap-1 text-sm hover:underline" onclick={() => (choosing = true)}
		><Plus size={13} />curve beside the holes</button
	>
{/if}
