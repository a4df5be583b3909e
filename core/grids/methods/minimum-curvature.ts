import type { Frame } from '../frame';
import type { MethodInput } from './method';
import { fitPolynomial, polynomialAt } from './trend';

interface MinimumCurvature {
	/** 0 bends least; towards 1 it is drawn tight between the readings, so that it does not swing beyond them. */
	tension: number;
}

/** How hard readings pull, beside the stiffness of the sheet between two nodes. */
const PULL = 1000;
/** Passes over the nodes of one level, at most. */
const MOST_PASSES = 600;
/** A level is done when no node moved by more than this share of the spread of the readings over so many passes. */
const CLOSE = 1e-4;
const WATCHED = 20;

/**
 * The sheet through readings that bends least (Briggs 1974), with tension (Smith & Wessel 1990). Its energy over the nodes, squares of
 * second differences and of slopes, is made least by conjugate gradients, from coarse grids to finer ones; where a barrier parts two
 * nodes no term of the energy joins them. At the rim and beside barriers the sheet is free.
 * @returns values of the frame, and by how much readings are missed: root mean square, in units of the readings
 */
export function minimumCurvature(
	{ points, barriers }: MethodInput,
	frame: Frame,
	{ tension }: MinimumCurvature,
	progress: (share: number) => void = () => {}
): { values: Float32Array; misfit: number } {
	// A plane costs no energy: it is taken off first, and what is left is solved for.
	const plane = planeOf(points);
	const level = points.value.map((v, i) => v - plane(points.x[i]!, points.y[i]!));
	const spread = level.reduce((a, b) => Math.max(a, Math.abs(b)), 0);
	const withPlane = (left: (k: number) => number) =>
		Float32Array.from(
			{ length: frame.nx * frame.ny },
			(_, k) => left(k) + plane(frame.x0 + (k % frame.nx) * frame.dx, frame.y0 + Math.floor(k / frame.nx) * frame.dy)
		);
	const scale = points.value.reduce((a, b) => Math.max(a, Math.abs(b)), 0);
	if (spread <= 1e-12 * scale || frame.nx * frame.ny === 0) return { values: withPlane(() => 0), misfit: 0 };
	const value = level.map((v) => v / spread);
	const levels: Frame[] = [frame];
	while (Math.min(levels[0]!.nx, levels[0]!.ny) > 12) levels.unshift(coarser(levels[0]!));
	let u: Float64Array | null = null;
	let before: Frame | null = null;
	levels.forEach((f, depth) => {
		const start: Float64Array = u && before ? refined(u, before, f, barriers) : new Float64Array(f.nx * f.ny);
		u = relax(f, start, { ...points, value }, barriers, tension, (share) => progress((depth + share) / levels.length));
		before = f;
	});
	const values = withPlane((k) => u![k]! * spread);
	let [squares, counted] = [0, 0];
	for (const r of pullsOf(frame, { ...points, value }, barriers)) {
		let got = 0;
		for (let k = 0; k < r.nodes.length; k++) got += r.weights[k]! * u![r.nodes[k]!]!;
		squares += (got - r.value) ** 2;
		counted++;
	}
	return { values, misfit: counted ? spread * Math.sqrt(squares / counted) : 0 };
}

/** The plane nearest to readings; where they lie in a line, their mean. */
function planeOf(points: MethodInput['points']): (x: number, y: number) => number {
	for (const degree of [1, 0])
		try {
			const p = fitPolynomial(points.x, points.y, points.value, degree);
			return (x, y) => polynomialAt(p, x, y);
		} catch {
			// Too few for this degree.
		}
	return () => 0;
}

/** Half as many nodes each way over the same rectangle. */
function coarser(f: Frame): Frame {
	const [nx, ny] = [Math.max(2, Math.ceil(f.nx / 2)), Math.max(2, Math.ceil(f.ny / 2))];
	return { x0: f.x0, y0: f.y0, dx: ((f.nx - 1) * f.dx) / (nx - 1), dy: ((f.ny - 1) * f.dy) / (ny - 1), nx, ny };
}

/** Values of a coarser level at the nodes of a finer one, straight between them. */
function refined(u: Float64Array, from: Frame, to: Frame, barriers: MethodInput['barriers']): Float64Array {
	const out = new Float64Array(to.nx * to.ny);
	for (let j = 0; j < to.ny; j++) {
		const v = Math.min(from.ny - 1, Math.max(0, (to.y0 + j * to.dy - from.y0) / from.dy));
		const j0 = Math.min(from.ny - 2, Math.floor(v));
		for (let i = 0; i < to.nx; i++) {
			const w = Math.min(from.nx - 1, Math.max(0, (to.x0 + i * to.dx - from.x0) / from.dx));
			const i0 = Math.min(from.nx - 2, Math.floor(w));
			const a = w - i0;
			const b = v - j0;
			const k = j0 * from.nx + i0;
			if (barriers.any) {
				const [x, y] = [to.x0 + i * to.dx, to.y0 + j * to.dy];
				let [sum, weights] = [0, 0];
				const around = quad(from, i0, j0, w, v);
				around.nodes.forEach((node, c) => {
					if (barriers.between(x, y, from.x0 + (node % from.nx) * from.dx, from.y0 + Math.floor(node / from.nx) * from.dy)) return;
					// One that has no weight still tells something where the others are on the other side.
					const weight = around.weights[c]! + 1e-3;
					sum += weight * u[node]!;
					weights += weight;
				});
				out[j * to.nx + i] = weights > 0 ? sum / weights : 0;
				continue;
			}
			out[j * to.nx + i] = (1 - b) * ((1 - a) * u[k]! + a * u[k + 1]!) + b * ((1 - a) * u[k + from.nx]! + a * u[k + from.nx + 1]!);
		}
	}
	return out;
}

interface Pull {
	nodes: number[];
	weights: number[];
	value: number;
}

/** The four nodes about or beside a place, and what each of them tells of it. */
function quad(f: Frame, i: number, j: number, u: number, v: number): Omit<Pull, 'value'> {
	const [a, b] = [u - i, v - j];
	return {
		nodes: [j * f.nx + i, j * f.nx + i + 1, (j + 1) * f.nx + i, (j + 1) * f.nx + i + 1],
		weights: [(1 - a) * (1 - b), a * (1 - b), (1 - a) * b, a * b]
	};
}

/** Steps to the four nodes beside, the nearest first. */
const BESIDE = [
	[0, 0],
	[-1, 0],
	[1, 0],
	[0, -1],
	[0, 1],
	[-1, -1],
	[1, -1],
	[-1, 1],
	[1, 1]
] as const;

/** Which nodes each reading pulls at: the four around it, but not across a barrier. Readings outside the frame pull at none. */
function pullsOf(f: Frame, points: MethodInput['points'], barriers: MethodInput['barriers']): Pull[] {
	const out: Pull[] = [];
	for (let p = 0; p < points.value.length; p++) {
		const [u, v] = [(points.x[p]! - f.x0) / f.dx, (points.y[p]! - f.y0) / f.dy];
		if (u < -0.5 || v < -0.5 || u > f.nx - 0.5 || v > f.ny - 0.5) continue;
		// In the outer half of a cell at the rim it goes straight on.
		const [i, j] = [Math.min(f.nx - 2, Math.max(0, Math.floor(u))), Math.min(f.ny - 2, Math.max(0, Math.floor(v)))];
		let best: Omit<Pull, 'value'> | null = null;
		if (!barriers.any) best = quad(f, i, j, u, v);
		else {
			const seen = (node: number) =>
				!barriers.between(points.x[p]!, points.y[p]!, f.x0 + (node % f.nx) * f.dx, f.y0 + Math.floor(node / f.nx) * f.dy);
			// The nearest four nodes that are all on its side: straight on from them.
			for (const [a, b] of BESIDE) {
				if (i + a < 0 || j + b < 0 || i + a > f.nx - 2 || j + b > f.ny - 2) continue;
				const q = quad(f, i + a, j + b, u, v);
				if (!q.nodes.every(seen)) continue;
				best = q;
				break;
			}
			if (!best) {
				const q = quad(f, i, j, u, v);
				const weights = q.weights.map((w, k) => (seen(q.nodes[k]!) ? w : 0));
				const sum = weights.reduce((s, w) => s + w, 0);
				if (sum < 1e-6) continue;
				best = { nodes: q.nodes, weights: weights.map((w) => w / sum) };
			}
		}
		const { nodes, weights } = best;
		out.push({ nodes, weights, value: points.value[p]! });
	}
	return out;
}

/** Which steps east and north of the nodes no barrier cuts: 1 where a node is joined to the next one. */
function joints(f: Frame, barriers: MethodInput['barriers']): { east: Uint8Array; north: Uint8Array } {
	const [east, north] = [new Uint8Array(f.nx * f.ny), new Uint8Array(f.nx * f.ny)];
	for (let j = 0, k = 0; j < f.ny; j++)
		for (let i = 0; i < f.nx; i++, k++) {
			const [x, y] = [f.x0 + i * f.dx, f.y0 + j * f.dy];
			east[k] = i + 1 < f.nx && !(barriers.any && barriers.between(x, y, x + f.dx, y)) ? 1 : 0;
			north[k] = j + 1 < f.ny && !(barriers.any && barriers.between(x, y, x, y + f.dy)) ? 1 : 0;
		}
	return { east, north };
}

/** The energy of a level as a matrix: a stencil where all joints about a node are open, rows of their own elsewhere. */
class Stiffness {
	readonly diagonal: Float64Array;
	/** Nodes with a row of their own, where each row begins, columns and numbers. */
	private readonly special: Int32Array;
	private readonly start: Int32Array;
	private readonly columns: Int32Array;
	private readonly numbers: Float64Array;
	private readonly plain: Uint8Array;
	private readonly bend: number;
	private readonly tight: number;
	private readonly ratio: number;
	private readonly nx: number;
	private readonly ny: number;

	constructor(f: Frame, barriers: MethodInput['barriers'], tension: number) {
		const { nx, ny } = f;
		const n = nx * ny;
		[this.nx, this.ny] = [nx, ny];
		this.ratio = (f.dx / f.dy) ** 2;
		this.bend = 1 - tension;
		this.tight = tension;
		const { bend, tight, ratio } = this;
		const { east, north } = joints(f, barriers);
		this.plain = new Uint8Array(n);
		for (let j = 2; j < ny - 2; j++)
			for (let i = 2; i < nx - 2; i++) {
				let open = 1;
				for (let b = -2; b <= 1 && open; b++)
					for (let a = -2; a <= 1; a++) {
						const m = (j + b) * nx + i + a;
						open &= east[m]! & north[m]! & east[m + nx]! & north[m + 1]!;
					}
				this.plain[j * nx + i] = open;
			}
		const rows = new Map<number, Map<number, number>>();
		for (let k = 0; k < n; k++) if (!this.plain[k]) rows.set(k, new Map([[k, HOLD]]));
		const term = (weight: number, nodes: readonly number[], factors: readonly number[]) => {
			if (weight === 0) return;
			nodes.forEach((a, p) => {
				const row = rows.get(a);
				if (row) nodes.forEach((b, q) => row.set(b, (row.get(b) ?? 0) + weight * factors[p]! * factors[q]!));
			});
		};
		const SLOPE = [-1, 1];
		const CURVE = [1, -2, 1];
		const TWIST = [1, -1, -1, 1];
		for (let k = 0; k < n; k++) {
			// Far from all nodes with rows of their own there is nothing to do.
			if (
				this.plain[k] &&
				this.plain[Math.min(n - 1, k + 2)] &&
				this.plain[Math.min(n - 1, k + 2 * nx)] &&
				this.plain[Math.min(n - 1, k + nx + 1)] &&
				this.plain[k + 1] &&
				this.plain[k + nx]
			)
				continue;
			if (east[k]) {
				term(tight, [k, k + 1], SLOPE);
				if (east[k + 1]) term(bend, [k, k + 1, k + 2], CURVE);
				if (north[k] && north[k + 1] && east[k + nx]) term(2 * bend * ratio, [k, k + 1, k + nx, k + nx + 1], TWIST);
			}
			if (north[k]) {
				term(tight * ratio, [k, k + nx], SLOPE);
				if (north[k + nx]) term(bend * ratio * ratio, [k, k + nx, k + 2 * nx], CURVE);
			}
		}
		const list = [...rows];
		this.special = Int32Array.from(list, ([k]) => k);
		this.start = new Int32Array(list.length + 1);
		list.forEach(([, row], i) => (this.start[i + 1] = this.start[i]! + row.size));
		this.columns = new Int32Array(this.start[list.length]!);
		this.numbers = new Float64Array(this.columns.length);
		this.diagonal = new Float64Array(n).fill(HOLD + bend * (6 + 8 * ratio + 6 * ratio * ratio) + tight * (2 + 2 * ratio));
		list.forEach(([k, row], i) => {
			let at = this.start[i]!;
			for (const [column, number] of row) {
				this.columns[at] = column;
				this.numbers[at++] = number;
				if (column === k) this.diagonal[k] = number;
			}
		});
	}

	/** out = matrix × v */
	times(v: Float64Array, out: Float64Array): void {
		const { nx, ny, bend, tight, ratio, plain } = this;
		const r2 = ratio * ratio;
		const centre = HOLD + bend * (6 + 8 * ratio + 6 * r2) + tight * (2 + 2 * ratio);
		const side = -bend * (4 + 4 * ratio) - tight;
		const up = -bend * (4 * r2 + 4 * ratio) - tight * ratio;
		const corner = 2 * bend * ratio;
		const far = bend;
		const high = bend * r2;
		for (let j = 2; j < ny - 2; j++)
			for (let k = j * nx + 2, end = j * nx + nx - 2; k < end; k++)
				if (plain[k])
					out[k] =
						centre * v[k]! +
						side * (v[k - 1]! + v[k + 1]!) +
						up * (v[k - nx]! + v[k + nx]!) +
						corner * (v[k - nx - 1]! + v[k - nx + 1]! + v[k + nx - 1]! + v[k + nx + 1]!) +
						far * (v[k - 2]! + v[k + 2]!) +
						high * (v[k - 2 * nx]! + v[k + 2 * nx]!);
		const { special, start, columns, numbers } = this;
		for (let i = 0; i < special.length; i++) {
			let s = 0;
			for (let c = start[i]!; c < start[i + 1]!; c++) s += numbers[c]! * v[columns[c]!]!;
			out[special[i]!] = s;
		}
	}
}

/** Nodes that nothing joins to any reading keep a weak hold on where they began. */
const HOLD = 1e-10;

/** Makes the energy of a level least, from a start. */
function relax(
	f: Frame,
	u: Float64Array,
	points: MethodInput['points'],
	barriers: MethodInput['barriers'],
	tension: number,
	progress: (share: number) => void
): Float64Array {
	const n = f.nx * f.ny;
	const stiffness = new Stiffness(f, barriers, tension);
	const pulls = pullsOf(f, points, barriers);
	const { nodes, weights } = flatPulls(pulls);
	const pull = PULL * Math.max(1, (f.dx / f.dy) ** 4);
	const { diagonal } = stiffness;
	for (let c = 0; c < nodes.length; c++) diagonal[nodes[c]!]! += pull * weights[c]! ** 2;
	const apply = (v: Float64Array, out: Float64Array): void => {
		stiffness.times(v, out);
		for (let c = 0; c < nodes.length; c += 4) {
			const got =
				pull *
				(weights[c]! * v[nodes[c]!]! +
					weights[c + 1]! * v[nodes[c + 1]!]! +
					weights[c + 2]! * v[nodes[c + 2]!]! +
					weights[c + 3]! * v[nodes[c + 3]!]!);
			for (let q = c; q < c + 4; q++) out[nodes[q]!]! += weights[q]! * got;
		}
	};
	const residual = new Float64Array(n);
	const image = new Float64Array(n);
	apply(u, image);
	for (let k = 0; k < n; k++) residual[k] = HOLD * u[k]! - image[k]!;
	pulls.forEach((r, p) => {
		for (let q = 4 * p; q < 4 * p + 4; q++) residual[nodes[q]!]! += pull * weights[q]! * r.value;
	});
	const direction = new Float64Array(n);
	let rz = 0;
	for (let k = 0; k < n; k++) {
		direction[k] = residual[k]! / diagonal[k]!;
		rz += residual[k]! * direction[k]!;
	}
	let moved = 0;
	for (let pass = 0; pass < MOST_PASSES && rz > 0; pass++) {
		if (pass % WATCHED === WATCHED - 1) {
			progress(pass / MOST_PASSES);
			if (moved < CLOSE) break;
			moved = 0;
		}
		apply(direction, image);
		let along = 0;
		for (let k = 0; k < n; k++) along += direction[k]! * image[k]!;
		if (!(along > 0)) break;
		const step = rz / along;
		let next = 0;
		let longest = 0;
		for (let k = 0; k < n; k++) {
			const d = direction[k]!;
			u[k]! += step * d;
			const r = (residual[k]! -= step * image[k]!);
			next += (r * r) / diagonal[k]!;
			if (d > longest) longest = d;
			else if (-d > longest) longest = -d;
		}
		moved += Math.abs(step) * longest;
		const turn = next / rz;
		rz = next;
		for (let k = 0; k < n; k++) direction[k] = residual[k]! / diagonal[k]! + turn * direction[k]!;
	}
	return u;
}

function flatPulls(pulls: readonly Pull[]): { nodes: Int32Array; weights: Float64Array } {
	const nodes = new Int32Array(4 * pulls.length);
	const weights = new Float64Array(4 * pulls.length);
	pulls.forEach((r, p) => {
		nodes.set(r.nodes, 4 * p);
		weights.set(r.weights, 4 * p);
	});
	return { nodes, weights };
}
