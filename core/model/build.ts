import { isInZone } from '../fields/bounded';
import type { Field } from '../fields/field';
import { evaluateField } from '../kernels/field-kernel';
import { sampleRaster } from '../grids/raster';
import { AIR, cutLattice, FAULT, LIMIT, OUTSIDE, TERRAIN, type Decision, type LatticeFunction, type SolidMesh } from '../mesh/cut-lattice';
import { dropSpecks } from '../mesh/specks';
import { latticeOf, nodeCount, nodePositions, type Lattice } from '../mesh/lattice';
import type { FittedFault } from './faults';
import type { Ground } from './fit-ground';
import { insideLimits } from './limits';
import { faultsOf } from './whole';
import { walkOf, type FieldSource, type Walk } from './walk';

/** Evaluates a field, seen from a fault block, at points (flat xyz). The default does it on the spot; hosts give one that uses threads. */
export type Evaluate = (field: Field, block: number, xyz: Float64Array) => Promise<Float64Array>;

export const evaluateHere: Evaluate = async (field, block, xyz) => evaluateField(field, block, xyz);

export interface BuildOptions {
	spacing: number;
	/** Connected parts of less than this volume become part of what is around them, cubic length units; 0 keeps all. */
	leastPart?: number;
	evaluate?: Evaluate;
	progress?: (what: string, share: number) => void;
	signal?: AbortSignal;
}

export interface BuiltModel {
	lattice: Lattice;
	mesh: SolidMesh;
	/** Evaluations of a field at a node. */
	evaluations: number;
	/** Loose parts that were too small to keep. */
	specks: { dropped: number; volume: number };
}

/** Cuts pass no nearer to a node than this share of the spacing. */
const LEAST = 2e-4;

/** Share of the time that the fields take, as far as progress goes; the solids take the rest. */
const FIELDS = 0.5;

/**
 * Memory that a build needs, in bytes, and the number of cells: to be said before it starts.
 * Measured, not derived: bytes for each node (values of the fields) and for each cell near a surface (pieces and triangles).
 */
export function estimateBuild(ground: { extent: Parameters<typeof latticeOf>[0]; column: readonly unknown[] }, spacing: number): { cells: number; bytes: number } {
	const l = latticeOf(ground.extent, spacing);
	const cells = l.nx * l.ny * l.nz;
	const surfaces = ground.column.length + 2;
	return { cells, bytes: nodeCount(l) * (10 + 8 * surfaces) + l.nx * l.ny * surfaces * 1200 + 120e6 };
}

/**
 * Builds closed, touching solids of all units and the surfaces between them on a lattice.
 * The fields are evaluated only at the nodes that can matter: below the terrain, and in the part of the ground that the walk
 * from young to old can still reach.
 * @throws ProblemError from `latticeOf`; an AbortError when the signal is raised
 */
export async function buildModel(ground: Ground, options: BuildOptions): Promise<BuiltModel> {
	const { evaluate = evaluateHere, progress = () => {}, signal } = options;
	const l = latticeOf(ground.input.extent, options.spacing);
	const { root, sources, questions } = walkOf(ground);
	const nodes = new NodeSets(l);
	const values = new Map<number, Float64Array>();
	let evaluations = 0;

	const evaluateSource = async (source: FieldSource, set: Uint8Array) => {
		signal?.throwIfAborted();
		let v = values.get(source.id);
		if (!v) values.set(source.id, (v = new Float64Array(nodeCount(l)).fill(NaN)));
		const missing = nodes.list(set, v);
		if (missing.length === 0) return v;
		progress('fields on the lattice', (FIELDS * values.size) / (sources.length + 1));
		const result = await evaluate(source.field, source.block, nodePositions(l, missing));
		for (let i = 0; i < missing.length; i++) v[missing[i]!] = result[i]!;
		evaluations += missing.length;
		return v;
	};

	const visit = async (walk: Walk, set: Uint8Array): Promise<void> => {
		if (!('question' in walk)) return;
		const { source, level } = walk.question;
		const v = await evaluateSource(source, set);
		for (const above of [true, false]) {
			const next = above ? walk.above : walk.below;
			if (!('question' in next)) continue;
			const part = nodes.side(set, v, level, above);
			if (part) await visit(next, part);
		}
	};

	const terrain = terrainFunction(ground, l);
	await visit(root, terrain ? nodes.side(nodes.all(), terrain.values, 0, false) ?? new Uint8Array(nodeCount(l)) : nodes.all());

	const functions: LatticeFunction[] = questions.map((q) => ({
		values: values.get(q.source.id) ?? new Float64Array(nodeCount(l)).fill(NaN),
		level: q.level,
		surface: q.surface.kind === 'fault' ? FAULT + q.surface.fault : q.surface.unit
	}));
	// Fields are in units of their own: one least value serves all because each has a slope near 1.
	const unit = sources[0]?.field.unit ?? 1;
	let top = decisionOf(root);
	const inside = insideLimits(ground.input);
	if (inside) {
		functions.push({ values: nodeFunction(l, (x, y, z) => inside(x, y, z) / unit), level: 0, surface: LIMIT });
		top = { function: functions.length - 1, above: top, below: { leaf: 0xfffe, label: OUTSIDE } };
	}
	if (terrain) {
		const scaled = { ...terrain, values: terrain.values.map((v) => v / unit) };
		functions.push(scaled);
		top = { function: functions.length - 1, above: { leaf: 0xffff, label: AIR }, below: top };
	}
	signal?.throwIfAborted();
	const mesh = cutLattice(l, top, functions, (LEAST * options.spacing) / unit, (share) => progress('solids', FIELDS + (1 - FIELDS) * share));
	const { mesh: tidy, ...specks } = dropSpecks(tidyBeyondTips(mesh, faultsOf(ground), options.spacing), options.leastPart ?? 0);
	return { lattice: l, mesh: tidy, evaluations, specks };
}

/**
 * A fault that dies out parts the lattice beyond its tips, too. There nothing differs across it: it is not drawn, and what was cut
 * from either side meets at the same vertices, which are made one.
 */
function tidyBeyondTips(mesh: SolidMesh, faults: readonly FittedFault[], spacing: number): SolidMesh {
	if (!faults.some((f) => f.zone)) return mesh;
	const { positions: p, front, back, surface } = mesh;
	const zoneOf = (t: number) => (surface[t]! >= FAULT ? faults[surface[t]! - FAULT]?.zone : null);
	const one = new Uint32Array(p.length / 3).map((_, v) => v);
	const known = new Map<string, number>();
	for (let t = 0; t < front.length; t++) {
		if (!zoneOf(t)) continue;
		for (const v of mesh.triangles.subarray(3 * t, 3 * t + 3)) {
			const key = [0, 1, 2].map((c) => Math.round((p[3 * v + c]! - p[c]!) / (1e-5 * spacing))).join();
			const first = known.get(key);
			if (first === undefined) known.set(key, v);
			else one[v] = first;
		}
	}
	const triangles = mesh.triangles.map((v) => one[v]!);
	const kept: number[] = [];
	for (let t = 0; t < front.length; t++) {
		const [a, b, c] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
		if (a === b || b === c || a === c) continue;
		const zone = front[t] === back[t] ? zoneOf(t) : null;
		const at = (k: number) => (p[3 * a + k]! + p[3 * b + k]! + p[3 * c + k]!) / 3;
		if (!zone || isInZone(zone, at(0), at(1), at(2))) kept.push(t);
	}
	return {
		...mesh,
		triangles: Uint32Array.from(kept.flatMap((t) => [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!])),
		front: Int16Array.from(kept, (t) => front[t]!),
		back: Int16Array.from(kept, (t) => back[t]!),
		surface: Int16Array.from(kept, (t) => surface[t]!)
	};
}

const decisionOf = (w: Walk): Decision =>
	'question' in w ? { function: w.id, above: decisionOf(w.above), below: decisionOf(w.below) } : { leaf: w.leaf, label: w.unit };

/** Height above the terrain at the nodes, or null when there is no terrain inside the box. */
function terrainFunction(ground: Ground, l: Lattice): LatticeFunction | null {
	const { terrain } = ground.input;
	if (!terrain) return null;
	const values = new Float64Array(nodeCount(l));
	const layer = (l.nx + 1) * (l.ny + 1);
	for (let j = 0; j <= l.ny; j++)
		for (let i = 0; i <= l.nx; i++) {
			const height = sampleRaster(terrain, l.x0 + i * l.dx, l.y0 + j * l.dy);
			for (let k = 0; k <= l.nz; k++) values[k * layer + j * (l.nx + 1) + i] = l.z0 + k * l.dz - height;
		}
	return { values, level: 0, surface: TERRAIN };
}

/** Values of a function of the place at all nodes. */
function nodeFunction(l: Lattice, of: (x: number, y: number, z: number) => number): Float64Array {
	const values = new Float64Array(nodeCount(l));
	let n = 0;
	for (let k = 0; k <= l.nz; k++) for (let j = 0; j <= l.ny; j++) for (let i = 0; i <= l.nx; i++) values[n++] = of(l.x0 + i * l.dx, l.y0 + j * l.dy, l.z0 + k * l.dz);
	return values;
}

/** Sets of nodes, as one byte a node. A set always holds all corners of each cell that it reaches. */
class NodeSets {
	private readonly offsets: number[];

	constructor(private readonly l: Lattice) {
		const sx = l.nx + 1;
		const sxy = sx * (l.ny + 1);
		this.offsets = [0, 1, sx, sx + 1, sxy, sxy + 1, sxy + sx, sxy + sx + 1];
	}

	all(): Uint8Array {
		return new Uint8Array(nodeCount(this.l)).fill(1);
	}

	/** Nodes of a set that have no value yet. */
	list(set: Uint8Array, values: Float64Array): Uint32Array {
		let n = 0;
		for (let i = 0; i < set.length; i++) if (set[i] && Number.isNaN(values[i]!)) n++;
		const out = new Uint32Array(n);
		n = 0;
		for (let i = 0; i < set.length; i++) if (set[i] && Number.isNaN(values[i]!)) out[n++] = i;
		return out;
	}

	/** All corners of the cells of the set that have a corner at or above (or below) the level; null when there are none. */
	side(set: Uint8Array, values: Float64Array, level: number, above: boolean): Uint8Array | null {
		const { nx, ny, nz } = this.l;
		const out = new Uint8Array(set.length);
		let any = false;
		// One byte says it all about a corner: bit 0 in the set, bit 1 on the wanted side.
		const state = new Uint8Array(set.length);
		for (let i = 0; i < set.length; i++) if (set[i]) state[i] = values[i]! >= level === above ? 3 : 1;
		const [o1, o2, o3, o4, o5, o6, o7] = this.offsets.slice(1) as [number, number, number, number, number, number, number];
		for (let k = 0; k < nz; k++)
			for (let j = 0; j < ny; j++) {
				let n = (k * (ny + 1) + j) * (nx + 1);
				for (let i = 0; i < nx; i++, n++) {
					const [a, b, c, d] = [state[n]!, state[n + o1]!, state[n + o2]!, state[n + o3]!];
					const [e, f, g, h] = [state[n + o4]!, state[n + o5]!, state[n + o6]!, state[n + o7]!];
					if (!(a & b & c & d & e & f & g & h & 1) || !((a | b | c | d | e | f | g | h) & 2)) continue;
					any = true;
					out[n] = out[n + o1] = out[n + o2] = out[n + o3] = out[n + o4] = out[n + o5] = out[n + o6] = out[n + o7] = 1;
				}
			}
		return any ? out : null;
	}
}
