import * as yup from 'yup';
import { fail } from '../problem';
import type { RawTable } from './raw-table';

/** What people have done to a table, by the rows of its file, counted from 0. */
export interface TableMarks {
	/** Header of the column, what the file says, what stands for it, who and when. */
	edits: { row: number; column: string; original: string; value: string; by: string; at: string }[];
	excluded: { row: number; by: string; at: string }[];
	/** Findings that were looked at and left as they are; −1 is the table as a whole. */
	seen: { rule: string; row: number; reason: string; by: string; at: string }[];
}

const MOST_MARKS = 1_000_000;
const text = (most: number) => yup.string().max(most).defined();
const at = yup
	.string()
	.max(40)
	.required()
	.test('date', '${path} must be a date and time', (v) => !Number.isNaN(Date.parse(v)));
const row = (least: number) =>
	yup
		.number()
		.integer()
		.min(least)
		.max(2 ** 31 - 1)
		.required();

export const marksSchema = yup
	.object({
		edits: yup
			.array(
				yup
					.object({ row: row(0), column: text(500), original: text(100_000), value: text(10_000), by: text(200), at })
					.noUnknown()
					.required()
			)
			.max(MOST_MARKS)
			.required(),
		excluded: yup
			.array(
				yup
					.object({ row: row(0), by: text(200), at })
					.noUnknown()
					.required()
			)
			.max(MOST_MARKS)
			.required(),
		seen: yup
			.array(
				yup
					.object({ rule: text(100), row: row(-1), reason: text(1000), by: text(200), at })
					.noUnknown()
					.required()
			)
			.max(MOST_MARKS)
			.required()
	})
	.noUnknown()
	.default(undefined)
	.optional();

/**
 * What people have done to a table, at its place in the rows that were read.
 * @throws ProblemError `marks-do-not-fit` when a cell holds something else than it did
 */
export function placeMarks(raw: Pick<RawTable, 'header' | 'columns' | 'rowCount'>, marks: TableMarks) {
	const refuse = (what: string) =>
		fail('marks-do-not-fit', `${what} does not fit the file that came with it`, 'The archive was changed by hand, or is damaged.');
	const rowOf = (n: number) => (n < raw.rowCount ? n : refuse(`row ${n + 1}`));
	return {
		edits: marks.edits.map((e) => {
			const position = raw.header.indexOf(e.column);
			if (position < 0 || raw.columns[position]![rowOf(e.row)] !== e.original) refuse(`the edit of ${e.column} in row ${e.row + 1}`);
			return { n: e.row, position, value: e.value, original: e.original, editedBy: e.by, editedAt: new Date(e.at) };
		}),
		excluded: marks.excluded.map((e) => ({ n: rowOf(e.row), by: e.by, at: new Date(e.at) })),
		seen: marks.seen.map((s) => ({ rule: s.rule, n: rowOf(s.row), reason: s.reason, seenBy: s.by, seenAt: new Date(s.at) }))
	};
}
