import type { SolidMesh } from '#core/mesh/cut-lattice';
import { mergedUnits } from '#core/mesh/merged-units';
import { geologyAtSurface, polygonsOf } from '#core/sections/geology-map';
import { unitsAtRank, type RankOf, type UnitAtRank } from '#core/units/at-rank';
import type { GeologyPolygons } from '../workspace-parts';
import type { ShownSolids, ShownUnit } from './solids.svelte';

/** Meshes that were put together, by what they were made of and what went together. */
const merged = new WeakMap<SolidMesh, Map<string, SolidMesh>>();

/** Solids with their units put together at a rank; the same object's mesh again for the same rank. */
export function solidsAtRank(solids: ShownSolids, rank: RankOf): ShownSolids {
	const groups = unitsAtRank(rank, solids.units);
	const into: number[] = [];
	const units: (ShownUnit | undefined)[] = solids.units.map(() => undefined);
	for (const g of groups)
		for (const label of g.of) {
			into[label] = g.of[0]!;
			units[label] = g;
		}
	const known = merged.get(solids.mesh) ?? new Map<string, SolidMesh>();
	merged.set(solids.mesh, known);
	const key = into.join();
	const mesh = known.get(key) ?? mergedUnits(solids.mesh, into);
	known.set(key, mesh);
	return { ...solids, mesh, units, column: unitsAtRank(rank, solids.column) };
}

/** Units of a model at a rank, with the units that each is made of. */
export const groupsOf = <U extends ShownUnit>(rank: RankOf, column: readonly U[]): (UnitAtRank & { units: U[] })[] =>
	unitsAtRank(rank, column).map((g) => ({ ...g, units: g.of.map((i) => column[i]!) }));

/** Geology at the surface of solids, by the ids of their units. */
export const geologyOfSolids = (solids: ShownSolids, hasTerrain: boolean): GeologyPolygons => ({
	units: [...geologyAtSurface(solids.mesh, hasTerrain)].flatMap(([label, rings]) => {
		const unit = solids.units[label];
		return unit ? [{ unit: unit.id, polygons: polygonsOf(rings).map((p) => p.map((r) => Array.from(r))) }] : [];
	})
});
