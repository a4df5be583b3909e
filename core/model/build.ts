import { sharedInBlock } from '../fields/compute';
import { sharedDeep, sharedDoubles } from '../kernels/shared';
import { sampleRaster, type Raster } from '../grids/raster';
import {
	AIR,
	cutLattice,
	FAULT,
	LIMIT,
	OUTSIDE,
	TERRAIN,
	type CutPart,
	type Decision,
	type CutMesh,
	type LatticeFunction
} from '../mesh/cut-lattice';
import { AIR_LEAF, OUTSIDE_LEAF } from '../mesh/labels';
import { dropSpecks } from '../mesh/specks';
import { mendSlim, type MendPart } from '../mesh/mend-slim';
import { latticeOf, nodeCount, regularCount, type Lattice } from '../mesh/lattice';
import { refineLattice } from '../mesh/refine';
import { halvingsWanted, type FinerParts } from './finer';
import type { ContactPoint } from '../units/contacts';
import type { FittedFault } from './faults';
import type { Ground } from './fit-ground';
import { honourContacts } from './honour';
import { insideLimits } from './limits';
import { NodeSets, type NodeSet } from './node-sets';
import { runNodesTask, valuesTasks, type RunNodes } from './node-values';
import { nearDyingFaults, tidyBeyondTips } from './tips';
import { allContacts, faultsOf } from './whole';
import { walkOf, type FieldSource, type Leaf, type Question, type Walk } from './walk';

export interface BuildOptions {
	spacing: number;
	/** Connected parts of less than this volume become part of what is around them, cubic length units; 0 keeps all. */
	leastPart?: number;
	/** Where the lattice is to be finer than the spacing. */
	finer?: FinerParts | undefined;
	/** Finds the values of the fields at nodes; the default does it on the spot. */
	nodes?: RunNodes;
	/** Evaluates fields at every node that is asked, also where a coarse look tells the side. For comparison: it changes nothing. */
	everyNode?: boolean;
	/** Cuts a part of the lattice; the default does it on the spot. */
	cut?: CutPart;
	/** Mends slim triangles of a part; the default does it on the spot. */
	mend?: MendPart;
	progress?: (what: string, share: number) => void;
	signal?: AbortSignal;
}

export interface BuiltModel {
	lattice: Lattice;
	mesh: CutMesh;
	/** What the leaves of the mesh are. */
	leaves: readonly Leaf[];
	/** Evaluations of a field at a node. */
	evaluations: number;
	/** What became of each contact on the lattice (see `honourContacts`). */
	contacts: Uint8Array;
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
export function estimateBuild(
	ground: { extent: Parameters<typeof latticeOf>[0]; column: readonly unknown[] },
	spacing: number,
	finer?: FinerParts | null
): { cells: number; bytes: number } {
	const l = latticeOf(ground.extent, spacing);
	const cells = l.nx * l.ny * l.nz;
	const surfaces = ground.column.length + 2;
	// Cubes along a finer surface, or in a finer unit, are halved as a whole; a surface crosses them in its own area.
	const halved = (own: number) => Math.min(8, Math.max(0, Math.ceil(Math.log2(spacing / own))));
	const parts = [
		...(finer?.surfaces ?? []).map((f) => ({ h: halved(f.spacing), cubes: 1.5 * l.nx * l.ny })),
		...(finer?.units ?? []).map((f) => ({ h: halved(f.spacing), cubes: (1.5 * cells) / Math.max(1, ground.column.length) }))
	];
	const fine = parts.reduce((n, p) => n + p.cubes * 8 ** p.h, 0);
	const finerBytes = fine * (400 + 10 * surfaces) + parts.reduce((n, p) => n + l.nx * l.ny * 4 ** p.h * 2400, 0);
	return {
		cells: cells + Math.round(fine),
		bytes: finerBytes + nodeCount(l) * (10 + 8 * surfaces) + l.nx * l.ny * surfaces * 1200 + 120e6
	};
}

/**
 * Builds closed, touching solids of all units and the surfaces between them on a lattice.
 * The fields are evaluated only at the nodes that can matter: below the terrain, and in the part of the ground that the walk
 * from young to old can still reach.
 * @throws ProblemError from `latticeOf`; an AbortError when the signal is raised
 */
export async function buildModel(ground: Ground, options: BuildOptions): Promise<BuiltModel> {
	const { finer } = options;
	const walk = walkOf(ground);
	const plan: BuildPlan = {
		input: ground.input,
		walk,
		contacts: allContacts(ground),
		faults: faultsOf(ground),
		...(finer ? { halvings: (l, values) => halvingsWanted(ground, l, walk, values, finer, options.spacing) } : {})
	};
	return buildPlanned(plan, options);
}

/** What a build goes by: the box with its limits and terrain, the decision tree, and what its surfaces are to pass through. */
export interface BuildPlan {
	input: Pick<Ground['input'], 'extent' | 'terrain' | 'limits' | 'contacts' | 'observations'>;
	walk: { root: Walk; sources: FieldSource[]; questions: Question[]; leaves: Leaf[] };
	/** With surfaces as the numbers that questions give them. */
	contacts: ContactPoint[];
	/** By the numbers that questions give them. */
	faults: readonly FittedFault[];
	/** Where the lattice is to be finer, when values at its nodes are known; nowhere when it is left out. */
	halvings?(l: Lattice, values: Map<number, Float64Array>): ReturnType<typeof halvingsWanted>;
}

/** Builds by a plan. @throws ProblemError from `latticeOf`; an AbortError when the signal is raised */
export async function buildPlanned(plan: BuildPlan, options: BuildOptions): Promise<BuiltModel> {
	const { nodes: runNodes = runNodesTask, progress = () => {}, signal, spacing } = options;
	const { root, sources, questions, leaves } = plan.walk;
	let evaluations = 0;

	/** Values of the fields at the nodes that can matter; those that are known already are taken over. */
	const sample = async (l: Lattice, known: ReadonlyMap<number, Float64Array>): Promise<Map<number, Float64Array>> => {
		const nodes = new NodeSets(l);
		const values = new Map<number, Float64Array>();
		/** By source: the nodes that were asked, and when all of them are answered. */
		const asked = new Map<number, { nodes: Promise<Uint32Array>; answered: Promise<unknown> }>();
		const taskFor = (source: FieldSource, into: Float64Array) => ({
			seen: sharedInBlock(source.field, source.block),
			lattice: l,
			values: into
		});
		/** What is known of a source before the walk comes to it, and at which nodes. */
		const begin = async (source: FieldSource, into: Float64Array): Promise<Uint32Array> => {
			const before = known.get(source.id);
			if (before) into.set(before);
			if (before || options.everyNode) {
				into.fill(NaN, before?.length ?? 0);
				return nodes.known(into);
			}
			const levels = questions.filter((q) => q.source === source).map((q) => q.level);
			const looked = await runNodes({ ...taskFor(source, into), work: { levels } });
			evaluations += looked.evaluations;
			return looked.known ?? nodes.none();
		};
		const prepare = (source: FieldSource): { v: Float64Array; a: { nodes: Promise<Uint32Array>; answered: Promise<unknown> } } => {
			let v = values.get(source.id);
			let a = asked.get(source.id);
			if (!v || !a) {
				values.set(source.id, (v = sharedDoubles(nodeCount(l))));
				asked.set(source.id, (a = { nodes: begin(source, v), answered: Promise.resolve() }));
				// Who waits for it is told; until then nobody may be waiting.
				a.nodes.catch(() => {});
			}
			return { v, a };
		};
		const evaluateSource = async (source: FieldSource, set: NodeSet): Promise<Float64Array> => {
			signal?.throwIfAborted();
			const { v, a } = prepare(source);
			const missing = nodes.ask(set, await a.nodes);
			if (missing.length) {
				progress('fields on the lattice', (FIELDS * values.size) / (sources.length + 1));
				evaluations += missing.length;
				a.answered = Promise.all([a.answered, ...valuesTasks(taskFor(source, v), missing).map(runNodes)]);
			}
			await a.answered;
			return v;
		};
		// Both sides of a question go on at once, so that threads have work while sets of nodes are made.
		const visit = async (walk: Walk, set: NodeSet): Promise<void> => {
			if (!('question' in walk)) return;
			const { source, level } = walk.question;
			prepare(source);
			// What comes next is looked at coarsely meanwhile, so that threads have work.
			for (const next of [walk.above, walk.below]) if ('question' in next) prepare(next.question.source);
			const v = await evaluateSource(source, set);
			const { above, below } = nodes.sides(set, v, level, 'question' in walk.above, 'question' in walk.below);
			await Promise.all([above && visit(walk.above, above), below && visit(walk.below, below)]);
		};
		const terrain = terrainFunction(plan.input.terrain, l);
		const below = terrain ? nodes.sides(nodes.all(), terrain.values, 0, false, true).below : nodes.all();
		if (below) await visit(root, below);
		return values;
	};

	let l = latticeOf(plan.input.extent, spacing);
	let values = await sample(l, new Map());
	const wanted = plan.halvings?.(l, values);
	const finer = wanted && refineLattice(l, wanted);
	if (finer) {
		l = { ...l, finer: sharedDeep(finer) };
		values = await sample(l, values);
	}

	const contacts = honourContacts(l, { root, sources }, values, plan.contacts, spacing);
	const functions: LatticeFunction[] = questions.map((q) => ({
		values: values.get(q.source.id) ?? new Float64Array(nodeCount(l)).fill(NaN),
		level: q.level,
		surface: q.surface.kind === 'fault' ? FAULT + q.surface.fault : q.surface.unit
	}));
	// Fields are in units of their own: one least value serves all because each has a slope near 1.
	const unit = sources[0]?.field.unit ?? 1;
	let top = decisionOf(root);
	const inside = insideLimits(plan.input, 2 * Math.hypot(l.dx, l.dy, l.dz));
	if (inside) {
		functions.push({ values: nodeFunction(l, (x, y, z) => inside(x, y, z) / unit), level: 0, surface: LIMIT });
		top = { function: functions.length - 1, above: top, below: { leaf: OUTSIDE_LEAF, label: OUTSIDE } };
	}
	const terrain = terrainFunction(plan.input.terrain, l);
	if (terrain) {
		for (let n = 0; n < terrain.values.length; n++) terrain.values[n]! /= unit;
		functions.push(terrain);
		top = { function: functions.length - 1, above: { leaf: AIR_LEAF, label: AIR }, below: top };
	}
	signal?.throwIfAborted();
	const mesh = await cutLattice(
		l,
		top,
		functions,
		(LEAST * spacing) / unit,
		(share) => progress('solids', FIELDS + (1 - FIELDS) * share),
		options.cut
	);
	signal?.throwIfAborted();
	const { mesh: tidy, ...specks } = dropSpecks(tidyBeyondTips(mesh, plan.faults, spacing), options.leastPart ?? 0);
	signal?.throwIfAborted();
	const mended = await mendSlim(tidy, l, spacing, nearDyingFaults(tidy, plan.faults, spacing), options.mend);
	return { lattice: l, mesh: mended, leaves, evaluations, contacts, specks };
}

const decisionOf = (w: Walk): Decision =>
	'question' in w ? { function: w.id, above: decisionOf(w.above), below: decisionOf(w.below) } : { leaf: w.leaf, label: w.unit };

/** Height above the terrain at the nodes, or null when there is no terrain inside the box. */
function terrainFunction(terrain: Raster | null, l: Lattice): LatticeFunction | null {
	if (!terrain) return null;
	// Nodes above each other have one height of the terrain.
	const layer = (l.nx + 1) * (l.ny + 1);
	const heights = new Float64Array(layer);
	for (let j = 0, n = 0; j <= l.ny; j++)
		for (let i = 0; i <= l.nx; i++) heights[n++] = sampleRaster(terrain, l.x0 + i * l.dx, l.y0 + j * l.dy);
	const regular = regularCount(l);
	const values = sharedDoubles(nodeCount(l));
	for (let k = 0, n = 0; k <= l.nz; k++) for (let c = 0; c < layer; c++) values[n++] = l.z0 + k * l.dz - heights[c]!;
	eachFurtherNode(l, (n, x, y, z) => (values[regular + n] = z - sampleRaster(terrain, x, y)));
	return { values, level: 0, surface: TERRAIN };
}

/** Values of a function of the place at all nodes. */
function nodeFunction(l: Lattice, of: (x: number, y: number, z: number) => number): Float64Array {
	const regular = regularCount(l);
	const values = sharedDoubles(nodeCount(l));
	let n = 0;
	for (let k = 0; k <= l.nz; k++)
		for (let j = 0; j <= l.ny; j++) for (let i = 0; i <= l.nx; i++) values[n++] = of(l.x0 + i * l.dx, l.y0 + j * l.dy, l.z0 + k * l.dz);
	eachFurtherNode(l, (n, x, y, z) => (values[regular + n] = of(x, y, z)));
	return values;
}

function eachFurtherNode(l: Lattice, each: (n: number, x: number, y: number, z: number) => void): void {
	const p = l.finer?.places ?? [];
	for (let n = 0; 3 * n < p.length; n++) each(n, l.x0 + p[3 * n]! * l.dx, l.y0 + p[3 * n + 1]! * l.dy, l.z0 + p[3 * n + 2]! * l.dz);
}
