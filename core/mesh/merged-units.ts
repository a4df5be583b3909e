import { withTriangles, type SolidMesh } from './cut-lattice';
import { FAULT, SIDE, TERRAIN } from './labels';

/**
 * A model with some of its units as one: what lay between them is gone, but for the faults that go through, and solids stay closed.
 * @param into by label, the label that it has then; what is not named keeps its own
 */
export function mergedUnits<M extends SolidMesh>(mesh: M, into: readonly (number | undefined)[]): M {
	const label = (v: number) => (v < 0 ? v : (into[v] ?? v));
	const front = mesh.front.map(label);
	const back = mesh.back.map(label);
	const surface = mesh.surface.map((s) => (s < TERRAIN ? label(s) : s));
	const volumes = new Map<number, number>();
	for (const [unit, v] of mesh.volumes) volumes.set(label(unit), (volumes.get(label(unit)) ?? 0) + v);
	const kept: number[] = [];
	for (let t = 0; t < front.length; t++)
		if (front[t] !== back[t] || mesh.front[t] === mesh.back[t] || (surface[t]! >= FAULT && surface[t]! < SIDE)) kept.push(t);
	return withTriangles({ ...mesh, front, back, surface, volumes }, kept);
}
