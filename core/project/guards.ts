import * as yup from 'yup';
import './wording';
import { INTRUSION_FORMS, OPEN_ENDS, CONTACT_KINDS, type ContactKind, type IntrusionForm, type OpenEnd } from '../units/column';

/** Yup guards of the parts of an interpretation, shared by the project file, the API and the interface. */
export const finite = () =>
	yup
		.number()
		.typeError('must be a number')
		.test('finite', 'must be a finite number', (v) => v === undefined || v === null || Number.isFinite(v));
export const isRecord = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null && !Array.isArray(v);
export const name = () => yup.string().trim().min(1).max(200);
export const id = () => yup.string().matches(/^[\w-]{1,40}$/, 'letters, digits, dash and underscore only');

export const unitSchema = yup
	.object({
		id: id().required(),
		name: name().required(),
		color: yup
			.string()
			.matches(/^#[0-9a-fA-F]{6}$/, 'must be a colour like #3a7f55')
			.required(),
		contact: yup.string<ContactKind>().oneOf(CONTACT_KINDS).required(),
		/** How an intrusion is built; left out, as its intercepts suggest. */
		form: yup.string<IntrusionForm>().oneOf(INTRUSION_FORMS),
		/** Whether a sheet thins out where a hole passes it without meeting it, as it does when this is left out. */
		thinsOut: yup.boolean(),
		/** Id of the sheet that a sheet ends at, or null for none; left out, as the holes beyond other sheets suggest. */
		endsAt: yup.string().max(40).nullable(),
		/** Where a body goes on beyond the holes that end inside it; left out, it closes there. */
		opens: yup.string<OpenEnd>().oneOf(OPEN_ENDS)
	})
	.noUnknown();
export const columnSchema = yup.array(unitSchema.required()).max(200).required();

/** A record of text to text, for example codes to units. */
export const textRecordSchema = yup
	.mixed<Record<string, string>>((v): v is Record<string, string> => isRecord(v) && Object.values(v).every((x) => typeof x === 'string'))
	.meta({ record: 'string' });

export const vertexSchema = yup
	.mixed<[number, number]>(
		(v): v is [number, number] => Array.isArray(v) && v.length === 2 && v.every((x) => typeof x === 'number' && Number.isFinite(x))
	)
	.meta({ vertex: true });
export const traceSchema = yup.array(vertexSchema.required()).max(5000).required();

export const faultSchema = yup
	.object({
		id: id().required(),
		name: name().required(),
		trace: traceSchema,
		/** Further lines on which it was seen. */
		pieces: yup.array(traceSchema).max(50).default(undefined).optional(),
		dip: finite().moreThan(0).max(90).required(),
		dipAzimuth: finite().min(0).max(360).required(),
		youngestCut: yup.string().max(40).required(),
		halfWidth: finite().min(0).max(1000).default(5),
		/** How far it may be off where it was drawn. */
		uncertainty: finite().min(0).max(100_000).nullable().optional(),
		/** Places that it passes through, with the dip there where it was measured. */
		places: yup
			.array(
				yup
					.object({
						x: finite().required(),
						y: finite().required(),
						z: finite().required(),
						dip: finite().moreThan(0).max(90).nullable().optional(),
						dipAzimuth: finite().min(0).max(360).nullable().optional()
					})
					.noUnknown()
					.required()
			)
			.max(5000)
			.optional(),
		on: yup.boolean().default(true),
		/** Id of the fault that it ends on. */
		endsOn: yup.string().max(40).nullable(),
		/** Tip line of a fault that dies out: an ellipse on the fault, round the middle of its trace. */
		tips: yup
			.object({
				elevation: finite().required(),
				halfLength: finite().min(0).required(),
				halfHeight: finite().positive().required(),
				reach: finite().positive().required()
			})
			.noUnknown()
			.nullable()
			.default(undefined)
			.optional()
	})
	.noUnknown();

const finerList = yup
	.array(
		yup
			.object({ unit: yup.string().min(1).max(100).required(), spacing: finite().positive().required() })
			.noUnknown()
			.required()
	)
	.max(200)
	.default([]);

/** Where a model is to be finer than its spacing: surfaces (bases, boundaries of intrusions) and insides of units, and where data are dense. */
export const finerSchema = yup.object({ surfaces: finerList, units: finerList, dense: yup.boolean().default(false) }).noUnknown();
