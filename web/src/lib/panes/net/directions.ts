import { kindOf } from '$lib/workbench/kinds';
import { numberOf } from '#core/datasets/dataset';
import { poleOf, project } from '#core/directions/stereonet';
import { lineDirection } from '#core/geometry/angles';
import type { Vec3 } from '#core/geometry/vector';
import type { ProjectObject } from '$lib/api/types';
import type { Workspace } from '$lib/workspace.svelte';

/** A pole or a line of the net, with the row that it comes from. */
export interface Direction {
	v: Vec3;
	dip: number;
	dipAzimuth: number;
	isLine: boolean;
	table: string;
	row: number;
	color: string;
	what: string;
}

/** Tables of planes and lines that are shown, read already or not. */
export const directionTables = (workspace: Workspace): ProjectObject[] =>
	workspace.tables.filter((t) => kindOf(t).directions && workspace.shown(`data:${t.id}`));

/** Planes and lines that are shown; what has no direction is none. */
export function directionsOf(workspace: Workspace): Direction[] {
	const { sets } = workspace;
	const out: Direction[] = [];
	for (const t of directionTables(workspace)) {
		const set = sets.of(t.id);
		if (!set) continue;
		const painter = sets.painter(set);
		const values = (key: string) => numberOf(set, key)?.values;
		const [dip, azimuth, plunge, trend] = [values('dip'), values('dipAzimuth'), values('plunge'), values('trend')];
		for (let i = 0; i < set.rowCount; i++) {
			if (!painter.shown(i)) continue;
			const line = plunge !== undefined && trend !== undefined && !Number.isNaN(plunge[i]!) && !Number.isNaN(trend[i]!);
			const [d, a] = line ? [plunge[i]!, trend[i]!] : [dip?.[i] ?? NaN, azimuth?.[i] ?? NaN];
			if (Number.isNaN(d) || Number.isNaN(a)) continue;
			out.push({
				v: line ? lineDirection(a, -d) : poleOf(d, a),
				dip: d,
				dipAzimuth: a,
				isLine: line,
				table: set.id,
				row: set.row[i]!,
				color: painter.css(i),
				what: `${t.name}: ${line ? 'line plunges' : 'dips'} ${d.toFixed(0)}° to ${a.toFixed(0)}°`
			});
		}
	}
	return out;
}

/** The direction whose mark lies nearest to a place of the net (radius 1), −1 when none is near. */
export function nearestDirection(data: readonly Direction[], x: number, y: number, near = 0.05): number {
	let best = -1;
	let least = near;
	data.forEach((d, i) => {
		const [px, py] = project(d.v);
		const off = Math.hypot(px - x, py - y);
		if (off < least) {
			least = off;
			best = i;
		}
	});
	return best;
}
