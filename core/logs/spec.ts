import * as yup from 'yup';

/** What a track shows. */
export const TRACK_KINDS = [
	'axis',
	'classes',
	'text',
	'curves',
	'bars',
	'points',
	'tadpoles',
	'rose',
	'samples',
	'levels',
	'photographs',
	'model',
	'findings'
] as const;
export type TrackKind = (typeof TRACK_KINDS)[number];

interface TrackSeries {
	/** Id of a table and key of a column; of a model its id, and no column. */
	table: string;
	column: string;
	color: string;
}

/** One column of a log. */
export interface LogTrack {
	kind: TrackKind;
	/** Width on paper, mm. */
	width: number;
	/** What is drawn: one for most kinds, several for curves. */
	series: TrackSeries[];
	/** Logarithmic axis, for numbers. */
	log: boolean;
	/** Ends of the axis; null takes them from the values. */
	range: [number | null, number | null];
	/** Fill of curves: between the first two, or from the left. */
	fill: 'none' | 'between' | 'left';
}

/** By what the vertical axis runs. */
export type LogAxis = 'depth' | 'elevation' | 'tvd';

export interface LogSpec {
	/** Names of the holes, from left to right. */
	holes: string[];
	tracks: LogTrack[];
	axis: LogAxis;
	/** Scale number: 200 is 1 : 200. */
	scale: number;
	/** Aligned at the top of the first interval of a class: table, column and class; null aligns nothing. */
	align: { table: string; column: string; category: string } | null;
}

export const SCALES = [50, 100, 200, 250, 500, 1000, 2000, 5000] as const;

const id = () => yup.string().max(500).required();
export const tracksSchema = yup.array(
	yup
		.object({
			kind: yup.string().oneOf(TRACK_KINDS).required(),
			width: yup.number().min(5).max(200).required(),
			series: yup
				.array(
					yup
						.object({
							table: id(),
							column: yup.string().max(500).defined(),
							color: yup
								.string()
								.matches(/^#[0-9a-f]{6}$/i)
								.required()
						})
						.noUnknown()
						.required()
				)
				.max(8)
				.required(),
			log: yup.boolean().required(),
			range: yup.array(yup.number().nullable().defined()).length(2).required(),
			fill: yup.string().oneOf(['none', 'between', 'left']).required()
		})
		.noUnknown()
		.required()
);
export const alignSchema = yup.object({ table: id(), column: id(), category: id() }).noUnknown();

export const logSpecSchema = yup
	.object({
		holes: yup.array(yup.string().min(1).max(200).required()).min(1).max(50).required(),
		tracks: tracksSchema.clone().min(1).max(30).required(),
		axis: yup.string().oneOf(['depth', 'elevation', 'tvd']).required(),
		scale: yup.number().min(1).max(100_000).required(),
		align: alignSchema.clone().nullable().default(undefined).defined()
	})
	.noUnknown();
