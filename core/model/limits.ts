import { NearestPoint } from '../geometry/nearest';
import { insideCoverage } from '../grids/coverage';
import { sampleRaster, type Raster } from '../grids/raster';
import { MeshDistance } from '../mesh/mesh-distance';
import type { TriangleMesh } from '../mesh/extract';
import { fail } from '../problem';
import type { GroundInput } from './ground';

/** What a model ends at, inside its box. A place is in the model when it is on the right side of all limits. */
export type Limit =
	/** Within an outline on the map. */
	| { kind: 'outline'; trace: [number, number][] }
	/** No farther from a contact or from what a hole saw. */
	| { kind: 'near'; distance: number }
	/** Under, or over, a surface that is given as elevations, moved up by a distance. */
	| { kind: 'under' | 'over'; raster: Raster; by: number }
	/** Where a surface that is given as elevations is known: not beyond its edge, nor in its gaps. */
	| { kind: 'covered'; raster: Raster }
	/** Inside a closed mesh. */
	| { kind: 'inside'; mesh: TriangleMesh };

/** Reach for those who need to know no more than the side. */
export const SIDE_ONLY = 1e-9;

/**
 * How far inside the limits a place is, length units: positive inside, negative outside; near a limit the distance to it.
 * @param reach distance from a limit up to which it is asked for; beyond it only the side counts
 * @returns null when there are no limits
 * @throws ProblemError `bad-limit`
 */
export function insideLimits(
	input: Pick<GroundInput, 'limits' | 'contacts' | 'observations'>,
	reach: number
): ((x: number, y: number, z: number) => number) | null {
	const parts = (input.limits ?? []).map((l) => insideOf(l, input, reach));
	return parts.length === 0 ? null : (x, y, z) => parts.reduce((least, f) => Math.min(least, f(x, y, z)), Infinity);
}

function insideOf(
	l: Limit,
	input: Pick<GroundInput, 'contacts' | 'observations'>,
	reach: number
): (x: number, y: number, z: number) => number {
	switch (l.kind) {
		case 'outline':
			if (l.trace.length < 3) fail('bad-limit', 'an outline needs at least three corners', 'Draw it again.', 'limits');
			return (x, y) => insideOutline(l.trace, x, y);
		case 'near': {
			if (!(l.distance > 0)) fail('bad-limit', 'the distance from the data must be above 0', undefined, 'limits');
			const places = new NearestPoint([...input.contacts, ...input.observations]);
			return (x, y, z) => l.distance - places.distance(x, y, z);
		}
		case 'under':
			return (x, y, z) => sampleRaster(l.raster, x, y) + l.by - z;
		case 'over':
			return (x, y, z) => z - sampleRaster(l.raster, x, y) - l.by;
		case 'covered': {
			const covered = insideCoverage(l.raster);
			return (x, y) => covered(x, y);
		}
		case 'inside': {
			const mesh = new MeshDistance(l.mesh);
			if (!mesh.isClosed)
				fail(
					'bad-limit',
					'the mesh that is to bound the model is not closed',
					'Close its holes, or bound the model by surfaces above and below.',
					'limits'
				);
			return (x, y, z) => mesh.inside(x, y, z, reach);
		}
	}
}

/** Distance to an outline, positive inside (even–odd). */
function insideOutline(trace: readonly (readonly [number, number])[], x: number, y: number): number {
	let inside = false;
	let best = Infinity;
	for (let i = 0, j = trace.length - 1; i < trace.length; j = i++) {
		const [ax, ay] = trace[i]!;
		const [bx, by] = trace[j]!;
		if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
		const [dx, dy] = [bx - ax, by - ay];
		const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
		best = Math.min(best, Math.hypot(x - ax - t * dx, y - ay - t * dy));
	}
	return inside ? best : -best;
}
