import type { Feature, Position } from 'geojson';
import type { Frame } from './frame';

/** Rings of all faces of some features; a closed line is a face, too. */
export function ringsOf(features: readonly Feature[]): Position[][] {
	const out: Position[][] = [];
	const line = (l: Position[]) => {
		const [a, b] = [l[0], l[l.length - 1]];
		if (l.length > 3 && a && b && a[0] === b[0] && a[1] === b[1]) out.push(l);
	};
	const visit = (g: Feature['geometry'] | null): void => {
		if (!g) return;
		if (g.type === 'Polygon') out.push(...g.coordinates);
		else if (g.type === 'MultiPolygon') g.coordinates.forEach((p) => out.push(...p));
		else if (g.type === 'LineString') line(g.coordinates);
		else if (g.type === 'MultiLineString') g.coordinates.forEach(line);
		else if (g.type === 'GeometryCollection') g.geometries.forEach(visit);
	};
	for (const f of features) visit(f.geometry);
	return out;
}

/**
 * Which cells have their middle inside faces, by the even-odd rule along each row.
 * @returns 1 inside; null when the features hold no face
 */
export function insideOf(features: readonly Feature[], frame: Frame): Uint8Array | null {
	const rings = ringsOf(features);
	if (rings.length === 0) return null;
	const { nx, ny, x0, y0, dx, dy } = frame;
	const crossings: number[][] = Array.from({ length: ny }, () => []);
	for (const ring of rings)
		for (let i = 1; i < ring.length; i++) {
			const [ax, ay, bx, by] = [ring[i - 1]![0]!, ring[i - 1]![1]!, ring[i]![0]!, ring[i]![1]!];
			if (ay === by) continue;
			const [u, v] = [(ay - y0) / dy, (by - y0) / dy];
			const [from, to] = [Math.max(0, Math.ceil(Math.min(u, v))), Math.min(ny - 1, Math.ceil(Math.max(u, v)) - 1)];
			for (let j = from; j <= to; j++) crossings[j]!.push(ax + ((bx - ax) * (y0 + j * dy - ay)) / (by - ay));
		}
	const inside = new Uint8Array(nx * ny);
	crossings.forEach((xs, j) => {
		xs.sort((a, b) => a - b);
		for (let k = 0; k + 1 < xs.length; k += 2) {
			const [a, b] = [(xs[k]! - x0) / dx, (xs[k + 1]! - x0) / dx];
			for (let i = Math.max(0, Math.ceil(Math.min(a, b))); i < nx && i < Math.max(a, b); i++) inside[j * nx + i] = 1;
		}
	});
	return inside;
}
