import { GREEN, PAPER } from '#core/palette';
import type OlMap from 'ol/Map';
import Feature from 'ol/Feature';
import Point from 'ol/geom/Point';
import { fromExtent } from 'ol/geom/Polygon';
import Translate, { type TranslateEvent } from 'ol/interaction/Translate';
import VectorLayer from 'ol/layer/Vector';
import VectorSource from 'ol/source/Vector';
import { Circle, Fill, Stroke, Style } from 'ol/style';
import type { Box } from '#core/geometry/box';
import { dragCorner, dragSide } from '../box-sides';

/** Where the handles of a box stand on the map: the middles of its sides and its corners, in shares from west and south. */
const HANDLES = [
	[0, 0.5],
	[1, 0.5],
	[0.5, 0],
	[0.5, 1],
	[0, 0],
	[1, 0],
	[0, 1],
	[1, 1]
] as const;

/** The extent on the map with handles on its sides and corners. */
export class MapExtentHandles {
	private readonly source = new VectorSource();
	private readonly outline = new Feature();
	private readonly points = HANDLES.map((_, i) => new Feature({ handle: i }));
	private readonly layer: VectorLayer;
	private readonly translate: Translate;
	private box: Box | null = null;
	/** The box while it is dragged, and when the handle is let go. */
	changed: (box: Box, done: boolean) => void = () => {};

	constructor(private readonly map: OlMap) {
		const line = new Style({ stroke: new Stroke({ color: GREEN, width: 1.8, lineDash: [7, 4] }) });
		const knob = new Style({
			image: new Circle({ radius: 6.5, fill: new Fill({ color: GREEN }), stroke: new Stroke({ color: PAPER, width: 1.5 }) })
		});
		this.layer = new VectorLayer({ source: this.source, zIndex: 90, style: (f) => (f.get('handle') === undefined ? line : knob) });
		this.source.addFeatures([this.outline, ...this.points]);
		this.translate = new Translate({ filter: (f) => f.get('handle') !== undefined, layers: [this.layer], hitTolerance: 8 });
		const moved = (e: TranslateEvent) => {
			const f = e.features.item(0);
			if (!f || !this.box) return;
			const [u, v] = HANDLES[f.get('handle') as number]!;
			const [x, y] = (f.getGeometry() as Point).getCoordinates() as [number, number];
			const b = this.box;
			this.changed(
				v === 0.5 ? dragSide(b, u, x) : u === 0.5 ? dragSide(b, 2 + v, y) : dragCorner(b, u === 0, v === 0, x, y),
				e.type === 'translateend'
			);
		};
		this.translate.on('translating', moved);
		this.translate.on('translateend', moved);
	}

	set(box: Box | null): void {
		if (box && !this.box) {
			this.map.addLayer(this.layer);
			this.map.addInteraction(this.translate);
		} else if (!box && this.box) {
			this.map.removeLayer(this.layer);
			this.map.removeInteraction(this.translate);
		}
		this.box = box;
		if (!box) return;
		this.outline.setGeometry(fromExtent([box.minX, box.minY, box.maxX, box.maxY]));
		HANDLES.forEach(([u, v], i) =>
			this.points[i]!.setGeometry(new Point([box.minX + u * (box.maxX - box.minX), box.minY + v * (box.maxY - box.minY)]))
		);
	}
}
