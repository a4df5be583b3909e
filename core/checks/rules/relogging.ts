import type { Found, Rule } from '../finding';

/** Edits of a version of a log whose cell says something else now than when they were made. */
export const outdatedRelogging: Rule = {
	id: 'outdated-relogging',
	title: 'Relogged from something else',
	severity: 'noted',
	reason: 'The log was changed after this interval was relogged; the relogging may not be meant for what it says now.',
	scope: 'holes',
	ofVersions: true,
	*check({ tables }): Iterable<Found> {
		for (const table of tables)
			for (const { row, was, now } of table.outdated ?? [])
				yield {
					table,
					row,
					hole: table.text['hole']![row]!,
					message: `relogged when the log said "${was}"; it says "${now}" now`,
					hint: 'Look at it again: take the relogging back, or do it once more.'
				};
	}
};

/** Edits of a version of a log whose row went away when the log was read from another file. */
export const unplacedRelogging: Rule = {
	id: 'unplaced-relogging',
	title: 'Relogging without its interval',
	severity: 'noted',
	reason: 'What was relogged is not in the log any more; nothing of it is lost, and nothing of it is used.',
	scope: 'holes',
	ofVersions: true,
	*check({ tables }): Iterable<Found> {
		for (const table of tables)
			for (const e of table.unplaced ?? [])
				yield {
					table,
					row: -1,
					hole: e.hole,
					message: `${e.hole}, ${e.place}: ${e.column} was set to "${e.value}", and the interval is not there any more`,
					hint: 'Relog the interval that took its place, or let it go under Interpret, Logs.'
				};
	}
};
