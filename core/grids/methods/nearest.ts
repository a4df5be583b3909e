import { Delaunay } from 'd3-delaunay';
import type { Feature } from 'geojson';
import type { Rectangle } from '../frame';
import type { Points } from '../points';
import type { Gridder, MethodInput } from './method';
import { Neighbours } from './neighbours';

/** The value of the nearest reading (Thiessen 1911). @param radius length units, 0 is without limit */
export function nearest({ points, barriers }: MethodInput, { radius }: { radius: number }): Gridder {
	const near = new Neighbours(points, barriers, { most: 1, least: 1, radius, sectors: 1 });
	return { at: (x, y, without) => points.value[near.around(x, y, without)[0] ?? -1] ?? NaN };
}

/** The ground that is nearest to each reading, as faces within a rectangle. */
export function nearestPolygons(points: Points, box: Rectangle): Feature[] {
	const cx = (box.minX + box.maxX) / 2;
	const cy = (box.minY + box.maxY) / 2;
	const shifted = new Float64Array(2 * points.x.length);
	for (let i = 0; i < points.x.length; i++) {
		shifted[2 * i] = points.x[i]! - cx;
		shifted[2 * i + 1] = points.y[i]! - cy;
	}
	const cells = new Delaunay(shifted).voronoi([box.minX - cx, box.minY - cy, box.maxX - cx, box.maxY - cy]);
	return Array.from(points.value, (value, i): Feature[] => {
		const ring = cells.cellPolygon(i) as [number, number][] | null;
		return ring
			? [
					{
						type: 'Feature',
						properties: { value, reading: points.from[i]! + 1 },
						geometry: { type: 'Polygon', coordinates: [ring.map(([x, y]) => [x + cx, y + cy])] }
					}
				]
			: [];
	}).flat();
}
