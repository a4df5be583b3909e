import * as yup from 'yup';
import { styleSchema, type DataStyle } from '#core/styles/style';
import { VIEWS, type View } from '$lib/panes/views';
import { areSettings, keptSectionSchema } from './pane-settings';

/** A pane: what it shows, and what the view keeps of itself (camera, zoom, tracks …), by view. */
export interface PaneState {
	view: View;
	settings: Record<string, Record<string, unknown>>;
}

/** A curve drawn beside holes in space and on sections. */
export interface HoleCurve {
	/** Id of the table and key of the column. */
	table: string;
	column: string;
	/** Angle round the hole, degrees clockwise from north, from above. */
	side: number;
	/** Greatest reach from the hole, project units. */
	reach: number;
	color: string;
	/** Value from which on the curve is filled; null fills nothing. */
	threshold: number | null;
	fill: 'above' | 'below';
	/** Kept states of before know lines only. */
	shape?: 'line' | 'bars';
}

/** A plane that cuts space. */
export interface Slice {
	kind: 'none' | 'section' | 'vertical' | 'horizontal' | 'free' | 'corner';
	/** Point on the plane, project coordinates. */
	at: [number, number, number];
	/** Strike of a vertical plane, dip azimuth of a free one, or of the first side of a corner that is cut out, degrees; and its dip. */
	azimuth: number;
	dip: number;
	/** 0 cuts one side away; else only a slab of this thickness is kept, project units. */
	thickness: number;
	/** Keeps the other side. */
	flipped: boolean;
}

/** How the workbench of a project looks: kept with the project, and in each viewpoint. */
export interface BenchState {
	/** Panes by stage. */
	panes: Record<string, PaneState[]>;
	/** By id of the table. */
	styles: Record<string, DataStyle>;
	/** Names of things that are hidden: `unit:ID`, `fault:ID`, `data:ID`, `thing:ID`, `draped:ID` (a grid that is drawn at its height), `terrain`, `contours`, `geology`, `volumes` … */
	hidden: Record<string, boolean>;
	/** Opacity by the same names, 0–1. */
	opacity: Record<string, number>;
	/** Layers of the map from the lowest up, as far as the order was changed. */
	order: string[];
	exaggeration: number;
	/** Sections filled with units, or contacts as lines. */
	filled: boolean;
	/** Table whose rows holes are drawn with; null is the first with intervals. */
	along: string | null;
	curves: HoleCurve[];
	slice: Slice;
	/** The section that is looked at, by its id; null is the main one. Earlier versions kept its number among all sections. */
	section: string | number | null;
	/** Contour interval in project units; null chooses. */
	contourInterval: number | null;
	/** The model that is worked on; null is the first one. */
	model: string | null;
	/** The rank that units of models are put together at: scheme and number; null leaves them as they are. */
	rank: string | null;
}

export const plainBench = (): BenchState => ({
	panes: {},
	styles: {},
	hidden: { contours: true, graticule: true, holeNames: false },
	opacity: { terrain: 0.1 },
	order: [],
	exaggeration: 1,
	filled: true,
	along: null,
	curves: [],
	slice: { kind: 'none', at: [0, 0, 0], azimuth: 0, dip: 90, thickness: 0, flipped: false },
	section: null,
	contourInterval: null,
	model: null,
	rank: null
});

const finite = () =>
	yup.number().test('finite', '${path} must be a finite number', (v) => v === undefined || v === null || Number.isFinite(v));
const mapOf = <T>(check: (v: unknown) => v is T, what: string, most = 20_000) =>
	yup
		.mixed<Record<string, T>>((v): v is Record<string, T> => typeof v === 'object' && v !== null && !Array.isArray(v))
		.test(
			'map',
			`\${path} must give ${what} by name`,
			(v) => v === undefined || (Object.keys(v).length <= most && Object.values(v).every(check))
		);
const isFlag = (v: unknown): v is boolean => typeof v === 'boolean';
const isShare = (v: unknown): v is number => typeof v === 'number' && v >= 0 && v <= 1;
const isStyle = (v: unknown): v is DataStyle => styleSchema.isValidSync(v, { strict: true });
const LARGEST_STATE = 512 * 1024;

const paneSchema = yup
	.object({
		view: yup
			.string<View>()
			.oneOf(VIEWS.map((v) => v.id))
			.required(),
		settings: yup
			.mixed<Record<string, Record<string, unknown>>>(
				(v): v is Record<string, Record<string, unknown>> =>
					typeof v === 'object' && v !== null && !Array.isArray(v) && Object.entries(v).every(([view, own]) => areSettings(view, own))
			)
			.required()
	})
	.noUnknown()
	.required();
const isPanes = (v: unknown): v is PaneState[] =>
	Array.isArray(v) && v.length >= 1 && v.length <= 4 && v.every((p) => paneSchema.isValidSync(p, { strict: true }));

/** What the server takes as the state of a workbench. */
export const benchSchema = yup
	.object({
		panes: mapOf(isPanes, 'one to four panes', 20).required(),
		styles: mapOf(isStyle, 'a style', 2000).required(),
		hidden: mapOf(isFlag, 'yes or no').required(),
		opacity: mapOf(isShare, 'a share from 0 to 1').required(),
		order: yup.array(yup.string().max(200).required()).max(2000).required(),
		exaggeration: finite().min(0.1).max(100).required(),
		filled: yup.boolean().required(),
		along: yup.string().max(100).nullable().defined(),
		curves: yup
			.array(
				yup
					.object({
						table: yup.string().max(100).required(),
						column: yup.string().max(500).required(),
						side: finite().required(),
						reach: finite().min(0).required(),
						color: yup
							.string()
							.matches(/^#[0-9a-f]{6}$/i)
							.required(),
						threshold: finite().nullable().defined(),
						fill: yup.string<HoleCurve['fill']>().oneOf(['above', 'below']).required(),
						shape: yup.string<'line' | 'bars'>().oneOf(['line', 'bars'])
					})
					.noUnknown()
					.required()
			)
			.max(20)
			.required(),
		slice: yup
			.object({
				kind: yup.string<Slice['kind']>().oneOf(['none', 'section', 'vertical', 'horizontal', 'free', 'corner']).required(),
				at: (yup.array(finite().required()).length(3) as unknown as yup.Schema<Slice['at']>).required(),
				azimuth: finite().required(),
				dip: finite().required(),
				thickness: finite().min(0).required(),
				flipped: yup.boolean().required()
			})
			.noUnknown()
			.required(),
		section: keptSectionSchema.clone().defined(),
		contourInterval: finite().positive().nullable().defined(),
		model: yup.string().max(40).nullable().defined(),
		rank: yup.string().max(200).nullable().defined()
	})
	.noUnknown()
	.test('size', 'the state is too large to be kept', (v) => JSON.stringify(v).length <= LARGEST_STATE);

/** A pane without what its views do not keep: states of before were stored unlooked at. */
const cleanPane = (p: PaneState): PaneState => ({
	view: p.view,
	settings: Object.fromEntries(Object.entries(p.settings ?? {}).filter(([view, own]) => areSettings(view, own)))
});

/** A stored state with what newer versions added, and without what nobody keeps. */
export function completeBench(stored: Partial<BenchState> | null | undefined): BenchState {
	const whole = { ...plainBench(), ...stored };
	return { ...whole, panes: Object.fromEntries(Object.entries(whole.panes).map(([stage, list]) => [stage, list.map(cleanPane)])) };
}

/** Parts of a state that are maps: what is in them is changed one by one. */
const MAPS = ['panes', 'styles', 'hidden', 'opacity'] as const;
type MapPart = (typeof MAPS)[number];

/** What a page changed: of maps the entries, null for one that went; of all else the new value. */
export type BenchChanges = { [K in keyof BenchState]?: K extends MapPart ? Record<string, BenchState[K][string] | null> : BenchState[K] };

const isMap = (key: string): key is MapPart => (MAPS as readonly string[]).includes(key);
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** @returns what makes `after` of `before`; null when nothing does */
export function benchChanges(before: BenchState, after: BenchState): BenchChanges | null {
	const changes: Record<string, unknown> = {};
	for (const key of Object.keys(after) as (keyof BenchState)[]) {
		if (same(before[key], after[key])) continue;
		if (!isMap(key)) {
			changes[key] = after[key];
			continue;
		}
		const [was, is] = [before[key], after[key]] as Record<string, unknown>[];
		const names = new Set([...Object.keys(was!), ...Object.keys(is!)]);
		const changed = [...names].filter((name) => !same(was![name], is![name])).map((name) => [name, is![name] ?? null]);
		if (changed.length) changes[key] = Object.fromEntries(changed);
	}
	return Object.keys(changes).length ? (changes as BenchChanges) : null;
}

/** A state with the changes of one page; what that page did not touch stays as others have left it. */
export function withBenchChanges(state: BenchState, changes: BenchChanges): BenchState {
	const next = { ...state } as Record<string, unknown>;
	for (const [key, value] of Object.entries(changes)) {
		if (!isMap(key)) next[key] = value;
		else next[key] = Object.fromEntries(Object.entries({ ...state[key], ...(value as object) }).filter(([, v]) => v !== null));
	}
	return next as unknown as BenchState;
}
