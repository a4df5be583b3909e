import type { Raster } from '../grids/raster';
import type { ContactPoint } from '../units/contacts';
import type { Unit } from '../units/column';
import type { FittedFault } from './faults';
import type { Ground } from './fit-ground';

/** All units that a place can be in: those of the column, then those of each division. What says "unit" means an index into this. */
export const unitsOf = (g: Ground): readonly Unit[] =>
	g.divisions.length ? [...g.input.column, ...g.divisions.flatMap((d) => d.ground.input.column)] : g.input.column;

/** All faults, those that belong to a division only after the others. */
export const faultsOf = (g: Ground): readonly FittedFault[] =>
	g.divisions.length ? [...g.faults, ...g.divisions.flatMap((d) => d.ground.faults.slice(d.shared.length))] : g.faults;

/** All contact points, with their surface as an index into all units. */
export const allContacts = (g: Ground): ContactPoint[] => [
	...g.input.contacts,
	...g.divisions.flatMap((d) => d.ground.input.contacts.map((c) => ({ ...c, surface: c.surface + d.firstUnit })))
];

/** For each of all units the unit of the column that it is a part of. */
export function columnUnitOf(g: Ground): Int16Array {
	const out = Int16Array.from(unitsOf(g), (_, u) => u);
	for (const d of g.divisions) d.ground.input.column.forEach((_, k) => (out[d.firstUnit + k] = d.unit));
	return out;
}

/** A ground with another terrain, in its divisions, too: it is a source of its own, and not stored with the fields. */
export const withTerrain = (g: Ground, terrain: Raster | null): Ground => ({
	...g,
	input: { ...g.input, terrain },
	divisions: g.divisions.map((d) => ({ ...d, ground: withTerrain(d.ground, terrain) }))
});
