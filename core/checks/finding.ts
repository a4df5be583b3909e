import type { Finding, Severity } from '../tables/finding';
import type { Box } from '../geometry/box';
import type { Raster } from '../grids/raster';
import type { Table } from '../tables/table';
import type { Scheme } from '../units/scheme';
import type { Lumping, StratigraphicColumn } from '../units/column';

/** What can be done about the findings of a rule besides editing the cell or excluding the row. */
export type Mend = 'swap' | 'deepen-hole' | 'propose';

/** A number that a project can change in a rule. */
export interface Bound {
	label: string;
	value: number;
	/** Printed behind it; `length` stands for the unit of the project. */
	unit: string;
	/** What it may be, from 0 on when nothing is said. */
	least?: number;
	most: number;
}

/** What is known of the ground besides the tables; every part may be missing. */
export interface Surroundings {
	terrain?: Raster | null;
	extent?: Box | null;
	column?: StratigraphicColumn;
	lumping?: Lumping;
	schemes?: readonly Scheme[];
	/** Days since 1970-01-01: dates after it lie in the future. */
	today?: number;
}

/** What a rule looks at. Rows that are already held back or excluded are left out of `rows` and `byHole`. */
export interface CheckContext extends Surroundings {
	tables: readonly Table[];
	/** Collar row of each hole name (collars that are neither excluded nor held back). */
	holes: ReadonlyMap<string, { table: Table; row: number }>;
	uses(table: Table, row: number): boolean;
	/** The rows to look at; after an edit only those that it can affect. */
	rows(table: Table): Iterable<number>;
	/** The same by hole. */
	byHole(table: Table): Iterable<readonly [string, number[]]>;
	lengthUnit: string;
	/** Whether a rule that compares all rows looks at a column; after an edit only at the one that was edited. */
	looksAt(table: Table, column: string): boolean;
	/** A bound as the project has it. */
	bound(key: string): number;
}

/** What a rule says of a finding; its id, severity and table are added for it. */
export type Found = Omit<Finding, 'rule' | 'severity' | 'table'> & {
	table: Table;
	severity?: Severity;
	/** Rows of one cause that this one finding is about: all are held back with it. */
	all?: readonly number[];
};

export interface Rule {
	id: string;
	title: string;
	severity: Severity;
	/** Why it matters, in one sentence. */
	reason: string;
	/**
	 * What an edit of a row can change in its findings: `holes`, only those of rows of the same hole (or of the row itself);
	 * `table`, any of the table, because the rule compares a row with all others.
	 */
	scope: 'holes' | 'table';
	/** A rule of scope `table` that never looks at rows that belong to holes. */
	notOfHoles?: boolean;
	/** It is asked of versions of logs, too: of what was changed in them. */
	ofVersions?: true;
	mends?: readonly Mend[];
	bounds?: Readonly<Record<string, Bound>>;
	check(context: CheckContext): Iterable<Found>;
}

/** A number as it stands in a message, without the noise of binary fractions. */
export const plainNumber = (v: number): string => String(Number(v.toPrecision(12)));
