import { FAULT, LIMIT, TERRAIN } from '../mesh/cut-lattice';
import type { Unit } from '../units/column';

/** What a surface of a model is called, by its number in the mesh. */
export function surfaceName(
	units: readonly Pick<Unit, 'name' | 'contact'>[],
	faults: readonly { name: string }[],
	surface: number
): { name: string; kind: 'contact' | 'fault' | 'terrain' } {
	if (surface === TERRAIN) return { name: 'Terrain', kind: 'terrain' };
	if (surface === LIMIT) return { name: 'Limit of the model', kind: 'terrain' };
	if (surface >= FAULT) return { name: faults[surface - FAULT]?.name ?? 'Fault', kind: 'fault' };
	const u = units[surface]!;
	return { name: `${u.contact === 'intrusive' ? 'Boundary' : 'Base'} of ${u.name}`, kind: 'contact' };
}
