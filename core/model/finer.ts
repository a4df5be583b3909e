import { NearestPoint } from '../geometry/nearest';
import { cubeCount, nodeOfCube, regularCount, type Lattice } from '../mesh/lattice';
import { MOST_HALVINGS } from '../mesh/refine';
import { fail } from '../problem';
import type { Ground } from './fit-ground';
import type { Leaf, Question, Walk } from './walk';
import { allContacts, columnUnitOf, unitsOf } from './whole';

/** Where a model is to be finer than its spacing. Lengths in the unit of the project. */
export interface FinerParts {
	/** Bases (of intrusions: boundaries) of units, by id. */
	surfaces: { unit: string; spacing: number }[];
	/** All that lies inside units, by id: what divides a unit follows it. */
	units: { unit: string; spacing: number }[];
	/** Around contacts whose neighbour on the same surface in another hole is nearer than half of the usual distance; twice as fine for each half of it. */
	dense: boolean;
}

/** @throws ProblemError `unknown-unit`, `bad-spacing` */
export function validateFiner(parts: FinerParts, spacing: number, units: readonly string[]): void {
	for (const list of ['surfaces', 'units'] as const)
		parts[list].forEach((f, i) => {
			if (!units.includes(f.unit))
				fail('unknown-unit', `"${f.unit}" is no unit of the column`, 'Choose one of its units.', `finer.${list}.${i}.unit`);
			if (f.spacing >= spacing)
				fail(
					'bad-spacing',
					`a finer part needs a spacing below ${spacing}; it is ${f.spacing}`,
					'Give a shorter one, or take the part away.',
					`finer.${list}.${i}.spacing`
				);
		});
}

/** Most halvings where data are dense. */
const MOST_DENSE = 2;

const halvings = (spacing: number, wanted: number): number =>
	Math.min(MOST_HALVINGS, Math.max(0, Math.ceil(Math.log2(spacing / wanted) - 1e-9)));

/**
 * How often each cube is to be halved.
 * @param values of the fields at the nodes, by source; NaN where they were not asked
 */
export function halvingsWanted(
	ground: Ground,
	l: Lattice,
	{ root, questions, leaves }: { root: Walk; questions: readonly Question[]; leaves: readonly Leaf[] },
	values: ReadonlyMap<number, Float64Array>,
	parts: FinerParts,
	spacing: number
): Uint8Array {
	const out = new Uint8Array(cubeCount(l));
	const units = unitsOf(ground);
	const columnUnit = columnUnitOf(ground);
	const [sx, sxy] = [l.nx + 1, (l.nx + 1) * (l.ny + 1)];
	const offsets = [0, 1, sx, sx + 1, sxy, sxy + 1, sxy + sx, sxy + sx + 1];
	const eachCube = (wanted: number, isMeant: (node: number) => boolean) => {
		if (wanted > 0)
			for (let cube = 0; cube < out.length; cube++) if (out[cube]! < wanted && isMeant(nodeOfCube(l, cube))) out[cube] = wanted;
	};
	for (const { unit, spacing: own } of parts.surfaces) {
		const index = units.findIndex((u) => u.id === unit);
		for (const q of questions) {
			const v = values.get(q.source.id);
			if (!v || q.surface.kind !== 'contact' || q.surface.unit !== index) continue;
			eachCube(halvings(spacing, own), (node) => {
				let sides = 0;
				for (const o of offsets) if (v[node + o] === v[node + o]) sides |= v[node + o]! >= q.level ? 1 : 2;
				return sides === 3;
			});
		}
	}
	if (parts.units.length) {
		const unitOfNode = new Int16Array(regularCount(l));
		for (let node = 0; node < unitOfNode.length; node++) {
			let at = root;
			while ('question' in at) at = (values.get(at.question.source.id)?.[node] ?? NaN) >= at.question.level ? at.above : at.below;
			unitOfNode[node] = leaves[at.leaf]!.unit;
		}
		for (const { unit, spacing: own } of parts.units) {
			const index = units.findIndex((u) => u.id === unit);
			eachCube(halvings(spacing, own), (node) =>
				offsets.some((o) => unitOfNode[node + o] === index || columnUnit[unitOfNode[node + o]!] === index)
			);
		}
	}
	if (parts.dense) {
		const contacts = allContacts(ground);
		const near = new NearestPoint(contacts);
		const distances = contacts.map((c) =>
			near.distance(c.x, c.y, c.z, (i) => contacts[i]!.hole !== c.hole && contacts[i]!.surface === c.surface)
		);
		const known = distances.filter((d) => Number.isFinite(d) && d > 0).sort((a, b) => a - b);
		const usual = known[known.length >> 1] ?? 0;
		const cell = [l.dx, l.dy, l.dz];
		const most = [l.nx, l.ny, l.nz];
		for (const [c, d] of contacts.map((c, i) => [c, distances[i]!] as const)) {
			const wanted = d > 0 && Number.isFinite(d) ? Math.min(MOST_DENSE, Math.max(0, Math.floor(Math.log2(usual / d)))) : 0;
			if (wanted === 0) continue;
			const at = [(c.x - l.x0) / l.dx, (c.y - l.y0) / l.dy, (c.z - l.z0) / l.dz];
			const low = at.map((v, x) => Math.max(0, Math.floor(v - d / cell[x]!)));
			const high = at.map((v, x) => Math.min(most[x]! - 1, Math.floor(v + d / cell[x]!)));
			for (let k = low[2]!; k <= high[2]!; k++)
				for (let j = low[1]!; j <= high[1]!; j++)
					for (let i = low[0]!; i <= high[0]!; i++) {
						const cube = (k * l.ny + j) * l.nx + i;
						out[cube] = Math.max(out[cube]!, wanted);
					}
		}
	}
	return out;
}
