import * as yup from 'yup';
import { columnSchema, faultSchema, finerSchema, finite, isRecord, name, textRecordSchema, traceSchema } from './guards';
import { shapingSchema } from './shaping';
import type { RuleSettings } from '../checks/settings';
import { TABLE_KINDS, type TableKind } from '../tables/kinds';
import type { Quotes } from '../tables/cut';
import { DELIMITERS, type Reading } from '../tables/raw-table';
import { HABITS, type Written } from '../tables/written';
import { absencesSchema, schemesSchema, tiesSchema } from './stratigraphy';
import { VALUE_CLASSES, type ValueRules } from '../tables/value-rules';
import type { Coordinates } from '../geometry/coordinates';
import { marksSchema } from '../tables/marks';
import { ProblemError } from '../problem';

/** Yup guards of the parts of a project, shared by the project file, the API and the interface. */

export const extentSchema = yup
	.object({
		minX: finite().required(),
		minY: finite().required(),
		minZ: finite().required(),
		maxX: finite().required(),
		maxY: finite().required(),
		maxZ: finite().required()
	})
	.noUnknown()
	.test(
		'solid',
		'the extent has no volume: each greatest value must be above the least',
		(e) => !e || (e.maxX > e.minX && e.maxY > e.minY && e.maxZ > e.minZ)
	);

/** What a section has besides its name. */
export const sectionFields = {
	trace: traceSchema,
	/** Name of the set that it stands in; left out, with the main section. */
	set: name().optional(),
	/** Its own; left out, that of the main section. */
	corridor: finite().min(0).max(1e6).optional(),
	/** Its own vertical exaggeration; left out, that of the workbench. */
	exaggeration: finite().min(0.1).max(100).optional()
};

/** Sections beside the main one, at most. */
export const MOST_SECTIONS = 500;

/** Named sections beside the main one. */
export const sectionLinesSchema = yup
	.array(
		yup
			.object({ name: name().required(), ...sectionFields })
			.noUnknown()
			.required()
	)
	.max(MOST_SECTIONS)
	.default(undefined)
	.optional();

/** How the cells of a file are written; what is not given is guessed. */
export const readingSchema = yup
	.object({
		delimiter: yup.string<Reading['delimiter']>().oneOf(DELIMITERS),
		decimal: yup.string<Reading['decimal']>().oneOf(['.', ',']),
		thousands: yup.string<Reading['thousands']>().oneOf(['', ',', '.', ' ', "'"]),
		headerLine: yup.number().integer().min(0).max(100_000),
		unitsLine: yup.boolean(),
		comment: yup.string().max(5),
		part: yup.string().max(200),
		quotes: yup.string<Quotes>().oneOf(['careful', 'all', 'none'])
	})
	.noUnknown();

/** How columns of inclinations and dates are written, by header. */
export const writtenSchema = yup
	.mixed<Written>((v): v is Written => isRecord(v) && Object.values(v).every((h) => (HABITS as readonly unknown[]).includes(h)))
	.meta({ record: { enum: HABITS } });

const actOk = (v: unknown): boolean => {
	if (typeof v !== 'object' || v === null) return false;
	const a = v as { act?: unknown; number?: unknown; share?: unknown };
	return (
		a.act === 'leave' ||
		a.act === 'keep' ||
		(a.act === 'number' && Number.isFinite(a.number)) ||
		(a.act === 'share' && Number.isFinite(a.share))
	);
};

/** What stands for missing, below-detection, zero, negative and other cells of measured columns. By header name. */
export const valueRulesSchema = yup
	.mixed<ValueRules>(
		(v): v is ValueRules =>
			isRecord(v) &&
			Object.values(v).every((rule: unknown) => {
				const r = rule as { acts?: Record<string, unknown>; reviewed?: unknown };
				return (
					typeof r === 'object' &&
					r !== null &&
					typeof r.acts === 'object' &&
					r.acts !== null &&
					Object.entries(r.acts).every(([c, act]) => (VALUE_CLASSES as readonly string[]).includes(c) && actOk(act)) &&
					(r.reviewed === undefined ||
						(Array.isArray(r.reviewed) && r.reviewed.every((c) => (VALUE_CLASSES as readonly unknown[]).includes(c))))
				);
			})
	)
	.meta({ record: 'object' });

/** Changes of the rules of the checks, by rule. */
export const ruleSettingsSchema = yup
	.mixed<RuleSettings>(
		(v): v is RuleSettings =>
			isRecord(v) &&
			Object.values(v).every((setting: unknown) => {
				const s = setting as { severity?: unknown; silenced?: unknown; reason?: unknown; bounds?: Record<string, unknown> };
				return (
					typeof s === 'object' &&
					s !== null &&
					(s.severity === undefined || s.severity === 'held' || s.severity === 'noted') &&
					(s.silenced === undefined || typeof s.silenced === 'boolean') &&
					(s.reason === undefined || (typeof s.reason === 'string' && s.reason.length <= 1000)) &&
					(s.bounds === undefined ||
						(typeof s.bounds === 'object' && s.bounds !== null && Object.values(s.bounds).every((b) => Number.isFinite(b))))
				);
			})
	)
	.meta({ record: 'object' });

/** How coordinates of a file were brought into the system of the project. */
const coordinatesSchema = yup
	.mixed<Coordinates>(
		(v): v is Coordinates =>
			isRecord(v) && Object.keys(v).every((k) => ['fromEpsg', 'toEpsg', 'from', 'to', 'site', 'verticalShift'].includes(k))
	)
	.meta({ record: 'object' });
const howSchema = yup
	.object({
		every: yup.number().integer().min(1).max(1000),
		clip: yup.array(finite().required()).length(4).default(undefined).optional(),
		part: yup.string().max(300)
	})
	.noUnknown()
	.default(undefined)
	.optional();
/** Where a picture lies on the map. */
/** The six numbers of a world file. */
export const placementSchema = yup
	.object({
		a: finite().required(),
		b: finite().required(),
		c: finite().required(),
		d: finite().required(),
		e: finite().required(),
		f: finite().required()
	})
	.noUnknown()
	.default(undefined)
	.optional();
/** A picture hung on a section: its trace, and where its top left and bottom right lie along it and in elevation. */
export const hungSchema = yup
	.object({
		trace: traceSchema,
		left: finite().required(),
		top: finite().required(),
		right: finite().required(),
		bottom: finite().required()
	})
	.noUnknown()
	.default(undefined)
	.optional();
/** A photograph of core: its hole, and the depths of its ends. */
export const coreSchema = yup
	.object({ hole: yup.string().trim().min(1).max(200).required(), from: finite().min(0).required(), to: finite().min(0).required() })
	.noUnknown()
	.default(undefined)
	.optional();
/** Of a raster, layer or surface: where it lies and how it was read. */
const placedSchema = { coordinates: coordinatesSchema, how: howSchema };

const tableSpecSchema = yup
	.object({
		file: yup.string().min(1).max(500).required(),
		name: name(),
		kind: yup
			.string<TableKind>()
			.oneOf(TABLE_KINDS.map((k) => k.kind))
			.required(),
		columns: textRecordSchema,
		/** Units of columns that are not in the unit of the project. */
		units: textRecordSchema,
		reading: readingSchema.default(undefined).optional(),
		values: valueRulesSchema,
		written: writtenSchema,
		/** Columns worked out from others. */
		calculated: yup
			.array(
				yup
					.object({ name: name().required(), expression: yup.string().min(1).max(2000).required() })
					.noUnknown()
					.required()
			)
			.max(50)
			.default(undefined)
			.optional(),
		/** Lines of the file, counted from 1, that are left out. */
		excluded: yup.array(yup.number().integer().min(1).required()).max(1_000_000),
		/** Files whose rows stand behind those of this one. */
		appended: yup.array(yup.string().min(1).max(500).required()).max(200).default(undefined).optional(),
		/** How its coordinates were brought into the system of the project. */
		coordinates: coordinatesSchema,
		/** Cells that were edited, rows that were left out, findings that were seen. */
		marks: marksSchema
	})
	.noUnknown();

const short = (most: number) => yup.string().max(most).defined();
/** A version of a log: which table or version it goes out from, codes that it takes for others, parts of intervals that were cut, edits. */
const logSpecSchema = yup
	.object({
		name: name().required(),
		of: name().required(),
		/** Header of the column that is the log, where it is not that of the codes. */
		column: yup.string().min(1).max(500),
		recode: textRecordSchema,
		added: yup
			.array(
				yup
					.object({ of: yup.number().integer().min(-1).required(), cells: yup.array(short(10_000)).max(2000).required() })
					.noUnknown()
					.required()
			)
			.max(1_000_000)
			.default(undefined)
			.optional(),
		/** Edits whose interval is not there any more. */
		unplaced: yup
			.array(
				yup
					.object({ hole: short(500), place: short(500), column: short(500), value: short(10_000), by: short(200), at: short(40) })
					.noUnknown()
					.required()
			)
			.max(1_000_000)
			.default(undefined)
			.optional(),
		marks: marksSchema
	})
	.noUnknown();

const thingsSchema = yup
	.array(
		yup
			.object({ file: yup.string().min(1).max(500).required(), name: name(), ...placedSchema })
			.noUnknown()
			.required()
	)
	.max(500)
	.default(undefined)
	.optional();

/** Epsg codes are whole numbers; 0 stands for a local grid. */
export const crsSchema = yup.number().integer().min(0).max(999999);

/** A model besides the first one: what it is made from, and how finely. */
const furtherModelSchema = yup
	.object({
		name: name().required(),
		spacing: finite().positive().required(),
		leastPart: finite().min(0).default(0),
		finer: finerSchema.default(undefined).optional(),
		/** It is built by itself whenever it is out of date. */
		auto: yup.boolean().default(undefined).optional(),
		column: columnSchema,
		lumping: textRecordSchema.required(),
		faults: yup.array(faultSchema.required()).max(30).default([]),
		/** Name of the model whose faults these are, as they are there. */
		faultsOf: name(),
		shaping: shapingSchema.default(undefined).optional()
	})
	.noUnknown();

/** The main section of a project, as long as nobody gives it another name. */
export const MAIN_SECTION = 'A';
/** A section among the inputs of a result: what else there is may have its name. */
export const SECTION_INPUT = 'section:';

/**
 * A named result: by which recipe, of what (names of sources, models and other results by the part that they play; of sections behind `section:`), with
 * which parameters.
 */
const recipeSpecSchema = yup
	.object({
		name: name().required(),
		recipe: yup.string().min(1).max(100).required(),
		inputs: yup
			.mixed<Record<string, string[]>>(
				(v): v is Record<string, string[]> =>
					isRecord(v) &&
					Object.values(v).every((list) => Array.isArray(list) && list.length <= 100 && list.every((x) => typeof x === 'string'))
			)
			.meta({ record: 'array' })
			.required(),
		parameters: yup.mixed<Record<string, unknown>>(isRecord).meta({ record: 'object' }).required(),
		/** Built again by itself when it is out of date. */
		auto: yup.boolean().default(false)
	})
	.noUnknown();

export const projectFileSchema = yup
	.object({
		malachite: yup.number().oneOf([1]).required(),
		name: name().required(),
		author: yup.string().max(200).default(''),
		description: yup.string().max(5000).default(''),
		crs: crsSchema.default(0),
		lengthUnit: yup.string<'m' | 'ft'>().oneOf(['m', 'ft']).default('m'),
		/** Mark between whole and fraction in what is typed. */
		decimal: yup.string<'.' | ','>().oneOf(['.', ',']).default('.'),
		/** Needed to build; a project that has none yet can be kept without. */
		extent: extentSchema.nullable().default(undefined).optional(),
		spacing: finite().positive().required(),
		/** Loose parts of units below this volume are dropped, cubic length units; 0 keeps all. */
		leastPart: finite().min(0).default(0),
		/** Where the model is to be finer than the spacing. */
		finer: finerSchema.default(undefined).optional(),
		tables: yup.array(tableSpecSchema.required()).max(500).required(),
		/** Versions of logs, each after what it goes out from. */
		logs: yup.array(logSpecSchema.required()).max(500).default(undefined).optional(),
		/** Photographs of core, along a hole. */
		photographs: yup
			.array(
				yup
					.object({
						file: yup.string().min(1).max(500).required(),
						name: name(),
						hole: name().required(),
						from: finite().min(0).required(),
						to: finite().min(0).required()
					})
					.noUnknown()
					.required()
			)
			.max(5000)
			.default(undefined)
			.optional(),
		terrain: yup
			.object({ file: yup.string().min(1).max(500).required(), name: name(), ...placedSchema })
			.noUnknown()
			.default(undefined)
			.optional(),
		column: columnSchema,
		lumping: textRecordSchema.required(),
		rules: ruleSettingsSchema,
		/** Schemes of ranks, ties between holes, and why units are not in holes where somebody set it right. */
		schemes: schemesSchema,
		ties: tiesSchema,
		absences: absencesSchema,
		faults: yup.array(faultSchema.required()).max(30).default([]),
		/** Name of the model whose faults these are, as they are there. */
		faultsOf: name(),
		/** Layers, grids and surfaces that the shaping names. */
		layers: thingsSchema,
		grids: thingsSchema,
		surfaces: thingsSchema,
		/** Pictures, with the state that says where they lie. */
		pictures: yup
			.array(
				yup
					.object({
						file: yup.string().min(1).max(500).required(),
						name: name().required(),
						state: yup.object({ placement: placementSchema, hung: hungSchema, core: coreSchema }).required()
					})
					.noUnknown()
					.required()
			)
			.max(5000)
			.default(undefined)
			.optional(),
		/** What shapes the model beside holes, column and faults. */
		shaping: shapingSchema.default(undefined).optional(),
		/** Name of the model that all this is about, and further ones. */
		model: name(),
		/** The first model is built by itself whenever it is out of date. */
		auto: yup.boolean().default(undefined).optional(),
		models: yup.array(furtherModelSchema.required()).max(49).default(undefined).optional(),
		/** Results that are made of sources, models and each other. */
		recipes: yup.array(recipeSpecSchema.required()).max(2000).default(undefined).optional(),
		section: yup
			.object({ name: name(), trace: traceSchema, corridor: finite().min(0).required(), lines: sectionLinesSchema })
			.noUnknown()
			.default(undefined)
			.optional()
	})
	.noUnknown();

export type ProjectFile = yup.InferType<typeof projectFileSchema>;

/** Names of all files that a project file takes, each once, the project file's own not among them. */
export function filesNamed(
	p: Partial<Pick<ProjectFile, 'tables' | 'photographs' | 'layers' | 'grids' | 'surfaces' | 'pictures' | 'terrain'>>
): string[] {
	const lists = [p.photographs, p.layers, p.grids, p.surfaces, p.pictures].flatMap((list) => list ?? []);
	const tables = (p.tables ?? []).flatMap((t) => [t.file, ...(t.appended ?? [])]);
	return [...new Set([...tables, ...(p.terrain ? [p.terrain.file] : []), ...lists.map((l) => l.file)])];
}

/** One complaint of a guard, with the path of the field. */
export interface FieldProblem {
	path: string;
	message: string;
}

/** Complaints of a Yup error as a flat list, the first of each field. */
export function fieldProblems(error: yup.ValidationError): FieldProblem[] {
	const list = (error.inner.length ? error.inner : [error]).map((e) => ({
		path: e.path ?? '',
		message: e.path && e.message.startsWith(`${e.path} `) ? e.message.slice(e.path.length + 1) : e.message.replace(/^this /, '')
	}));
	return list.filter((p, i) => list.findIndex((q) => q.path === p.path) === i);
}

/**
 * Checks a project file.
 * @throws ProblemError `bad-project-file` that names every field that is wrong
 */
export function parseProjectFile(value: unknown, where: string): ProjectFile {
	try {
		return projectFileSchema.validateSync(value, { abortEarly: false, strict: false, stripUnknown: false });
	} catch (error) {
		if (!(error instanceof yup.ValidationError)) throw error;
		const list = fieldProblems(error);
		throw new ProblemError({
			kind: 'bad-project-file',
			message: `${where} is not a valid project file:\n${list.map((p) => `  ${p.path || '(top)'}: ${p.message}`).join('\n')}`,
			where,
			hint: 'The file is described by docs/project-file.schema.json.'
		});
	}
}
