<script lang="ts">
	import PaneButton from '../PaneButton.svelte';
	import 'ol/ol.css';
	import { onMount, untrack } from 'svelte';
	import { LineString, Point, Polygon } from 'ol/geom';
	import OlMap from 'ol/Map';
	import View from 'ol/View';
	import Feature from 'ol/Feature';
	import Projection from 'ol/proj/Projection';
	import ScaleLine from 'ol/control/ScaleLine';
	import { MapExtentHandles } from './extent-handles';
	import Draw, { createBox } from 'ol/interaction/Draw';
	import { defaults as defaultInteractions } from 'ol/interaction/defaults';
	import { BoxSelect, Lasso, Layers, Layers2, Navigation, PieChart, Ruler } from '$lib/icons';
	import { goto } from '$app/navigation';
	import { spaced } from '#core/formats/ticks';
	import { sampleRaster } from '#core/grids/raster';
	import { valueAt } from '#core/grids/resample';
	import { gridValue } from '../grid-value';
	import { measureLine } from '#core/scene/measure';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { Workspace } from '$lib/workspace.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import { featuresAt, vectorLayers } from './features-at';
	import { fillLayers } from './fill-layers.svelte';
	import { LAYER_NAMES, mapLayers, vector, type LayerName } from './map-layers';
	import { DRAWING } from './shape-features';
	import { marksOf, type UnitAs } from './unit-marks';
	import { setExporter } from '../export.svelte';
	import { exportMap, mapSvg } from './export-map';
	import Aim from '../Aim.svelte';
	import ZoomButtons from '../ZoomButtons.svelte';
	import LayersPanel from './LayersPanel.svelte';
	import SharesPanel from './SharesPanel.svelte';
	import UnitPanel from './UnitPanel.svelte';
	import { GridParts } from './grid-parts.svelte';
	import { measureStyle } from './styles';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes', 'terrain', 'geology', 'things'));
	/** So near a line or a point must be to be met, px. */
	const NEAR_PIXELS = 6;
	const my = settingsOf(
		untrack(() => pane),
		'map',
		{
			center: null as [number, number] | null,
			resolution: 0,
			pies: 'none',
			pieFrom: 0,
			pieTo: 0,
			pieSize: 11,
			unit: '',
			unitAs: 'thickness' as UnitAs,
			scheme: null as string | null
		}
	);
	let target: HTMLDivElement;
	let map: OlMap | null = $state.raw(null);
	let extentHandles = $state.raw<MapExtentHandles | null>(null);
	let zoomedIn = $state(false);
	let open = $state<'' | 'layers' | 'pies' | 'units'>('');
	let tool = $state<'' | 'measure' | 'box' | 'lasso' | 'polygon'>('');
	let measured = $state('');
	let moves = $state(0);
	const parts = new GridParts();
	const sets = $derived(workspace.sets);
	/** The unit at hand in every hole. */
	// The faults of the model tell what is cut out.
	$effect(() => {
		if (my.unit || workspace.atRank) workspace.need('model');
	});
	const marks = $derived(my.unit ? marksOf(workspace, my.unit, my.scheme) : null);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');

	const own = mapLayers();
	const { sources, layers, top } = own;
	const isLayer = (n: string): n is LayerName => Object.hasOwn(LAYER_NAMES, n);
	const order = $derived.by(() => {
		const kept = workspace.bench.state.order.filter(isLayer);
		return [...kept, ...(Object.keys(LAYER_NAMES) as LayerName[]).filter((n) => !kept.includes(n))];
	});
	fillLayers(
		untrack(() => workspace),
		own,
		{
			get map() {
				return map;
			},
			get moves() {
				return moves;
			},
			get zoomedIn() {
				return zoomedIn;
			},
			get order() {
				return order;
			},
			get marks() {
				return marks;
			},
			fit
		},
		my,
		parts,
		() => id
	);

	function fit() {
		const e = workspace.project?.extent;
		const collars = sources.collars.getExtent();
		const box = e ? [e.minX, e.minY, e.maxX, e.maxY] : collars && Number.isFinite(collars[0]) ? collars : [0, 0, 1000, 1000];
		map?.getView().fit(box, { padding: [12, 12, 12, 12] });
	}

	/** Reads what lies at a place, for all panes. */
	function probeAt([x, y]: [number, number]) {
		const passed = vectorLayers(map!);
		const near = NEAR_PIXELS * (map!.getView().getResolution() ?? 1);
		let what = String(
			featuresAt(passed, [x, y], near)
				.find((f) => f.get('label'))
				?.get('label') ?? ''
		);
		for (const t of [...workspace.gridThings.filter((g) => workspace.shown(`thing:${g.id}`)), workspace.preview])
			if (t?.kind === 'grid') {
				const part = t === workspace.preview ? null : parts.of(t);
				const fine = part ? valueAt(part.raster, x, y) : NaN;
				const v = Number.isNaN(fine) ? valueAt(t.raster, x, y) : fine;
				if (!Number.isNaN(v)) what = `${what ? `${what} · ` : ''}${t.name}: ${gridValue(v, t.raster.unit)}`;
			}
		workspace.probe = { x, y, z: workspace.terrain ? sampleRaster(workspace.terrain, x, y) : null, what, from: id };
	}
	/** Selects what lies at a place, or goes where it leads. */
	function pressAt(at: [number, number]) {
		if (workspace.draw || tool) return;
		const near = (NEAR_PIXELS + 2) * (map!.getView().getResolution() ?? 1);
		const met = featuresAt(vectorLayers(map!), at, near).find((f) => f.get('goto') || f.get('select'));
		const address = met?.get('goto') as string | undefined;
		if (address) void goto(address);
		else if (met) workspace.selection = met.get('select') as Workspace['selection'];
	}

	/** Vertices that were set by the keyboard, at the middle of the map. */
	let hand = $state<[number, number][]>([]);
	/** The map has the focus of the keyboard: a cross marks its middle. */
	let aiming = $state(false);
	/** How many vertices end what is drawn by themselves, and how many it needs. */
	const wanted = $derived(
		tool === 'box'
			? { most: 2, least: 2 }
			: { most: Infinity, least: tool === 'lasso' || tool === 'polygon' || workspace.draw?.what === 'outline' ? 3 : 2 }
	);
	$effect(() => {
		void workspace.draw;
		void tool;
		untrack(() => (hand = []));
	});
	$effect(() => {
		const line = hand;
		sources.hand.clear();
		if (workspace.draw?.what === 'section') untrack(() => follow(line));
		if (line.length) sources.hand.addFeatures([new Feature(new LineString(line)), ...line.map((p) => new Feature(new Point(p)))]);
		if (tool === 'measure' && line.length > 1) measured = lengthText(line);
	});
	function endHand() {
		if (hand.length < wanted.least) return workspace.say(`It needs ${wanted.least} vertices at least; it has ${hand.length}.`, 'error');
		const line = hand;
		if (workspace.draw) return endDrawing(line);
		if (tool === 'measure') return void (hand = []);
		const [a, b] = line as [[number, number], [number, number]];
		selectIn(new Polygon([tool === 'box' ? [a, [b[0], a[1]], b, [a[0], b[1]], a] : [...line, line[0]!]]));
		tool = '';
	}
	function keys(event: KeyboardEvent) {
		if (event.target !== target || event.ctrlKey || event.altKey || event.metaKey || !map) return;
		const middle = map.getView().getCenter() as [number, number] | undefined;
		if (!middle) return;
		aiming = true;
		const drawing = workspace.draw ? workspace.draw.what !== 'contact on section' : tool !== '';
		if (event.key === '0') fit();
		else if (event.key === ' ') probeAt(middle);
		else if (event.key === 'Enter' && !drawing) pressAt(middle);
		else if (event.key === 'Enter' && event.shiftKey) endHand();
		else if (event.key === 'Enter') {
			hand = [...hand, [...middle]];
			if (hand.length === wanted.most) endHand();
		} else if (event.key === 'Backspace' && drawing) hand = hand.slice(0, -1);
		else return;
		event.preventDefault();
	}
	/** What was drawn goes to who asked for it. */
	function endDrawing(line: readonly (readonly number[])[]) {
		const task = workspace.draw;
		workspace.draw = null;
		task?.done(line.map((c) => [Math.round(c[0]! * 10) / 10, Math.round(c[1]! * 10) / 10] as [number, number]));
	}

	onMount(() => {
		const projection = new Projection({ code: 'project', units: 'm', metersPerUnit: workspace.project?.lengthUnit === 'ft' ? 0.3048 : 1 });
		const m = new OlMap({
			target,
			layers: [...Object.values(layers), ...Object.values(top)],
			view: new View({
				projection,
				center: my.center ?? [0, 0],
				resolution: my.resolution || 10,
				enableRotation: false,
				showFullExtent: true
			}),
			controls: [new ScaleLine({ units: 'metric' })],
			interactions: defaultInteractions({ altShiftDragRotate: false, pinchRotate: false })
		});
		m.on('pointermove', (e) => probeAt(e.coordinate as [number, number]));
		m.on('click', (e) => pressAt(e.coordinate as [number, number]));
		m.on('moveend', () => {
			const v = m.getView();
			my.center = (v.getCenter() as [number, number] | undefined) ?? null;
			my.resolution = v.getResolution() ?? 0;
			zoomedIn = (v.getResolution() ?? 99) < 4.5;
			moves++;
		});
		map = m;
		extentHandles = new MapExtentHandles(m);
		extentHandles.changed = (box, done) => workspace.dragExtent(box, done);
		const watch = new ResizeObserver(() => m.updateSize());
		watch.observe(target);
		if (!my.center || !my.resolution) requestAnimationFrame(fit);
		return () => {
			watch.disconnect();
			m.setTarget(undefined);
		};
	});

	$effect(() => extentHandles?.set(workspace.extentDraft));
	$effect(() => {
		const task = workspace.draw;
		if (!map || !task || task.what === 'contact on section') return;
		const draw = new Draw({
			type: task.what === 'outline' ? 'Polygon' : 'LineString',
			source: vector(),
			style: measureStyle,
			minPoints: task.what === 'outline' ? 3 : 2
		});
		draw.on('drawend', (e) => {
			const drawn = e.feature.getGeometry() as LineString | Polygon;
			endDrawing(drawn instanceof Polygon ? drawn.getCoordinates()[0]!.slice(0, -1) : drawn.getCoordinates());
		});
		draw.on('drawstart', (e) => {
			if (task.what !== 'section') return;
			const g = e.feature.getGeometry() as LineString;
			let due = 0;
			// What hangs on the section follows once a frame.
			g.on('change', () => (due ||= requestAnimationFrame(() => ((due = 0), follow(g.getCoordinates())))));
		});
		map.addInteraction(draw);
		return () => {
			workspace.sketch = [];
			map?.removeInteraction(draw);
		};
	});
	/** The section that is being drawn, less vertices on one place. */
	const follow = (line: readonly (readonly number[])[]) =>
		(workspace.sketch = line
			.filter((p, i) => i === 0 || Math.hypot(p[0]! - line[i - 1]![0]!, p[1]! - line[i - 1]![1]!) > 1e-3)
			.map((p) => [p[0]!, p[1]!]));
	$effect(() => {
		const m = map;
		const now = tool;
		sources.measure.clear();
		measured = '';
		if (!m || !now) return;
		const draw =
			now === 'measure'
				? new Draw({ type: 'LineString', source: sources.measure, style: measureStyle })
				: now === 'box'
					? new Draw({ type: 'Circle', geometryFunction: createBox(), source: sources.measure, style: measureStyle })
					: new Draw({ type: 'Polygon', freehand: now === 'lasso', source: sources.measure, style: measureStyle });
		draw.on('drawstart', (e) => {
			sources.measure.clear();
			if (now !== 'measure') return;
			const g = e.feature.getGeometry() as LineString;
			g.on('change', () => (measured = lengthText(g.getCoordinates())));
		});
		draw.on('drawend', (e) => {
			if (now === 'measure') return void (measured = lengthText((e.feature.getGeometry() as LineString).getCoordinates()));
			selectIn(e.feature.getGeometry() as Polygon);
			tool = '';
		});
		m.addInteraction(draw);
		return () => void m.removeInteraction(draw);
	});

	function lengthText(line: number[][]): string {
		let length = 0;
		for (let i = 1; i < line.length; i++) length += Math.hypot(line[i]![0]! - line[i - 1]![0]!, line[i]![1]! - line[i - 1]![1]!);
		const last =
			line.length > 1
				? measureLine(
						[line[line.length - 2]![0]!, line[line.length - 2]![1]!, 0],
						[line[line.length - 1]![0]!, line[line.length - 1]![1]!, 0]
					)
				: null;
		return `${spaced(length, 1)} ${unit}${last && last.length > 0 ? `, bearing ${String(Math.round(last.bearing) % 360).padStart(3, '0')}°` : ''}`;
	}
	/** Holes whose collar lies inside; without any, the shown places of the first table that has some inside. */
	function selectIn(area: Polygon) {
		const names = workspace.shown('holes')
			? (sets.paths?.holes ?? []).filter((h) => area.intersectsCoordinate([h.collar[0], h.collar[1]])).map((h) => h.name)
			: [];
		if (names.length) return void (workspace.selection = names.length === 1 ? { kind: 'hole', name: names[0]! } : { kind: 'holes', names });
		for (const t of workspace.mapTables) {
			const set = workspace.shown(`data:${t.id}`) ? sets.of(t.id) : null;
			if (!set) continue;
			const painter = sets.painter(set);
			const rows: number[] = [];
			for (let i = 0; i < set.rowCount; i++)
				if (painter.shown(i) && area.intersectsCoordinate([set.xyz[3 * i]!, set.xyz[3 * i + 1]!])) rows.push(set.row[i]!);
			if (rows.length) return void (workspace.selection = { kind: 'rows', table: set.id, rows });
		}
		workspace.selection = null;
		workspace.say('Nothing lies in there.');
	}
	const TOOLS = [
		{ id: 'box', label: 'Select by a box', icon: BoxSelect },
		{ id: 'lasso', label: 'Select by a lasso', icon: Lasso },
		{ id: 'measure', label: 'Measure a distance', icon: Ruler }
	] as const;
	setExporter(() => id, {
		name: 'map',
		png: (width, height) => exportMap(map!, width, height),
		svg: async () => {
			const size = map!.getSize()!;
			const picture = await exportMap(map!, size[0]! * 2, size[1]! * 2);
			const box = map!.getView().calculateExtent(size);
			return mapSvg(size as [number, number], box as [number, number, number, number], picture.toDataURL('image/png'));
		}
	});
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && (tool = '')} />
<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
	bind:this={target}
	tabindex="0"
	class="absolute inset-0 bg-(--sea) {tool ? 'cursor-crosshair' : ''}"
	role="application"
	aria-label="Map of {sets.paths?.holes.length ?? 0} holes, {workspace.interpretation?.faults.faults.length ?? 0} faults{workspace.model
		? ' and the geology at the surface'
		: ''}. Arrow keys move it, plus and minus zoom, 0 shows all, Space reads and Enter presses what lies in the middle; with a tool Enter sets a vertex, Backspace takes it back, Shift Enter ends."
	onkeydown={keys}
	onfocus={() => (aiming = target.matches(':focus-visible'))}
	onblur={() => (aiming = false)}
	onpointerdown={() => (aiming = false)}
></div>
{#if aiming}<Aim />{/if}
<div
	class="absolute top-2 right-14 left-2 flex flex-wrap gap-1 pointer-events-none *:pointer-events-auto"
	role="group"
	aria-label="Tools of the map"
>
	<PaneButton active={open === 'layers'} expanded={open === 'layers'} press={() => (open = open === 'layers' ? '' : 'layers')}
		><Layers size={13} />Layers</PaneButton
	>
	<PaneButton
		active={Boolean(open === 'pies' || my.pies !== 'none')}
		expanded={open === 'pies'}
		press={() => (open = open === 'pies' ? '' : 'pies')}><PieChart size={13} />Shares</PaneButton
	>
	<PaneButton
		active={Boolean(open === 'units' || my.unit)}
		expanded={open === 'units'}
		press={() => (open = open === 'units' ? '' : 'units')}><Layers2 size={13} />Unit</PaneButton
	>
	{#each TOOLS as t (t.id)}<button
			class="btn btn-xs btn-square {tool === t.id ? 'btn-active' : 'bg-base-100'}"
			aria-pressed={tool === t.id}
			title={t.label}
			aria-label={t.label}
			onclick={() => (tool = tool === t.id ? '' : t.id)}><t.icon size={13} /></button
		>{/each}
	<PaneButton
		active={tool === 'polygon'}
		pressed={tool === 'polygon'}
		title="Select by a polygon, vertex by vertex"
		press={() => (tool = tool === 'polygon' ? '' : 'polygon')}>Polygon</PaneButton
	>
</div>
{#if open === 'layers'}<LayersPanel {workspace} {order} names={LAYER_NAMES} />
{:else if open === 'pies'}<SharesPanel {my} {unit} />
{:else if open === 'units'}<UnitPanel {workspace} {my} {marks} />{/if}
<div class="pointer-events-none absolute top-2 right-2 flex flex-col items-end gap-1">
	<span class="bg-base-100/85 flex items-center gap-1 px-1.5 py-0.5 text-xs" title="North is up"
		><Navigation size={13} class="-rotate-45" />N</span
	>
</div>
<div class="absolute right-2 bottom-2"><ZoomButtons by={(f) => map?.getView().adjustZoom(Math.log2(f))} all={fit} /></div>
{#if workspace.draw || tool}
	<p class="bg-info text-info-content absolute bottom-9 left-1/2 -translate-x-1/2 px-3 py-1 text-sm" role="status">
		{#if workspace.draw}{DRAWING[workspace.draw.what]}: press for each vertex, twice to end (by keys: Enter, Shift Enter), Esc to leave
		{:else if tool === 'measure'}{measured || 'Press for each vertex, twice to end (by keys: Enter, Shift Enter), Esc to leave'}
		{:else if tool === 'box'}Press two opposite corners
		{:else if tool === 'lasso'}Draw round what you want
		{:else}Press for each vertex, twice to end{/if}
	</p>
{/if}
{#if workspace.object('model')?.outOfDate && workspace.geology && workspace.shown('geology')}
	<p class="bg-base-100/90 text-warning border-warning absolute bottom-2 left-1/2 -translate-x-1/2 border px-2 py-0.5 text-sm">
		{workspace.modelBuild ? 'Out of date; being built anew' : 'The geology shown is out of date'}
	</p>
{/if}

<style>
	:global(.ol-scale-line) {
		background: color-mix(in oklab, var(--color-base-100) 85%, transparent);
		border-radius: 0;
		left: 8px;
		bottom: 8px;
	}
	:global(.ol-scale-line-inner) {
		color: var(--color-base-content);
		border-color: var(--color-base-content);
		font-size: 12px;
		font-family: var(--font-condensed);
	}
</style>
