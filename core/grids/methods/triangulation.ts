import Delaunator from 'delaunator';
import { fail } from '../../problem';
import type { Points } from '../points';

/** Least breadth of places beside their length. */
const LEAST_BREADTH = 1e-8;

/** Spread of places across the line that they lie along, as a share of that along it (principal axes); 0 of places in a line. */
function breadth(x: Float64Array, y: Float64Array): number {
	let [xx, xy, yy] = [0, 0, 0];
	for (let i = 0; i < x.length; i++) {
		xx += x[i]! * x[i]!;
		xy += x[i]! * y[i]!;
		yy += y[i]! * y[i]!;
	}
	// Turned onto the longer axis first: the difference of nearly equal numbers would lose what is looked for.
	const a = 0.5 * Math.atan2(2 * xy, xx - yy);
	const [c, s] = [Math.cos(a), Math.sin(a)];
	let [along, across] = [0, 0];
	for (let i = 0; i < x.length; i++) {
		along += (x[i]! * c + y[i]! * s) ** 2;
		across += (y[i]! * c - x[i]! * s) ** 2;
	}
	return along > 0 ? Math.sqrt(across / along) : 0;
}

/** A Delaunay triangulation of readings, in coordinates about their middle. */
export class Triangulation {
	readonly x: Float64Array;
	readonly y: Float64Array;
	readonly cx: number;
	readonly cy: number;
	/** Corners and opposite half-edges as delaunator lays them out: triangle t has the half-edges 3t, 3t+1, 3t+2. */
	readonly triangles: Uint32Array;
	readonly halfedges: Int32Array;
	private last = 0;

	/** @throws ProblemError `in-a-line` when the readings span no area */
	constructor(points: Points) {
		const n = points.x.length;
		let [cx, cy] = [0, 0];
		for (let i = 0; i < n; i++) [cx, cy] = [cx + points.x[i]! / n, cy + points.y[i]! / n];
		[this.cx, this.cy] = [cx, cy];
		this.x = points.x.map((v) => v - cx);
		this.y = points.y.map((v) => v - cy);
		const flat = new Float64Array(2 * n);
		for (let i = 0; i < n; i++) [flat[2 * i], flat[2 * i + 1]] = [this.x[i]!, this.y[i]!];
		// What lies in one line but for the last digits of its coordinates makes triangles that tell nothing.
		const d = n >= 3 && breadth(this.x, this.y) > LEAST_BREADTH ? new Delaunator(flat) : null;
		if (!d || d.triangles.length === 0)
			fail(
				'in-a-line',
				n < 3 ? `${n} ${n === 1 ? 'place makes' : 'places make'} no triangle` : 'all readings lie in one line: they span no triangle',
				'Take nearest or inverse distance, or add readings beside the line.',
				'method'
			);
		this.triangles = d!.triangles;
		this.halfedges = d!.halfedges;
	}

	/** Twice the signed area of three places; positive where they turn to the left. */
	private static turn(ax: number, ay: number, bx: number, by: number, px: number, py: number): number {
		return (bx - ax) * (py - ay) - (by - ay) * (px - ax);
	}

	/** The triangle that a place (about the middle) lies in; −1 outside all. Places asked one after the other should be near each other. */
	locate(px: number, py: number): number {
		const { triangles: t, halfedges: h, x, y } = this;
		let at = this.last;
		const most = 4 * Math.sqrt(t.length) + 100;
		for (let step = 0; step < most + t.length / 3; step++) {
			let out = -1;
			let hull = false;
			for (let k = 0; k < 3; k++) {
				// Which edge is looked at first changes, so that a walk can not go in a circle.
				const e = 3 * at + ((k + step) % 3);
				const [a, b] = [t[e]!, t[e % 3 === 2 ? e - 2 : e + 1]!];
				// delaunator turns its triangles to the right where y runs up.
				if (Triangulation.turn(x[a]!, y[a]!, x[b]!, y[b]!, px, py) > 0) {
					if (h[e]! >= 0) {
						out = h[e]!;
						break;
					}
					hull = true;
				}
			}
			if (out < 0) {
				this.last = at;
				return hull ? -1 : at;
			}
			at = Math.floor(out / 3);
		}
		return -1;
	}

	/** Shares of the three corners of a triangle at a place; they add up to 1. */
	shares(t: number, px: number, py: number): [number, number, number] {
		const [a, b, c] = [this.triangles[3 * t]!, this.triangles[3 * t + 1]!, this.triangles[3 * t + 2]!];
		const { x, y } = this;
		const whole = Triangulation.turn(x[a]!, y[a]!, x[b]!, y[b]!, x[c]!, y[c]!);
		const u = Triangulation.turn(x[b]!, y[b]!, x[c]!, y[c]!, px, py) / whole;
		const v = Triangulation.turn(x[c]!, y[c]!, x[a]!, y[a]!, px, py) / whole;
		return [u, v, 1 - u - v];
	}
}

/** What is left of shares when some corners do not count; null when nothing is. */
export function sharesOf(parts: readonly (readonly [number, number])[], counts: (i: number) => boolean): [number, number][] | null {
	const left = parts.filter(([i]) => counts(i));
	const sum = left.reduce((s, [, w]) => s + w, 0);
	return sum > 1e-9 ? left.map(([i, w]) => [i, w / sum]) : null;
}
