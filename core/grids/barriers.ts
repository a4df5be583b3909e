import Flatbush from 'flatbush';
import type { Feature, Position } from 'geojson';

/** Lines that nothing reaches across: faults, rivers, walls. Segments as x, y of both ends. */
export type Segments = Float64Array;

/** The segments of lines and of the rims of faces. */
export function segmentsOf(features: readonly Feature[]): Segments {
	const out: number[] = [];
	const line = (l: readonly Position[]) => {
		for (let i = 1; i < l.length; i++) out.push(l[i - 1]![0]!, l[i - 1]![1]!, l[i]![0]!, l[i]![1]!);
	};
	const visit = (g: Feature['geometry'] | null): void => {
		if (!g) return;
		if (g.type === 'LineString') line(g.coordinates);
		else if (g.type === 'MultiLineString' || g.type === 'Polygon') g.coordinates.forEach(line);
		else if (g.type === 'MultiPolygon') g.coordinates.forEach((p) => p.forEach(line));
		else if (g.type === 'GeometryCollection') g.geometries.forEach(visit);
	};
	for (const f of features) visit(f.geometry);
	return Float64Array.from(out);
}

/** Tells whether the straight way between two places meets a barrier. */
export class Barriers {
	private readonly index: Flatbush | null;

	private readonly segments: Segments;

	constructor(segments: Segments) {
		// A shift that no one sees, so that nodes and readings do not lie on a barrier: each is on one side of it.
		this.segments = segments.map((v, k) => v + ((k & 1) === 0 ? 1.3e-5 : 0.7e-5));
		segments = this.segments;
		const n = segments.length / 4;
		if (n === 0) this.index = null;
		else {
			this.index = new Flatbush(n);
			for (let i = 0; i < segments.length; i += 4)
				this.index.add(
					Math.min(segments[i]!, segments[i + 2]!),
					Math.min(segments[i + 1]!, segments[i + 3]!),
					Math.max(segments[i]!, segments[i + 2]!),
					Math.max(segments[i + 1]!, segments[i + 3]!)
				);
			this.index.finish();
		}
	}

	get any(): boolean {
		return this.index !== null;
	}

	/** A way through an end of a segment meets it. */
	between(ax: number, ay: number, bx: number, by: number): boolean {
		if (!this.index) return false;
		let met = false;
		this.index.search(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by), (i) => {
			met ||= this.meets(4 * i, ax, ay, bx, by);
			return false;
		});
		return met;
	}

	private meets(k: number, ax: number, ay: number, bx: number, by: number): boolean {
		const s = this.segments;
		const [cx, cy, dx, dy] = [s[k]!, s[k + 1]!, s[k + 2]!, s[k + 3]!];
		const side = (px: number, py: number, qx: number, qy: number, rx: number, ry: number) => (qx - px) * (ry - py) - (qy - py) * (rx - px);
		const [c, d] = [side(ax, ay, bx, by, cx, cy), side(ax, ay, bx, by, dx, dy)];
		const [a, b] = [side(cx, cy, dx, dy, ax, ay), side(cx, cy, dx, dy, bx, by)];
		return ((c <= 0 && d >= 0) || (c >= 0 && d <= 0)) && ((a < 0 && b > 0) || (a > 0 && b < 0));
	}
}
