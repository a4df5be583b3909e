/** Held back: the row takes no part in any calculation. Noted: it does. */
export type Severity = 'held' | 'noted';

/** One thing that a check found. */
export interface Finding {
	rule: string;
	severity: Severity;
	/** Name of the table. */
	table: string;
	/** Row in the table, counted from 0; −1 when the finding is about the table as a whole. */
	row: number;
	/** Role or value column, when one cell is meant. */
	column?: string;
	hole?: string;
	message: string;
	hint: string;
	/** Other rows of the same table that take part. */
	others?: number[];
	/** What the cell could be instead, when the rule has a proposal. */
	proposal?: string;
	/** How many rows it is about, when they are many of one cause. */
	count?: number;
}

/** What the checks made of some tables. */
export interface Checked {
	findings: Finding[];
	/** By table name: 1 for rows that take no part in calculations (held back or excluded). */
	out: Record<string, Uint8Array>;
}
