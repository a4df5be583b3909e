import { extentSchema, sectionFields } from '#core/project/project-file';
import { columnSchema, faultSchema, finerSchema, textRecordSchema, traceSchema } from '#core/project/guards';
import type { FirstSteps } from '#core/project/first-steps';
import type { ListedIntercept } from '#core/model/intercepts';
import { shapingSchema } from '#core/project/shaping';
import { flag, id, int, list, maybe, num, numbers, numOrNone, obj, opt, record, recordOf, text, time, word } from './shapes';

const columnShape = { units: columnSchema.clone().defined() };
const lumpingShape = { codes: textRecordSchema.clone().defined() };
const faultsShape = { faults: list(faultSchema.clone().defined()), /** The model whose faults these are. */ follows: opt(id()) };
const sectionShape = { trace: traceSchema.clone().defined(), corridor: num() };
const modelShape = { spacing: num(), leastPart: opt(num()), finer: opt(finerSchema.clone()) };
const stored = <S extends Parameters<typeof obj>[0]>(shape: S) => obj({ revision: int(), state: obj(shape) });

export const columnAnswer = stored(columnShape);
export const lumpingAnswer = stored(lumpingShape);
export const faultsAnswer = stored(faultsShape);
export const sectionAnswer = stored(sectionShape);
export const spacingAnswer = stored(modelShape);
export const shapingAnswer = obj({ revision: int(), state: shapingSchema.clone().defined() });

/** A section beside the main one; what it has not of its own is that of the main one, or of the workbench. */
const sectionBeside = obj({ id: id(), revision: int(), name: text(), ...sectionFields });
export const sectionsAnswer = obj({ sections: list(sectionBeside) });
export const sectionsAddedAnswer = obj({ ids: list(id()) });

export const interpretationAnswer = obj({
	/** Codes of the logs with the rows that have them. */
	codes: list(obj({ code: text(), count: int() })),
	/** Units that codes seem to be, by their names. */
	proposal: textRecordSchema.clone().defined(),
	/** What is stored of these can not be read: they are shown as they began, tables not at all. */
	damaged: list(obj({ object: id(), kind: text(), name: text(), what: text() })),
	column: obj({ revision: int(), ...columnShape }),
	lumping: obj({ revision: int(), ...lumpingShape }),
	faults: obj({ revision: int(), ...faultsShape }),
	/** The main section, and those beside it in their order. */
	section: obj({ id: id(), revision: int(), name: text(), ...sectionShape }),
	sections: list(sectionBeside),
	model: obj({ revision: int(), ...modelShape }),
	shaping: shapingSchema.clone().shape({ revision: int() }).default(undefined).defined()
});

export const firstStepsAnswer = obj({
	units: maybe(recordOf<NonNullable<FirstSteps['units']>>()),
	extent: extentSchema.clone().nullable().default(undefined).defined(),
	spacing: maybe(num()),
	section: maybe(obj({ trace: traceSchema.clone().defined(), corridor: num(), holes: int() })),
	/** Holes that lie so far from all others that extent and section leave them out. */
	far: list(text()),
	/** What is needed first, in words, with what to do. */
	missing: list(obj({ what: text(), hint: text() }))
});
export const takenAnswer = obj({ taken: list(text()) });
export const estimateAnswer = obj({ cells: num(), bytes: num(), free: num(), fits: flag() });

const agreement = obj({
	compared: num(),
	share: num(),
	units: list(obj({ unit: text(), logged: num(), agreed: num(), modelled: list(obj({ unit: maybe(text()), length: num() })) })),
	mismatches: list(obj({ hole: text(), from: num(), to: num(), logged: text(), modelled: text(), x: num(), y: num(), z: num() }))
});
const finding = obj({ kind: text(), severity: text(), message: text(), hint: text(), hole: opt(text()) });
/** What is odd about a contact, with where it stands. */
const contactFinding = obj({
	rule: text(),
	severity: text(),
	/** Id of the table, and row from 0. */
	table: text(),
	row: int(),
	column: opt(text()),
	hole: opt(text()),
	message: text(),
	hint: text(),
	others: opt(list(int())),
	proposal: opt(text()),
	count: opt(int())
});
/** What is told of a built model, as it is stored with it. */
export const modelReport = {
	spacing: num(),
	/** Volume of the box; all volumes in cubic length units of the project. */
	box: num(),
	cells: int(),
	triangles: int(),
	/** Share by which the volumes of all units and the air differ from the box. */
	volumeError: num(),
	volumes: list(obj({ unit: text(), name: text(), color: text(), volume: num(), parts: list(num()), partOf: opt(text()) })),
	surfaces: list(
		obj({ unit: text(), name: text(), contacts: int(), measured: int(), rms: num(), max: num(), area: num(), supported: num() })
	),
	support: num(),
	specks: obj({ dropped: int(), volume: num() }),
	blocks: list(obj({ id: text(), name: text(), volume: num() })),
	agreement: maybe(agreement),
	partAgreements: list(obj({ division: text(), name: text(), agreement })),
	offsets: list(obj({ fault: text(), unit: text(), places: int(), least: num(), mean: num(), most: num() })),
	faultMisfits: list(obj({ id: text(), name: text(), places: int(), misfit: num() })),
	findings: list(finding)
};
/** What is told of the contacts that a model is made of. */
export const contactsReport = { placed: int(), faulted: int(), findings: list(contactFinding) };
export const modelAnswer = obj({
	...modelReport,
	builtAt: time(),
	outOfDate: flag(),
	contacts: obj(contactsReport),
	orientations: obj({ count: int(), unused: int() }),
	/** By step. */
	seconds: record(num()),
	/** Distance of the model from each contact; null where the surface is not in the model. */
	misfits: list(
		obj({
			surface: int(),
			hole: text(),
			depth: numOrNone(),
			x: num(),
			y: num(),
			z: num(),
			distance: maybe(num()),
			table: text(),
			row: int()
		})
	)
});
export const holeAnswer = obj({
	name: text(),
	collar: numbers<[number, number, number]>(3),
	end: numbers<[number, number, number]>(3),
	totalDepth: num(),
	path: list(
		obj({
			measuredDepth: num(),
			azimuth: num(),
			inclination: num(),
			trueVerticalDepth: num(),
			easting: num(),
			northing: num(),
			elevation: num(),
			/** Degrees in 30 m or 100 ft. */
			doglegSeverity: num()
		})
	),
	/** By id of the table: rows in use, and rows that are left out. */
	rows: list(obj({ table: id(), count: int(), left: int() }))
});

/** What is told of an ensemble: the report of the recipe `doubt`. */
export const doubtReport = {
	members: int(),
	failed: int(),
	volumes: list(obj({ unit: text(), p10: num(), p50: num(), p90: num(), model: num() })),
	seed: opt(int()),
	errors: opt(obj({ contact: num(), orientation: num(), faultDip: num(), faultTrace: num() })),
	spacing: opt(num())
};
export const keptListAnswer = obj({
	models: list(
		obj({
			id: id(),
			name: text(),
			createdBy: text(),
			createdAt: time(),
			spacing: num(),
			volumes: list(obj({ unit: text(), volume: num() }))
		})
	)
});
export const keptAnswer = obj({ id: id(), name: text() });
/** What is told of two models: the report of the recipe `comparison`. */
export const comparisonReport = {
	volumes: list(obj({ unit: text(), before: maybe(num()), after: maybe(num()) })),
	surfaces: list(obj({ kind: word('contact', 'fault'), id: text(), mean: num(), most: num(), up: num() })),
	contacts: list(
		obj({
			change: word('added', 'removed', 'moved'),
			unit: text(),
			hole: text(),
			depth: numOrNone(),
			x: num(),
			y: num(),
			z: num(),
			by: num()
		})
	)
};

/** Where holes cross each intrusion that may be a sheet. */
export const interceptsAnswer = obj({ units: list(obj({ unit: text(), intercepts: list(recordOf<ListedIntercept>()) })) });
