<script lang="ts">
	import { kindOf } from '$lib/workbench/kinds';
	import { untrack } from 'svelte';
	import { columnOf, numberOf, titleOf } from '#core/datasets/dataset';
	import { sortedColumn } from '#core/styles/style';
	import { spaced } from '$lib/ui/numbers';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import { valueText } from '$lib/workbench/sets.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { Chart, chartPicture, type ChartConfiguration } from './chart';
	import { CHART_KINDS, chartOf } from './configurations';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes'));
	const my = settingsOf(
		untrack(() => pane),
		'chart',
		{ kind: 'histogram', table: '', x: '', y: '', by: '', log: false, logY: false, bins: 30 }
	);
	let canvas: HTMLCanvasElement | undefined = $state();
	let chart: Chart | null = null;
	const sets = $derived(workspace.sets);
	const tables = $derived(workspace.tables.filter((t) => !['start', 'path'].includes(kindOf(t).at)));
	const tableId = $derived(tables.find((t) => t.id === my.table)?.id ?? tables.find((t) => kindOf(t).series)?.id ?? tables[0]?.id ?? '');
	const set = $derived(sets.of(tableId));
	const numbers = $derived((set?.columns ?? []).filter((c) => c.type === 'number'));
	const categories = $derived((set?.columns ?? []).filter((c) => c.type === 'category'));
	const x = $derived(set ? (numberOf(set, my.x) ?? (numbers[0]?.type === 'number' ? numbers[0] : null)) : null);
	const y = $derived(set ? (numberOf(set, my.y) ?? (numbers[1]?.type === 'number' ? numbers[1] : x)) : null);
	const by = $derived(set ? columnOf(set, my.by || (categories[0]?.key ?? null)) : null);
	const style = $derived(set ? sets.style(set) : null);
	const painter = $derived(set ? sets.painter(set) : null);
	/** Rows that the style shows, with a value. */
	const rows = $derived.by(() => {
		if (!set || !painter || !x) return [];
		const out: number[] = [];
		for (let i = 0; i < set.rowCount; i++)
			if (painter.shown(i) && !Number.isNaN(x.values[i]!) && (!my.log || x.values[i]! > 0)) out.push(i);
		return out;
	});
	const selected = $derived.by(() => {
		const s = workspace.selection;
		if (!set) return new Set<number>();
		if (s?.kind === 'rows' && s.table === set.id) return new Set(s.rows);
		const holes = workspace.selectedHoles;
		if (holes.size === 0 || set.place === 'map' || !sets.paths) return new Set<number>();
		const out = new Set<number>();
		for (const i of rows) if (holes.has(sets.paths.holes[set.hole[i]!]!.name)) out.add(set.row[i]!);
		return out;
	});

	const made = $derived(
		set && x && painter && style
			? chartOf(my.kind, {
					set,
					style,
					painter,
					defaults: sets.defaults,
					x,
					y,
					by,
					rows,
					chosen: selected,
					log: my.log,
					logY: my.logY,
					bins: my.bins,
					paths: sets.paths,
					holes: workspace.selectedHoles,
					lengthUnit: workspace.project?.lengthUnit ?? 'm'
				})
			: null
	);
	const note = $derived(made?.note ?? '');

	/** Rows of the table behind an element. */
	function rowsBehind(dataset: number, index: number): number[] {
		if (!made) return [];
		if (made.grouped) return made.behind[index] ?? [];
		return [made.behind[dataset]?.[index]].filter((v): v is number => v !== undefined);
	}
	function select(dataset: number, index: number) {
		const own = rowsBehind(dataset, index);
		if (own.length && set) workspace.selection = { kind: 'rows', table: set.id, rows: own };
	}
	/** The element that the keyboard stands on. */
	let at = $state<{ dataset: number; index: number } | null>(null);
	const told = $derived.by(() => {
		if (!at || !chart) return '';
		const label = labelOf(at.dataset, at.index) ?? String(chart.data.labels?.[at.index] ?? '');
		const count = rowsBehind(at.dataset, at.index).length;
		return made?.grouped ? `${label}: ${spaced(count)} ${count === 1 ? 'row' : 'rows'}` : label;
	});
	function keys(event: KeyboardEvent) {
		if (!chart || !made?.configuration || event.ctrlKey || event.altKey || event.metaKey) return;
		const length = (d: number) => (made.grouped ? made.behind.length : (made.behind[d]?.length ?? 0));
		const sets = made.grouped ? 1 : made.behind.length;
		const step = { ArrowRight: 1, ArrowLeft: -1, ArrowUp: 1, ArrowDown: -1, PageDown: 25, PageUp: -25 }[event.key];
		const now = at ?? { dataset: 0, index: -1 };
		if (event.key === 'Enter' || event.key === ' ') {
			if (at) select(at.dataset, at.index);
		} else if (event.key === 'Home') at = { ...now, index: 0 };
		else if (event.key === 'End') at = { ...now, index: length(now.dataset) - 1 };
		else if (step && (event.key === 'ArrowUp' || event.key === 'ArrowDown') && sets > 1)
			at = { dataset: (now.dataset + step + sets) % sets, index: 0 };
		else if (step) at = { ...now, index: Math.min(length(now.dataset) - 1, Math.max(0, now.index + step)) };
		else return;
		event.preventDefault();
		showAt();
	}
	function showAt() {
		if (!chart || !at || at.index < 0) return;
		const point = at.dataset < chart.data.datasets.length ? chart.getDatasetMeta(at.dataset).data[at.index] : undefined;
		// The chart is another one by now.
		if (!point) return void (at = null);
		const element = { datasetIndex: at.dataset, index: at.index };
		chart.setActiveElements([element]);
		chart.tooltip?.setActiveElements([element], { x: point.x, y: point.y });
		chart.update('none');
	}
	$effect(() => {
		const configuration = made?.configuration;
		if (!canvas) return;
		chart?.destroy();
		chart = null;
		if (!configuration) return;
		chart = new Chart(canvas, {
			...configuration,
			options: {
				...configuration.options,
				animation: false,
				responsive: true,
				maintainAspectRatio: false,
				plugins: {
					legend: { display: false },
					tooltip: { callbacks: { label: (item) => labelOf(item.datasetIndex, item.dataIndex) ?? `${item.formattedValue}` } },
					...configuration.options?.plugins
				},
				onClick: (_event, elements) => {
					const e = elements[0];
					if (e) select(e.datasetIndex, e.index);
				}
			}
		} as ChartConfiguration);
		untrack(showAt);
		return () => {
			chart?.destroy();
			chart = null;
		};
	});
	function labelOf(dataset: number, index: number): string | null {
		if (!set || !x || !made || made.grouped) return null;
		const row = made.behind[dataset]?.[index];
		const i = row === undefined ? -1 : set.row.indexOf(row);
		if (i < 0) return null;
		const hole = set.place === 'map' ? '' : `${sets.paths?.holes[set.hole[i]!]?.name ?? ''} at ${spaced(set.from[i]!, 1)}: `;
		return `${hole}${valueText(x, i)}${my.kind === 'scatter' && y ? `, ${valueText(y, i)}` : ''}`;
	}
	setExporter(() => id, {
		name: 'chart',
		png: async (width, height) => {
			if (!chart) throw new Error('There is no chart to save.');
			return chartPicture(chart, width, height);
		}
	});
</script>

<div class="absolute inset-0 flex flex-col" role="group" aria-label="Chart">
	<div class="rule flex shrink-0 flex-wrap items-center gap-1.5 border-b px-2 py-1 text-xs">
		<select class="select select-xs w-32" aria-label="Kind of chart" bind:value={my.kind}
			>{#each CHART_KINDS as k (k.id)}<option value={k.id}>{k.label}</option>{/each}</select
		>
		<select
			class="select select-xs w-32"
			aria-label="Table of the chart"
			value={tableId}
			onchange={(e) => {
				my.table = e.currentTarget.value;
				my.x = my.y = my.by = '';
			}}
			>{#each tables as t (t.id)}<option value={t.id}>{t.name}</option>{/each}</select
		>
		<select class="select select-xs w-28" aria-label="Column" value={x?.key ?? ''} onchange={(e) => (my.x = e.currentTarget.value)}
			>{#each numbers as c (c.key)}<option value={c.key}>{c.label}</option>{/each}</select
		>
		<label class="flex items-center gap-1"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.log} />log</label>
		{#if my.kind === 'scatter'}
			against <select
				class="select select-xs w-28"
				aria-label="Column of the other axis"
				value={y?.key ?? ''}
				onchange={(e) => (my.y = e.currentTarget.value)}
				>{#each numbers as c (c.key)}<option value={c.key}>{c.label}</option>{/each}</select
			>
			<label class="flex items-center gap-1"><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.logY} />log</label>
		{:else if my.kind === 'box'}
			by <select
				class="select select-xs w-28"
				aria-label="Classes of the chart"
				value={by?.key ?? ''}
				onchange={(e) => (my.by = e.currentTarget.value)}
				>{#each categories as c (c.key)}<option value={c.key}>{c.label}</option>{/each}</select
			>
		{:else if my.kind === 'histogram'}
			<label class="flex items-center gap-1"
				>bins <input
					class="input input-xs numbers w-14"
					type="number"
					min="2"
					max="200"
					value={my.bins}
					onchange={(e) => (my.bins = Math.min(200, Math.max(2, Math.round(e.currentTarget.valueAsNumber) || 30)))}
				/></label
			>
		{/if}
	</div>
	<div class="relative min-h-0 flex-1 p-2">
		<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
		<div
			class="h-full w-full"
			role="application"
			tabindex="0"
			aria-busy={!set && !!tableId}
			aria-label="{CHART_KINDS.find((k) => k.id === my.kind)?.label ?? 'Chart'} of {x
				? titleOf(x)
				: 'nothing'}: {note}. Arrow keys go from one to the next, Enter selects its rows."
			onkeydown={keys}
			onblur={() => (at = null)}
		>
			<canvas bind:this={canvas}></canvas>
		</div>
		<p class="sr-only" aria-live="polite">{told}</p>
		{#if !set && tableId}<p class="quiet absolute inset-0 p-6" role="status">Loading the rows…</p>
		{:else if tables.length === 0}<p class="absolute inset-0 p-6">No tables with values yet: bring some in under Gather.</p>
		{:else if !x}<p class="absolute inset-0 p-6">This table has no column of numbers.</p>
		{:else if rows.length === 0}<p class="absolute inset-0 p-6">
				No row in use has a value here{my.log ? ' that is greater than 0' : ''}{sortedColumn(x).length ? '; the legend may hide them' : ''}.
			</p>{/if}
	</div>
	<p class="numbers quiet shrink-0 truncate px-3 pb-1 text-xs" role="status">{note}</p>
</div>
