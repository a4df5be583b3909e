import { hasTracks } from '$lib/workbench/kinds';
import { COPPER, DRAWN, GREEN, HELD, MOSS, NOTED } from '#core/palette';
import type { LogTrack } from '#core/logs/spec';
import type { Workspace } from '$lib/workspace.svelte';

const INKS = [COPPER, DRAWN, GREEN, HELD, NOTED, MOSS];

export const inkOf = (n: number): string => INKS[n % INKS.length]!;

export const plainTrack = (kind: LogTrack['kind'], width: number): LogTrack => ({
	kind,
	width,
	series: [],
	log: false,
	range: [null, null],
	fill: 'none'
});

/** Tracks that suit the tables of a project: depth, units, descriptions, measured values, planes, water. */
export function proposeTracks(workspace: Workspace): LogTrack[] {
	const tracks: LogTrack[] = [plainTrack('axis', 11)];
	let ink = 0;
	const shown = workspace.tables.find((t) => t.id === workspace.along);
	/** The log that the shown version goes out from: beside it only what it is taken for. */
	const below = shown?.state['versionOf'];
	// The version that is shown stands before what it goes out from.
	const order = [...workspace.tables].sort((a, b) => Number(b === shown && Boolean(below)) - Number(a === shown && Boolean(below)));
	for (const t of order) {
		const kind = String(t.state['kind']);
		if (!hasTracks(t)) continue;
		if (t.state['versionOf'] && t !== shown) continue;
		const set = workspace.sets.of(t.id);
		if (!set) continue;
		const one = (column: string, color = MOSS) => [{ table: t.id, column, color }];
		const has = (key: string) => set.columns.some((c) => c.key === key);
		if (kind === 'holeOrientations') tracks.push({ ...plainTrack('tadpoles', 22), series: one('dip') });
		else if (kind === 'levels') {
			if (has('waterDepth')) tracks.push({ ...plainTrack('levels', 20), series: one('waterDepth') });
		} else {
			const by = has('unit') ? 'unit' : has('code') ? 'code' : null;
			if (by) tracks.push({ ...plainTrack('classes', 24), series: one(by) });
			if (t.id === below) continue;
			if (by === 'unit') tracks.push({ ...plainTrack('classes', 18), series: one('code') });
			if ([...set.texts, ...set.columns].some((c) => c.key === 'description'))
				tracks.push({ ...plainTrack('text', 38), series: one('description') });
			for (const c of set.columns.filter((c) => c.type === 'number').slice(0, 4)) {
				const spread = c.type === 'number' ? workspace.sets.painter({ ...set }).scale : null;
				tracks.push({
					...plainTrack(set.place === 'interval' ? 'bars' : 'curves', 18),
					series: one(c.key, inkOf(ink++)),
					log: spread ? spread.low > 0 && spread.high / spread.low > 50 : false
				});
			}
		}
		if (tracks.length >= 9) break;
	}
	if (workspace.things.some((t) => t.kind === 'picture' && t.core)) tracks.splice(2, 0, plainTrack('photographs', 16));
	return tracks;
}
