import { planeAngles } from '#core/geometry/angles';
import type { Box } from '#core/geometry/box';
import { normalize } from '#core/geometry/vector';
import type { Finding } from '#core/tables/finding';
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
	/** Elevation of the ground; holes start there. */
	surface?(x: number, y: number): number;
}

export const columnOf = (column: Truth['column']): Unit[] => column.map(([id, contact]) => ({ id, name: id, color: '#888888', contact }));

/** The logs of its holes. */
export function logsOf(t: Truth): Hole[] {
	return t.holes.map((h, i): Hole => {
		const top = t.surface?.(h.x, h.y) ?? t.box.maxZ;
		const path = holePath([h.x, h.y, top], h.depth ?? top - t.box.minZ, [], { azimuth: h.azimuth ?? 0, inclination: h.inclination ?? -90 });
		const at = (d: number) => t.unitAt(...(positionAt(path, d) as [number, number, number]));
		const intervals: Interval[] = [];
		let from = 0;
		let unit = at(0.001);
		const step = 0.5;
		const close = (to: number) => intervals.push({ from, to, code: t.column[unit]![0], table: 'log', row: 1000 * i + intervals.length });
		for (let d = step; d <= path.totalDepth + 1e-9; d += step) {
			const next = at(Math.min(d, path.totalDepth));
			if (next === unit) continue;
			let [low, high] = [d - step, d];
			for (let k = 0; k < 40; k++) {
				const middle = (low + high) / 2;
				if (at(middle) === unit) low = middle;
				else high = middle;
			}
			close(high);
			[from, unit] = [high, next];
		}
		close(path.totalDepth);
		return { name: `H${i + 1}`, row: i, path, intervals };
	});
}

/** What holes and measurements would show of a ground, by the same logic that reads real logs. */
export const sampled = (t: Truth): GroundInput => seenIn(t, logsOf(t)).input;

/** The same from given logs, with what was found on the way. */
export function seenIn(t: Truth, holes: readonly Hole[], more: Partial<GroundInput> = {}): { input: GroundInput; findings: Finding[] } {
	const column = more.column ?? columnOf(t.column);
	const faults = more.faults ?? t.faults ?? [];
	const bare: GroundInput = { extent: t.box, column, contacts: [], observations: [], orientations: [], terrain: null, ...more, faults };
	const contacts = contactsOf(holes, Object.fromEntries(column.map((u) => [u.id, u.id])), column, faultZones(fitFaults(bare), 'm'));
	const e = 1e-3;
	const orientations = (t.layering?.places ?? []).map(({ x, y, z }): Orientation => {
		const { field } = t.layering!;
		const g = normalize([
			field(x + e, y, z) - field(x - e, y, z),
			field(x, y + e, z) - field(x, y - e, z),
			field(x, y, z + e) - field(x, y, z - e)
		]);
		const polarity = g[2] >= 0 ? 1 : -1;
		return { x, y, z, ...planeAngles([polarity * g[0], polarity * g[1], polarity * g[2]]), polarity, unit: t.unitAt(x, y, z) };
	});
	const input = {
		...bare,
		contacts: [...contacts.points, ...(t.traces ?? []).map((p, i) => ({ ...p, hole: `trace ${i}`, depth: 0, table: 'map', row: i }))],
		observations: contacts.observations,
		absences: contacts.absences,
		unknown: contacts.unknown,
		orientations
	};
	return { input, findings: contacts.findings };
}

/** Holes on a grid of 8 × 8, all inclined to the east: they cross what is steep. */
export const holesToTheEast = (): Truth['holes'] =>
	Array.from({ length: 64 }, (_, i) => ({
		x: 30 + 120 * (i % 8),
		y: 60 + 120 * Math.floor(i / 8),
		azimuth: 90,
		inclination: -50,
		depth: 480
	}));
