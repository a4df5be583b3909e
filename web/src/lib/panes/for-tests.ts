import { NO_CLASS, type Column, type DataSet } from '#core/datasets/dataset';
import type { HolePaths } from '#core/datasets/hole-paths';
import { proposedStyle, unitDefaults } from '#core/styles/propose';
import { painter, type DataStyle } from '#core/styles/style';
import type { Workspace } from '$lib/workspace.svelte';

export const numbers = (key: string, values: number[], unit = ''): Column => ({
	key,
	label: key,
	type: 'number',
	unit,
	values: Float32Array.from(values)
});
export const classes = (key: string, cells: string[]): Column => {
	const categories = [...new Set(cells)].filter(Boolean);
	return { key, label: key, type: 'category', categories, values: Uint16Array.from(cells, (c) => (c ? categories.indexOf(c) : NO_CLASS)) };
};

/** A data set of three rows. */
export const dataSet = (id: string, more: Partial<DataSet> = {}): DataSet => ({
	id,
	name: id,
	kind: 'intervals',
	place: 'interval',
	rowCount: 3,
	row: Uint32Array.of(0, 1, 2),
	hole: Uint32Array.of(0, 0, 1),
	from: Float32Array.of(0, 10, 0),
	to: Float32Array.of(10, 30, 5),
	xyz: new Float64Array(9),
	columns: [],
	texts: [],
	...more
});

/** As much of a workspace as pictures of its data need. */
export function workspaceOf(
	sets: readonly DataSet[],
	more: {
		units?: { id: string; name: string; color: string }[];
		hidden?: string[];
		styles?: Record<string, DataStyle>;
		things?: object[];
		selection?: object;
	} = {}
): Workspace {
	const of = new Map(sets.map((s) => [s.id, s]));
	const extent = { minX: 0, minY: 0, minZ: 0, maxX: 1000, maxY: 1000, maxZ: 100 };
	const defaults = unitDefaults([], {});
	const style = (set: DataSet) => more.styles?.[set.id] ?? proposedStyle(set, extent);
	const paths: HolePaths = {
		holes: [
			{ name: 'H1', collar: [100, 200, 50], totalDepth: 30, row: 0 },
			{ name: 'H2', collar: [300, 400, 60], totalDepth: 5, row: 1 }
		],
		start: Uint32Array.of(0, 2, 4),
		depths: Float64Array.of(0, 30, 0, 5),
		xyz: Float64Array.of(100, 200, 50, 100, 200, 20, 300, 400, 60, 300, 400, 55)
	};
	return {
		project: { lengthUnit: 'm' },
		tables: sets.map((s) => ({ id: s.id, name: s.name, state: { kind: s.kind } })),
		mapTables: sets.filter((s) => s.place === 'map').map((s) => ({ id: s.id })),
		along: sets.find((s) => s.place === 'interval')?.id ?? null,
		allUnits: more.units ?? [],
		shownUnits: more.units ?? [],
		things: more.things ?? [],
		selection: more.selection ?? null,
		shown: (key: string) => !more.hidden?.includes(key),
		sets: { of: (id: string) => of.get(id) ?? null, style, defaults, paths, painter: (set: DataSet) => painter(set, style(set), defaults) }
	} as unknown as Workspace;
}
