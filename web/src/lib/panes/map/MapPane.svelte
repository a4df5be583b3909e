<script lang="ts">
	import 'ol/ol.css';
	import { onMount, untrack } from 'svelte';
	import OlMap from 'ol/Map';
	import View from 'ol/View';
	import Feature from 'ol/Feature';
	import { LineString, MultiLineString, MultiPolygon, Point, Polygon } from 'ol/geom';
	import LayerGroup from 'ol/layer/Group';
	import ImageLayer from 'ol/layer/Image';
	import GeoJSON from 'ol/format/GeoJSON';
	import VectorLayer from 'ol/layer/Vector';
	import VectorSource from 'ol/source/Vector';
	import Projection from 'ol/proj/Projection';
	import ScaleLine from 'ol/control/ScaleLine';
	import { MapExtentHandles } from './extent-handles';
	import Draw, { createBox } from 'ol/interaction/Draw';
	import { defaults as defaultInteractions } from 'ol/interaction/defaults';
	import { BoxSelect, Lasso, Layers, Layers2, Navigation, PieChart, Ruler } from '@lucide/svelte';
	import { goto } from '$app/navigation';
	import { spaced } from '#core/formats/ticks';
	import { sampleRaster } from '#core/grids/raster';
	import { valueAt } from '#core/grids/resample';
	import { gridValue } from '../grid-value';
	import { measureLine } from '#core/scene/measure';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import { geographicOf } from '$lib/workbench/geographic.svelte';
	import type { PaneState } from '$lib/workbench/state';
	import type { Thing, Workspace } from '$lib/workspace.svelte';
	import { setExporter } from '../export.svelte';
	import { exportMap, mapSvg } from './export-map';
	import { holeFeatures, rowFeatures, shareFeatures } from './data-features';
	import { faultFeatures, sectionFeatures } from './shape-features';
	import { graticuleLines } from './graticule';
	import { DRAWING, shapeFeatures, shapeStyle } from './shape-features';
	import Aim from '../Aim.svelte';
	import ZoomButtons from '../ZoomButtons.svelte';
	import LayersPanel from './LayersPanel.svelte';
	import SharesPanel from './SharesPanel.svelte';
	import { marksOf, unitFeatures, type UnitAs } from './unit-marks';
	import UnitPanel from './UnitPanel.svelte';
	import { featuresAt, MUTE, vectorLayers } from './features-at';
	import { GridParts } from './grid-parts.svelte';
	import { gridPicture, placedPicture } from './placed-picture';
	import { colouredGrid, contourLines, shadedRelief } from './terrain-picture';
	import {
		collarStyle,
		contourStyle,
		dotStyle,
		faceNameStyle,
		faultStyle,
		findingStyle,
		geologyStyle,
		graticuleStyle,
		measureStyle,
		orientationStyle,
		pathStyle,
		pieStyle,
		probeStyle,
		madeStyle,
		markStyle,
		sectionStyle,
		unitMarkStyle
	} from './styles';

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
	const bench = $derived(workspace.bench.state);
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');

	const vector = () => new VectorSource<Feature>();
	const sources = {
		contours: vector(),
		geology: vector(),
		paths: vector(),
		collars: vector(),
		orientations: vector(),
		points: vector(),
		pies: vector(),
		units: vector(),
		findings: vector(),
		faults: vector(),
		section: vector(),
		things: vector(),
		shape: vector(),
		graticule: vector(),
		measure: vector(),
		hand: vector(),
		preview: vector(),
		marks: vector(),
		probe: vector()
	};
	const relief = new ImageLayer();
	const grids = new LayerGroup();
	const pictures = new LayerGroup();
	const previews = new LayerGroup({ zIndex: 800 });
	/** From the lowest up; the names stand in the list of layers. */
	const layers = {
		terrain: relief,
		grids,
		pictures,
		geology: new VectorLayer({ source: sources.geology, style: geologyStyle }),
		things: new VectorLayer({ source: sources.things, style: madeStyle, declutter: 'values' }),
		shape: new VectorLayer({ source: sources.shape, style: shapeStyle }),
		contours: new VectorLayer({ source: sources.contours, style: contourStyle, declutter: true }),
		graticule: new VectorLayer({ source: sources.graticule, style: graticuleStyle, properties: MUTE }),
		paths: new VectorLayer({ source: sources.paths, style: pathStyle }),
		faults: new VectorLayer({ source: sources.faults, declutter: true }),
		section: new VectorLayer({ source: sources.section, style: sectionStyle }),
		points: new VectorLayer({ source: sources.points, style: dotStyle, declutter: 'points' }),
		orientations: new VectorLayer({ source: sources.orientations, style: orientationStyle }),
		pies: new VectorLayer({ source: sources.pies, style: pieStyle }),
		collars: new VectorLayer({ source: sources.collars, declutter: 'names' }),
		units: new VectorLayer({ source: sources.units, style: unitMarkStyle }),
		findings: new VectorLayer({ source: sources.findings, style: findingStyle })
	};
	const NAMES: Record<keyof typeof layers, string> = {
		terrain: 'Terrain',
		grids: 'Grids',
		pictures: 'Pictures',
		geology: 'Geology',
		things: 'Points, lines, outlines',
		shape: 'Contacts that were drawn',
		contours: 'Contours',
		graticule: 'Graticule',
		paths: 'Traces of holes',
		faults: 'Faults',
		section: 'Sections',
		points: 'Measured places',
		orientations: 'Orientations',
		pies: 'Shares of units',
		collars: 'Collars',
		units: 'A unit in the holes',
		findings: 'Findings'
	};
	const top = {
		previews,
		preview: new VectorLayer({ source: sources.preview, style: madeStyle, zIndex: 801, properties: MUTE }),
		marks: new VectorLayer({ source: sources.marks, style: markStyle, zIndex: 802 }),
		faceNames: new VectorLayer({ source: sources.geology, style: faceNameStyle, declutter: 'names', zIndex: 900, properties: MUTE }),
		measure: new VectorLayer({ source: sources.measure, style: measureStyle, zIndex: 1000 }),
		hand: new VectorLayer({ source: sources.hand, style: measureStyle, zIndex: 1000 }),
		probe: new VectorLayer({ source: sources.probe, style: probeStyle, zIndex: 1001, properties: MUTE })
	};
	const isLayer = (n: string): n is keyof typeof layers => Object.hasOwn(layers, n);
	const order = $derived.by(() => {
		const kept = bench.order.filter(isLayer);
		return [...kept, ...(Object.keys(layers) as (keyof typeof layers)[]).filter((n) => !kept.includes(n))];
	});

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

	$effect(() => order.forEach((n, i) => layers[n].setZIndex(i)));
	$effect(() => extentHandles?.set(workspace.extentDraft));
	$effect(() => {
		const t = workspace.terrain;
		if (!t) return void relief.setSource(null);
		relief.setSource(gridPicture(shadedRelief(t), extentOf(t), true));
	});
	const extentOf = (t: { x0: number; y0: number; dx: number; dy: number; nx: number; ny: number }) => [
		t.x0 - t.dx / 2,
		t.y0 - t.dy / 2,
		t.x0 + (t.nx - 0.5) * t.dx,
		t.y0 + (t.ny - 0.5) * t.dy
	];
	$effect(() => {
		sources.contours.clear();
		if (!workspace.terrain || !workspace.shown('contours')) return;
		for (const c of contourLines(workspace.terrain, bench.contourInterval))
			sources.contours.addFeature(
				new Feature({ geometry: new MultiLineString(c.lines), value: c.value, major: Math.round(c.value / c.interval) % 5 === 0 })
			);
	});
	$effect(() => {
		relief.setVisible(workspace.shown('terrain'));
		// The terrain of the map is paper under everything; its opacity is that of space only.
		layers.geology.setVisible(workspace.shown('geology'));
		top.faceNames.setVisible(workspace.shown('geology'));
		layers.geology.setOpacity(workspace.opacityOf('geology'));
		layers.collars.setVisible(workspace.shown('holes'));
		layers.paths.setVisible(workspace.shown('holes'));
		layers.findings.setVisible(workspace.shown('findings'));
	});
	$effect(() => {
		sources.geology.clear();
		for (const u of workspace.shownGeology?.units ?? []) {
			const own = workspace.shownUnits.find((x) => x.id === u.unit);
			if (!own || !workspace.shown(`unit:${u.unit}`)) continue;
			const rings = u.polygons.map((p) => p.map((r) => Array.from({ length: r.length / 2 }, (_, i) => [r[2 * i]!, r[2 * i + 1]!])));
			sources.geology.addFeature(
				new Feature({ geometry: new MultiPolygon(rings), color: own.color, label: own.name, select: { kind: 'unit', id: own.id } })
			);
		}
	});
	const collarTable = $derived(workspace.tables.find((t) => t.state['kind'] === 'collars'));
	$effect(() => {
		sources.collars.clear();
		sources.paths.clear();
		const p = sets.paths;
		if (!p) return;
		const { holes, traces } = holeFeatures(p, collarTable ? sets.of(collarTable.id) : null, sets);
		sources.collars.addFeatures(holes);
		sources.paths.addFeatures(traces);
		if (map && !workspace.project?.extent) fit();
	});
	$effect(() => {
		sources.orientations.clear();
		sources.points.clear();
		for (const t of workspace.mapTables) {
			const set = workspace.shown(`data:${t.id}`) ? sets.of(t.id) : null;
			if (set) (set.kind === 'orientations' ? sources.orientations : sources.points).addFeatures(rowFeatures(workspace, t.name, set));
		}
	});
	$effect(() => {
		sources.pies.clear();
		sources.pies.addFeatures(shareFeatures(workspace, my));
	});
	$effect(() => {
		sources.units.clear();
		if (my.unit && marks) sources.units.addFeatures(unitFeatures(workspace, marks, my.unitAs));
	});
	$effect(() => {
		sources.findings.clear();
		for (const f of workspace.findingPlaces)
			sources.findings.addFeature(
				new Feature({ geometry: new Point([f.x, f.y]), severity: f.severity, label: f.message, goto: f.address })
			);
	});
	$effect(() => {
		sources.faults.clear();
		sources.faults.addFeatures(faultFeatures(workspace));
		sources.section.clear();
		sources.section.addFeatures(sectionFeatures(workspace));
	});
	$effect(() => {
		sources.shape.clear();
		sources.shape.addFeatures(shapeFeatures(workspace));
	});
	$effect(() => {
		sources.things.clear();
		pictures.getLayers().clear();
		const format = new GeoJSON();
		for (const t of workspace.things) {
			if (!workspace.shown(`thing:${t.id}`)) continue;
			const opacity = workspace.opacityOf(`thing:${t.id}`);
			if (t.kind === 'layer')
				for (const f of t.features) {
					const feature = format.readFeature(f) as Feature;
					const told = Object.entries(f.properties ?? {})
						.slice(0, 3)
						.map(([k, v]) => `${k} ${String(v)}`)
						.join(', ');
					feature.setProperties({ label: told ? `${t.name}: ${told}` : t.name, select: { kind: 'object', id: t.id } });
					sources.things.addFeature(feature);
				}
			else if (t.kind === 'picture' && t.placement)
				pictures.getLayers().push(new ImageLayer({ source: placedPicture(t.url, t.placement), opacity }));
			else if (t.kind === 'places')
				for (const f of rowFeatures(workspace, t.name, t.set)) {
					f.set('select', { kind: 'object', id: t.id });
					sources.things.addFeature(f);
				}
		}
	});
	/** A grid as a layer; cells that the legend points at stand out. */
	function gridLayer(t: Extract<Thing, { kind: 'grid' }>, opacity: number) {
		const painter = sets.painter(t.set);
		const mark = workspace.gridMark?.id === t.id ? workspace.gridMark : null;
		const { values } = t.raster;
		const faint = mark ? (k: number) => !(values[k]! >= mark.low && values[k]! <= mark.high) : undefined;
		return new ImageLayer({ source: gridPicture(colouredGrid(t.raster, painter.rgb, faint), extentOf(t.raster), false), opacity });
	}
	$effect(() => {
		grids.getLayers().clear();
		for (const t of workspace.gridThings)
			if (workspace.shown(`thing:${t.id}`)) {
				const opacity = workspace.opacityOf(`thing:${t.id}`);
				grids.getLayers().push(gridLayer(t, opacity));
				const part = parts.of(t);
				if (part) grids.getLayers().push(gridLayer(part, opacity));
			}
	});
	$effect(() => {
		void moves;
		const large = workspace.gridThings.filter((t) => t.every > 1 && workspace.shown(`thing:${t.id}`));
		const size = map?.getSize();
		if (!map || !size || large.length === 0) return;
		const [minX, minY, maxX, maxY] = map.getView().calculateExtent(size) as [number, number, number, number];
		parts.look(large, { minX, minY, maxX, maxY }, map.getView().getResolution() ?? 1);
	});
	$effect(() => () => parts.end());
	$effect(() => {
		sources.marks.clear();
		for (const { x, y, label } of workspace.marks) sources.marks.addFeature(new Feature({ geometry: new Point([x, y]), label }));
	});
	$effect(() => {
		const t = workspace.preview;
		sources.preview.clear();
		previews.getLayers().clear();
		if (t?.kind === 'grid') previews.getLayers().push(gridLayer(t, 0.92));
		else if (t?.kind === 'places') sources.preview.addFeatures(rowFeatures(workspace, t.name, t.set));
		else if (t?.kind === 'layer') for (const f of t.features) sources.preview.addFeature(new GeoJSON().readFeature(f) as Feature);
	});
	$effect(() => {
		void moves;
		sources.graticule.clear();
		if (!map || !workspace.shown('graticule')) return;
		const box = map.getView().calculateExtent(map.getSize());
		void geographicOf(workspace.project?.crs ?? 0).then((g) => {
			sources.graticule.clear();
			for (const l of graticuleLines(box as [number, number, number, number], g))
				sources.graticule.addFeature(new Feature({ geometry: new LineString(l.points), name: l.name, geographic: l.geographic }));
		});
	});
	$effect(() => {
		layers.collars.setStyle(collarStyle(workspace.selectedHoles, zoomedIn));
		const s = workspace.selection;
		layers.faults.setStyle(faultStyle(s?.kind === 'fault' ? s.id : null));
	});
	$effect(() => {
		sources.probe.clear();
		const p = workspace.probe;
		if (p && p.from !== id) sources.probe.addFeature(new Feature(new Point([p.x, p.y])));
	});
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
	<button
		class="btn btn-xs {open === 'layers' ? 'btn-active' : 'bg-base-100'}"
		aria-expanded={open === 'layers'}
		onclick={() => (open = open === 'layers' ? '' : 'layers')}><Layers size={13} />Layers</button
	>
	<button
		class="btn btn-xs {open === 'pies' || my.pies !== 'none' ? 'btn-active' : 'bg-base-100'}"
		aria-expanded={open === 'pies'}
		onclick={() => (open = open === 'pies' ? '' : 'pies')}><PieChart size={13} />Shares</button
	>
	<button
		class="btn btn-xs {open === 'units' || my.unit ? 'btn-active' : 'bg-base-100'}"
		aria-expanded={open === 'units'}
		onclick={() => (open = open === 'units' ? '' : 'units')}><Layers2 size={13} />Unit</button
	>
	{#each TOOLS as t (t.id)}<button
			class="btn btn-xs btn-square {tool === t.id ? 'btn-active' : 'bg-base-100'}"
			aria-pressed={tool === t.id}
			title={t.label}
			aria-label={t.label}
			onclick={() => (tool = tool === t.id ? '' : t.id)}><t.icon size={13} /></button
		>{/each}
	<button
		class="btn btn-xs {tool === 'polygon' ? 'btn-active' : 'bg-base-100'}"
		aria-pressed={tool === 'polygon'}
		title="Select by a polygon, vertex by vertex"
		onclick={() => (tool = tool === 'polygon' ? '' : 'polygon')}>Polygon</button
	>
</div>
{#if open === 'layers'}<LayersPanel {workspace} {order} names={NAMES} />
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
		The geology shown is out of date
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
