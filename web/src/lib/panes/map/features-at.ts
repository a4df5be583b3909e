import type Feature from 'ol/Feature';
import type { Coordinate } from 'ol/coordinate';
import VectorLayer from 'ol/layer/Vector';
import type Map from 'ol/Map';
import VectorSource from 'ol/source/Vector';

type Layered = Pick<VectorLayer, 'getSource' | 'getVisible' | 'getZIndex' | 'getOpacity'>;

/**
 * Features at a place, the uppermost first, found in the data and not in the picture: areas that hold it, lines and points that
 * are near enough.
 * @param near greatest distance of lines and points, map units
 */
export function featuresAt(layers: readonly Layered[], at: Coordinate, near: number): Feature[] {
	const [x, y] = at as [number, number];
	const box = [x - near, y - near, x + near, y + near];
	const found: Feature[] = [];
	const order = layers.map((l, i) => ({ l, i, z: l.getZIndex() ?? 0 })).sort((a, b) => b.z - a.z || b.i - a.i);
	for (const { l } of order) {
		const source = l.getSource();
		if (!l.getVisible() || l.getOpacity() === 0 || !(source instanceof VectorSource)) continue;
		const here: { feature: Feature; distance: number }[] = [];
		source.forEachFeatureInExtent(box, (feature) => {
			const geometry = feature.getGeometry();
			if (!geometry) return;
			const inside = /Polygon|Collection/.test(geometry.getType()) && geometry.intersectsCoordinate(at);
			const [px, py] = inside ? [x, y] : (geometry.getClosestPoint(at) as [number, number]);
			const distance = Math.hypot(px - x, py - y);
			if (distance <= near) here.push({ feature: feature as Feature, distance });
		});
		found.push(...here.sort((a, b) => a.distance - b.distance).map((h) => h.feature));
	}
	return found;
}

/** A layer with this property shows what is not to be met by the pointer. */
export const MUTE = { mute: true };

/** The layers of a map whose features can be met. */
export const vectorLayers = (map: Map): VectorLayer[] =>
	map.getAllLayers().filter((l): l is VectorLayer => l instanceof VectorLayer && !l.get('mute'));
