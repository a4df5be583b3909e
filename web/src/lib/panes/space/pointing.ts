import { columnOf, type DataSet } from '#core/datasets/dataset';
import { spaced } from '#core/formats/ticks';
import { holeIndex, rowAtDepth } from '#core/scene/hole-index';
import { withinOutline, type Pixel } from '#core/scene/in-outline';
import { projectOnTrace } from '#core/sections/section';
import { valueText } from '$lib/workbench/sets.svelte';
import type { Workspace } from '$lib/workspace.svelte';
import type { Picked, SpaceScene } from './scene';
import type { Stage } from './stage';

/** What a pane draws in space. */
export interface Shown {
	workspace: Workspace;
	scene: SpaceScene;
	/** The model. */
	solids: ReturnType<Workspace['solids']>;
	/** What the holes are drawn by. */
	along: DataSet | null;
	/** Tables with places that are shown. */
	rowSets: readonly DataSet[];
	/** Whether a hole is shown, by number. */
	wanted: (hole: number) => boolean;
	/** That lengths are in. */
	unit: string;
}

/** Which holes are shown, by number: all, those that are selected (all while none is), or those within the corridor of the section. */
export function wantedHoles({ sets: { paths }, selectedHoles, section }: Workspace, only: string): (hole: number) => boolean {
	const all = () => true;
	if (!paths || only === 'all') return all;
	if (only === 'selection') return selectedHoles.size ? (h) => selectedHoles.has(paths.holes[h]!.name) : all;
	if (!section) return all;
	const flags = paths.holes.map((h) => projectOnTrace(section.trace, h.collar[0], h.collar[1]).off <= section.corridor);
	return (h) => flags[h]!;
}

/** What lies under the pointer. */
export function pointedAt({ scene, wanted }: Shown, event: MouseEvent): Picked | null {
	const r = scene.canvas.getBoundingClientRect();
	return scene.pick((2 * (event.clientX - r.left)) / r.width - 1, 1 - (2 * (event.clientY - r.top)) / r.height, wanted);
}

/** The row of what holes are drawn by at a depth of a hole; negative where there is none. */
function rowOn({ workspace: { sets }, along }: Shown, hole: number, depth: number): number {
	return along && sets.paths ? rowAtDepth(along, holeIndex(along, sets.paths.holes.length), hole, depth) : -1;
}

/** What was met, in words. */
export function describe(shown: Shown, p: Picked): string {
	const { workspace, solids, along, rowSets, unit } = shown;
	const { sets } = workspace;
	switch (p.what.kind) {
		case 'unit':
			return solids?.units[p.what.index]?.name ?? '';
		case 'fault':
			return solids?.faults[p.what.index]?.name ?? '';
		case 'terrain':
			return 'terrain';
		case 'hole': {
			const { hole, depth } = p.what;
			const row = rowOn(shown, hole, depth);
			const column = along ? columnOf(along, sets.style(along).by) : null;
			return `${sets.paths!.holes[hole]!.name} at ${spaced(depth, 1)} ${unit}${row >= 0 && column ? `: ${valueText(column, row) || 'no value'}` : ''}`;
		}
		case 'row': {
			const { set: of, row } = p.what;
			const set = rowSets.find((s) => s.id === of);
			const column = set ? columnOf(set, sets.style(set).by) : null;
			return set ? `${workspace.tables.find((t) => t.id === of)?.name ?? ''}${column ? `: ${valueText(column, row)}` : ''}` : '';
		}
	}
}

/** Selects what was met. @param event tells whether it is added to what is selected */
export function choosePicked(shown: Shown, p: Picked, event: MouseEvent): void {
	const { workspace, solids, along, rowSets } = shown;
	if (p.what.kind === 'unit') workspace.selectUnit(solids?.units[p.what.index]?.id ?? '', solids);
	else if (p.what.kind === 'fault') workspace.selection = { kind: 'fault', id: solids!.faults[p.what.index]!.id };
	else if (p.what.kind === 'hole') {
		const row = rowOn(shown, p.what.hole, p.what.depth);
		if (row >= 0) workspace.pressRows(along!.id, [along!.row[row]!], event);
		else workspace.selection = { kind: 'hole', name: workspace.sets.paths!.holes[p.what.hole]!.name };
	} else if (p.what.kind === 'row') {
		const { set: of, row } = p.what;
		const set = rowSets.find((s) => s.id === of);
		if (set) workspace.pressRows(set.id, [set.row[row]!], event);
	}
}

/** Rows of a table whose places are seen within an outline on the screen, also those behind something. */
export function rowsWithin({ scene, workspace, wanted }: Shown, table: DataSet, outline: readonly Pixel[]): number[] {
	const seenAt = scene.stage.projector();
	return withinOutline(outline, table.rowCount, (i) => {
		const place = wanted(table.hole[i]!) ? workspace.sets.placeOf(table, i) : null;
		const at = place && seenAt(...place);
		return at && at.depth <= 1 ? [at.x, at.y] : null;
	}).map((i) => table.row[i]!);
}

/** Goes near to holes. @returns whether there are any of the names */
export function lookAtHoles(stage: Stage, paths: NonNullable<Workspace['sets']['paths']>, names: ReadonlySet<string>): boolean {
	const points = paths.holes
		.flatMap((h, i) => (names.has(h.name) ? [paths.start[i]!, paths.start[i + 1]! - 1] : []))
		.map((v) => stage.toScene(paths.xyz[3 * v]!, paths.xyz[3 * v + 1]!, paths.xyz[3 * v + 2]!));
	if (points.length === 0) return false;
	const low = points[0]!.clone();
	const high = points[0]!.clone();
	for (const p of points) {
		low.min(p);
		high.max(p);
	}
	stage.lookAtBox(low, high);
	return true;
}
