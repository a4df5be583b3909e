import { endingsFor, titleOfEnding } from '#core/formats/known';

/** The formats in which a source can be saved, by its kind; `placed` and those of layers give rows of a table where they lie in space. */
const SAVE_AS: Record<string, readonly string[]> = {
	table: [...endingsFor('table'), 'placed', ...endingsFor('layer')],
	terrain: endingsFor('grid'),
	grid: endingsFor('grid'),
	layer: endingsFor('layer'),
	surface: endingsFor('surface')
};

/** What a format is called. */
export const formatName = (format: string): string => (format === 'placed' ? 'CSV with places' : titleOfEnding(format));

/** The formats of one source: LAS holds readings along one hole, AGS collars and logs. */
export const formatsOf = (kind: string, tableKind: unknown): readonly string[] =>
	(SAVE_AS[kind] ?? []).filter((f) =>
		f === 'las' ? tableKind === 'readings' : f === 'ags' ? tableKind === 'collars' || tableKind === 'intervals' : true
	);
