import * as yup from 'yup';
import { refuseCircles, validateFault } from '../model/faults';
import { fail } from '../problem';
import { validateColumn, type StratigraphicColumn } from '../units/column';
import { columnSchema, faultSchema, finite, id, name, textRecordSchema, vertexSchema } from './guards';

/** Yup guards of what shapes a model beside its holes, column and faults. */

/** What a line or a point says of its unit. */
export const TELLS = ['base', 'top', 'inside', 'above', 'below', 'hanging', 'foot', 'middle'] as const;
export type Tells = (typeof TELLS)[number];
/** What tells of the walls of a sheet: a place on its hanging wall, on its footwall, or midway between them. */
export const WALLS: Partial<Record<Tells, 1 | 0 | -1>> = { hanging: 1, middle: 0, foot: -1 };
/** What is told, in words. */
export const wordsOf = (t: Tells): string => ({ hanging: 'hanging wall', foot: 'footwall' })[t as string] ?? t;

/** A vertex of a line with its elevation; null takes it from the terrain. */
const placeSchema = yup
	.mixed<[number, number, number | null]>(
		(v): v is [number, number, number | null] =>
			Array.isArray(v) && v.length === 3 && v.every((x, i) => (i === 2 && x === null) || (typeof x === 'number' && Number.isFinite(x)))
	)
	.meta({ place: true });

/** Lines and points that were drawn, typed or come with a layer. */
export const lineSchema = yup
	.object({
		id: id().required(),
		name: name().required(),
		on: yup.boolean().default(true),
		unit: yup.string().max(40).required(),
		tells: yup.string<Tells>().oneOf(TELLS).default('base'),
		/** Thickness of a sheet whose middle it tells, length units. */
		thickness: finite().min(0).default(undefined).optional(),
		/** Standard error across the surface, length units; 0 honours it. */
		error: finite().min(0).default(0),
		vertices: yup.array(placeSchema.required()).max(20_000).default(undefined).optional(),
		/** Name of a layer of points, lines or polygons, and which of its features. */
		layer: yup
			.object({ name: name().required(), property: yup.string().max(200).default(''), value: yup.string().max(200).default('') })
			.noUnknown()
			.default(undefined)
			.optional()
	})
	.noUnknown();

/** Which surfaces a data set does not shape, and its error. */
const dataSetSchema = yup
	.object({
		/** Name of a table. */
		table: name().required(),
		on: yup.boolean().default(true),
		/** Units whose surfaces it does not shape. */
		off: yup.array(yup.string().max(40).required()).max(200).default([]),
		/** Standard error of its contacts, length units; 0 honours them. */
		error: finite().min(0).default(0)
	})
	.noUnknown();

export const trendSchema = yup
	.object({
		unit: yup.string().max(40).required(),
		anisotropy: yup
			.object({
				dip: finite().min(0).max(90).required(),
				dipAzimuth: finite().min(0).max(360).required(),
				pitch: finite().min(0).max(180).default(0),
				ratios: yup
					.mixed<[number, number, number]>(
						(v): v is [number, number, number] =>
							Array.isArray(v) && v.length === 3 && v.every((x) => typeof x === 'number' && x > 0 && x <= 1000)
					)
					.meta({ ratios: true })
					.required()
			})
			.noUnknown()
			.nullable()
			.default(undefined)
			.optional(),
		follows: yup.string().max(40).nullable()
	})
	.noUnknown();

/** A surface by name: `terrain`, or a grid or a surface of the project. */
const surfaceName = () => yup.string().max(200);

const LIMIT_KINDS = ['outline', 'near', 'under', 'over', 'covered', 'inside'] as const;
const limitSchema = yup
	.object({
		kind: yup.string<(typeof LIMIT_KINDS)[number]>().oneOf(LIMIT_KINDS).required(),
		on: yup.boolean().default(true),
		trace: yup.array(vertexSchema.required()).max(5000).default(undefined).optional(),
		distance: finite().positive(),
		surface: surfaceName(),
		/** Moves the surface up, length units. */
		by: finite().default(0)
	})
	.noUnknown();

/** The base of a unit that is given, not interpolated. */
const madeSchema = yup
	.object({
		unit: yup.string().max(40).required(),
		on: yup.boolean().default(true),
		/** A surface by name, or the base of a unit; without either a plane. */
		surface: surfaceName(),
		follows: yup.string().max(40),
		plane: yup
			.object({
				x: finite().required(),
				y: finite().required(),
				z: finite().required(),
				dip: finite().min(0).max(89).required(),
				dipAzimuth: finite().min(0).max(360).required()
			})
			.noUnknown()
			.default(undefined)
			.optional(),
		/** Moves it up, length units; a cover has minus its thickness. */
		by: finite().default(0),
		/** Name of a grid of thickness that is taken off. */
		thickness: surfaceName()
	})
	.noUnknown();

const logSchema = yup
	.object({ table: name().required(), column: yup.string().max(200).default('') })
	.noUnknown()
	.nullable()
	.default(undefined)
	.optional();

const divisionSchema = yup
	.object({
		id: id().required(),
		name: name().required(),
		on: yup.boolean().default(true),
		/** The unit that is divided. */
		unit: yup.string().max(40).required(),
		log: logSchema,
		column: columnSchema,
		lumping: textRecordSchema.required(),
		faults: yup.array(faultSchema.required()).max(30).default([]),
		trends: yup.array(trendSchema.required()).max(100).default([])
	})
	.noUnknown();

/** Where a hole crosses an intrusion that is not to shape it: another vein of the same kind, say. */
const setAsideSchema = yup
	.object({
		unit: yup.string().max(40).required(),
		hole: yup.string().max(200).required(),
		/** Depths, length units. */
		from: finite().required(),
		to: finite().required()
	})
	.noUnknown();

export const shapingSchema = yup
	.object({
		/** Table and column that say what the holes are made of; without it the logged intervals. */
		log: logSchema,
		dataSets: yup.array(dataSetSchema.required()).max(200).default([]),
		lines: yup.array(lineSchema.required()).max(2000).default([]),
		setAside: yup.array(setAsideSchema.required()).max(20_000).default([]),
		/** Holes, and lines by their names, that are believed whatever their neighbours say. */
		certain: yup.array(yup.string().min(1).max(200).required()).max(5000).default(undefined).optional(),
		trends: yup.array(trendSchema.required()).max(100).default([]),
		limits: yup.array(limitSchema.required()).max(50).default([]),
		made: yup.array(madeSchema.required()).max(100).default([]),
		divisions: yup.array(divisionSchema.required()).max(20).default([])
	})
	.noUnknown();

export type Shaping = yup.InferType<typeof shapingSchema>;
export type ContactLine = Shaping['lines'][number];
export type DivisionSpec = Shaping['divisions'][number];

export const plainShaping = (): Shaping => shapingSchema.getDefault() as Shaping;

/** Names of the tables, layers, grids and surfaces that a shaping takes something from. */
export function thingsNamedBy(s: Shaping): Set<string> {
	const names = [
		s.log?.table,
		...s.divisions.map((d) => d.log?.table),
		...s.lines.map((l) => l.layer?.name),
		...s.limits.map((l) => l.surface),
		...s.made.flatMap((m) => [m.surface, m.thickness])
	];
	return new Set(names.filter((n): n is string => Boolean(n)));
}

/** A shaping that names a source by its new name. */
export function withRenamed(s: Shaping, from: string, to: string): Shaping {
	const own = <T extends string | null | undefined>(name: T): T => (name === from ? (to as T) : name);
	const log = <T extends { table: string } | null | undefined>(l: T): T => (l && l.table === from ? { ...l, table: to } : l);
	return {
		...s,
		log: log(s.log),
		divisions: s.divisions.map((d) => ({ ...d, log: log(d.log) })),
		dataSets: s.dataSets.map((d) => ({ ...d, table: own(d.table) })),
		lines: s.lines.map((l) => (l.layer ? { ...l, layer: { ...l.layer, name: own(l.layer.name) } } : l)),
		limits: s.limits.map((l) => ({ ...l, surface: own(l.surface) })),
		made: s.made.map((m) => ({ ...m, surface: own(m.surface), thickness: own(m.thickness) }))
	};
}

/**
 * Checks a shaping against the column that it shapes.
 * @throws ProblemError `unknown-unit`, `doubled-unit`, `divided-twice`, `bad-line`, and those of columns and faults
 */
export function validateShaping(s: Shaping, column: StratigraphicColumn): void {
	const ids = new Set(column.map((u) => u.id));
	const own = new Map<string, string>();
	const divided = new Set<string>();
	s.divisions.forEach((d, i) => {
		const where = `divisions[${i}]`;
		if (!ids.has(d.unit))
			fail('unknown-unit', `${d.name} divides "${d.unit}", which is no unit of the column`, 'Choose one of its units.', `${where}.unit`);
		if (d.on && divided.has(d.unit)) fail('divided-twice', `two divisions divide "${d.unit}"`, 'Turn one of them off.', `${where}.unit`);
		if (d.on) divided.add(d.unit);
		// A division that is being made has no units yet.
		if (d.column.length > 1) validateColumn(d.column);
		for (const u of d.column) {
			if (ids.has(u.id) || own.has(u.id))
				fail('doubled-unit', `"${u.id}" of ${d.name} is the id of another unit`, 'Give the part an id of its own.', `${where}.column`);
			own.set(u.id, d.id);
		}
		const parts = d.column.map((u) => u.id);
		for (const f of d.faults) validateFault(f, parts);
		refuseCircles(d.faults);
	});
	const all = new Set([...ids, ...own.keys()]);
	s.lines.forEach((l, i) => {
		if (!all.has(l.unit))
			fail(
				'unknown-unit',
				`${l.name} tells of "${l.unit}", which is no unit`,
				'Choose a unit of the column or of a division.',
				`lines[${i}].unit`
			);
		const last = [column, ...s.divisions.map((d) => d.column)].some((c) => c[c.length - 1]?.id === l.unit);
		if (last && ['base', 'above', 'below'].includes(l.tells))
			fail(
				'line-of-basement',
				`${l.name} tells of the base of "${l.unit}", which has none: it is the lowest`,
				'Choose the unit whose base it is, or its top.',
				`lines[${i}].tells`
			);
		const unit = [column, ...s.divisions.map((d) => d.column)].flat().find((u) => u.id === l.unit)!;
		if (WALLS[l.tells] !== undefined && (unit.contact !== 'intrusive' || unit.form === 'body'))
			fail(
				'line-of-walls',
				`${l.name} tells of the walls of "${l.unit}", which is no sheet`,
				'Make the unit intrusive and its form a sheet, or choose what the line tells.',
				`lines[${i}].tells`
			);
		if (l.tells === 'middle' && !((l.thickness ?? 0) > 0))
			fail(
				'line-without-thickness',
				`${l.name} tells of the middle of "${l.unit}" without its thickness`,
				'Give the thickness there.',
				`lines[${i}].thickness`
			);
		if (!l.layer && !l.vertices?.length)
			fail('bad-line', `${l.name} has no places`, 'Draw it, type its places, or name a layer.', `lines[${i}]`);
	});
	for (const a of s.setAside)
		if (!(a.to >= a.from))
			fail(
				'bad-intercept',
				`an intercept of ${a.hole} that is set aside ends at ${a.to}, above its start at ${a.from}`,
				'Give the lesser depth first.',
				'setAside'
			);
	for (const a of s.setAside)
		if (!all.has(a.unit))
			fail(
				'unknown-unit',
				`an intercept of "${a.unit}" is set aside, which is no unit`,
				'Take it back in, or choose a unit of the column.',
				'setAside'
			);
	for (const t of s.trends)
		if (!ids.has(t.unit))
			fail(
				'unknown-unit',
				`a trend names "${t.unit}", which is no unit of the column`,
				'Choose one of its units, or take the trend away.',
				'trends'
			);
	for (const m of s.made)
		if (!ids.has(m.unit))
			fail('unknown-unit', `the base of "${m.unit}" is given, and it is no unit of the column`, 'Choose one of its units.', 'made');
	s.limits.forEach((l, i) => {
		if (l.kind === 'outline' && (l.trace?.length ?? 0) < 3)
			fail('bad-limit', 'an outline needs at least three corners', 'Draw it again.', `limits[${i}].trace`);
		if (l.kind === 'near' && !l.distance)
			fail('bad-limit', 'the distance from the data must be above 0', undefined, `limits[${i}].distance`);
	});
}
