import { id, int, list, maybe, num, obj, opt, text, word } from './shapes';

const scheme = () =>
	obj({
		id: text(),
		name: text(),
		ranks: list(text()),
		units: list(
			obj({
				id: text(),
				name: text(),
				rank: int(),
				parent: text(),
				top: maybe(num()),
				base: maybe(num()),
				error: maybe(num()),
				color: text(),
				lithology: text(),
				otherParents: opt(list(text()))
			})
		)
	});
const problems = () => list(obj({ scheme: text(), unit: text(), kind: text(), message: text(), hint: text() }));
export const schemesAnswer = obj({ revision: int(), schemes: list(scheme()), problems: problems() });
export const readSchemeAnswer = obj({ scheme: scheme(), remarks: list(text()), problems: problems() });
const end = () => obj({ hole: text(), depth: num() });
export const tiesAnswer = obj({
	revision: int(),
	ties: list(obj({ id: text(), name: text(), kind: word('certain', 'doubtful'), a: end(), b: end() })),
	/** Pairs of ties that cross each other. */
	crossing: list(list(text()))
});
export const proposedTiesAnswer = obj({
	ties: list(
		obj({ name: text(), a: end(), b: end(), why: word('same boundary', 'same top', 'same base', 'likeness of curves'), score: num() })
	),
	scores: list(obj({ left: text(), right: text(), score: num() }))
});
const aged = { depth: num(), age: num() };
export const agesAnswer = obj({
	curves: list(
		obj({
			hole: text(),
			knots: list(obj({ ...aged, low: num(), high: num(), name: text(), from: word('boundary', 'sample', 'zone') })),
			aside: list(obj({ ...aged, name: text(), from: word('boundary', 'sample', 'zone') })),
			/** Between each knot and the next, length units for a million years; null across a hiatus. */
			rates: list(maybe(obj({ rate: num(), low: num(), high: num() })))
		})
	),
	without: list(obj({ hole: text(), why: text() }))
});
const why = () => word('removed', 'not-deposited', 'cut-out', 'not-reached', 'not-logged');
export const absencesAnswer = obj({ revision: int(), absences: list(obj({ hole: text(), unit: text(), why: why(), reason: text() })) });
export const unitInHolesAnswer = obj({
	unit: text(),
	holes: list(
		obj({
			hole: text(),
			thickness: num(),
			top: maybe(num()),
			parts: list(obj({ name: text(), share: num() })),
			absence: maybe(obj({ why: why(), depth: num(), between: text(), reason: text() }))
		})
	)
});
export const rankLogAnswer = obj({ id: id(), name: text(), unknown: list(text()) });
