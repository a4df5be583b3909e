import type { Feature, FeatureCollection, Geometry, Position } from 'geojson';

/** Points, lines and polygons with their properties, as they come from a file. Coordinates are x, y and, where the file has it, z. */
export interface Layer {
	features: Feature<Geometry>[];
	/** EPSG code that the file names, if it does. */
	epsg: number | null;
	/** What was left out or changed, and how much of it. */
	notes?: string[];
	/** Of a file with several layers: their names, with how many things each holds. */
	parts?: { name: string; count: number }[];
}

/** All coordinates of a geometry, one call each. */
export function eachPosition(g: Geometry | null, visit: (p: Position) => void): void {
	if (!g) return;
	if (g.type === 'GeometryCollection') return g.geometries.forEach((x) => eachPosition(x, visit));
	const walk = (c: unknown): void => {
		const list = c as unknown[];
		if (typeof list[0] === 'number') visit(c as Position);
		else for (const x of list) walk(x);
	};
	if ((g.coordinates as unknown[]).length) walk(g.coordinates);
}

/** A copy of a layer with every coordinate changed. */
export function mapPositions(layer: Layer, change: (p: Position) => Position): Layer {
	const features = structuredClone(layer.features);
	for (const f of features)
		eachPosition(f.geometry, (p) => {
			const q = change([...p]);
			p.length = 0;
			p.push(...q);
		});
	return { ...layer, features };
}

/** Counts of points, lines and polygons, and the box around them; null for an empty layer. */
export function describeLayer(layer: Layer): {
	points: number;
	lines: number;
	polygons: number;
	box: [number, number, number, number] | null;
	properties: string[];
} {
	const out = { points: 0, lines: 0, polygons: 0 };
	const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
	const properties = new Set<string>();
	const count = (g: Geometry | null): void => {
		if (!g) return;
		if (g.type === 'GeometryCollection') g.geometries.forEach(count);
		else if (g.type.endsWith('Point')) out.points++;
		else if (g.type.endsWith('LineString')) out.lines++;
		else out.polygons++;
	};
	for (const f of layer.features) {
		count(f.geometry);
		for (const k of Object.keys(f.properties ?? {})) properties.add(k);
		eachPosition(f.geometry, ([x, y]) => {
			box[0] = Math.min(box[0], x!);
			box[1] = Math.min(box[1], y!);
			box[2] = Math.max(box[2], x!);
			box[3] = Math.max(box[3], y!);
		});
	}
	return { ...out, box: box[0] <= box[2] ? box : null, properties: [...properties] };
}

export const collection = (features: Feature[]): FeatureCollection => ({ type: 'FeatureCollection', features });
