import { columnOf, type DataSet } from '#core/datasets/dataset';
import { placeAt } from '#core/datasets/hole-paths';
import { spaced, ticks } from '#core/formats/ticks';
import { valueText } from '$lib/workbench/sets.svelte';
import type { Workspace } from '$lib/workspace.svelte';
import type { PlacedText } from './overlay';

const MOST_TEXTS = 20_000;
/** Ranks of names: those of chosen holes before others, the deeper hole before the other, depths, labels of rows. */
const RANKS = { chosen: 900, hole: 100, depth: 50, row: 30 };

/**
 * Names of holes, depths along them and labels of rows, as the block shows them.
 * @param holes whether holes are shown at all; those that are `wanted`
 * @param labelled data sets whose rows have labels
 */
export function textsOf(
	workspace: Workspace,
	show: { holes: boolean; names: boolean; depths: boolean },
	wanted: (hole: number) => boolean,
	labelled: readonly DataSet[]
): PlacedText[] {
	const out: PlacedText[] = [];
	const { sets } = workspace;
	const { paths } = sets;
	const chosen = workspace.selectedHoles;
	if (paths && show.holes)
		paths.holes.forEach((h, i) => {
			if (!wanted(i)) return;
			if (show.names || chosen.has(h.name))
				out.push({
					x: h.collar[0],
					y: h.collar[1],
					z: h.collar[2],
					text: h.name,
					rank: chosen.has(h.name) ? RANKS.chosen : RANKS.hole + h.totalDepth / 1e5,
					lift: 7
				});
			if (!show.depths && !chosen.has(h.name)) return;
			const at: [number, number, number] = [0, 0, 0];
			for (const d of ticks(0, h.totalDepth, 5)) {
				if (d === 0) continue;
				placeAt(paths, i, d, at);
				out.push({ x: at[0], y: at[1], z: at[2], text: spaced(d), rank: RANKS.depth, lift: -4 });
			}
		});
	for (const set of labelled) {
		const column = columnOf(set, sets.style(set).labels);
		if (!column) continue;
		const p = sets.painter(set);
		for (let i = 0; i < set.rowCount && out.length < MOST_TEXTS; i++) {
			if (!p.shown(i)) continue;
			const at = sets.placeOf(set, i);
			const text = valueText(column, i);
			if (at && text) out.push({ x: at[0], y: at[1], z: at[2], text, rank: RANKS.row, lift: 6 });
		}
	}
	return out;
}

/** How far units are lifted apart: the lowest stays, each above it stands clear of the one below. @param seen numbers of the units, from the top */
export const liftsOf = (seen: readonly number[], step: number): Map<number, number> =>
	new Map(seen.map((unit, k) => [unit, (seen.length - 1 - k) * step]));
