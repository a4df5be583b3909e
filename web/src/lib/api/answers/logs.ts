import { id, int, list, maybe, num, obj, record, text, time, word } from './shapes';

export const newLogAnswer = obj({ id: id(), name: text() });
export const logCodesAnswer = obj({
	codes: list(obj({ code: text(), count: int(), holes: int(), length: num(), from: num(), to: num(), words: text() }))
});
export const codeGroupsAnswer = obj({
	groups: list(obj({ codes: list(text()), unit: text(), why: word('spelling', 'words', 'neighbours'), evidence: text() }))
});
const picked = () => obj({ rows: int(), holes: int(), length: num(), codes: list(obj({ code: text(), count: int(), length: num() })) });
export const logPickAnswer = obj({ rows: list(int()), picked: picked() });
const left = () => list(obj({ n: int(), hole: text(), why: text() }));
export const logPreviewAnswer = obj({
	changed: int(),
	left: left(),
	picked: picked(),
	shown: list(obj({ n: int(), hole: text(), from: num(), to: num(), was: text(), becomes: text() }))
});
export const logRelogAnswer = obj({ changed: int(), left: left(), held: int(), noted: int() });
export const logChangesAnswer = obj({
	total: int(),
	changes: list(
		obj({
			n: int(),
			hole: text(),
			/** As they are written in the log. */
			from: text(),
			to: text(),
			code: text(),
			what: word('relogged', 'cut off', 'left out'),
			/** What the log said in the columns that were changed. */
			before: record(text()),
			note: text(),
			by: text(),
			at: maybe(time())
		})
	),
	unplaced: list(obj({ hole: text(), place: text(), column: text(), value: text(), by: text(), at: time() }))
});
export const columnEvidenceAnswer = obj({
	/** Holes that meet any unit of the column. */
	holes: int(),
	/** Of each pair of neighbours: holes in which they stand so, and names of those that have them the other way round. */
	evidence: list(obj({ above: text(), below: text(), holes: int(), against: list(text()) })),
	/** The order and the kinds of contact that most holes have, youngest first. */
	proposed: list(obj({ unit: text(), contact: text() })),
	contradicting: list(text()),
	unmet: list(text())
});
export const logDifferencesAnswer = obj({
	total: int(),
	length: num(),
	compared: num(),
	differences: list(obj({ hole: text(), from: num(), to: num(), a: text(), b: text() }))
});
