import Feature from 'ol/Feature';
import GeoJSON from 'ol/format/GeoJSON';
import { LineString, MultiLineString, MultiPolygon, Point } from 'ol/geom';
import ImageLayer from 'ol/layer/Image';
import type OlMap from 'ol/Map';
import { geographicOf } from '$lib/workbench/geographic.svelte';
import type { Thing, Workspace } from '$lib/workspace.svelte';
import { holeFeatures, rowFeatures, shareFeatures } from './data-features';
import { graticuleLines } from './graticule';
import type { GridParts } from './grid-parts.svelte';
import type { LayerName, MapLayers } from './map-layers';
import { gridPicture, placedPicture } from './placed-picture';
import { faultFeatures, sectionFeatures, shapeFeatures } from './shape-features';
import { collarStyle, faultStyle } from './styles';
import { colouredGrid, contourLines, shadedRelief } from './terrain-picture';
import { unitFeatures, type UnitAs } from './unit-marks';

/** What a map shows, as its pane has it at the moment: read within effects, so that layers follow. */
interface MapView {
	readonly map: OlMap | null;
	/** Grows whenever the map has come to rest. */
	readonly moves: number;
	readonly zoomedIn: boolean;
	/** From the lowest up. */
	readonly order: readonly LayerName[];
	/** The unit at hand in every hole. */
	readonly marks: Parameters<typeof unitFeatures>[1] | null;
	fit(): void;
}

/**
 * Keeps the layers of a map as the workspace is. Called while a pane is made; ends with it.
 * @param my settings of the pane
 */
export function fillLayers(
	workspace: Workspace,
	{ sources, layers, top, relief, grids, pictures, previews }: MapLayers,
	view: MapView,
	my: Parameters<typeof shareFeatures>[1] & { unit: string; unitAs: UnitAs },
	parts: GridParts,
	id: () => string
): void {
	$effect(() => view.order.forEach((n, i) => layers[n].setZIndex(i)));
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
		for (const c of contourLines(workspace.terrain, workspace.bench.state.contourInterval))
			sources.contours.addFeature(
				new Feature({ geometry: new MultiLineString(c.lines), value: c.value, major: Math.round(c.value / c.interval) % 5 === 0 })
			);
	});
	$effect(() => {
		relief.setVisible(workspace.shown('terrain'));
		// The terrain of the view.map is paper under everything; its opacity is that of space only.
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
		const p = workspace.sets.paths;
		if (!p) return;
		const { holes, traces } = holeFeatures(p, collarTable ? workspace.sets.of(collarTable.id) : null, workspace.sets);
		sources.collars.addFeatures(holes);
		sources.paths.addFeatures(traces);
		if (view.map && !workspace.project?.extent) view.fit();
	});
	$effect(() => {
		sources.orientations.clear();
		sources.points.clear();
		for (const t of workspace.mapTables) {
			const set = workspace.shown(`data:${t.id}`) ? workspace.sets.of(t.id) : null;
			if (set) (set.kind === 'orientations' ? sources.orientations : sources.points).addFeatures(rowFeatures(workspace, t.name, set));
		}
	});
	$effect(() => {
		sources.pies.clear();
		sources.pies.addFeatures(shareFeatures(workspace, my));
	});
	$effect(() => {
		sources.units.clear();
		if (my.unit && view.marks) sources.units.addFeatures(unitFeatures(workspace, view.marks, my.unitAs));
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
		const painter = workspace.sets.painter(t.set);
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
		void view.moves;
		const large = workspace.gridThings.filter((t) => t.every > 1 && workspace.shown(`thing:${t.id}`));
		const size = view.map?.getSize();
		if (!view.map || !size || large.length === 0) return;
		const [minX, minY, maxX, maxY] = view.map.getView().calculateExtent(size) as [number, number, number, number];
		parts.look(large, { minX, minY, maxX, maxY }, view.map.getView().getResolution() ?? 1);
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
		void view.moves;
		sources.graticule.clear();
		if (!view.map || !workspace.shown('graticule')) return;
		const box = view.map.getView().calculateExtent(view.map.getSize());
		void geographicOf(workspace.project?.crs ?? 0).then((g) => {
			sources.graticule.clear();
			for (const l of graticuleLines(box as [number, number, number, number], g))
				sources.graticule.addFeature(new Feature({ geometry: new LineString(l.points), name: l.name, geographic: l.geographic }));
		});
	});
	$effect(() => {
		layers.collars.setStyle(collarStyle(workspace.selectedHoles, view.zoomedIn));
		const s = workspace.selection;
		layers.faults.setStyle(faultStyle(s?.kind === 'fault' ? s.id : null));
	});
	$effect(() => {
		sources.probe.clear();
		const p = workspace.probe;
		if (p && p.from !== id()) sources.probe.addFeature(new Feature(new Point([p.x, p.y])));
	});
}
