import * as yup from 'yup';
import { lasting } from '#core/lineage/key';
import { columnSchema, faultSchema, finerSchema, finite, textRecordSchema } from '#core/project/guards';
import type { Coordinates } from '#core/geometry/coordinates';
import { coreSchema, ruleSettingsSchema, sectionFields } from '#core/project/project-file';
import { shapingSchema } from '#core/project/shaping';
import { absencesSchema, schemesSchema, tiesSchema } from '#core/project/stratigraphy';
import { fail, ProblemError } from '#core/problem';
import type { SetAbsence } from '#core/stratigraphy/units-in-holes';
import type { Tie } from '#core/stratigraphy/ties';
import type { Scheme } from '#core/units/scheme';
import type { SourceReading } from './source-packs';
import { sha256 } from '../store/hash';

/** A record of records: the parts of a model as they stood when it was kept. */
const partsSchema = yup.mixed<Record<string, Record<string, unknown>>>(
	(v): v is Record<string, Record<string, unknown>> =>
		typeof v === 'object' && v !== null && Object.values(v).every((part) => typeof part === 'object' && part !== null)
);

const listed = <T>(schema: yup.Schema<T[] | undefined>) => schema.clone().required() as yup.Schema<T[]>;

/** What is stored of settings and models as JSON, by the kind of the object, and the guard that it passes when it is read. */
const GUARDS = {
	column: yup.object({ units: columnSchema }),
	lumping: yup.object({ codes: textRecordSchema.required() }),
	faults: yup.object({
		faults: yup.array(faultSchema.required()).required(),
		/** The model whose faults these are; left out, its own. */
		follows: yup.string().uuid().default(undefined).optional()
	}),
	section: yup.object(sectionFields),
	model: yup.object({
		spacing: finite().positive().required(),
		leastPart: finite().min(0).default(undefined).optional(),
		finer: finerSchema.default(undefined).optional()
	}),
	shaping: shapingSchema,
	rules: yup.object({ rules: ruleSettingsSchema.required() }),
	schemes: yup.object({ schemes: listed<Scheme>(schemesSchema) }),
	ties: yup.object({ ties: listed<Tie>(tiesSchema) }),
	absences: yup.object({ absences: listed<SetAbsence>(absencesSchema) }),
	'kept-model': yup.object({ parts: partsSchema.required() })
};
export type StoredKind = keyof typeof GUARDS;
export type StateOf<K extends StoredKind> = yup.InferType<(typeof GUARDS)[K]>;

/** What was read last, by the hash of its kind and text: the same state is not guarded again and again. */
const seen = new Map<string, { read: unknown; size: number }>();
/** Characters of what is kept so, at most. */
const MOST_KEPT = 16e6;
let kept = 0;

/**
 * What is stored of an object, guarded and with what newer versions added to it. It is not to be changed.
 * @throws ProblemError `damaged-state` when it is not what such an object holds
 */
export function stateOf<K extends StoredKind>(o: { kind: string; name: string; state: Record<string, unknown> }, kind: K): StateOf<K> {
	if (o.kind !== kind) throw new Error(`${o.name} is no ${kind} but a ${o.kind}`);
	return readState(kind, o.state, o.name);
}

/** The same; null where it is damaged: who only lists what there is goes on. */
export function stateIfWhole<K extends StoredKind>(
	o: { kind: string; name: string; state: Record<string, unknown> },
	kind: K
): StateOf<K> | null {
	try {
		return stateOf(o, kind);
	} catch (error) {
		if (error instanceof ProblemError) return null;
		throw error;
	}
}

/** What comes of something, or null where it needs what is damaged. */
export const unlessDamaged = <T>(done: Promise<T>): Promise<T | null> =>
	done.catch((error: unknown) => {
		if (error instanceof ProblemError && error.problem.kind === 'damaged-state') return null;
		throw error;
	});

/** A state as `stateOf` reads it, where only it is at hand. @param name what it is called where it is damaged */
export function readState<K extends StoredKind>(kind: K, state: Record<string, unknown>, name: string): StateOf<K> {
	const last = readOf.get(state);
	if (last?.kind === kind) return last.read as StateOf<K>;
	const read = readText(kind, state, name);
	// What lasts is read once.
	if (Object.isFrozen(state)) readOf.set(state, { kind, read });
	return read;
}

const readOf = new WeakMap<object, { kind: StoredKind; read: unknown }>();

function readText<K extends StoredKind>(kind: K, state: Record<string, unknown>, name: string): StateOf<K> {
	const text = `${kind} ${JSON.stringify(state)}`;
	const key = sha256(text);
	const before = seen.get(key);
	if (before) return before.read as StateOf<K>;
	const read = lasting(guarded(GUARDS[kind] as yup.Schema<unknown>, state, name));
	seen.set(key, { read, size: text.length });
	kept += text.length;
	for (const [old, { size }] of seen) {
		if (kept <= MOST_KEPT || old === key) break;
		seen.delete(old);
		kept -= size;
	}
	return read as StateOf<K>;
}

function guarded<T>(schema: yup.Schema<T>, state: Record<string, unknown>, name: string): T {
	try {
		return schema.validateSync(state);
	} catch (error) {
		if (!(error instanceof yup.ValidationError)) throw error;
		return fail(
			'damaged-state',
			`what is stored of "${name}" can not be read: ${error.errors[0] ?? ''}`.trim(),
			'Set it anew, or open an archive of the project.',
			error.path
		);
	}
}

const known = <T extends object>() => yup.mixed<T>((v): v is T => typeof v === 'object' && v !== null);
const broughtSchema = yup.object({ coordinates: known<Coordinates>(), how: known<SourceReading>(), core: coreSchema });

/** What is stored of a raster, a layer, a surface or a picture that was brought in: how its file was placed and read. @throws ProblemError `damaged-state` */
export const broughtState = (o: { name: string; state: Record<string, unknown> }): yup.InferType<typeof broughtSchema> =>
	guarded(broughtSchema, o.state, o.name);
