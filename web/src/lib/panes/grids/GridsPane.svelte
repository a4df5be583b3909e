<script lang="ts">
	import 'ol/ol.css';
	import { onMount, untrack } from 'svelte';
	import OlMap from 'ol/Map';
	import View from 'ol/View';
	import Feature from 'ol/Feature';
	import { Point } from 'ol/geom';
	import ImageLayer from 'ol/layer/Image';
	import VectorLayer from 'ol/layer/Vector';
	import VectorSource from 'ol/source/Vector';
	import Projection from 'ol/proj/Projection';
	import { sheetOf } from '../sheet';
	import { frameBox } from '#core/grids/frame';
	import { columnOf, type NumberColumn } from '#core/datasets/dataset';
	import { painter } from '#core/styles/style';
	import { sortedColumn } from '#core/styles/style';
	import { proposeScale } from '#core/styles/scale';
	import type { MadeResult } from '$lib/api/types';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Thing, Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { gridPicture } from '../map/placed-picture';
	import { probeStyle } from '../map/styles';
	import { gridValueAt, unitAfter } from '../grid-value';
	import { colouredGrid } from '../map/terrain-picture';
	import RampKey from '../RampKey.svelte';
	import ZoomButtons from '../ZoomButtons.svelte';

	/** Two to four grids side by side, with one pointer and one zoom, and one scale of colours if that is wanted. */
	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('things'));
	type Grid = Extract<Thing, { kind: 'grid' }>;
	const my = settingsOf(
		untrack(() => pane),
		'grids',
		{ grids: [] as string[], count: 2, oneScale: true, scaleSet: false }
	);
	const grids = $derived(workspace.gridThings);
	const chosen = $derived(
		Array.from({ length: my.count }, (_, k): Grid | null => {
			const own = grids.find((g) => g.id === my.grids[k]);
			return own ?? grids.filter((g) => !my.grids.slice(0, my.count).includes(g.id))[k] ?? grids[k] ?? null;
		})
	);
	const clips = $derived(chosen.flatMap((g) => (g ? [proposeScale(sortedColumn(g.set.columns[0] as NumberColumn)).clip] : [])));
	const lows = $derived(clips.flatMap((c) => c[0] ?? []));
	const highs = $derived(clips.flatMap((c) => c[1] ?? []));
	/** The widest limits of all: with them a colour is the same value everywhere. */
	const common = $derived.by((): [number, number] | null => (lows.length ? [Math.min(...lows), Math.max(...highs)] : null));
	/** Until it is chosen, one scale where the values lie in one range: a thickness beside a depth would be all of one colour. */
	const alike = $derived(common !== null && Math.min(...highs) - Math.max(...lows) >= (common[1] - common[0]) / 3);
	const oneScale = $derived(my.scaleSet ? my.oneScale : alike);
	const painterOf = (g: Grid) => {
		const style = workspace.sets.style(g.set);
		const column = columnOf(g.set, 'value') as NumberColumn;
		if (!oneScale || !common) return painter(g.set, style);
		const scale = { ...(style.scales['value'] ?? proposeScale(sortedColumn(column))), kind: 'linear' as const, clip: common };
		return painter(g.set, { ...style, scales: { value: scale } });
	};
	// One view for all: where one is moved to, all are.
	const view = new View({
		projection: new Projection({
			code: 'project',
			units: 'm',
			metersPerUnit: untrack(() => workspace.project?.lengthUnit) === 'ft' ? 0.3048 : 1
		}),
		center: [0, 0],
		resolution: 10,
		enableRotation: false,
		showFullExtent: true
	});
	let fitted = false;
	function fit() {
		const boxes = chosen.flatMap((g) => (g ? [frameBox(g.raster)] : []));
		if (boxes.length === 0) return;
		view.fit(
			[
				Math.min(...boxes.map((b) => b.minX)),
				Math.min(...boxes.map((b) => b.minY)),
				Math.max(...boxes.map((b) => b.maxX)),
				Math.max(...boxes.map((b) => b.maxY))
			],
			{
				padding: [8, 8, 8, 8]
			}
		);
		fitted = true;
	}
	const maps: (OlMap | null)[] = [];
	/** A map in its box, as long as the box is there. */
	function mapIn(target: HTMLElement, slot: number) {
		const source = new VectorSource<Feature>();
		const picture = new ImageLayer();
		const m = new OlMap({ target, view, layers: [picture, new VectorLayer({ source, style: probeStyle })], controls: [] });
		maps[slot] = m;
		m.on('pointermove', (e) => {
			const [x, y] = e.coordinate as [number, number];
			const told = chosen.flatMap((g) => (g ? `${g.name}: ${gridValueAt(g.raster, x, y)}` : []));
			workspace.probe = { x, y, z: null, what: told.join(' · '), from: `${id}-${slot}` };
		});
		const watch = new ResizeObserver(() => {
			m.updateSize();
			if (!fitted && m.getSize()?.[0]) fit();
		});
		watch.observe(target);
		const follow = $effect.root(() => {
			$effect(() => {
				const g = chosen[slot];
				const b = g ? frameBox(g.raster) : null;
				picture.setSource(g && b ? gridPicture(colouredGrid(g.raster, painterOf(g).rgb), [b.minX, b.minY, b.maxX, b.maxY], false) : null);
				if (!fitted) fit();
			});
			$effect(() => {
				source.clear();
				const p = workspace.probe;
				if (p && p.from !== `${id}-${slot}`) source.addFeature(new Feature(new Point([p.x, p.y])));
			});
		});
		return {
			destroy() {
				follow();
				watch.disconnect();
				m.setTarget(undefined);
				maps[slot] = null;
			}
		};
	}
	onMount(() => () => view.dispose());
	const short = (v: number) => String(Number(v.toPrecision(3)));
	const under = $derived(workspace.probe);
	/** What was said of results when they were built. */
	let reports = $state.raw<Record<string, MadeResult>>({});
	$effect(() => {
		for (const g of chosen)
			if (g && !reports[g.id] && workspace.made.some((o) => o.id === g.id))
				void workspace.api.ask('getResult', { object: g.id }).then(
					(r) => (reports = { ...reports, [g.id]: r }),
					() => {}
				);
	});
	const said = (g: Grid) => {
		const report = reports[g.id]?.built?.report as
			{ validation?: { rms: number; meanError: number; meanAbsolute: number }; method?: string } | undefined;
		return report;
	};
	function choose(slot: number, grid: string) {
		const ids = chosen.map((g) => g?.id ?? '');
		ids[slot] = grid;
		my.grids = ids;
	}
	const subtract = () => {
		const [a, b] = chosen;
		if (a && b) workspace.making = { recipe: 'difference-of-grids', inputs: [a.id, b.id] };
	};
	setExporter(() => id, {
		name: 'grids',
		png: async (width, height) => {
			const { canvas: out, context } = sheetOf(width, height);
			const shown = maps.flatMap((m) => m ?? []);
			const across = shown.length > 1 ? 2 : 1;
			const down = Math.ceil(shown.length / across);
			shown.forEach((m, k) => {
				const canvas = m.getViewport()?.querySelector('canvas');
				if (canvas)
					context.drawImage(
						canvas,
						((k % across) * width) / across,
						(Math.floor(k / across) * height) / down,
						width / across,
						height / down
					);
			});
			return out;
		}
	});
</script>

<div class="absolute inset-0 flex flex-col">
	<div class="rule flex flex-wrap items-center gap-2 border-b px-2 py-1 text-sm" role="group" aria-label="Grids side by side">
		<div class="join" role="group" aria-label="How many">
			{#each [2, 3, 4] as n (n)}<button
					class="btn btn-xs join-item {my.count === n ? 'btn-primary' : ''}"
					aria-pressed={my.count === n}
					onclick={() => (my.count = n)}>{n}</button
				>{/each}
		</div>
		<label class="flex items-center gap-1.5"
			><input
				type="checkbox"
				class="checkbox checkbox-xs"
				checked={oneScale}
				onchange={(e) => {
					my.oneScale = e.currentTarget.checked;
					my.scaleSet = true;
				}}
			/>one scale of colours</label
		>
		{#if chosen[0] && chosen[1] && chosen[0] !== chosen[1]}<button
				class="btn btn-xs"
				title="{chosen[0].name} less {chosen[1].name}: histogram, scatter, volumes"
				onclick={subtract}>Difference…</button
			>{/if}
		<span class="ml-auto"><ZoomButtons by={(f) => view.adjustZoom(Math.log2(f))} all={fit} /></span>
	</div>
	{#if grids.length === 0}
		<div class="p-6">
			<p class="mb-2">There are no grids yet.</p>
			<p class="quiet mb-3 text-sm">A grid is brought in as a file under Gather, or made of readings at places.</p>
			<button class="btn btn-primary btn-sm" onclick={() => (workspace.making = { recipe: 'grid-of-readings' })}
				>Make a grid of readings…</button
			>
		</div>
	{:else}
		<div class="bg-base-300 grid min-h-0 flex-1 gap-px {my.count > 1 ? 'grid-cols-2' : ''} {my.count > 2 ? 'grid-rows-2' : ''}">
			{#each chosen as g, slot (slot)}
				<div class="bg-base-100 relative flex min-h-0 flex-col">
					<div class="flex items-center gap-1 px-1 py-0.5">
						<select
							class="select select-ghost select-xs min-w-0 flex-1"
							aria-label="Grid {slot + 1}"
							value={g?.id ?? ''}
							onchange={(e) => choose(slot, e.currentTarget.value)}
						>
							{#each grids as o (o.id)}<option value={o.id}>{o.name}</option>{/each}
						</select>
						<span class="numbers shrink-0 pr-1 text-sm font-medium" aria-label="Value under the pointer"
							>{g && under ? gridValueAt(g.raster, under.x, under.y) : ''}</span
						>
					</div>
					<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
					<div
						class="relative min-h-0 flex-1 bg-(--sea)"
						tabindex="0"
						role="application"
						aria-label="Map of {g?.name ?? 'no grid'}. Arrow keys move all, plus and minus zoom."
						use:mapIn={slot}
					></div>
					{#if g}
						{@const v = said(g)?.validation}
						<div class="flex items-end justify-between gap-2 px-1 py-0.5 text-xs">
							<RampKey label="" scale={painterOf(g).scale!} unit={unitAfter(g.raster.unit)} />
							{#if v}<p
									class="numbers quiet min-w-0 text-right leading-tight"
									title="Each reading is left out and estimated from the others: root mean square, mean and mean absolute error"
								>
									left out: RMS <span class="text-base-content font-medium">{short(v.rms)}{unitAfter(g.raster.unit)}</span><br />mean {short(
										v.meanError
									)}, abs. {short(v.meanAbsolute)}
								</p>{/if}
						</div>
					{/if}
				</div>
			{/each}
		</div>
	{/if}
</div>
