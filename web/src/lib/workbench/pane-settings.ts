import * as yup from 'yup';
import { alignSchema, tracksSchema } from '#core/logs/spec';
import type { View } from '$lib/panes/views';

const number = (low = -1e12, high = 1e12) =>
	yup
		.number()
		.test('finite', '${path} must be a finite number', (v) => v === undefined || v === null || Number.isFinite(v))
		.min(low)
		.max(high);
const flag = () => yup.boolean();
const word = (...words: string[]) => yup.string().oneOf(words);
const text = (most: number) => yup.string().max(most);
const place = (count: number) => yup.array(number().required()).length(count).default(undefined).optional();

const column = () => yup.object({ table: text(500).required(), column: text(500).required() }).noUnknown();

/** A section that is kept: by its id, none, or its number as earlier versions kept it. */
export const keptSectionSchema = yup
	.mixed<string | number>(
		(v): v is string | number =>
			(typeof v === 'string' && v.length <= 40) || (Number.isInteger(v) && (v as number) >= 0 && (v as number) <= 10_000)
	)
	.nullable();

/** What each view keeps of itself in its pane. Nothing else is stored, and nothing else is given to a view. */
const SCHEMAS = {
	map: yup.object({
		center: place(2).nullable(),
		resolution: number(0),
		pies: word('none', 'pie', 'sized'),
		pieFrom: number(),
		pieTo: number(),
		pieSize: number(1, 500),
		unit: text(200),
		unitAs: word('thickness', 'top', 'parts'),
		scheme: text(60).nullable()
	}),
	section: yup.object({
		zoom: number(0, 1e6),
		shift: place(2),
		grid: flag(),
		barWidth: number(0, 500),
		dips: flag(),
		names: flag(),
		units: flag(),
		line: keptSectionSchema,
		solids: text(40).nullable(),
		over: text(40).nullable()
	}),
	space: yup.object({
		camera: yup
			.object({ position: place(3).required(), target: place(3).required(), zoom: number(0, 1e6).required() })
			.noUnknown()
			.nullable()
			.default(undefined)
			.optional(),
		parallel: flag(),
		background: word('paper', 'white', 'night', 'black', 'grey', 'sky'),
		axes: flag(),
		names: flag(),
		depths: flag(),
		only: word('all', 'selection', 'corridor'),
		solids: text(40).nullable(),
		peel: number(0, 1000),
		apart: number(0, 100)
	}),
	log: yup.object({
		holes: yup.array(text(200).required()).max(50).default(undefined).optional(),
		tracks: tracksSchema.clone().max(30).nullable().notRequired(),
		axis: word('depth', 'elevation', 'tvd'),
		align: alignSchema.clone().nullable().default(undefined).notRequired(),
		zoom: number(0, 1000),
		scale: number(1, 100_000)
	}),
	correlation: yup.object({
		holes: yup.array(text(200).required()).max(60).default(undefined).optional(),
		from: word('section', 'chosen'),
		axis: word('depth', 'elevation', 'tvd', 'age'),
		log: column().nullable().default(undefined).notRequired(),
		curves: yup.array(column().required()).max(4).default(undefined).optional(),
		spacing: word('equal', 'distance'),
		flatten: yup
			.object({ by: word('top', 'tie').required(), name: text(400).required() })
			.noUnknown()
			.nullable()
			.default(undefined)
			.notRequired(),
		fill: flag(),
		scheme: text(60).nullable(),
		zoom: number(0, 1000),
		scale: number(1, 100_000)
	}),
	table: yup.object({ table: text(100), sort: text(500), descending: flag(), filter: text(2000), find: text(200) }),
	chart: yup.object({
		kind: text(40),
		table: text(100),
		x: text(500),
		y: text(500),
		by: text(500),
		log: flag(),
		logY: flag(),
		bins: number(1, 1000)
	}),
	profiles: yup.object({
		data: text(100),
		by: text(500),
		x: text(500),
		y: yup.array(text(500).required()).max(20).default(undefined).optional(),
		only: yup.array(text(200).defined()).max(500).default(undefined).optional(),
		stacked: flag()
	}),
	grids: yup.object({
		grids: yup.array(text(40).defined()).max(4).default(undefined).optional(),
		count: number(1, 4).integer(),
		oneScale: flag(),
		scaleSet: flag()
	}),
	net: yup.object({
		poles: flag(),
		planes: flag(),
		contours: flag(),
		mean: flag(),
		girdle: flag(),
		cone: number(0, 180),
		sets: yup
			.array(
				yup
					.object({ name: text(200).required(), axis: place(3).required(), cone: number(0, 180).required() })
					.noUnknown()
					.required()
			)
			.max(50)
			.default(undefined)
			.optional()
	}),
	lineage: yup.object({})
} satisfies Record<View, yup.ObjectSchema<object>>;

/** Names of what a view may keep: a default of any other name is refused by the compiler. */
export type SettingName<V extends View> = keyof yup.InferType<(typeof SCHEMAS)[V]>;

/** Whether settings are such as a view keeps. */
export const areSettings = (view: string, settings: unknown): boolean =>
	Object.hasOwn(SCHEMAS, view) && SCHEMAS[view as View].noUnknown().isValidSync(settings, { strict: true });
