import * as yup from 'yup';
import type { Scheme } from '../units/scheme';
import { ABSENCES, type Absence } from '../stratigraphy/absences';
import type { SetAbsence } from '../stratigraphy/units-in-holes';
import type { Tie } from '../stratigraphy/ties';
import { finite, id, name } from './guards';

/** Yup guards of schemes and ties, shared by the project file, the API and the interface. */
const age = () => finite().min(0).max(20_000).nullable().default(undefined).defined();

const schemeUnitSchema = yup
	.object({
		id: id().required(),
		name: name().required(),
		rank: yup.number().integer().min(0).max(19).required(),
		parent: yup.string().max(40).defined(),
		top: age(),
		base: age(),
		error: age(),
		color: yup
			.string()
			.matches(/^(#[0-9a-fA-F]{6})?$/, 'must be a colour like #3a7f55, or empty')
			.defined(),
		lithology: yup.string().max(200).defined(),
		otherParents: yup.array(yup.string().max(200).required()).max(50).default(undefined).optional()
	})
	.noUnknown();

const schemeSchema = yup
	.object({
		id: id().required(),
		name: name().required(),
		ranks: yup.array(name().max(60).required()).min(1).max(20).required(),
		units: yup.array(schemeUnitSchema.required()).max(2000).required()
	})
	.noUnknown();

export const schemesSchema: yup.Schema<Scheme[] | undefined> = yup
	.array(schemeSchema.required())
	.max(50)
	.default(undefined)
	.optional() as never;

const absenceSchema = yup
	.object({
		hole: yup.string().min(1).max(200).required(),
		unit: name().required(),
		why: yup.string<Absence>().oneOf(ABSENCES).required(),
		reason: yup.string().trim().min(1, 'say why: a reason is needed').max(1000).required()
	})
	.noUnknown();
export const absencesSchema: yup.Schema<SetAbsence[] | undefined> = yup
	.array(absenceSchema.required())
	.max(20_000)
	.default(undefined)
	.optional() as never;

const tieEndSchema = () =>
	yup
		.object({ hole: yup.string().min(1).max(200).required(), depth: finite().min(-1e6).max(1e6).required() })
		.noUnknown()
		.required();
const tieSchema = yup
	.object({
		id: id().required(),
		name: yup.string().trim().max(400).defined(),
		kind: yup.string<'certain' | 'doubtful'>().oneOf(['certain', 'doubtful']).required(),
		a: tieEndSchema(),
		b: tieEndSchema()
	})
	.noUnknown()
	.test('two-holes', 'a tie joins two holes', (t) => t.a?.hole !== t.b?.hole);

export const tiesSchema: yup.Schema<Tie[] | undefined> = yup.array(tieSchema.required()).max(5000).default(undefined).optional() as never;
