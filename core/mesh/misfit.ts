import type { ContactPoint } from '../units/contacts';
import { surfaceOf } from './extract';
import type { SolidMesh } from './cut-lattice';
import { NearestTriangle } from './nearest-triangle';

/** How far a contact point lies from the surface that was built from it; of the middle of a sheet, how far its walls are off half of the thickness. */
export interface Misfit {
	/** Index into the contact points. */
	contact: number;
	/** Shortest distance, length units; null where the model has no such surface. */
	distance: number | null;
}

/** Distance of every contact point from the triangles of its surface (point–triangle distance after Ericson 2005, 5.1.5). */
export function misfits(mesh: SolidMesh, contacts: readonly ContactPoint[]): Misfit[] {
	const byUnit = new Map<number, { index: number; point: ContactPoint }[]>();
	contacts.forEach((point, index) => {
		const list = byUnit.get(point.surface);
		if (list) list.push({ index, point });
		else byUnit.set(point.surface, [{ index, point }]);
	});
	const result: Misfit[] = contacts.map((_, contact) => ({ contact, distance: null }));
	for (const [unit, points] of byUnit) {
		// A base cut away by a younger sequence survives only as the younger base; the unit's own base is asked first.
		const surface = surfaceOf(mesh, unit);
		if (surface.triangles.length === 0) continue;
		const near = new NearestTriangle(surface);
		for (const { index, point } of points)
			result[index]!.distance = Math.abs(near.distance(point.x, point.y, point.z) - (point.thickness ?? 0) / 2);
	}
	return result;
}

/** Root mean square and greatest distance of those that could be measured. */
export function misfitSummary(list: readonly Misfit[]): { count: number; rms: number; max: number } {
	let sum = 0;
	let max = 0;
	let count = 0;
	for (const m of list)
		if (m.distance !== null) {
			count++;
			sum += m.distance ** 2;
			max = Math.max(max, m.distance);
		}
	return { count, rms: count ? Math.sqrt(sum / count) : 0, max };
}
