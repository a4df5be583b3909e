import { planeAngles } from '#core/geometry/angles';
import type { Box } from '#core/geometry/box';
import { normalize } from '#core/geometry/vector';
import type { Hole, Interval } from '#core/holes/holes';
import { holePath, positionAt } from '#core/holes/path';
import { faultZones, fitFaults } from '#core/model/faults';
import type { FaultSpec, GroundInput, Orientation } from '#core/model/ground';
import { contactsOf, type ContactPoint } from '#core/units/contacts';
import type { ContactKind, Unit } from '#core/units/column';

/** A ground that is known at every place, and how it was looked at. */
export interface Truth {
	box: Box;
	/** Names and contact kinds, youngest first. */
	column: readonly (readonly [string, ContactKind])[];
	/** Index into the column. */
	unitAt(x: number, y: number, z: number): number;
	holes: readonly { x: number; y: number; azimuth?: number; inclination?: number; depth?: number }[];
	/** A function that grows to the younger side, with the places at which its gradient is measured. */
	layering?: { field(x: number, y: number, z: number): number; places: readonly { x: number; y: number; z: number }[] };
	faults?: FaultSpec[];
	/** Contacts seen at the surface. */
	traces?: readonly Pick<ContactPoint, 'surface' | 'x' | 'y' | 'z'>[];
}

export const columnOf = (column: Truth['column']): Unit[] => column.map(([id, contact]) => ({ id, name: id, color: '#888888', contact }));

/** What holes and measurements would show of a ground, by the same logic that reads real logs. */
export function sampled(t: Truth): GroundInput {
	const column = columnOf(t.column);
	const faults = t.faults ?? [];
	const holes = t.holes.map((h, i): Hole => {
		const path = holePath([h.x, h.y, t.box.maxZ], h.depth ?? t.box.maxZ - t.box.minZ, [], { azimuth: h.azimuth ?? 0, inclination: h.inclination ?? -90 });
		const at = (d: number) => t.unitAt(...(positionAt(path, d) as [number, number, number]));
		const intervals: Interval[] = [];
		let from = 0;
		let unit = at(0.001);
		const step = 0.5;
		for (let d = step; d <= path.totalDepth + 1e-9; d += step) {
			const next = at(Math.min(d, path.totalDepth));
			if (next === unit) continue;
			let [low, high] = [d - step, d];
			for (let k = 0; k < 40; k++) {
				const middle = (low + high) / 2;
				if (at(middle) === unit) low = middle;
				else high = middle;
			}
			intervals.push({ from, to: high, code: column[unit]!.id, table: 'log', row: intervals.length });
			[from, unit] = [high, next];
		}
		intervals.push({ from, to: path.totalDepth, code: column[unit]!.id, table: 'log', row: intervals.length });
		return { name: `H${i + 1}`, row: i, path, intervals };
	});
	const bare: GroundInput = { extent: t.box, column, contacts: [], observations: [], orientations: [], faults, terrain: null };
	const contacts = contactsOf(holes, Object.fromEntries(column.map((u) => [u.id, u.id])), column, faultZones(fitFaults(bare)));
	const e = 1e-3;
	const orientations = (t.layering?.places ?? []).map(({ x, y, z }): Orientation => {
		const { field } = t.layering!;
		const g = normalize([field(x + e, y, z) - field(x - e, y, z), field(x, y + e, z) - field(x, y - e, z), field(x, y, z + e) - field(x, y, z - e)]);
		const polarity = g[2] >= 0 ? 1 : -1;
		return { x, y, z, ...planeAngles([polarity * g[0], polarity * g[1], polarity * g[2]]), polarity, unit: t.unitAt(x, y, z) };
	});
	return { ...bare, contacts: [...contacts.points, ...(t.traces ?? []).map((p, i) => ({ ...p, hole: `trace ${i}`, depth: 0, table: 'map', row: i }))], observations: contacts.observations, orientations };
}
