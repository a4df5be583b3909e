import { FAULT, SIDE, type SolidMesh } from '../mesh/cut-lattice';
import { surfaceOf, surfacesIn } from '../mesh/extract';
import { NearestTriangle } from '../mesh/nearest-triangle';

/** A contact point as a model keeps it. */
interface KeptContact {
	/** Index into the units of its model. */
	surface: number;
	hole: string;
	depth: number;
	x: number;
	y: number;
	z: number;
}

/** One of two models that are compared. */
export interface ComparedModel {
	mesh: SolidMesh;
	/** Ids of units and faults by their numbers. */
	units: readonly string[];
	faults: readonly string[];
	contacts: readonly KeptContact[];
}

export interface Comparison {
	/** Volume of each unit of either model; null where it is not in it. */
	volumes: { unit: string; before: number | null; after: number | null }[];
	/** How far the surfaces of the later model lie from those of the earlier one: mean over the area and greatest, without sign; mean with sign (up is positive). */
	surfaces: { kind: 'contact' | 'fault'; id: string; mean: number; most: number; up: number }[];
	/** Contacts of one model that are not in the other, or lie elsewhere. */
	contacts: ChangedContact[];
	/** By vertex of the later model: distance from the same surface of the earlier one, positive on its upper side; NaN where it has none. */
	moved: Float32Array;
}

interface ChangedContact {
	change: 'added' | 'removed' | 'moved';
	unit: string;
	hole: string;
	depth: number;
	x: number;
	y: number;
	z: number;
	/** How far it moved. */
	by: number;
}

/** Contacts that lie no farther apart than this are one, length units. */
const SAME = 1e-6;

/** What is different between two models of one ground. Units and faults are matched by id. */
export function compareModels(before: ComparedModel, after: ComparedModel): Comparison {
	const moved = new Float32Array(after.mesh.positions.length / 3).fill(NaN);
	const nameOf = (m: ComparedModel, s: number) => (s >= FAULT ? `fault ${m.faults[s - FAULT]}` : `unit ${m.units[s]}`);
	const earlier = new Map(surfacesIn(before.mesh).map((s) => [nameOf(before, s), s]));
	const surfaces: Comparison['surfaces'] = [];
	for (const s of surfacesIn(after.mesh)) {
		const id = s >= FAULT ? after.faults[s - FAULT] : after.units[s];
		const old = earlier.get(nameOf(after, s));
		if (id === undefined || old === undefined || (s >= 1000 && s < FAULT) || s >= SIDE) continue;
		const stats = movement(before.mesh, old, after.mesh, s, moved);
		if (stats) surfaces.push({ kind: s >= FAULT ? 'fault' : 'contact', id, ...stats });
	}
	const ids = [...after.units, ...before.units.filter((u) => !after.units.includes(u))];
	const volumeIn = (m: ComparedModel, id: string) => (m.units.includes(id) ? (m.mesh.volumes.get(m.units.indexOf(id)) ?? 0) : null);
	return {
		volumes: ids.map((unit) => ({ unit, before: volumeIn(before, unit), after: volumeIn(after, unit) })),
		surfaces,
		contacts: changedContacts(before, after),
		moved
	};
}

/** Distances of the vertices of a surface from an earlier state of it, written into `moved`; null when it has no triangles there. */
function movement(
	old: SolidMesh,
	oldSurface: number,
	mesh: SolidMesh,
	surface: number,
	moved: Float32Array
): { mean: number; most: number; up: number } | null {
	const target = surfaceOf(old, oldSurface);
	if (target.triangles.length === 0) return null;
	const grid = new NearestTriangle(target);
	const { positions: q, triangles: o } = target;
	const { positions: p, triangles } = mesh;
	let [area, sum, signed, most] = [0, 0, 0, 0];
	const here = new Map<number, number>();
	const at = (v: number): number => {
		let d = here.get(v);
		if (d !== undefined) return d;
		const [x, y, z] = [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
		const { distance, corner } = grid.nearest(x, y, z);
		const [a, b, c] = [3 * o[corner]!, 3 * o[corner + 1]!, 3 * o[corner + 2]!];
		const e = (to: number, k: number) => q[to + k]! - q[a + k]!;
		// The normal of a surface points to its upper side.
		const side =
			(e(b, 1) * e(c, 2) - e(b, 2) * e(c, 1)) * (x - q[a]!) +
			(e(b, 2) * e(c, 0) - e(b, 0) * e(c, 2)) * (y - q[a + 1]!) +
			(e(b, 0) * e(c, 1) - e(b, 1) * e(c, 0)) * (z - q[a + 2]!);
		d = side < 0 ? -distance : distance;
		here.set(v, d);
		// Where surfaces meet, the one that moved least is told.
		if (!(Math.abs(moved[v]!) < distance)) moved[v] = d;
		return d;
	};
	for (let t = 0; t < mesh.surface.length; t++) {
		if (mesh.surface[t] !== surface) continue;
		const [i, j, k] = [triangles[3 * t]!, triangles[3 * t + 1]!, triangles[3 * t + 2]!];
		const [a, b, c] = [3 * i, 3 * j, 3 * k];
		const e = (to: number, x: number) => p[to + x]! - p[a + x]!;
		const own =
			Math.hypot(e(b, 1) * e(c, 2) - e(b, 2) * e(c, 1), e(b, 2) * e(c, 0) - e(b, 0) * e(c, 2), e(b, 0) * e(c, 1) - e(b, 1) * e(c, 0)) / 2;
		const d = [at(i), at(j), at(k)];
		area += own;
		sum += (own * d.reduce((s, v) => s + Math.abs(v), 0)) / 3;
		signed += (own * d.reduce((s, v) => s + v, 0)) / 3;
		for (const v of d) most = Math.max(most, Math.abs(v));
	}
	return area > 0 ? { mean: sum / area, most, up: signed / area } : null;
}

/** Contacts are matched by unit and hole, the nearest first. */
function changedContacts(before: ComparedModel, after: ComparedModel): ChangedContact[] {
	const byPlace = (m: ComparedModel) => {
		const out = new Map<string, { c: KeptContact; unit: string }[]>();
		for (const c of m.contacts) {
			const unit = m.units[c.surface] ?? '';
			const key = `${unit}\t${c.hole}`;
			const list = out.get(key);
			if (list) list.push({ c, unit });
			else out.set(key, [{ c, unit }]);
		}
		return out;
	};
	const [old, now] = [byPlace(before), byPlace(after)];
	const out: ChangedContact[] = [];
	const told = (change: ChangedContact['change'], { c, unit }: { c: KeptContact; unit: string }, by: number) =>
		out.push({ change, unit, hole: c.hole, depth: c.depth, x: c.x, y: c.y, z: c.z, by });
	for (const key of new Set([...old.keys(), ...now.keys()])) {
		const left = [...(old.get(key) ?? [])];
		const open: { c: KeptContact; unit: string }[] = [];
		const apart = (a: KeptContact, b: KeptContact) => Math.hypot(a.x - b.x, a.y - b.y, a.z - b.z);
		for (const n of now.get(key) ?? []) {
			const same = left.findIndex((o) => apart(o.c, n.c) <= SAME);
			if (same >= 0) left.splice(same, 1);
			else open.push(n);
		}
		const pairs = open.flatMap((n) => left.map((o) => ({ n, o, by: apart(n.c, o.c) }))).sort((a, b) => a.by - b.by);
		const done = new Set<object>();
		for (const { n, o, by } of pairs) {
			if (done.has(n) || done.has(o)) continue;
			done.add(n);
			done.add(o);
			told('moved', n, by);
		}
		for (const n of open) if (!done.has(n)) told('added', n, 0);
		for (const o of left) if (!done.has(o)) told('removed', o, 0);
	}
	return out.sort((a, b) => b.by - a.by || (a.hole < b.hole ? -1 : 1));
}
