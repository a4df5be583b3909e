import { readingSchema, ruleSettingsSchema } from '#core/project/project-file';
import type { RuleSettings } from '#core/checks/settings';
import type { Placement } from '#core/formats/picture';
import type { Coordinates } from '#core/geometry/coordinates';
import type { Raster } from '#core/grids/raster';
import type { ColumnStatistics } from '#core/tables/choose';
import type { TableSummary } from '#core/tables/summary';
import type { Reading } from '#core/tables/raw-table';
import { VALUE_CLASSES, type ValueClass, type ValueRules } from '#core/tables/value-rules';
import type { Habit } from '#core/tables/written';
import { TABLE_KINDS } from '#core/tables/kinds';
import { textRecordSchema } from '#core/project/guards';
import { anyRecord, flag, id, int, list, maybe, num, numbers, obj, opt, record, recordOf, text, time, typed, word } from './shapes';
import { countsAnswer } from './projects';

const tableKind = () => word(...TABLE_KINDS.map((k) => k.kind));
const texts = () => textRecordSchema.clone().defined();
const systemShape = { epsg: int(), name: text(), unit: text(), area: text() };
export const systemAnswer = obj({ ...systemShape, definition: text(), wkt: text() });
export const systemListAnswer = obj({ systems: list(obj(systemShape)) });

export const kindListAnswer = obj({
	kinds: list(
		obj({
			kind: tableKind(),
			label: text(),
			help: text(),
			files: list(text()),
			/** Sets of roles of which at least one must be given whole. */
			oneOf: opt(list(list(text()))),
			rowChooses: opt(flag()),
			/** Where its rows stand: at the start of holes, on their paths, along them, at depths of them, in holes as a whole, or on the map. */
			at: word('start', 'path', 'along', 'depth', 'hole', 'map'),
			directions: opt(flag()),
			shapes: opt(flag()),
			dense: opt(flag()),
			series: opt(flag()),
			roles: list(
				obj({
					key: text(),
					label: text(),
					type: word('text', 'number', 'date'),
					required: flag(),
					help: text(),
					names: list(text()),
					/** What the numbers measure. */
					unit: opt(text()),
					many: opt(flag())
				})
			)
		})
	)
});

type RasterShape = Pick<Raster, 'nx' | 'ny' | 'dx' | 'dy'> & {
	min: number | null;
	max: number | null;
	missing: number;
	epsg: number | null;
};
const fileAnswer = obj({ id: id(), projectId: id(), name: text(), size: int(), sha256: text(), createdAt: time() });
/** What a file is taken for; which parts there are depends on what it is. */
const previewShape = {
	file: fileAnswer,
	as: word('table', 'terrain', 'grid', 'layer', 'surface', 'picture'),
	epsg: opt(maybe(int())),
	notes: opt(list(text())),
	format: opt(word('delimited', 'xlsx', 'ods', 'las', 'ags')),
	/** Tables of a workbook with their rows, or layers of a file with their things. */
	parts: opt(list(obj({ name: text(), rows: opt(int()), count: opt(int()) }))),
	kind: opt(tableKind()),
	header: opt(list(text())),
	/** Units as the file states them, by column. */
	stated: opt(maybe(list(text()))),
	reading: opt(typed<Reading>(readingSchema.clone().defined())),
	rows: opt(list(list(text()))),
	mapping: opt(texts()),
	units: opt(texts()),
	/** How angles and such are written, by column. */
	written: opt(typed<Record<string, Habit>>(texts())),
	/** Columns of dates that could be read in two ways. */
	ambiguous: opt(list(text())),
	missing: opt(list(text())),
	trouble: opt(list(obj({ row: int(), column: text(), message: text() }))),
	problem: opt(maybe(obj({ kind: opt(text()), message: text(), hint: opt(text()), where: opt(text()) }))),
	remembered: opt(flag()),
	/** A coordinate system that the file describes without a code. */
	system: opt(maybe(text())),
	/** Of a raster its frame, the range of its values, and how many are missing. */
	terrain: opt(recordOf<RasterShape>()),
	says: opt(text()),
	properties: opt(list(text())),
	picture: opt(obj({ width: int(), height: int(), placement: maybe(recordOf<Placement>()) })),
	/** What the name of a picture tells of a place in a hole. */
	core: opt(maybe(obj({ hole: text(), from: num(), to: num() })))
};
export const previewAnswer = obj(previewShape);
export const uploadAnswer = obj({ ...previewShape, card: maybe(id()) });
export const cardListAnswer = obj({
	cards: list(obj({ id: id(), fileId: id(), name: text(), title: text(), choice: anyRecord() }))
});
export const cardAnswer = obj({ card: id() });

export const ruleListAnswer = obj({
	revision: int(),
	rules: list(
		obj({
			id: text(),
			title: text(),
			severity: word('held', 'noted'),
			reason: text(),
			scope: text(),
			mends: list(text()),
			/** By name: what it is, its unit and its first value. */
			bounds: record(obj({ label: text(), value: num(), unit: text(), least: opt(num()), most: num() })),
			setting: recordOf<RuleSettings[string]>()
		})
	)
});
export const rulesAnswer = obj({ revision: int(), state: obj({ rules: ruleSettingsSchema.clone().defined() }) });
export const rulesEffectAnswer = obj({
	before: countsAnswer,
	after: countsAnswer,
	tables: list(obj({ table: text(), rows: int(), held: int(), heldNow: int() }))
});

export const findingListAnswer = obj({
	/** They are of the tables as they are now. */
	checked: flag(),
	total: int(),
	tables: list(obj({ id: id(), name: text(), kind: tableKind(), label: text(), rowCount: int() })),
	findings: list(
		obj({
			id: int(),
			table: maybe(id()),
			rule: text(),
			severity: word('held', 'noted'),
			/** Row from 0; −1 for the table as a whole. */
			n: int(),
			/** Line of the file, 0 where there is none. */
			line: int(),
			role: maybe(text()),
			hole: maybe(text()),
			message: text(),
			hint: text(),
			others: maybe(list(int())),
			proposal: maybe(text()),
			/** How many rows it is about. */
			count: int(),
			/** Why it was left as it is; null while it is open. */
			seen: maybe(text()),
			seenBy: maybe(text())
		})
	)
});

const tableStateShape = {
	kind: tableKind(),
	header: list(text()),
	stated: opt(maybe(list(text()))),
	mapping: texts(),
	units: texts(),
	values: anyRecord(),
	reading: readingSchema.clone().defined(),
	written: opt(texts()),
	rowCount: int(),
	coordinates: opt(recordOf<Coordinates>()),
	appended: opt(list(id())),
	/** Rows that the file wrote unlike the others. */
	odd: opt(list(obj({ row: int(), kind: text(), count: int(), lost: opt(list(text())) }))),
	calculated: opt(list(obj({ name: text(), expression: text() }))),
	/** Of a version of a log: what it goes out from, the column that is the log where it is not that of the codes, and codes taken for others. */
	versionOf: opt(id()),
	logColumn: opt(text()),
	recode: opt(texts())
};
export const rowPageAnswer = obj({
	table: obj({ ...tableStateShape, id: id(), name: text(), revision: int() }),
	/** Calculated columns; a cell for each row. */
	calculated: list(obj({ name: text(), unit: text(), problem: maybe(text()), cells: list(text()) })),
	total: int(),
	rows: list(
		obj({
			n: int(),
			line: int(),
			excluded: flag(),
			cells: list(text()),
			/** What stood in the file, by column, where a cell was edited; and by whom and when. */
			originals: record(text()),
			edited: record(obj({ by: text(), at: time() })),
			findings: list(
				obj({ rule: text(), severity: word('held', 'noted'), role: maybe(text()), message: text(), hint: text(), proposal: maybe(text()) })
			)
		})
	)
});
export const statisticsAnswer = obj({
	statistics: obj({
		column: text(),
		rows: int(),
		missing: int(),
		numbers: maybe(recordOf<NonNullable<ColumnStatistics['numbers']>>()),
		classes: maybe(list(obj({ name: text(), count: int() }))),
		different: int()
	})
});
/** Null where no column was given. */
export const calculatedPreviewAnswer = obj({ preview: maybe(obj({ type: text(), unit: text(), cells: list(text()), missing: int() })) });
export const versionAnswer = obj({
	added: int(),
	gone: int(),
	changed: int(),
	same: int(),
	/** Edits that the new version has made itself, and those that stay. */
	settled: int(),
	kept: int(),
	conflicts: list(obj({ row: text(), column: text(), edited: text(), source: text() })),
	lost: list(obj({ row: text(), column: text(), edited: text(), why: word('row', 'column') })),
	excluded: obj({ kept: int(), lost: list(text()) }),
	unplaced: int()
});
export const mendPreviewAnswer = obj({
	changed: int(),
	cells: list(obj({ table: text(), n: int(), column: text(), before: text(), after: text() })),
	rows: list(obj({ table: text(), n: int() }))
});
export const summaryAnswer = obj({
	summary: obj({
		rows: int(),
		excluded: int(),
		/** Null of tables without holes. */
		holes: maybe(int()),
		/** Least and greatest, empty without depths. */
		depths: maybe(numbers<[number, number]>(2)),
		codes: list(recordOf<TableSummary['codes'][number]>()),
		numbers: list(recordOf<TableSummary['numbers'][number]>()),
		missingText: list(recordOf<TableSummary['missingText'][number]>())
	}),
	/** By measured column, how many cells are of each class. */
	values: list(obj({ column: text(), counts: recordOf<Record<ValueClass, number>>() })),
	acts: recordOf<ValueRules>(),
	classes: list(word(...VALUE_CLASSES))
});
export const catalogueAnswer = obj({
	url: text(),
	box: numbers<[number, number, number, number]>(4),
	records: list(
		obj({
			id: text(),
			item: text(),
			title: text(),
			description: text(),
			as: word('terrain', 'grid', 'layer', 'picture'),
			date: text(),
			licence: text(),
			resolution: maybe(num()),
			size: int(),
			area: num(),
			box: numbers<[number, number, number, number]>(4)
		})
	)
});
