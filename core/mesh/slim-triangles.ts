import { EvenVolume, GIVEN, NOTHING, TOLERANCE } from './given-surfaces';
import { leastSquared } from './least-angle';
import type { Mended, MendTask } from './mend-task';
import { NearSheets } from './near-sheets';
import { CLOSED, MOST_ROUND, NO, Star, StarPlane } from './star-plane';
import { distanceFromEdge, distanceSquared, sixfoldVolume } from './vertex-places';

/** Triangles whose least angle has a smaller sine are mended, if that is possible: 10.5°. */
const SLIM = Math.sin((10.5 * Math.PI) / 180);
/** Triangles whose least angle has a smaller sine are needles: 1°. */
const NEEDLE = Math.sin(Math.PI / 180);
/** What differs by less is taken for the same, so that the last digits of coordinates decide nothing: squares of lengths, sines. */
const LESS = 1 - 1e-5;
const MORE = 1e-6;
/** Where parts are asked to be finer no edge becomes longer than this times the longest there, so that they stay so. */
const LONGER = 1.3;
const PASSES = 3;
/** By vertex, in a chain of corners: that there are no more. */
const END = 0;
const NONE = -1;

/**
 * Mends slim triangles of a part: a vertex goes into a neighbour, or the diagonal of two triangles is changed for the other one, wherever the
 * least angle grows by it (or, of needles, where they become fewer), the surface moves by less than 0.4 % of the spacing (of the longest edge
 * there, where that is less; one that is given by half of that), and it stays what it was: vertices that stay do not move, lines where surfaces
 * meet or end are shortened along themselves only, neighbours go on sharing triangles (link condition of Dey, Edelsbrunner, Guha & Nekhayev
 * 1999), and no surface comes through another. Same result for the same part.
 */
export function mendPart({ mend }: MendTask): Mended {
	const work = new Mending(mend, ownOf(mend));
	for (let pass = 0; pass < PASSES; pass++) if (work.pass() === 0) break;
	return { gained: work.gained };
}

/** The triangles of a part, in their order. */
function ownOf({ partOf, part, gone, from, to }: MendTask['mend']): Uint32Array {
	const own = new Uint32Array(to - from);
	let count = 0;
	for (let t = from; t < to; t++) if (partOf[t] === part && !gone[t]) own[count++] = t;
	return own.subarray(0, count);
}

class Mending {
	private readonly tri: Uint32Array;
	private readonly gone: Uint8Array;
	readonly gained: Float64Array;
	private readonly p: Float64Array;
	private readonly sheet: Int32Array;
	private readonly given: Int8Array;
	private readonly still: Uint8Array;
	private readonly spacing: number;
	/** By triangle: square of the sine of its least angle. */
	private readonly square: Float64Array;
	/** Corners of each vertex as chains: `3 t + c + 1`. */
	private readonly head: Int32Array;
	private readonly next: Int32Array;
	/** By vertex: when it was met last, and when as one that lies opposite to an edge. */
	private readonly met: Int32Array;
	private readonly opposite: Int32Array;
	private stamp = 0;
	/** How often something changed; by vertex how often when its triangles did last, by triangle when it was tried last. */
	private changes = 1;
	private readonly changed: Int32Array;
	private readonly tried: Int32Array;
	private readonly near: NearSheets;
	private readonly plane: StarPlane;
	/** What lies round the corners of the triangle that is to be mended. */
	private readonly atA = new Star();
	private readonly atB = new Star();
	private readonly atC = new Star();
	private readonly hasFiner: boolean;
	/** Fewer needles count as better. */
	private byNumber = false;
	private readonly even: EvenVolume;

	constructor(
		{ positions, triangles, gone, sheet, still, given, spacing, lattice, fineness }: MendTask['mend'],
		private readonly own: Uint32Array
	) {
		this.p = positions;
		this.tri = triangles;
		this.gone = gone;
		this.sheet = sheet;
		this.still = still;
		this.spacing = spacing;
		this.hasFiner = fineness > 1;
		this.given = given;
		this.gained = new Float64Array(given.length);
		const [count, vertices] = [gone.length, positions.length / 3];
		// Room that is never touched costs nothing: all of it begins with 0, and nothing is filled.
		this.head = new Int32Array(vertices);
		this.next = new Int32Array(3 * count);
		this.met = new Int32Array(vertices);
		this.opposite = new Int32Array(vertices);
		this.changed = new Int32Array(vertices);
		this.tried = new Int32Array(count);
		this.square = new Float64Array(count);
		this.chain();
		this.even = new EvenVolume({ positions, triangles, sheet, given }, own, still, spacing);
		this.near = new NearSheets(positions, triangles, own, gone, sheet, lattice, fineness);
		this.plane = new StarPlane(positions);
	}

	/** Hangs all corners to their vertices, and measures the triangles. */
	private chain(): void {
		const { own, tri, head, next, square, p } = this;
		for (let i = own.length - 1; i >= 0; i--) {
			const t = own[i]!;
			for (let c = 3 * t + 2; c >= 3 * t; c--) {
				const v = tri[c]!;
				next[c] = head[v]!;
				head[v] = c + 1;
			}
			square[t] = leastSquared(p, tri[3 * t]!, tri[3 * t + 1]!, tri[3 * t + 2]!);
		}
	}

	/** @returns how many were mended */
	pass(): number {
		const { own, gone, square, tried } = this;
		let mended = 0;
		for (let i = 0; i < own.length; i++) {
			const t = own[i]!;
			if (square[t]! >= SLIM * SLIM || gone[t] || !this.isNew(t)) continue;
			tried[t] = this.changes;
			this.even.isUneven = false;
			if (this.mend(t)) mended++;
			else if (this.even.isUneven) tried[t] = 0;
		}
		return mended;
	}

	/** Whether something changed round a triangle since it could not be mended. */
	private isNew(t: number): boolean {
		const { tri, changed } = this;
		const since = this.tried[t]!;
		return since === 0 || changed[tri[3 * t]!]! > since || changed[tri[3 * t + 1]!]! > since || changed[tri[3 * t + 2]!]! > since;
	}

	private mend(t: number): boolean {
		const { tri, atA, atB, atC } = this;
		let a = tri[3 * t]!;
		let b = tri[3 * t + 1]!;
		let c = tri[3 * t + 2]!;
		// Turned until the first edge is the shortest.
		const ab = distanceSquared(this.p, a, b);
		const bc = distanceSquared(this.p, b, c);
		const ca = distanceSquared(this.p, c, a);
		const first = a;
		if (bc < LESS * ab && bc <= ca / LESS) {
			a = b;
			b = c;
			c = first;
		} else if (ca < LESS * ab) {
			a = c;
			c = b;
			b = first;
		}
		atA.u = atB.u = atC.u = NONE;
		this.collapse(atA, a, b);
		if (atA.least >= SLIM) {
			if (this.merge(atA)) return true;
			atA.least = -1;
		}
		this.collapse(atB, b, a);
		if (atB.least > atA.least + MORE ? this.merge(atB) || this.merge(atA) : this.merge(atA) || this.merge(atB)) return true;
		// Then the longest, and the one between.
		const turned = distanceSquared(this.p, b, c) >= LESS * distanceSquared(this.p, c, a);
		if (turned ? this.flip(atB, t, b, c, a) || this.flip(atC, t, c, a, b) : this.flip(atC, t, c, a, b) || this.flip(atB, t, b, c, a))
			return true;
		if (this.goes(atA, a, c) || this.goes(atB, b, c)) return true;
		return this.square[t]! < square(NEEDLE) && this.fewer(a, b, c);
	}

	/** Needles stand together where two surfaces come near each other: then it counts that there are fewer of them, though one stays as thin. */
	private fewer(a: number, b: number, c: number): boolean {
		const { atA, atB, atC } = this;
		this.byNumber = true;
		const done =
			this.goes(atA, a, b) ||
			this.goes(atB, b, a) ||
			this.goes(atC, c, a) ||
			this.goes(atA, a, c) ||
			this.goes(atC, c, b) ||
			this.goes(atB, b, c);
		this.byNumber = false;
		return done;
	}

	/** A vertex goes into a neighbour, if that is good. */
	private goes(s: Star, u: number, v: number): boolean {
		this.collapse(s, u, v);
		return this.merge(s);
	}

	/** Looks at what would come of it if a vertex went into a neighbour. */
	private collapse(s: Star, u: number, v: number): void {
		s.least = -1;
		if (this.still[u] || this.still[v] || !this.look(s, u)) return;
		s.v = v;
		const { count, first, second, after } = s;
		const { p } = this;
		const floor = this.byNumber ? Math.sqrt(s.worst) / 2 : Math.sqrt(s.worst) + MORE;
		const bar = floor * floor;
		let least = 1;
		let needles = s.needles;
		// Most are no better: that is told first, for it is told soonest.
		for (let i = 0; i < count; i++) {
			const a = first[i]!;
			const b = second[i]!;
			if (a === v || b === v) continue;
			const is = leastSquared(p, v, a, b);
			if (is <= bar || (this.hasFiner && distanceSquared(p, v, a) > LONGER * LONGER * s.longest)) return;
			if (is < least) least = is;
			if (is < square(NEEDLE)) needles--;
			after[i] = is;
		}
		if (this.byNumber && needles <= 0) return;
		if (this.linked(s) && this.stays(s)) s.least = Math.sqrt(least);
	}

	/** Whether all sheets round a vertex stay what they are when it goes into its neighbour. Finds by how much they move. */
	private stays(s: Star): boolean {
		const { count, round } = s;
		s.moved = 0;
		let beyond = -1;
		let sheets = 0;
		let seen = 0;
		// A line on a sheet that is given moves along itself only.
		let limit = s.tolerance;
		for (let i = 0; i < count && seen < count; i++) {
			const sheet = this.sheet[round[i]!]!;
			if (seen > 0 && this.before(s, i, sheet)) continue;
			sheets++;
			const own = this.mayMove(s, sheet);
			if (own < limit) limit = own;
			const end = this.plane.fan(s, sheet, this.sheet);
			// Where it is not closed it ends on a line, which is to go on to one place beyond, the same for all sheets.
			if (end === NO || (sheets > 1 && (end === CLOSED || beyond !== end))) return false;
			beyond = end;
			if (!this.plane.without(end !== CLOSED, own)) return false;
			if (this.plane.moved > s.moved) s.moved = this.plane.moved;
			seen += this.plane.n;
		}
		if (beyond >= 0) s.moved = Math.max(s.moved, distanceFromEdge(this.p, s.u, s.v, beyond));
		return s.moved <= limit;
	}

	/** Distance by which a sheet may move round a vertex. */
	private mayMove({ tolerance }: Star, sheet: number): number {
		return this.given[sheet] ? GIVEN * tolerance : tolerance;
	}

	/** Volume that comes to what a surface is given for when a vertex has gone into its neighbour. */
	private raisedBy({ u, v, count, round, first, second }: Star): number {
		let volume = 0;
		for (let i = 0; i < count; i++) {
			const is = this.given[this.sheet[round[i]!]!]!;
			if (is !== 0) volume -= (is * sixfoldVolume(this.p, v, u, first[i]!, second[i]!)) / 6;
		}
		return volume;
	}

	/** Whether one of the triangles before is of a sheet. */
	private before({ round }: Star, i: number, sheet: number): boolean {
		for (let k = 0; k < i; k++) if (this.sheet[round[k]!] === sheet) return true;
		return false;
	}

	/** A vertex goes into a neighbour, if that is good and no surface comes through another. */
	private merge(s: Star): boolean {
		if (s.least < 0) return false;
		const { u, v, count, round, first, second, after } = s;
		const { tri, near, changed } = this;
		const raised = this.raisedBy(s);
		if (!this.even.allows(raised)) return false;
		if (s.moved > NOTHING * s.tolerance && near.crossedRound(u, v, count, first, second)) return false;
		this.even.add(raised);
		changed[v] = ++this.changes;
		for (let i = 0; i < count; i++) {
			const t = round[i]!;
			const a = first[i]!;
			const b = second[i]!;
			changed[a] = changed[b] = this.changes;
			this.gain(t, -sixfoldVolume(this.p, v, u, a, b) / 6);
			if (a === v || b === v) {
				this.gone[t] = 1;
				continue;
			}
			const corner = 3 * t + (tri[3 * t] === u ? 0 : tri[3 * t + 1] === u ? 1 : 2);
			tri[corner] = v;
			this.hang(corner);
			this.square[t] = after[i]!;
			near.moved(t, u, v, a, b);
		}
		this.head[u] = END;
		return true;
	}

	/** Two triangles of one sheet, a b c and b a d, get the other diagonal, if that is better. */
	private flip(at: Star, t: number, a: number, b: number, c: number): boolean {
		const { tri, sheet, still, square, plane, near, changed } = this;
		if (still[a] || still[b] || still[c] || !this.look(at, a)) return false;
		let other = -1;
		let d = -1;
		let shared = 0;
		for (let i = 0; i < at.count; i++) {
			const x = at.first[i]!;
			const y = at.second[i]!;
			if (x !== b && y !== b) continue;
			shared++;
			if (at.round[i] === t) continue;
			other = at.round[i]!;
			d = x === b ? y : x;
		}
		if (shared !== 2 || sheet[other] !== sheet[t] || d === c || still[d] || this.joined(c, d)) return false;
		if (this.hasFiner && distanceSquared(this.p, c, d) > LONGER * LONGER * at.longest) return false;
		const was = Math.sqrt(Math.min(square[t]!, square[other]!)) + MORE;
		const is = plane.turned(a, b, c, d);
		if (is <= was * was) return false;
		if (plane.moved > this.mayMove(at, sheet[t]!)) return false;
		const volume = -sixfoldVolume(this.p, d, a, b, c) / 6;
		const raised = this.given[sheet[t]!]! * volume;
		if (!this.even.allows(raised)) return false;
		if (plane.moved > NOTHING * at.tolerance && (near.crossed(a, d, c, t, other) || near.crossed(d, b, c, t, other))) return false;
		this.gain(t, volume);
		this.even.add(raised);
		changed[a] = changed[b] = changed[c] = changed[d] = ++this.changes;
		for (const s of [t, other]) for (let e = 3 * s; e < 3 * s + 3; e++) this.unhang(e);
		tri.set([a, d, c], 3 * t);
		tri.set([d, b, c], 3 * other);
		for (const s of [t, other]) {
			for (let e = 3 * s; e < 3 * s + 3; e++) this.hang(e);
			square[s] = leastSquared(this.p, tri[3 * s]!, tri[3 * s + 1]!, tri[3 * s + 2]!);
			near.add(s);
		}
		return true;
	}

	private joined(c: number, d: number): boolean {
		const { tri, gone, next } = this;
		for (let e = this.head[c]!; e !== END; e = next[e - 1]!) {
			const t = ((e - 1) / 3) | 0;
			if (!gone[t] && (tri[3 * t] === d || tri[3 * t + 1] === d || tri[3 * t + 2] === d)) return true;
		}
		return false;
	}

	/** What lies behind a triangle gains a volume, what lies before it loses it. */
	private gain(t: number, volume: number): void {
		const sheet = this.sheet[t]!;
		this.gained[sheet] = this.gained[sheet]! + volume;
	}

	/** Whether what two vertices share is their edge and nothing else, so that nothing is torn or folded together. */
	private linked({ u, v, count, first, second }: Star): boolean {
		const { met, opposite, tri, gone, next } = this;
		const stamp = ++this.stamp;
		for (let i = 0; i < count; i++) {
			const a = first[i]!;
			const b = second[i]!;
			met[a] = met[b] = stamp;
			if (a === v) opposite[b] = stamp;
			else if (b === v) opposite[a] = stamp;
		}
		for (let e = this.head[v]!; e !== END; e = next[e - 1]!) {
			const corner = e - 1;
			const t = (corner / 3) | 0;
			if (gone[t]) continue;
			const k = corner - 3 * t;
			const x = tri[k === 2 ? 3 * t : corner + 1]!;
			const y = tri[k === 0 ? 3 * t + 2 : corner - 1]!;
			if (x === u || y === u) continue;
			const ofX = met[x] === stamp;
			const ofY = met[y] === stamp;
			if ((ofX && opposite[x] !== stamp) || (ofY && opposite[y] !== stamp)) return false;
			if (ofX && ofY)
				for (let i = 0; i < count; i++) {
					const a = first[i]!;
					const b = second[i]!;
					if ((a === x && b === y) || (a === y && b === x)) return false;
				}
		}
		return true;
	}

	/** Gathers the triangles round a vertex, if that was not done. @returns whether there are few enough */
	private look(s: Star, v: number): boolean {
		if (s.u === v) return s.count > 0;
		const { p, tri, gone, next, square: squares } = this;
		const { round, first, second } = s;
		const vx = p[3 * v]!;
		const vy = p[3 * v + 1]!;
		const vz = p[3 * v + 2]!;
		s.u = v;
		s.count = 0;
		let n = 0;
		let longest = 0;
		let worst = 1;
		let needles = 0;
		for (let e = this.head[v]!; e !== END; e = next[e - 1]!) {
			const corner = e - 1;
			const t = (corner / 3) | 0;
			if (gone[t]) continue;
			if (n === MOST_ROUND) return false;
			const k = corner - 3 * t;
			const a = tri[k === 2 ? 3 * t : corner + 1]!;
			round[n] = t;
			first[n] = a;
			second[n++] = tri[k === 0 ? 3 * t + 2 : corner - 1]!;
			const is = squares[t]!;
			if (is < worst) worst = is;
			if (is < square(NEEDLE)) needles++;
			const x = p[3 * a]! - vx;
			const y = p[3 * a + 1]! - vy;
			const z = p[3 * a + 2]! - vz;
			const length = x * x + y * y + z * z;
			if (length > longest) longest = length;
		}
		s.count = n;
		s.worst = worst;
		s.needles = needles;
		s.longest = longest;
		s.tolerance = TOLERANCE * Math.min(this.spacing, Math.sqrt(longest));
		return true;
	}

	private hang(corner: number): void {
		const v = this.tri[corner]!;
		this.next[corner] = this.head[v]!;
		this.head[v] = corner + 1;
	}

	private unhang(corner: number): void {
		const { next } = this;
		const v = this.tri[corner]!;
		if (this.head[v] === corner + 1) {
			this.head[v] = next[corner]!;
			return;
		}
		for (let e = this.head[v]!; e !== END; e = next[e - 1]!)
			if (next[e - 1] === corner + 1) {
				next[e - 1] = next[corner]!;
				return;
			}
	}
}

const square = (x: number): number => x * x;
