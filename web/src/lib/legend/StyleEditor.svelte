<script lang="ts">
	import { Download, Eye, EyeOff, GripVertical, Upload } from '$lib/icons';
	import { columnOf, titleOf, type CategoryColumn, type DataSet, type NumberColumn } from '#core/datasets/dataset';
	import { PATTERNS, type PatternName } from '#core/styles/patterns';
	import { RAMPS, readyScale, type NumberScale, type RampName, type ScaleKind } from '#core/styles/scale';
	import { classStyle, orderedClasses, readClasses, scaleOf, sortedColumn, writeClasses, type ClassStyle } from '#core/styles/style';
	import { timeColor } from '#core/styles/time-colors';
	import { saveText } from '$lib/ui/save';
	import type { Workspace } from '$lib/workspace.svelte';
	import HistogramWindow from './HistogramWindow.svelte';
	import Symbol from './Symbol.svelte';

	let {
		workspace,
		set,
		ofGrid = false
	}: { workspace: Workspace; set: DataSet; /** The cells of a grid: they have no size and no names. */ ofGrid?: boolean } = $props();
	const sets = $derived(workspace.sets);
	const style = $derived(sets.style(set));
	const column = $derived(columnOf(set, style.by));
	const numberColumns = $derived(set.columns.filter((c): c is NumberColumn => c.type === 'number'));
	let find = $state('');
	let dragged = $state<string | null>(null);
	const MOST_LISTED = 80;

	const counts = $derived.by(() => {
		if (column?.type !== 'category') return [];
		const n = new Array<number>(column.categories.length).fill(0);
		for (const v of column.values) if (v < n.length) n[v]!++;
		return n;
	});
	const classes = $derived(
		column?.type === 'category'
			? orderedClasses(column, style).filter(
					(c) => c.toLowerCase().includes(find.toLowerCase()) && counts[column.categories.indexOf(c)]! > 0
				)
			: []
	);
	const scale = $derived(column && column.type !== 'category' ? scaleOf(column, style, sortedColumn(column)) : null);

	function setClass(c: CategoryColumn, name: string, change: Partial<ClassStyle>) {
		sets.change(set, {
			classes: { ...style.classes, [c.key]: { ...style.classes[c.key], [name]: { ...style.classes[c.key]?.[name], ...change } } }
		});
	}
	function setAll(c: CategoryColumn, hidden: (name: string) => boolean) {
		sets.change(set, {
			classes: {
				...style.classes,
				[c.key]: Object.fromEntries(c.categories.map((n) => [n, { ...style.classes[c.key]?.[n], hidden: hidden(n) }]))
			}
		});
	}
	const isHidden = (c: CategoryColumn, n: string) => classStyle(c, n, style, sets.defaults).hidden;
	/** Only this class; a second press shows all. */
	function onlyThis(c: CategoryColumn, name: string) {
		const alone = c.categories.every((n) => isHidden(c, n) === (n !== name));
		setAll(c, (n) => !alone && n !== name);
	}
	function moveBefore(c: CategoryColumn, name: string, target: string) {
		const list = orderedClasses(c, style).filter((n) => n !== name);
		list.splice(list.indexOf(target), 0, name);
		sets.change(set, { order: { ...style.order, [c.key]: list } });
	}
	function shift(c: CategoryColumn, name: string, by: number) {
		const list = orderedClasses(c, style);
		const i = list.indexOf(name);
		const to = Math.min(list.length - 1, Math.max(0, i + by));
		list.splice(i, 1);
		list.splice(to, 0, name);
		sets.change(set, { order: { ...style.order, [c.key]: list } });
	}
	function setScale(change: Partial<NumberScale>) {
		sets.change(set, { scales: { ...style.scales, [column!.key]: { ...scale!, ...change } } });
	}
	function setWindow(key: string, window: [number, number] | null) {
		const windows = { ...style.windows };
		if (window) windows[key] = window;
		else delete windows[key];
		sets.change(set, { windows });
	}
	async function load(event: Event & { currentTarget: HTMLInputElement }) {
		const file = event.currentTarget.files?.[0];
		event.currentTarget.value = '';
		if (!file || column?.type !== 'category') return;
		await workspace.attempt(async () => {
			if (file.size > 2_000_000) throw new Error('The file is larger than a list of classes can be (2 MB).');
			const taken = readClasses(await file.text(), column, $state.snapshot(style) as typeof style);
			sets.setStyle(set.id, taken.style);
			workspace.say(`${taken.found} classes of the file are in ${column.label}.`);
		});
	}
	function timeColors(c: CategoryColumn) {
		const known = c.categories.filter((n) => timeColor(n));
		if (known.length === 0) return workspace.say('None of the classes is a name of the geological time chart.');
		sets.change(set, {
			classes: {
				...style.classes,
				[c.key]: {
					...style.classes[c.key],
					...Object.fromEntries(known.map((n) => [n, { ...style.classes[c.key]?.[n], color: timeColor(n)! }]))
				}
			}
		});
	}
	const SCALES: { id: ScaleKind; label: string }[] = [
		{ id: 'linear', label: 'linear' },
		{ id: 'log', label: 'logarithmic' },
		{ id: 'equal-count', label: 'equal counts' },
		{ id: 'breaks', label: 'own limits' }
	];
	const numbersOf = (text: string) =>
		text
			.split(/[;\s]+|,(?!\d)/)
			.map((t) => Number(t.replace(',', '.')))
			.filter((n) => Number.isFinite(n));
	const rampCss = (name: RampName, reversed: boolean) =>
		`linear-gradient(to right, ${Array.from({ length: 9 }, (_, i) => RAMPS[name](reversed ? 1 - i / 8 : i / 8)).join(',')})`;
</script>

<div class="border-info/50 bg-base-200/60 mt-1 mb-2 flex flex-col gap-1.5 border-l-2 py-2 pr-1 pl-2 text-sm">
	{#if !ofGrid}<label class="flex items-center gap-2"
			><span class="quiet w-14 shrink-0">Colour</span>
			<select
				class="select select-xs min-w-0 flex-1"
				aria-label="Colour {set.name} by"
				value={style.by ?? ''}
				onchange={(e) => sets.change(set, { by: e.currentTarget.value || null })}
			>
				<option value="">one colour</option>
				{#each set.columns as c (c.key)}<option value={c.key}>by {titleOf(c)}</option>{/each}
			</select>
			{#if !column}<input
					type="color"
					class="h-6 w-8"
					aria-label="Colour of {set.name}"
					value={style.color}
					oninput={(e) => sets.change(set, { color: e.currentTarget.value })}
				/>{/if}
		</label>{/if}
	{#if column?.type === 'category'}
		{@const c = column}
		<div class="flex flex-wrap items-center gap-1">
			<button class="btn btn-xs" onclick={() => setAll(c, () => false)}>all</button>
			<button class="btn btn-xs" onclick={() => setAll(c, () => true)}>none</button>
			<button
				class="btn btn-xs"
				title="Colours of the international geological time chart, for classes that are names of it"
				onclick={() => timeColors(c)}>time colours</button
			>
			<button
				class="btn btn-xs btn-square"
				title="Save the classes to a file"
				aria-label="Save the classes to a file"
				onclick={() => saveText(`${c.label} classes.json`, writeClasses(c, style, sets.defaults), 'application/json')}
				><Download size={13} /></button
			>
			<label class="btn btn-xs btn-square cursor-pointer" title="Take colours, patterns and order from a file"
				><Upload size={13} /><input
					type="file"
					accept=".json,application/json"
					class="sr-only"
					aria-label="Load classes from a file"
					onchange={load}
				/></label
			>
		</div>
		{#if c.categories.length > 12}<input
				class="input input-xs w-full"
				placeholder="find a class"
				aria-label="Find a class"
				bind:value={find}
			/>{/if}
		<ul class="max-h-64 overflow-y-auto" aria-label="Classes of {c.label}">
			{#each classes.slice(0, MOST_LISTED) as name (name)}
				{@const s = classStyle(c, name, style, sets.defaults)}
				<li
					class="group flex items-center gap-1 py-px {s.hidden ? 'quiet line-through' : ''}"
					draggable="true"
					ondragstart={() => (dragged = name)}
					ondragover={(e) => e.preventDefault()}
					ondrop={() => dragged && dragged !== name && moveBefore(c, dragged, name)}
				>
					<button
						class="quiet cursor-grab"
						aria-label="Move {name}: up and down arrows"
						title="Drag to reorder; or focus and use the arrow keys"
						onkeydown={(e) =>
							(e.key === 'ArrowUp' || e.key === 'ArrowDown') && (e.preventDefault(), shift(c, name, e.key === 'ArrowUp' ? -1 : 1))}
						><GripVertical size={12} /></button
					>
					<label class="relative cursor-pointer" title="Change the colour"
						><Symbol color={s.color} pattern={s.pattern} id="{set.id}-{name}" /><input
							type="color"
							class="absolute inset-0 w-7 cursor-pointer opacity-0"
							aria-label="Colour of {name}"
							value={s.color}
							onchange={(e) => setClass(c, name, { color: e.currentTarget.value })}
						/></label
					>
					<span class="min-w-0 flex-1 truncate" title={name}>{name}</span>
					<select
						class="select select-ghost select-xs hidden w-16 group-focus-within:block group-hover:block"
						aria-label="Pattern of {name}"
						value={s.pattern ?? ''}
						onchange={(e) => setClass(c, name, { pattern: (e.currentTarget.value || null) as PatternName | null })}
					>
						<option value="">plain</option>
						{#each Object.entries(PATTERNS) as [id, p] (id)}<option value={id}>{p.label}</option>{/each}
					</select>
					<button class="quiet hidden text-xs group-focus-within:block group-hover:block hover:underline" onclick={() => onlyThis(c, name)}
						>only</button
					>
					<span class="numbers quiet text-xs group-focus-within:hidden group-hover:hidden">{counts[c.categories.indexOf(name)]}</span>
					<button
						class="quiet"
						aria-pressed={!s.hidden}
						aria-label="{s.hidden ? 'Show' : 'Hide'} {name}"
						onclick={() => setClass(c, name, { hidden: !s.hidden })}
						>{#if s.hidden}<EyeOff size={13} />{:else}<Eye size={13} />{/if}</button
					>
				</li>
			{/each}
		</ul>
		{#if classes.length > MOST_LISTED}<p class="quiet text-xs">and {classes.length - MOST_LISTED} more: find them by name.</p>{/if}
	{:else if column && scale}
		{@const ready = readyScale(scale, sortedColumn(column))}
		<HistogramWindow
			{column}
			scale={ready}
			log={scale.kind === 'log'}
			window={style.windows[column.key]}
			change={(w) => setWindow(column.key, w)}
			point={ofGrid ? (range) => (workspace.gridMark = range && { id: set.id, low: range[0], high: range[1] }) : undefined}
		/>
		<label class="flex items-center gap-2"
			><span class="quiet w-14 shrink-0">Scale</span>
			<select class="select select-xs flex-1" value={scale.kind} onchange={(e) => setScale({ kind: e.currentTarget.value as ScaleKind })}
				>{#each SCALES as k (k.id)}<option value={k.id}>{k.label}</option>{/each}</select
			>
		</label>
		<div class="flex items-center gap-2">
			<span class="quiet w-14 shrink-0">Ramp</span>
			<select
				class="select select-xs w-24"
				aria-label="Colour ramp"
				value={scale.ramp}
				onchange={(e) => setScale({ ramp: e.currentTarget.value as RampName })}
				>{#each Object.keys(RAMPS) as r (r)}<option value={r}>{r}</option>{/each}</select
			>
			<button
				class="rule h-4 min-w-0 flex-1 border"
				style="background: {rampCss(scale.ramp, scale.reversed)}"
				title="Turn the ramp round"
				aria-label="Turn the ramp round"
				onclick={() => setScale({ reversed: !scale.reversed })}
			></button>
		</div>
		{#if scale.kind === 'breaks'}
			<label class="flex items-center gap-2"
				><span class="quiet w-14 shrink-0">Limits</span><input
					class="input input-xs numbers min-w-0 flex-1"
					aria-label="Limits between classes"
					value={scale.breaks.join('; ')}
					onchange={(e) =>
						setScale({
							breaks: numbersOf(e.currentTarget.value)
								.sort((a, b) => a - b)
								.slice(0, 50)
						})}
				/></label
			>
		{:else if scale.kind === 'equal-count'}
			<label class="flex items-center gap-2"
				><span class="quiet w-14 shrink-0">Classes</span><input
					class="input input-xs numbers w-16"
					type="number"
					min="2"
					max="20"
					value={scale.classes}
					onchange={(e) => setScale({ classes: Math.min(20, Math.max(2, Math.round(e.currentTarget.valueAsNumber) || 6)) })}
				/></label
			>
		{:else}
			<div class="flex items-center gap-2">
				<span class="quiet w-14 shrink-0">Ends</span>
				{#each [0, 1] as const as end (end)}
					<input
						class="input input-xs numbers min-w-0 flex-1"
						type="number"
						step="any"
						aria-label="{end ? 'Upper' : 'Lower'} end of the ramp"
						placeholder={String(Number((end ? ready.high : ready.low).toPrecision(4)))}
						value={scale.clip[end] === null ? '' : Number(scale.clip[end]!.toPrecision(5))}
						onchange={(e) =>
							setScale({
								clip: (end
									? [scale.clip[0], Number.isFinite(e.currentTarget.valueAsNumber) ? e.currentTarget.valueAsNumber : null]
									: [Number.isFinite(e.currentTarget.valueAsNumber) ? e.currentTarget.valueAsNumber : null, scale.clip[1]]) as [
									number | null,
									number | null
								]
							})}
					/>
				{/each}
			</div>
		{/if}
	{/if}
	{#if !ofGrid}
		<div class="flex items-center gap-2">
			<span class="quiet w-14 shrink-0">Size</span>
			<input
				class="input input-xs numbers w-16"
				type="number"
				min="0"
				step="any"
				aria-label="Size"
				value={style.size.value}
				onchange={(e) => sets.change(set, { size: { ...style.size, value: Math.max(0, e.currentTarget.valueAsNumber || 0) } })}
			/>
			<select
				class="select select-xs w-14"
				aria-label="Unit of the size"
				value={style.size.unit}
				onchange={(e) => sets.change(set, { size: { ...style.size, unit: e.currentTarget.value as 'm' | 'px' } })}
				><option value="px">px</option><option value="m">{workspace.project?.lengthUnit ?? 'm'}</option></select
			>
			<select
				class="select select-xs min-w-0 flex-1"
				aria-label="Size by"
				value={style.size.by ?? ''}
				onchange={(e) => sets.change(set, { size: { ...style.size, by: e.currentTarget.value || null } })}
				><option value="">the same</option>{#each numberColumns as c (c.key)}<option value={c.key}>by {c.label}</option>{/each}</select
			>
		</div>
		<label class="flex items-center gap-2"
			><span class="quiet w-14 shrink-0">Labels</span>
			<select
				class="select select-xs min-w-0 flex-1"
				aria-label="Labels of {set.name}"
				value={style.labels ?? ''}
				onchange={(e) => sets.change(set, { labels: e.currentTarget.value || null })}
				><option value="">none</option>{#each set.columns as c (c.key)}<option value={c.key}>{c.label}</option>{/each}</select
			>
		</label>
		<label class="flex items-center gap-2"
			><span class="quiet w-14 shrink-0">Opacity</span><input
				type="range"
				min="0.05"
				max="1"
				step="0.05"
				class="range range-xs flex-1"
				aria-label="Opacity of {set.name}"
				value={style.opacity}
				oninput={(e) => sets.change(set, { opacity: Number(e.currentTarget.value) })}
			/></label
		>
	{/if}
	{#if ofGrid}<label class="flex items-center gap-2"
			><input
				type="checkbox"
				class="checkbox checkbox-xs"
				checked={workspace.raised(set.id)}
				onchange={(e) => (workspace.bench.state.hidden[`draped:${set.id}`] = e.currentTarget.checked)}
			/>its values are elevations: at its height in space, a line on sections</label
		>{/if}
</div>
