import type { Feature } from 'geojson';
import type { Pack } from '../formats/pack';
import { ringsOf } from '../grids/mask';
import { positionAt, type Path } from '../holes/path';
import { solidOf, type TriangleMesh } from '../mesh/extract';
import type { SolidMesh } from '../mesh/cut-lattice';
import { MeshDistance } from '../mesh/mesh-distance';
import { SIDE_ONLY } from '../model/limits';
import { fail } from '../problem';
import { isInOutline, type Pixel } from '../scene/in-outline';
import type { Log } from './relog';

/** Whether a place, in project coordinates, lies in a body. */
export type Body = (x: number, y: number, z: number) => boolean;

/**
 * The body that an object is: what lies under its faces on the map, by the even-odd rule; the inside of a closed surface; a unit of solids.
 * @param unit number of the unit, where solids are asked
 * @throws ProblemError `no-face`, `not-closed`
 */
export function bodyOf(name: string, form: string | null, { info, arrays }: Pack, unit = 0): Body {
	if (form === 'surface')
		return insideOf(name, { positions: arrays['positions'] as Float64Array, triangles: arrays['triangles'] as Uint32Array });
	if (form === 'solids') return insideOf(name, solidOf(arrays as unknown as SolidMesh, unit));
	const rings = ringsOf((info['features'] ?? []) as Feature[]);
	if (rings.length === 0)
		return fail('no-face', `${name} holds no face and no closed line: nothing lies within it`, 'Choose one with faces.', 'object');
	return (x, y) => rings.filter((r) => isInOutline([x, y], r as unknown as Pixel[])).length % 2 === 1;
}

function insideOf(name: string, mesh: TriangleMesh): Body {
	const distance = new MeshDistance(mesh);
	if (!distance.isClosed)
		return fail(
			'not-closed',
			`${name} is not closed: it has no inside`,
			'Choose a closed surface, faces on the map, or a model and a unit.',
			'object'
		);
	return (x, y, z) => distance.inside(x, y, z, SIDE_ONLY) > 0;
}

/** Rows of a log whose middle lies in a body, in the order of holes and depths. Rows of holes without a place are none. */
export function rowsWithin(log: Log, paths: ReadonlyMap<string, Path>, body: Body): number[] {
	const rows: number[] = [];
	for (const hole of log.holes) {
		const path = paths.get(hole);
		if (path) for (const r of log.of(hole)) if (body(...positionAt(path, (r.from + r.to) / 2))) rows.push(r.row);
	}
	return rows;
}
