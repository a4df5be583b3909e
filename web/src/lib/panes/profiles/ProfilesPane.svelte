<script lang="ts">
	import { kindOf } from '$lib/workbench/kinds';
	import { untrack } from 'svelte';
	import { COPPER, HELD } from '#core/palette';
	import { formatDate } from '#core/tables/dates';
	import { titleOf } from '#core/datasets/dataset';
	import { colorAt } from '#core/styles/style';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { Chart, chartPicture } from '../chart/chart';
	import { axisColumns, bandsOf, lineColumns, nearestStation, proposeSeries, seriesOf, triedStep, withLost } from './series';

	/** Stations along their lines, levels of wells by time: each line in a band of its own, linked with the map both ways. */
	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes', 'things'));
	const my = settingsOf(
		untrack(() => pane),
		'profiles',
		{ data: '', by: '', x: '', y: [] as string[], only: [] as string[], stacked: true }
	);
	const MOST_LINES = 60;
	const sets = $derived(workspace.sets);
	const tables = $derived(workspace.tables.filter((t) => kindOf(t).series));
	const sources = $derived([
		...tables.map((t) => ({ id: t.id, name: t.name, rank: t.state['kind'] === 'stations' ? 0 : t.state['kind'] === 'levels' ? 1 : 2 })),
		...workspace.placesThings.map((t) => ({ id: t.id, name: t.name, rank: 0 }))
	]);
	const dataId = $derived(sources.find((s) => s.id === my.data)?.id ?? [...sources].sort((a, b) => a.rank - b.rank)[0]?.id ?? '');
	const rows = $derived(sets.of(dataId));
	/** A step that is being tried on these rows: the new column stands over the one that it is made from. */
	const looked = $derived(workspace.preview?.kind === 'places' ? workspace.preview.set : null);
	const tried = $derived(rows && looked ? triedStep(rows, looked) : null);
	const set = $derived(tried ? looked : rows);
	const first = $derived(set ? proposeSeries(set) : { by: '', x: '', y: [] });
	const lineChoices = $derived(set ? lineColumns(set) : []);
	const axisChoices = $derived(set ? axisColumns(set) : []);
	const numbers = $derived((set?.columns ?? []).filter((c) => c.type === 'number'));
	const by = $derived(my.by === '-' ? '' : (lineChoices.find((c) => c.key === my.by)?.key ?? first.by));
	const x = $derived(axisChoices.find((c) => c.key === my.x)?.key ?? first.x);
	const y = $derived(
		tried ?? (my.y.filter((k) => numbers.some((c) => c.key === k)).length ? my.y.filter((k) => numbers.some((c) => c.key === k)) : first.y)
	);
	const ofTime = $derived(set?.columns.find((c) => c.key === x)?.type === 'date');
	const lines = $derived(set ? seriesOf(set, sets.paths, { by, x, y }, ofTime && !tried ? { threshold: 6, least: 0.5 } : null) : []);
	const all = $derived(tried ? withLost(lines) : lines);
	const chosen = $derived(my.only.filter((n) => all.some((s) => s.name === n)));
	const series = $derived((chosen.length ? all.filter((s) => chosen.includes(s.name)) : all).slice(0, MOST_LINES));
	const stacked = $derived(my.stacked && series.length > 1);
	const bands = $derived(bandsOf(series));
	const outliers = $derived(series.reduce((n, s) => n + (s.outlier?.reduce((a, b) => a + b, 0) ?? 0), 0));
	let canvas: HTMLCanvasElement | undefined = $state();
	let chart: Chart<'line'> | null = null;
	/** Depths to water go down. */
	const downwards = $derived(y[0] === 'waterDepth' || y[0] === 'depth');

	$effect(() => {
		if (!canvas || !set) return;
		const sign = downwards ? -1 : 1;
		const own = series;
		const shift = stacked ? bandsOf(own.map((s) => ({ ...s, y: s.y.map((v) => v.map((q) => sign * q)) }))).shift : own.map(() => 0);
		const height = bands.height;
		const datasets = own.flatMap((s, k) =>
			s.y.map((values, c) => ({
				label: s.name,
				data: Array.from(s.x, (at, n) => ({ x: at, y: sign * values[n]! + shift[k]!, value: values[n]!, line: k, station: n })),
				borderColor: stacked || own.length === 1 ? colorAt(c) : colorAt(k),
				borderWidth: c === y.length - 1 ? 1.6 : 1,
				pointRadius: s.x.length > 400 ? 0 : 1.6,
				pointHitRadius: 6,
				pointBackgroundColor: Array.from(s.x, (_, n) =>
					s.outlier?.[n] && c === 0 ? HELD : stacked || own.length === 1 ? colorAt(c) : colorAt(k)
				),
				...(s.outlier?.some(Boolean) && c === 0
					? { pointRadius: Array.from(s.x, (_, n) => (s.outlier![n] ? 4.5 : s.x.length > 400 ? 0 : 1.6)) }
					: {}),
				spanGaps: false,
				parsing: false as const,
				normalized: true
			}))
		);
		chart?.destroy();
		chart = new Chart(canvas, {
			type: 'line',
			data: { datasets },
			options: {
				animation: false,
				maintainAspectRatio: false,
				interaction: { mode: 'nearest', axis: 'xy', intersect: false },
				plugins: {
					legend: { display: false },
					tooltip: {
						callbacks: {
							title: (items) => {
								const p = items[0]?.raw as { x: number; line: number } | undefined;
								return p ? `${own[p.line]!.name} ${ofTime ? formatDate(p.x) : Number(p.x.toPrecision(6))}` : '';
							},
							label: (item) => {
								const p = item.raw as { value: number; line: number; station: number };
								const column = numbers.find((c) => c.key === y[item.datasetIndex % y.length]);
								return `${column ? titleOf(column) : ''}: ${Number(p.value.toPrecision(8))}${own[p.line]!.outlier?.[p.station] ? (tried ? ', goes' : ', stands out') : ''}`;
							}
						}
					}
				},
				scales: {
					x: {
						type: 'linear',
						title: { display: true, text: axisChoices.find((c) => c.key === x)?.label ?? '' },
						...(ofTime ? { ticks: { callback: (v: number | string) => formatDate(Number(v)).slice(0, 7) } } : {})
					},
					y: stacked
						? {
								type: 'linear',
								min: -0.7 * height,
								max: (own.length - 0.3) * height,
								afterBuildTicks: (axis) => (axis.ticks = own.map((_, k) => ({ value: (own.length - 1 - k) * height }))),
								ticks: {
									autoSkip: false,
									callback: (v: number | string) => own[own.length - 1 - Math.round(Number(v) / height)]?.name ?? ''
								}
							}
						: {
								type: 'linear',
								title: { display: true, text: y.map((k) => numbers.find((c) => c.key === k)?.label ?? k).join(', ') },
								ticks: { callback: (v: number | string) => String(Number((sign * Number(v)).toPrecision(8))) }
							}
				},
				onHover: (_event, found) => {
					const p =
						found[0] &&
						(datasets[found[0].datasetIndex]!.data[found[0].index] as { line: number; station: number; value: number } | undefined);
					if (!p) return;
					const at = sets.placeOf(set, own[p.line]!.rows[p.station]!);
					if (at && Number.isFinite(at[0]))
						workspace.probe = {
							x: at[0],
							y: at[1],
							z: Number.isFinite(at[2]) ? at[2] : null,
							what: `${own[p.line]!.name}: ${Number(p.value.toPrecision(8))}`,
							from: id
						};
				}
			},
			plugins: [
				{
					id: 'probe',
					afterDraw: (c) => {
						if (!mark) return;
						const [px, py] = [c.scales['x']!.getPixelForValue(mark.x), c.scales['y']!.getPixelForValue(mark.y)];
						const { ctx } = c;
						ctx.save();
						ctx.strokeStyle = COPPER;
						ctx.lineWidth = 2;
						ctx.beginPath();
						ctx.arc(px, py, 6, 0, 2 * Math.PI);
						ctx.stroke();
						ctx.restore();
					}
				}
			]
		});
		marks = { shift, sign };
		return () => {
			chart?.destroy();
			chart = null;
		};
	});
	let marks: { shift: number[]; sign: number } | null = null;
	/** Where the place that another pane points at lies in the chart. */
	let mark: { x: number; y: number } | null = null;
	$effect(() => {
		const p = workspace.probe;
		const s = series;
		if (!set || set.place !== 'map') return;
		const near = p && p.from !== id ? nearestStation(set, s, p.x, p.y) : null;
		// Only what the pointer is at, in map units of a hundredth of the lines.
		const line = near && s[near.line]!;
		const close = near && line && near.distance < Math.max(1, line.x[line.x.length - 1]! / 40);
		mark =
			close && marks && line ? { x: line.x[near.station]!, y: marks.sign * line.y[0]![near.station]! + marks.shift[near.line]! } : null;
		chart?.draw();
	});
	setExporter(() => id, {
		name: 'profiles',
		png: async (width, height) => {
			if (!chart) throw new Error('There is nothing to save.');
			return chartPicture(chart as unknown as Chart, width, height);
		}
	});
</script>

<div class="absolute inset-0 flex flex-col">
	{#if sources.length}
		<div
			class="rule flex flex-wrap items-center gap-x-2 gap-y-1 border-b px-2 py-1 text-sm"
			role="group"
			aria-label="What the profiles show"
		>
			<select
				class="select select-xs w-auto max-w-56"
				aria-label="Data"
				value={dataId}
				onchange={(e) => {
					my.data = e.currentTarget.value;
					my.y = [];
					my.only = [];
					my.by = '';
					my.x = '';
				}}
			>
				{#each sources as s (s.id)}<option value={s.id}>{s.name}</option>{/each}
			</select>
			<label class="flex items-center gap-1"
				><span class="quiet">lines by</span><select
					class="select select-xs w-auto"
					value={by || '-'}
					onchange={(e) => {
						my.by = e.currentTarget.value;
						my.only = [];
					}}
				>
					<option value="-">one line</option>{#each lineChoices as c (c.key)}<option value={c.key}>{c.label}</option>{/each}
				</select></label
			>
			<label class="flex items-center gap-1"
				><span class="quiet">along</span><select class="select select-xs w-auto" value={x} onchange={(e) => (my.x = e.currentTarget.value)}>
					{#each axisChoices as c (c.key)}<option value={c.key}>{c.label}</option>{/each}
				</select></label
			>
			<details class="dropdown">
				<summary class="btn btn-xs">Columns: {y.length}</summary>
				<div class="dropdown-content bg-base-100 rule z-20 max-h-72 w-60 overflow-y-auto border p-2 shadow">
					{#each numbers as c, k (c.key)}
						<label class="flex items-center gap-1.5"
							><input
								type="checkbox"
								class="checkbox checkbox-xs"
								checked={y.includes(c.key)}
								onchange={(e) => (my.y = e.currentTarget.checked ? [...y, c.key] : y.filter((q) => q !== c.key))}
							/><span class="min-w-0 flex-1 truncate" title={titleOf(c)}>{titleOf(c)}</span>{#if y.includes(c.key)}<span
									class="h-0.5 w-4"
									style="background:{colorAt(y.indexOf(numbers[k]!.key))}"
								></span>{/if}</label
						>
					{/each}
				</div>
			</details>
			{#if all.length > 1}
				<details class="dropdown">
					<summary class="btn btn-xs">{chosen.length ? `${chosen.length} of ${all.length} lines` : `All ${all.length} lines`}</summary>
					<div class="dropdown-content bg-base-100 rule z-20 max-h-72 w-52 overflow-y-auto border p-2 shadow">
						{#each all as s (s.name)}
							<label class="flex items-center gap-1.5"
								><input
									type="checkbox"
									class="checkbox checkbox-xs"
									checked={chosen.includes(s.name)}
									onchange={(e) => (my.only = e.currentTarget.checked ? [...chosen, s.name] : chosen.filter((q) => q !== s.name))}
								/>{s.name || '(no name)'}</label
							>
						{/each}
					</div>
				</details>
				<label class="flex items-center gap-1.5"
					><input type="checkbox" class="checkbox checkbox-xs" bind:checked={my.stacked} />one above the other</label
				>
			{/if}
			{#if tried}<span role="status"
					>First look: {set?.columns.at(-1)?.label}{#if outliers}, <span style="color:{HELD}"
							>{outliers} {outliers === 1 ? 'value goes' : 'values go'}</span
						>{/if}</span
				>
			{:else if outliers}<span style="color:{HELD}">{outliers} {outliers === 1 ? 'reading stands' : 'readings stand'} out</span>{/if}
		</div>
	{/if}
	<div class="relative min-h-0 flex-1 p-2">
		{#if sources.length === 0}
			<p class="quiet p-4">There are no stations, levels or readings yet. Bring a table in under Gather.</p>
		{:else if set && (series.length === 0 || y.length === 0)}
			<p class="quiet p-4">
				Nothing to draw: {y.length === 0 ? 'the data hold no column of numbers.' : 'no row has a place along that axis.'}
			</p>
		{:else if !set}<p class="quiet p-4" role="status">Loading…</p>{/if}
		<canvas bind:this={canvas} aria-label="Profiles of {set?.name ?? 'nothing'}: {series.length} lines"></canvas>
	</div>
	{#if all.length > MOST_LINES && !chosen.length}<p class="quiet px-2 pb-1 text-sm">
			The first {MOST_LINES} of {all.length} lines are drawn; choose others above.
		</p>{/if}
</div>
