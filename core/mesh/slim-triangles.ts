import { sineOfLeast } from './least-angle';
import { NearSheets } from './near-sheets';
import { NEEDLE, StarPlane } from './star-plane';

/** Triangles whose least angle has a smaller sine are mended, if that is possible: 10.5°. */
const SLIM = Math.sin((10.5 * Math.PI) / 180);
/** Distance by which a surface may move at once, as a share of the spacing. */
const TOLERANCE = 0.004;
/** Surfaces that move by less than this share of it can not come through others. */
const NOTHING = 1e-6;
/** What differs by less is taken for the same, so that the last digits of coordinates decide nothing: squares of lengths, sines. */
const LESS = 1 - 1e-5;
const MORE = 1e-6;
const PASSES = 3;
/** Triangles that a vertex may have: beyond, it stays. */
const MOST_ROUND = 64;

/** Part of a mesh that is to be mended. All threads have the whole, in room that they share; each changes triangles of its part only. */
export interface MendTask {
	mend: {
		positions: Float64Array;
		/** They are changed where they are. */
		triangles: Uint32Array;
		/** By triangle: 1 where it is gone. */
		gone: Uint8Array;
		/** By triangle: the part that it is in. */
		partOf: Int16Array;
		part: number;
		/** By triangle: number of the sheet that it is a part of. */
		sheet: Int32Array;
		/** By sheet: 1 where it is given, and may not move at all. */
		given: Uint8Array;
		/** By vertex: 1 where it stays, and all edges to it. */
		still: Uint8Array;
		spacing: number;
	};
}

export interface Mended {
	/** By sheet: volume that came behind it, from before it. */
	gained: Float64Array;
}

/**
 * Mends slim triangles of a part: a vertex goes into a neighbour, or the diagonal of two triangles is changed for the other one, wherever the
 * least angle grows by it (or, of needles, where they become fewer), the surface moves by less than 0.4 % of the spacing (of the longest edge there, where that is less), and it stays
 * what it was: vertices that stay do not move, lines where surfaces meet or end are shortened along themselves only, neighbours go on sharing
 * triangles (link condition of Dey, Edelsbrunner, Guha & Nekhayev 1999), and no surface comes through another. Same result for the same part.
 */
export function mendPart({ mend }: MendTask): Mended {
	const work = new Mending(mend, ownOf(mend));
	for (let pass = 0; pass < PASSES; pass++) if (work.pass() === 0) break;
	return { gained: work.gained };
}

/** The triangles of a part, in their order. */
function ownOf({ partOf, part, gone }: MendTask['mend']): Uint32Array {
	const own = new Uint32Array(partOf.length);
	let count = 0;
	for (let t = 0; t < own.length; t++) if (partOf[t] === part && !gone[t]) own[count++] = t;
	return own.slice(0, count);
}

class Mending {
	private readonly tri: Uint32Array;
	private readonly gone: Uint8Array;
	readonly gained: Float64Array;
	private readonly p: Float64Array;
	private readonly sheet: Int32Array;
	private readonly given: Uint8Array;
	private readonly still: Uint8Array;
	private readonly spacing: number;
	/** By triangle: sine of its least angle. */
	private readonly sine: Float64Array;
	/** Corners of each vertex as chains: `3 t + c`. */
	private readonly head: Int32Array;
	private readonly next: Int32Array;
	/** By vertex: when it was met last, and when as one that lies opposite to an edge. */
	private readonly met: Int32Array;
	private readonly opposite: Int32Array;
	private stamp = 0;
	/** How often something changed; by vertex how often before its triangles did last, by triangle before it was tried last. */
	private changes = 0;
	private readonly changed: Int32Array;
	private readonly tried: Int32Array;
	private readonly near: NearSheets;
	/** Distance that the surface may move round the vertex that was looked at. */
	private tolerance = 0;
	private readonly plane: StarPlane;
	/** The triangles round a vertex: their numbers, and their other two corners in order. */
	private count = 0;
	private readonly round = new Int32Array(MOST_ROUND);
	private readonly first = new Int32Array(MOST_ROUND);
	private readonly second = new Int32Array(MOST_ROUND);
	/** By how much the surface would move. */
	private moved = 0;
	/** Fewer needles count as better. */
	private byNumber = false;
	/** The vertex that was looked at last, and where it was to go. */
	private looked = -1;
	private into = -1;

	constructor(
		{ positions, triangles, gone, sheet, still, given, spacing }: MendTask['mend'],
		private readonly own: Uint32Array
	) {
		this.p = positions;
		this.tri = triangles;
		this.gone = gone;
		this.sheet = sheet;
		this.still = still;
		this.spacing = spacing;
		this.given = given;
		this.gained = new Float64Array(given.length);
		const [count, vertices] = [gone.length, positions.length / 3];
		this.head = new Int32Array(vertices).fill(-1);
		this.next = new Int32Array(3 * count);
		const here = new Uint32Array(Math.min(vertices, 3 * own.length));
		let found = 0;
		for (let i = own.length - 1; i >= 0; i--)
			for (let c = 3 * own[i]! + 2; c >= 3 * own[i]!; c--) {
				if (this.head[triangles[c]!] === -1) here[found++] = triangles[c]!;
				this.hang(c);
			}
		this.met = new Int32Array(vertices);
		this.opposite = new Int32Array(vertices);
		this.changed = new Int32Array(vertices);
		this.tried = new Int32Array(count).fill(-1);
		this.near = new NearSheets(positions, triangles, own, gone, sheet, here.subarray(0, found), spacing);
		this.plane = new StarPlane(positions, MOST_ROUND);
		this.sine = new Float64Array(count);
		for (let i = 0; i < own.length; i++) this.measure(own[i]!);
	}

	/** @returns how many were mended */
	pass(): number {
		const { own, gone, sine, tried } = this;
		let mended = 0;
		for (let i = 0; i < own.length; i++) {
			const t = own[i]!;
			if (gone[t] || sine[t]! >= SLIM || !this.isNew(t)) continue;
			tried[t] = this.changes;
			if (this.mend(t)) mended++;
		}
		return mended;
	}

	/** Whether something changed round a triangle since it could not be mended. */
	private isNew(t: number): boolean {
		const { tri, changed } = this;
		const since = this.tried[t]!;
		return changed[tri[3 * t]!]! > since || changed[tri[3 * t + 1]!]! > since || changed[tri[3 * t + 2]!]! > since;
	}

	private mend(t: number): boolean {
		let [a, b, c] = [this.tri[3 * t]!, this.tri[3 * t + 1]!, this.tri[3 * t + 2]!];
		// Turned until the first edge is the shortest.
		const [ab, bc, ca] = [this.length2(a, b), this.length2(b, c), this.length2(c, a)];
		if (bc < LESS * ab && bc <= ca / LESS) [a, b, c] = [b, c, a];
		else if (ca < LESS * ab) [a, b, c] = [c, a, b];
		const one = this.collapsed(a, b);
		if (one >= SLIM && this.merge(a, b, one)) return true;
		const other = this.collapsed(b, a);
		if (other > one + MORE ? this.merge(b, a, other) || this.merge(a, b, one) : this.merge(a, b, one) || this.merge(b, a, other))
			return true;
		// Then the longest, and the one between.
		const turned = this.length2(b, c) >= LESS * this.length2(c, a);
		const flipped = turned ? this.flip(t, b, c, a) || this.flip(t, c, a, b) : this.flip(t, c, a, b) || this.flip(t, b, c, a);
		if (flipped) return true;
		for (const v of [a, b]) if (this.merge(c, v, this.collapsed(c, v)) || this.merge(v, c, this.collapsed(v, c))) return true;
		return this.sine[t]! < NEEDLE && this.fewer(a, b, c);
	}

	/** Needles stand together where two surfaces come near each other: then it counts that there are fewer of them, though one stays as thin. */
	private fewer(a: number, b: number, c: number): boolean {
		this.byNumber = true;
		const done = [
			[a, b],
			[b, a],
			[c, a],
			[a, c],
			[c, b],
			[b, c]
		].some(([u, v]) => this.merge(u!, v!, this.collapsed(u!, v!)));
		this.byNumber = false;
		return done;
	}

	/** Least sine after a vertex went into a neighbour; −1 where it may not, or where that is no better. Leaves `moved` and what lies round. */
	private collapsed(u: number, v: number): number {
		this.into = v;
		if (this.still[u] || this.still[v]) return -1;
		if (!this.look(u)) return -1;
		let worst = 1;
		let needles = 0;
		for (let i = 0; i < this.count; i++) {
			const sine = this.sine[this.round[i]!]!;
			worst = Math.min(worst, sine);
			if (sine < NEEDLE) needles++;
		}
		const floor = this.byNumber ? worst / 2 : worst + MORE;
		// Most are no better: that is told first, for it is told soonest.
		for (let i = 0; i < this.count; i++) {
			const [a, b] = [this.first[i]!, this.second[i]!];
			if (a !== v && b !== v && sineOfLeast(this.p, v, a, b) < floor - MORE / 10) return -1;
		}
		if (!this.linked(u, v)) return -1;
		this.moved = 0;
		let least = 1;
		let beyond = -1;
		let sheets = 0;
		// A line on a sheet that is given moves along itself only.
		let limit = this.tolerance;
		for (let i = 0; i < this.count; i++) {
			const sheet = this.sheet[this.round[i]!]!;
			if (this.before(i, sheet)) continue;
			sheets++;
			limit = Math.min(limit, this.mayMove(sheet));
			const end = this.plane.fan(u, v, sheet, this.count, this.round, this.sheet, this.first, this.second);
			// Where it is not closed it ends on a line, which is to go on to one place beyond, the same for all sheets.
			if (end === StarPlane.NO) return -1;
			if (end === StarPlane.CLOSED ? sheets > 1 : sheets > 1 && beyond !== end) return -1;
			beyond = end;
			const sine = this.plane.without(end !== StarPlane.CLOSED, floor, this.mayMove(sheet));
			if (sine < 0) return -1;
			needles -= this.plane.needles;
			least = Math.min(least, sine);
			this.moved = Math.max(this.moved, this.plane.moved);
		}
		if (beyond >= 0) this.moved = Math.max(this.moved, this.fromSegment(u, v, beyond));
		return this.moved > limit || (this.byNumber && needles <= 0) ? -1 : least;
	}

	/** Distance by which a sheet may move round the vertex that was looked at. */
	private mayMove(sheet: number): number {
		return this.given[sheet] ? NOTHING * this.tolerance : this.tolerance;
	}

	/** Whether one of the triangles before is of a sheet. */
	private before(i: number, sheet: number): boolean {
		for (let k = 0; k < i; k++) if (this.sheet[this.round[k]!] === sheet) return true;
		return false;
	}

	/** A vertex goes into a neighbour, if that is good and no surface comes through another. */
	private merge(u: number, v: number, least: number): boolean {
		if (least < 0) return false;
		// What was looked at last may be something else.
		if (this.looked !== u || this.into !== v) this.collapsed(u, v);
		if (this.moved > NOTHING * this.tolerance && this.near.crossedRound(u, v, this.count, this.first, this.second)) return false;
		this.changed[v] = ++this.changes;
		for (let i = 0; i < this.count; i++) {
			const [t, a, b] = [this.round[i]!, this.first[i]!, this.second[i]!];
			this.changed[a] = this.changed[b] = this.changes;
			this.gain(t, -this.volume(v, u, a, b));
			if (a === v || b === v) {
				this.gone[t] = 1;
				continue;
			}
			const known = this.near.covers(u, a, b, v);
			for (let c = 3 * t; c < 3 * t + 3; c++)
				if (this.tri[c] === u) {
					this.tri[c] = v;
					this.hang(c);
				}
			this.measure(t);
			if (!known) this.near.add(t);
		}
		this.head[u] = -1;
		this.looked = -1;
		return true;
	}

	/** Two triangles of one sheet, a b c and b a d, get the other diagonal, if that is better. */
	private flip(t: number, a: number, b: number, c: number): boolean {
		this.into = -1;
		if (this.still[a] || this.still[b] || this.still[c] || !this.look(a)) return false;
		let [other, d, shared] = [-1, -1, 0];
		for (let i = 0; i < this.count; i++) {
			if (this.first[i] !== b && this.second[i] !== b) continue;
			shared++;
			if (this.round[i] === t) continue;
			other = this.round[i]!;
			d = this.first[i] === b ? this.second[i]! : this.first[i]!;
		}
		if (shared !== 2 || this.sheet[other] !== this.sheet[t] || d === c || this.still[d] || this.joined(c, d)) return false;
		const was = Math.min(this.sine[t]!, this.sine[other]!);
		const is = this.plane.turned(a, b, c, d);
		if (is <= was + MORE || this.plane.moved > this.mayMove(this.sheet[t]!)) return false;
		if (this.plane.moved > NOTHING * this.tolerance && (this.near.crossed(a, d, c, t, other) || this.near.crossed(d, b, c, t, other)))
			return false;
		this.gain(t, -this.volume(d, a, b, c));
		this.changed[a] = this.changed[b] = this.changed[c] = this.changed[d] = ++this.changes;
		for (const s of [t, other]) for (let e = 3 * s; e < 3 * s + 3; e++) this.unhang(e);
		this.tri.set([a, d, c], 3 * t);
		this.tri.set([d, b, c], 3 * other);
		for (const s of [t, other]) {
			for (let e = 3 * s; e < 3 * s + 3; e++) this.hang(e);
			this.measure(s);
			this.near.add(s);
		}
		return true;
	}

	private joined(c: number, d: number): boolean {
		for (let e = this.head[c]!; e >= 0; e = this.next[e]!) {
			const t = 3 * ((e / 3) | 0);
			if (!this.gone[t / 3] && (this.tri[t] === d || this.tri[t + 1] === d || this.tri[t + 2] === d)) return true;
		}
		return false;
	}

	/** What lies behind a triangle gains a volume, what lies before it loses it. */
	private gain(t: number, volume: number): void {
		const sheet = this.sheet[t]!;
		this.gained[sheet] = this.gained[sheet]! + volume;
	}

	/** Whether what two vertices share is their edge and nothing else, so that nothing is torn or folded together. */
	private linked(u: number, v: number): boolean {
		const stamp = ++this.stamp;
		for (let i = 0; i < this.count; i++) {
			const [a, b] = [this.first[i]!, this.second[i]!];
			this.met[a] = this.met[b] = stamp;
			if (a === v) this.opposite[b] = stamp;
			else if (b === v) this.opposite[a] = stamp;
		}
		for (let e = this.head[v]!; e >= 0; e = this.next[e]!) {
			const t = (e / 3) | 0;
			if (this.gone[t]) continue;
			const k = e - 3 * t;
			const [x, y] = [this.tri[3 * t + ((k + 1) % 3)]!, this.tri[3 * t + ((k + 2) % 3)]!];
			if (x === u || y === u) continue;
			const [ofX, ofY] = [this.met[x] === stamp, this.met[y] === stamp];
			if ((ofX && this.opposite[x] !== stamp) || (ofY && this.opposite[y] !== stamp)) return false;
			if (ofX && ofY)
				for (let i = 0; i < this.count; i++) {
					const [a, b] = [this.first[i]!, this.second[i]!];
					if ((a === x && b === y) || (a === y && b === x)) return false;
				}
		}
		return true;
	}

	/** Gathers the triangles round a vertex. @returns whether there are few enough */
	private look(v: number): boolean {
		this.looked = v;
		let n = 0;
		let longest = 0;
		for (let e = this.head[v]!; e >= 0; e = this.next[e]!) {
			const t = (e / 3) | 0;
			if (this.gone[t]) continue;
			if (n === MOST_ROUND) return false;
			const k = e - 3 * t;
			this.round[n] = t;
			this.first[n] = this.tri[3 * t + ((k + 1) % 3)]!;
			this.second[n++] = this.tri[3 * t + ((k + 2) % 3)]!;
			longest = Math.max(longest, this.length2(v, this.first[n - 1]!));
		}
		this.count = n;
		this.tolerance = TOLERANCE * Math.min(this.spacing, Math.sqrt(longest));
		return true;
	}

	private measure(t: number): void {
		this.sine[t] = sineOfLeast(this.p, this.tri[3 * t]!, this.tri[3 * t + 1]!, this.tri[3 * t + 2]!);
	}

	private length2(a: number, b: number): number {
		const { p } = this;
		return (p[3 * b]! - p[3 * a]!) ** 2 + (p[3 * b + 1]! - p[3 * a + 1]!) ** 2 + (p[3 * b + 2]! - p[3 * a + 2]!) ** 2;
	}

	/** Distance of a vertex from the straight line between two others. */
	private fromSegment(v: number, a: number, b: number): number {
		const { p } = this;
		const [dx, dy, dz] = [p[3 * b]! - p[3 * a]!, p[3 * b + 1]! - p[3 * a + 1]!, p[3 * b + 2]! - p[3 * a + 2]!];
		const [wx, wy, wz] = [p[3 * v]! - p[3 * a]!, p[3 * v + 1]! - p[3 * a + 1]!, p[3 * v + 2]! - p[3 * a + 2]!];
		const size = dx * dx + dy * dy + dz * dz;
		const t = size > 0 ? Math.min(1, Math.max(0, (dx * wx + dy * wy + dz * wz) / size)) : 0;
		return Math.sqrt((wx - t * dx) ** 2 + (wy - t * dy) ** 2 + (wz - t * dz) ** 2);
	}

	/** Volume between a vertex and a triangle, greater than 0 when the vertex lies behind it. */
	private volume(o: number, a: number, b: number, c: number): number {
		const { p } = this;
		const [ox, oy, oz] = [p[3 * o]!, p[3 * o + 1]!, p[3 * o + 2]!];
		const [ax, ay, az] = [p[3 * a]! - ox, p[3 * a + 1]! - oy, p[3 * a + 2]! - oz];
		const [bx, by, bz] = [p[3 * b]! - ox, p[3 * b + 1]! - oy, p[3 * b + 2]! - oz];
		const [cx, cy, cz] = [p[3 * c]! - ox, p[3 * c + 1]! - oy, p[3 * c + 2]! - oz];
		return (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6;
	}

	private hang(corner: number): void {
		const v = this.tri[corner]!;
		this.next[corner] = this.head[v]!;
		this.head[v] = corner;
	}

	private unhang(corner: number): void {
		const v = this.tri[corner]!;
		if (this.head[v] === corner) {
			this.head[v] = this.next[corner]!;
			return;
		}
		for (let c = this.head[v]!; c >= 0; c = this.next[c]!)
			if (this.next[c] === corner) {
				this.next[c] = this.next[corner]!;
				return;
			}
	}
}
