import { FORMS, QUESTIONS } from '#core/recipes/recipe';
import type { Routine } from '#core/recipes/routine';
import { any, anyRecord, flag, id, int, list, maybe, num, numOrNone, obj, opt, record, recordOf, text, time, word } from './shapes';

const role = obj({
	role: text(),
	title: text(),
	/** Forms and kinds of object that can play it. */
	forms: list(text()),
	kinds: list(text()),
	/** Kinds of table that suit best, the best first. */
	prefers: list(text()),
	least: int(),
	most: int()
});
const parameter = obj({
	name: text(),
	label: text(),
	type: word('number', 'text', 'choice'),
	whole: flag(),
	least: maybe(num()),
	most: maybe(num()),
	unit: opt(text()),
	/** Its choices are the units of what plays this part. */
	unitsOf: opt(text()),
	/** Its choices are the ranks of the schemes that play this part. */
	ranksOf: opt(text()),
	/** Its choices are the columns of what plays this part, of these types. */
	columnsOf: opt(text()),
	columnTypes: opt(list(text())),
	words: opt(record(text())),
	/** Asked for only where another parameter has one of these values, or a part is played or not. */
	when: opt(obj({ parameter: text(), is: list(text()) })),
	whenRole: opt(obj({ role: text(), played: flag() })),
	help: opt(text()),
	optional: opt(flag()),
	expression: opt(word('columns', 'grids')),
	/** What it is when nothing is said. */
	first: any()
});
export const recipeListAnswer = obj({
	recipes: list(
		obj({
			id: text(),
			title: text(),
			about: text(),
			version: int(),
			form: maybe(word(...FORMS)),
			/** Every model has it as a step; nobody makes one by hand. */
			step: flag(),
			/** Can be looked at before it is made (previewResult). */
			previews: flag(),
			/** What it is asked for by: stands for its id in getDerived, exportDerived, makeResult. */
			answers: opt(word(...QUESTIONS)),
			/** Can be had without a result of its own (getDerived, exportDerived). */
			atOnce: flag(),
			roles: list(role),
			parameters: list(parameter),
			/** JSON Schema of the parameters. */
			schema: anyRecord()
		})
	)
});

const state = () => word('up to date', 'out of date', 'building', 'failed', 'never built');
export const resultAnswer = obj({
	id: id(),
	recipe: text(),
	name: text(),
	form: maybe(word(...FORMS)),
	state: state(),
	/** Why it could not be built. */
	failure: maybe(obj({ type: text(), title: text(), hint: opt(text()) })),
	revision: int(),
	auto: flag(),
	parameters: anyRecord(),
	/** Ids of objects by the part that they play. */
	inputs: record(list(id())),
	/** Names of what is made of it. */
	usedBy: list(text()),
	createdBy: text(),
	createdAt: time(),
	/** Of the result that is stored; null before it was built. */
	built: maybe(obj({ at: time(), seconds: num(), bytes: num(), report: anyRecord() }))
});
export const resultListAnswer = obj({ total: int(), results: list(resultAnswer) });
/** A routine as its file says it. */
export const routineAnswer = recordOf<Routine>();
export const accountAnswer = obj({ steps: list(obj({ name: text(), words: text() })) });
export const madeAnswer = obj({ id: id() });
export const suggestionAnswer = obj({
	name: text(),
	parameters: anyRecord(),
	columns: record(list(obj({ key: text(), label: text(), type: text(), unit: text() }))),
	ranks: record(list(obj({ id: text(), name: text() }))),
	units: record(list(obj({ id: text(), name: text(), color: text() })))
});
export const needsAnswer = obj({ bytes: num(), free: num(), fits: flag() });

const modelShape = {
	id: id(),
	name: text(),
	revision: int(),
	state: state(),
	createdBy: text(),
	createdAt: time(),
	/** It is built by itself whenever it is out of date. */
	auto: flag(),
	spacing: num(),
	units: list(obj({ id: text(), name: text(), color: text(), contact: text() })),
	/** Key of its solids; empty before they were built. */
	key: text()
};
export const modelsAnswer = obj({ models: list(obj(modelShape)) });
export const storeAnswer = obj({
	/** Bytes of what is stored: raw files, tables, results, by kind of result. */
	files: num(),
	tables: num(),
	results: num(),
	kinds: list(obj({ kind: text(), count: int(), bytes: num() })),
	/** Results that nothing refers to, and when the next of them may go; null when there are none. */
	spare: obj({ count: int(), bytes: num(), oldest: numOrNone() })
});
