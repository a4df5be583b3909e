import * as yup from 'yup';
import type { Coordinates } from '#core/geometry/coordinates';
import type { CommonPoint } from '#core/geometry/similarity';
import { textRecordSchema } from '#core/project/guards';
import { coreSchema, hungSchema, placementSchema, readingSchema, valueRulesSchema, writtenSchema } from '#core/project/project-file';
import type { ProjectFile } from '#core/project/project-file';
import { fail } from '#core/problem';
import type { CalculatedColumn } from '#core/tables/calculated';
import { TABLE_KINDS, type TableKind } from '#core/tables/kinds';
import type { TableMarks } from '#core/tables/marks';
import { SOURCE_KINDS, type SourceKind } from '../graph/sources';

/** What jobs are given: guarded when it is put in, by the types, and when it is read, by another process and perhaps another version. */
const numbers = (count: number) => (v: unknown) =>
	v === undefined || (Array.isArray(v) && v.length === count && v.every((x) => typeof x === 'number' && Number.isFinite(x)));
/** What was guarded already, at length: here only that it is there. */
const known = <T extends object>() => yup.mixed<T>((v): v is T => typeof v === 'object' && v !== null);
const uuid = () => yup.string().uuid();

/** How people say where the coordinates of a file come from. */
const coordinateFields = {
	fromEpsg: yup.number().integer().min(1).max(999_999),
	sitePoints: yup
		.array(
			yup
				.mixed<CommonPoint>()
				.required()
				.test('point', 'must be four numbers: site easting and northing, project easting and northing', numbers(4))
		)
		.max(200),
	verticalShift: yup.number().min(-1e5).max(1e5)
};

/** What a file is taken for, and how it is read. */
export const choiceFields = {
	as: yup.string<SourceKind>().oneOf(SOURCE_KINDS),
	kind: yup.string<TableKind>().oneOf(TABLE_KINDS.map((k) => k.kind)),
	mapping: textRecordSchema,
	reading: readingSchema.default(undefined).optional(),
	units: textRecordSchema,
	written: writtenSchema
};

/** All that people can say of a file that is brought in. */
export const importFields = {
	fileId: uuid().required(),
	incomingId: uuid(),
	name: yup.string().trim().min(1).max(200).required(),
	...choiceFields,
	as: choiceFields.as.required(),
	part: yup.string().max(300),
	every: yup.number().integer().min(1).max(1000),
	clip: yup.mixed<[number, number, number, number]>().test('box', 'must be four numbers: least x and y, greatest x and y', numbers(4)),
	placement: placementSchema,
	points: yup
		.array(yup.mixed<CommonPoint>().required().test('point', 'must be four numbers: column, row, easting, northing', numbers(4)))
		.max(100),
	hung: hungSchema,
	core: coreSchema,
	...coordinateFields,
	values: valueRulesSchema
};

const PAYLOADS = {
	import: yup.object({
		...importFields,
		/** An archive brings its objects with ids, the way that coordinates were brought, edits, and files whose rows were added. */
		objectId: uuid(),
		given: known<Coordinates>(),
		coordinates: known<Coordinates>(),
		marks: known<TableMarks>(),
		appended: yup.array(uuid().required()),
		calculated: yup.array(known<CalculatedColumn>().required()),
		/** Lines of the file that are left out. */
		excluded: yup.array(yup.number().integer().required()),
		/** The file says in which system it is, and is believed. */
		trustFile: yup.boolean()
	}),
	version: yup.object({
		objectId: uuid().required(),
		fileId: uuid().required(),
		how: yup.string<'reload' | 'append'>().oneOf(['reload', 'append']).required(),
		conflicts: yup.string<'edits' | 'source'>().oneOf(['edits', 'source']).required(),
		dropLost: yup.boolean().required(),
		revision: yup.number().integer().required()
	}),
	catalogue: yup.object({
		record: yup.string().required(),
		box: yup.mixed<[number, number, number, number]>().required().test('box', 'must be four numbers', numbers(4)),
		every: yup.number().integer().min(1).required(),
		name: yup.string().required()
	}),
	results: yup.object({
		recipes: yup.array(known<NonNullable<ProjectFile['recipes']>[number]>().required()).required(),
		/** Names of the models that are built by themselves from then on. */
		auto: yup.array(yup.string().required())
	}),
	logs: yup.object({ logs: yup.array(known<NonNullable<ProjectFile['logs']>[number] & { id: string }>().required()).required() })
};
/** Kinds of job that are given something; a build and its nodes are planned (`plan.ts`). */
export type JobKind = keyof typeof PAYLOADS;
export type PayloadOf<K extends JobKind> = yup.InferType<(typeof PAYLOADS)[K]>;

/**
 * What a job was given.
 * @throws ProblemError `bad-payload` when it is not what its kind takes
 */
export function payloadOf<K extends JobKind>(c: { payload: Record<string, unknown> }, kind: K): PayloadOf<K> {
	try {
		return PAYLOADS[kind].validateSync(c.payload) as PayloadOf<K>;
	} catch (error) {
		if (!(error instanceof yup.ValidationError)) throw error;
		return fail(
			'bad-payload',
			`this work was not given what it needs: ${error.errors[0] ?? ''}`.trim(),
			'Another version of the program may have asked for it. Start it again.',
			error.path
		);
	}
}
