<script lang="ts">
	import { untrack } from 'svelte';
	import { columnOf, NO_CLASS, numberOf, titleOf } from '#core/datasets/dataset';
	import { regression } from '#core/statistics/regression';
	import { histogramOf, sortedValues, statisticsOf } from '#core/statistics/spread';
	import { classStyle, orderedClasses, sortedColumn } from '#core/styles/style';
	import { spaced } from '$lib/ui/numbers';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import { valueText } from '$lib/workbench/sets.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { Chart, type ChartConfiguration } from './chart';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes'));
	const my = settingsOf(
		untrack(() => pane),
		'chart',
		{ kind: 'histogram', table: '', x: '', y: '', by: '', log: false, logY: false, bins: 30 }
	);
	const KINDS = [
		{ id: 'histogram', label: 'Histogram' },
		{ id: 'cumulative', label: 'Cumulative' },
		{ id: 'scatter', label: 'Scatter' },
		{ id: 'box', label: 'Box by class' },
		{ id: 'downhole', label: 'Down the hole' }
	];
	/** More points than these are thinned evenly for drawing; statistics take all. */
	const MOST_POINTS = 15_000;
	let canvas: HTMLCanvasElement | undefined = $state();
	let chart: Chart | null = null;
	const sets = $derived(workspace.sets);
	const tables = $derived(workspace.tables.filter((t) => !['collars', 'surveys'].includes(String(t.state['kind']))));
	const tableId = $derived(
		tables.find((t) => t.id === my.table)?.id ??
			tables.find((t) => ['assays', 'readings', 'stations', 'places'].includes(String(t.state['kind'])))?.id ??
			tables[0]?.id ??
			''
	);
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
	const title = (c: { label: string; unit?: string } | null) => (c ? titleOf(c) : '');
	let note = $state('');
	/** Rows behind the elements of the chart: by dataset, by index. */
	let behind: number[][] = [];

	function rgba(hex: string, a: number): string {
		const v = Number.parseInt(hex.slice(1), 16);
		return `rgba(${v >> 16},${(v >> 8) & 255},${v & 255},${a})`;
	}
	const thinned = (list: number[]) =>
		list.length <= MOST_POINTS
			? list
			: list.filter((_, k) => Math.floor((k * MOST_POINTS) / list.length) !== Math.floor(((k - 1) * MOST_POINTS) / list.length));

	function make(): ChartConfiguration | null {
		note = '';
		behind = [];
		if (!set || !x || !painter || !style || rows.length === 0) return null;
		const chosen = selected;
		const AZURITE = '#2B5FA8';
		const axis = (text: string, log: boolean) => ({
			type: (log ? 'logarithmic' : 'linear') as 'logarithmic',
			title: { display: true, text }
		});
		if (my.kind === 'histogram') {
			const sorted = sortedValues(rows.map((i) => x.values[i]!));
			const h = histogramOf(sorted, my.bins, { log: my.log });
			const binOf = (v: number) => {
				let b = 0;
				while (b + 1 < h.counts.length && v >= h.limits[b + 1]!) b++;
				return b;
			};
			behind = h.counts.map(() => []);
			const inSelection = h.counts.map(() => 0);
			for (const i of rows) {
				const b = binOf(x.values[i]!);
				behind[b]!.push(set.row[i]!);
				if (chosen.has(set.row[i]!)) inSelection[b]!++;
			}
			const s = statisticsOf(sorted);
			note = `${spaced(s.count)} values, mean ${short(s.mean)}, median ${short(s.median)}, standard deviation ${short(s.deviation)}`;
			const scale = painter.scale && style.by === x.key ? painter.scale : null;
			const colors = h.limits.slice(0, -1).map((l, b) => (scale ? scale.color((l + h.limits[b + 1]!) / 2) : '#0F7B5F'));
			return {
				type: 'bar',
				data: {
					labels: h.counts.map((_, b) => `${short(h.limits[b]!)} – ${short(h.limits[b + 1]!)}`),
					datasets: [
						{
							label: 'rows',
							data: h.counts.map((n, b) => n - inSelection[b]!),
							backgroundColor: colors,
							stack: 'a',
							categoryPercentage: 1,
							barPercentage: 0.96
						},
						{ label: 'selected', data: inSelection, backgroundColor: AZURITE, stack: 'a', categoryPercentage: 1, barPercentage: 0.96 }
					]
				},
				options: {
					scales: {
						// The bars stand on classes; the axis below them carries numbers, at round places.
						x: { stacked: true, display: false },
						edges: {
							...axis(title(x), my.log),
							axis: 'x',
							position: 'bottom',
							min: h.limits[0]!,
							max: h.limits[h.limits.length - 1]!,
							grid: { drawOnChartArea: false }
						},
						y: { stacked: true, title: { display: true, text: 'rows' } }
					}
				}
			};
		}
		if (my.kind === 'cumulative') {
			const order = [...rows].sort((a, b) => x.values[a]! - x.values[b]!);
			const list = thinned(order);
			const rank = new Map(order.map((i, k) => [i, (100 * (k + 0.5)) / order.length]));
			behind = [list.map((i) => set.row[i]!)];
			note = `${spaced(order.length)} values${list.length < order.length ? `, ${spaced(list.length)} of them drawn` : ''}`;
			return {
				type: 'scatter',
				data: {
					datasets: [
						{
							label: title(x),
							data: list.map((i) => ({ x: x.values[i]!, y: rank.get(i)! })),
							backgroundColor: list.map((i) => (chosen.has(set.row[i]!) ? AZURITE : painter.css(i))),
							pointRadius: list.map((i) => (chosen.has(set.row[i]!) ? 4 : 2.2)),
							borderWidth: 0
						}
					]
				},
				options: {
					scales: { x: axis(title(x), my.log), y: { min: 0, max: 100, title: { display: true, text: 'share of values below, %' } } }
				}
			};
		}
		if (my.kind === 'scatter') {
			if (!y) return null;
			const both = rows.filter((i) => !Number.isNaN(y.values[i]!) && (!my.logY || y.values[i]! > 0));
			const list = thinned(both);
			behind = [list.map((i) => set.row[i]!)];
			const [tx, ty] = [my.log ? Math.log10 : (v: number) => v, my.logY ? Math.log10 : (v: number) => v];
			const line = regression(
				both.map((i) => tx(x.values[i]!)),
				both.map((i) => ty(y.values[i]!))
			);
			const sorted = sortedValues(both.map((i) => tx(x.values[i]!)));
			const ends = line
				? [sorted[0]!, sorted[sorted.length - 1]!].map((v) => ({
						x: my.log ? 10 ** v : v,
						y: my.logY ? 10 ** (line.intercept + line.slope * v) : line.intercept + line.slope * v
					}))
				: [];
			note = line
				? `${spaced(line.count)} pairs, correlation ${line.correlation.toFixed(3)}, ${my.logY ? 'log ' : ''}${y.label} = ${short(line.intercept)} ${line.slope < 0 ? '−' : '+'} ${short(Math.abs(line.slope))} · ${my.log ? 'log ' : ''}${x.label}`
				: `${spaced(both.length)} pairs: no line fits`;
			return {
				type: 'scatter',
				data: {
					datasets: [
						{
							label: 'rows',
							data: list.map((i) => ({ x: x.values[i]!, y: y.values[i]! })),
							backgroundColor: list.map((i) => (chosen.has(set.row[i]!) ? AZURITE : rgba(painter.css(i), 0.75))),
							pointRadius: list.map((i) => (chosen.has(set.row[i]!) ? 5 : 3)),
							borderWidth: 0
						},
						{ label: 'regression', data: ends, type: 'line' as const, borderColor: '#B4622D', borderWidth: 1.5, pointRadius: 0 } as never
					]
				},
				options: { scales: { x: axis(title(x), my.log), y: axis(title(y), my.logY) } }
			};
		}
		if (my.kind === 'box') {
			if (by?.type !== 'category') {
				note = 'This table has no column of classes.';
				return null;
			}
			const groups = new Map<string, number[]>();
			for (const i of rows) {
				const c = by.values[i]!;
				const name = c === NO_CLASS ? 'none' : by.categories[c]!;
				const list = groups.get(name);
				if (list) list.push(i);
				else groups.set(name, [i]);
			}
			const names = [...orderedClasses(by, style).filter((c) => groups.has(c)), ...(groups.has('none') ? ['none'] : [])].slice(0, 40);
			behind = names.map((n) => groups.get(n)!.map((i) => set.row[i]!));
			note = `${names.length} classes${groups.size > 40 ? ` of ${groups.size}` : ''}; boxes from quarter to three quarters, whiskers to 1.5 box heights`;
			const colors = names.map((n) => (n === 'none' ? '#C9C6BC' : classStyle(by, n, style, sets.defaults).color));
			return {
				type: 'boxplot',
				data: {
					labels: names.map((n) => `${n} (${groups.get(n)!.length})`),
					datasets: [
						{
							label: title(x),
							data: names.map((n) => groups.get(n)!.map((i) => x.values[i]!)),
							backgroundColor: colors.map((c) => rgba(c, 0.75)),
							borderColor: '#1E2A26',
							borderWidth: 1,
							outlierRadius: 2,
							itemRadius: 0
						}
					]
				},
				options: { scales: { y: axis(title(x), my.log), x: { title: { display: true, text: by.label } } } }
			} as unknown as ChartConfiguration;
		}
		if (set.place === 'map' || set.place === 'hole' || !sets.paths) {
			note = 'Rows of this table have no depth along a hole.';
			return null;
		}
		const wanted = workspace.selectedHoles;
		const holes = new Map<number, number[]>();
		for (const i of rows)
			if (wanted.size === 0 || wanted.has(sets.paths.holes[set.hole[i]!]!.name))
				holes.set(set.hole[i]!, [...(holes.get(set.hole[i]!) ?? []), i]);
		const list = [...holes].slice(0, 12);
		behind = list.map(([, own]) => own.map((i) => set.row[i]!));
		note = `${list.length} holes${holes.size > list.length ? ` of ${holes.size}; select some to see them` : ''}`;
		const inks = ['#0F7B5F', '#B4622D', '#2B5FA8', '#8A2F5C', '#A87B12', '#4A5E57'];
		return {
			type: 'scatter',
			data: {
				datasets: list.map(([h, own], k) => ({
					label: sets.paths!.holes[h]!.name,
					showLine: true,
					data: own.sort((a, b) => set.from[a]! - set.from[b]!).map((i) => ({ x: x.values[i]!, y: (set.from[i]! + set.to[i]!) / 2 })),
					borderColor: inks[k % inks.length]!,
					backgroundColor: inks[k % inks.length]!,
					borderWidth: 1.2,
					pointRadius: 1.6
				}))
			},
			options: {
				plugins: { legend: { display: list.length > 1 } },
				scales: {
					x: axis(title(x), my.log),
					y: { reverse: true, title: { display: true, text: `depth, ${workspace.project?.lengthUnit ?? 'm'}` } }
				}
			}
		};
	}
	const short = (v: number) => (Number.isFinite(v) ? String(Number(v.toPrecision(4))) : '–');

	$effect(() => {
		const configuration = make();
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
					if (!e || !set) return;
					const own =
						my.kind === 'histogram' || my.kind === 'box'
							? behind[e.index]
							: [behind[e.datasetIndex]?.[e.index]].filter((v): v is number => v !== undefined);
					if (own?.length) workspace.selection = { kind: 'rows', table: set.id, rows: own };
				}
			}
		} as ChartConfiguration);
		return () => {
			chart?.destroy();
			chart = null;
		};
	});
	function labelOf(dataset: number, index: number): string | null {
		if (!set || !x || my.kind === 'histogram' || my.kind === 'box') return null;
		const row = behind[dataset]?.[index];
		const i = row === undefined ? -1 : set.row.indexOf(row);
		if (i < 0) return null;
		const hole = set.place === 'map' ? '' : `${sets.paths?.holes[set.hole[i]!]?.name ?? ''} at ${spaced(set.from[i]!, 1)}: `;
		return `${hole}${valueText(x, i)}${my.kind === 'scatter' && y ? `, ${valueText(y, i)}` : ''}`;
	}
	setExporter(() => id, {
		name: 'chart',
		png: async (width, height) => {
			if (!chart || !canvas) throw new Error('There is no chart to save.');
			const parent = canvas.parentElement!;
			const ratio = Math.max(width / parent.clientWidth, height / parent.clientHeight);
			const was = chart.options.devicePixelRatio;
			chart.options.devicePixelRatio = ratio;
			chart.resize(Math.round(width / ratio), Math.round(height / ratio));
			chart.update('none');
			const out = document.createElement('canvas');
			out.width = width;
			out.height = height;
			const context = out.getContext('2d')!;
			context.fillStyle = '#ffffff';
			context.fillRect(0, 0, width, height);
			context.drawImage(canvas, 0, 0, width, height);
			chart.options.devicePixelRatio = was ?? window.devicePixelRatio;
			chart.resize();
			return out;
		}
	});
</script>

<div class="absolute inset-0 flex flex-col" role="group" aria-label="Chart">
	<div class="rule flex shrink-0 flex-wrap items-center gap-1.5 border-b px-2 py-1 text-xs">
		<select class="select select-xs w-32" aria-label="Kind of chart" bind:value={my.kind}
			>{#each KINDS as k (k.id)}<option value={k.id}>{k.label}</option>{/each}</select
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
		<div class="h-full w-full" role="img" aria-label="{KINDS.find((k) => k.id === my.kind)?.label ?? 'Chart'} of {title(x)}: {note}">
			<canvas bind:this={canvas}></canvas>
		</div>
		{#if !set && tableId}<p class="quiet absolute inset-0 p-6" role="status">Loading the rows…</p>
		{:else if tables.length === 0}<p class="absolute inset-0 p-6">No tables with values yet: bring some in under Gather.</p>
		{:else if !x}<p class="absolute inset-0 p-6">This table has no column of numbers.</p>
		{:else if rows.length === 0}<p class="absolute inset-0 p-6">
				No row in use has a value here{my.log ? ' that is greater than 0' : ''}{sortedColumn(x).length ? '; the legend may hide them' : ''}.
			</p>{/if}
	</div>
	<p class="numbers quiet shrink-0 truncate px-3 pb-1 text-xs" role="status">{note}</p>
</div>
