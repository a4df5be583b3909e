import { extentSchema } from '#core/project/project-file';
import { anyRecord, flag, id, int, list, maybe, num, obj, opt, recordOf, text, time, word } from './shapes';

const projectShape = {
	id: id(),
	name: text(),
	author: text(),
	description: text(),
	/** EPSG code of the coordinate system; 0 is a local grid. */
	crs: int(),
	lengthUnit: word('m', 'ft'),
	/** Mark between whole and fraction in what is typed. */
	decimal: word('.', ','),
	extent: extentSchema.clone().nullable().default(undefined).defined(),
	revision: int(),
	createdAt: time(),
	updatedAt: time()
};
export const projectAnswer = obj(projectShape);
export const projectListAnswer = obj({
	total: int(),
	projects: list(obj({ ...projectShape, removedAt: maybe(time()), lastWork: text() }))
});

/** A change that can be undone, or done again. */
const nextChange = obj({ id: int(), label: text(), by: text(), elsewhere: flag() });
const nextChangesAnswer = obj({ undo: maybe(nextChange), redo: maybe(nextChange) });
export const steppedAnswer = obj({ label: text(), changes: nextChangesAnswer });
export const changeListAnswer = obj({
	total: int(),
	changes: list(obj({ id: int(), label: text(), undone: flag(), by: text(), createdAt: time(), elsewhere: flag() }))
});

/** Open findings that hold rows back, and those that are only noted. */
export const countsAnswer = obj({ held: int(), noted: int() });
export const changedAnswer = obj({ changed: int(), held: int(), noted: int() });

const objectAnswer = obj({
	id: id(),
	kind: text(),
	name: text(),
	revision: int(),
	/** Of a source the hash of what it holds, of what is derived the key that it was built under; empty before. */
	contentHash: text(),
	/** Depends on the kind. */
	state: anyRecord(),
	fileId: maybe(id()),
	inputs: list(id()),
	/** The model that it is a part of; null for what all models share. */
	modelId: maybe(id()),
	/** What it looks like; null of settings and of steps that no pane draws. */
	form: maybe(text()),
	auto: flag(),
	failure: maybe(obj({ type: text(), title: text(), hint: opt(text()) })),
	outOfDate: flag(),
	missing: flag(),
	updatedAt: time(),
	built: maybe(obj({ report: anyRecord(), seconds: num(), createdAt: time() }))
});
export const openedAnswer = obj({
	project: projectAnswer,
	objects: list(objectAnswer),
	findings: countsAnswer,
	changes: nextChangesAnswer
});
export const startedAnswer = obj({ project: id(), jobs: list(id()) });
export const extentAnswer = obj({ extent: extentSchema.clone().defined() });

/** What came of a job, as far as all kinds of job tell it alike. */
interface Outcome {
	problem?: { title: string; hint?: string };
	seconds?: number;
	rows?: number;
	held?: number;
	noted?: number;
	message?: string;
	[key: string]: unknown;
}
const jobShape = {
	id: id(),
	kind: text(),
	title: text(),
	objectId: maybe(id()),
	/** Jobs that must be done before it; of a build, those that it consists of. */
	after: list(id()),
	state: word('blocked', 'waiting', 'running', 'cancelling', 'done', 'failed', 'cancelled'),
	/** What is being done now. */
	what: text(),
	/** 0 to 1. */
	share: num(),
	/** What came of it, by kind; `problem` where it failed. */
	outcome: maybe(recordOf<Outcome>()),
	attempt: int(),
	by: text(),
	createdAt: time(),
	endedAt: maybe(time())
};
export const jobAnswer = obj(jobShape);
export const jobListAnswer = obj({ total: int(), jobs: list(jobAnswer) });
export const startedJobAnswer = obj({ job: id() });
export const cancelledAnswer = obj({ cancelled: flag() });

const state = () => word('up', 'down');
export const healthAnswer = obj({
	server: state(),
	database: state(),
	queue: state(),
	version: text(),
	/** How late the event loop was since the last call, ms. */
	delay: obj({ mean: num(), p99: num(), most: num() })
});
