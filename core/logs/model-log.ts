import { UNKNOWN } from '../palette';
import type { HolePaths } from '../datasets/hole-paths';
import type { SolidMesh } from '../mesh/cut-lattice';
import { unitsAlongHole } from '../sections/along-solids';
import type { ModelLog } from './log-parts';

/**
 * A hole as a model has it, for a log.
 * @param units by label of the mesh; one that is not known any more is drawn grey
 */
export function modelLog(
	name: string,
	mesh: SolidMesh,
	units: readonly ({ name: string; color: string } | undefined)[],
	paths: HolePaths,
	hole: number
): ModelLog {
	return {
		name,
		runs: unitsAlongHole(mesh, paths, hole).map(({ from, to, label }) => ({
			from,
			to,
			name: units[label]?.name ?? '',
			color: units[label]?.color ?? UNKNOWN
		}))
	};
}
