import { DxfWriter, point3d } from '@tarikjabiri/dxf';
import type { Feature, Geometry, Position } from 'geojson';

/** A name as a layer of a drawing may have it. */
export const layerName = (name: string): string =>
	name
		.replace(/[<>/\\":;?*|=,`]/g, ' ')
		.trim()
		.slice(0, 200) || 'unnamed';

const at = (p: Position) => point3d(p[0]!, p[1]!, p[2] ?? 0);

/** Features as a drawing: points, and lines and rings as 3D polylines, each on the layer that its property `layer` names, else on one of the name. */
export function layerDxf(name: string, features: readonly Feature[]): string {
	const dxf = new DxfWriter();
	let layer = '';
	const known = new Set<string>();
	const line = (points: Position[]) =>
		points.length > 1 &&
		dxf.addPolyline3D(
			points.map((p) => ({ point: at(p) })),
			{ layerName: layer }
		);
	const draw = (g: Geometry | null): void => {
		switch (g?.type) {
			case 'Point':
				dxf.addPoint(g.coordinates[0]!, g.coordinates[1]!, g.coordinates[2] ?? 0, { layerName: layer });
				return;
			case 'MultiPoint':
				return g.coordinates.forEach((c) => draw({ type: 'Point', coordinates: c }));
			case 'LineString':
				return void line(g.coordinates);
			case 'MultiLineString':
			case 'Polygon':
				return g.coordinates.forEach((c) => line(c));
			case 'MultiPolygon':
				return g.coordinates.flat().forEach((c) => line(c));
			case 'GeometryCollection':
				return g.geometries.forEach(draw);
		}
	};
	for (const f of features) {
		const own = f.properties?.['layer'];
		layer = layerName(typeof own === 'string' && own.trim() ? own : name);
		if (!known.has(layer)) dxf.addLayer(layer, 7, 'CONTINUOUS');
		known.add(layer);
		draw(f.geometry);
	}
	return dxf.stringify();
}
