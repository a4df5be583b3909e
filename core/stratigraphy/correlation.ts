import * as yup from 'yup';
import { classStyle } from '../styles/style';
import { columnOf, type CategoryColumn, type DataSet } from '../datasets/dataset';
import { escaped, paintOf } from '../formats/svg-text';
import { spaced, ticks } from '../formats/ticks';
import { drawTrack } from '../logs/draw-log';
import { logHoles, type LogData, type LogHole } from '../logs/log-parts';
import { trackHeads, trackWidth, type LogHead, type Page } from '../logs/pages';
import { tracksSchema, type LogTrack } from '../logs/spec';
import { NOTED, DRAWN, INK, PAPER, RULE } from '../palette';
import type { ContactKind } from '../units/column';
import { between, type PlacedRun } from './between';
import { runsOf, type LoggedRun } from './runs';
import { tieBetween, untangled, type Tie } from './ties';
import type { TimeStretch } from './time-chart';

/** Holes side by side, with what is the same in them. */
export interface CorrelationSpec {
	/** From left to right. */
	holes: string[];
	tracks: LogTrack[];
	axis: 'depth' | 'tvd' | 'elevation' | 'age';
	/** The log whose units are correlated. */
	log: { table: string; column: string };
	spacing: 'equal' | 'distance';
	/** Mean width between two holes, mm. */
	gap: number;
	/** All holes are moved so that this lies level: the top of a unit, or ties of a name. */
	flatten: { by: 'top' | 'tie'; name: string } | null;
	fill: boolean;
	/** Scale number of the vertical axis on paper; of ages mm for a million years are 10 000 by this. */
	scale: number;
}

export const MOST_CORRELATED = 60;

export const correlationSpecSchema = yup
	.object({
		holes: yup.array(yup.string().min(1).max(200).required()).min(1).max(MOST_CORRELATED).required(),
		tracks: tracksSchema.clone().max(30).required(),
		axis: yup.string<CorrelationSpec['axis']>().oneOf(['depth', 'tvd', 'elevation', 'age']).required(),
		log: yup
			.object({ table: yup.string().max(500).required(), column: yup.string().max(500).required() })
			.noUnknown()
			.required(),
		spacing: yup.string<CorrelationSpec['spacing']>().oneOf(['equal', 'distance']).required(),
		gap: yup.number().min(4).max(500).required(),
		flatten: yup
			.object({ by: yup.string<'top' | 'tie'>().oneOf(['top', 'tie']).required(), name: yup.string().max(400).required() })
			.noUnknown()
			.nullable()
			.default(undefined)
			.defined(),
		fill: yup.boolean().required(),
		scale: yup.number().min(1).max(1_000_000).required()
	})
	.noUnknown();

export interface CorrelationData extends LogData {
	ties: readonly Tie[];
	/** How the base of a unit meets what is below, as far as the column says it. */
	contactOf: (unit: string) => ContactKind | null;
	/** A hole by age; empty where nothing dates it. */
	ages: (hole: string) => readonly TimeStretch[];
}

/** A hole in a correlation. All lengths in mm. */
export interface CorrelatedHole extends LogHole {
	x: number;
	width: number;
	runs: PlacedRun[];
	/** Height of a measured depth; of a chart of ages that of a depth within what is dated. */
	y: (depth: number) => number;
	/** It has not what all are flattened on, and was moved by the mean of the others. */
	guessed: boolean;
	stretches: readonly TimeStretch[];
}

interface CorrelationLayout {
	spec: CorrelationSpec;
	holes: CorrelatedHole[];
	width: number;
	height: number;
	/** Values of the axis at top and bottom. */
	ends: readonly [number, number];
	perUnit: number;
}

const HEAD = 14;
const AGE_COLUMN = 16;
const TOP = 2;

/** Depth in a hole of what a correlation is flattened on; null where it has none. */
function flattenedAt(
	flatten: NonNullable<CorrelationSpec['flatten']>,
	hole: string,
	runs: readonly LoggedRun[],
	ties: readonly Tie[]
): number | null {
	if (flatten.by === 'top') return runs.find((r) => r.name === flatten.name)?.from ?? null;
	for (const t of ties) if (t.name === flatten.name) for (const end of [t.a, t.b]) if (end.hole === hole) return end.depth;
	return null;
}

/** Runs of the log that is correlated. */
export function correlatedRuns(data: LogData, log: CorrelationSpec['log'], hole: number): LoggedRun[] {
	const set = data.set(log.table);
	const column = set ? columnOf(set, log.column) : null;
	return set && set.place === 'interval' && column?.type === 'category' ? runsOf(set, column, data.paths.holes.length, hole) : [];
}

/**
 * Where everything of a correlation lies.
 * @param size the height to fill, mm, or the mm for a unit of the axis
 */
export function layoutCorrelation(
	spec: CorrelationSpec,
	data: CorrelationData,
	size: { height: number } | { perUnit: number }
): CorrelationLayout {
	const byAge = spec.axis === 'age';
	const plain = logHoles(
		{ holes: spec.holes, tracks: spec.tracks, axis: byAge ? 'depth' : (spec.axis as 'depth'), scale: spec.scale, align: null },
		data
	);
	const found = plain.map((h) => {
		const runs = correlatedRuns(data, spec.log, h.number);
		const at = spec.flatten && !byAge ? flattenedAt(spec.flatten, h.name, runs, data.ties) : null;
		return { ...h, runs, at, stretches: byAge ? data.ages(h.name) : [] };
	});
	const moved = found.flatMap((h) => (h.at === null ? [] : [-h.axis(h.at)]));
	const mean = moved.length ? moved.reduce((a, b) => a + b, 0) / moved.length : 0;
	const shifted = found.map((h) => ({ ...h, shift: h.at === null ? mean : -h.axis(h.at) }));
	const values = byAge
		? shifted.flatMap((h) => h.stretches.filter((s) => s.kind === 'logged').flatMap((s) => [s.top, s.base]))
		: shifted.flatMap((h) => [h.axis(h.from) + h.shift, h.axis(h.to) + h.shift]);
	const [low, high] = values.length ? [Math.min(...values), Math.max(...values)] : [0, 1];
	const room = Math.max(1e-9, high - low);
	const perUnit = 'perUnit' in size ? size.perUnit : Math.max(1e-6, (size.height - HEAD - 2 * TOP) / room);
	const height = HEAD + 2 * TOP + room * perUnit;
	const width = byAge ? AGE_COLUMN : Math.max(6, trackWidth(spec.tracks));
	const distances = shifted.slice(1).map((h, i) => {
		const [a, b] = [data.paths.holes[shifted[i]!.number]!.collar, data.paths.holes[h.number]!.collar];
		return Math.hypot(a[0] - b[0], a[1] - b[1]);
	});
	const all = distances.reduce((a, b) => a + b, 0);
	let x = 14;
	const holes = shifted.map((h, i): CorrelatedHole => {
		if (i > 0)
			x +=
				width + (spec.spacing === 'distance' && all > 0 ? Math.max(4, (spec.gap * distances.length * distances[i - 1]!) / all) : spec.gap);
		const onAxis = (v: number) => HEAD + TOP + (v - low) * perUnit;
		const y = byAge ? (depth: number) => onAxis(ageOn(h.stretches, depth)) : (depth: number) => onAxis(h.axis(depth) + h.shift);
		const runs = byAge
			? h.stretches
					.filter((s) => s.kind === 'logged')
					.map((s) => ({ from: s.from, to: s.to, name: s.name, top: onAxis(s.top), bottom: onAxis(s.base) }))
			: h.runs.map((r) => ({ ...r, top: y(r.from), bottom: y(r.to) }));
		return { ...h, x, width, runs, y, guessed: spec.flatten !== null && !byAge && h.at === null };
	});
	const last = holes[holes.length - 1];
	return { spec, holes, width: last ? last.x + last.width + 6 : 40, height, ends: [low, high], perUnit };
}

/** Age at a depth, from the stretches of a hole. */
function ageOn(stretches: readonly TimeStretch[], depth: number): number {
	const s = stretches.find((x) => x.kind === 'logged' && depth <= x.to + 1e-9) ?? stretches.filter((x) => x.kind === 'logged').at(-1);
	if (!s) return 0;
	return s.top + (s.base - s.top) * Math.max(0, Math.min(1, (depth - s.from) / Math.max(1e-9, s.to - s.from)));
}

const f = (v: number) => (Math.round(v * 100) / 100).toString();
const pathOf = (line: readonly (readonly [number, number])[]) => line.map(([x, y], i) => `${i ? 'L' : 'M'}${f(x)} ${f(y)}`).join('');

/** A line with even waves across it, for an unconformity. */
function wavy(line: readonly (readonly [number, number])[]): string {
	const out: [number, number][] = [];
	let along = 0;
	for (let i = 1; i < line.length; i++) {
		const [[x0, y0], [x1, y1]] = [line[i - 1]!, line[i]!];
		const length = Math.hypot(x1 - x0, y1 - y0);
		const steps = Math.max(1, Math.ceil(length / 0.5));
		for (let k = i === 1 ? 0 : 1; k <= steps; k++) {
			const t = k / steps;
			const wave = 0.5 * Math.sin(((along + t * length) / 3) * 2 * Math.PI);
			out.push([x0 + t * (x1 - x0) - ((y1 - y0) / (length || 1)) * wave, y0 + t * (y1 - y0) + ((x1 - x0) / (length || 1)) * wave]);
		}
		along += length;
	}
	return pathOf(out);
}

/** The correlation as SVG markup in mm: the ground between, the holes with their tracks, ties, and the axis at the left. */
export function drawCorrelation(layout: CorrelationLayout, data: CorrelationData, prefix = 'k'): string {
	const { spec, holes } = layout;
	const set = data.set(spec.log.table);
	const column = set ? columnOf(set, spec.log.column) : null;
	const colors = new Map<string, string>();
	const colorOf = (name: string) => {
		let c = colors.get(name);
		if (!c && set && column?.type === 'category')
			colors.set(name, (c = paintOf(classStyle(column as CategoryColumn, name, data.style(set as DataSet), data.defaults).color)));
		return c ?? RULE;
	};
	const parts: string[] = [];
	for (let i = 1; i < holes.length; i++) {
		const [l, r] = [holes[i - 1]!, holes[i]!];
		const [x0, x1] = [l.x + l.width, r.x];
		const place = (line: readonly (readonly [number, number])[]): [number, number][] => line.map(([t, y]) => [x0 + t * (x1 - x0), y]);
		if (spec.fill) {
			const { units, boundaries } = between(l.runs, r.runs, untangled(data.ties, l.name, r.name), spec.axis === 'age');
			for (const u of units)
				parts.push(
					`<path d="${pathOf(place(u.outline))}Z" fill="${colorOf(u.name)}" fill-opacity="${u.seen === 'beyond' ? 0.18 : 0.55}" data-between="${escaped(u.name)}"/>`
				);
			for (const b of boundaries) {
				const isCut = data.contactOf(b.above) === 'erosional';
				parts.push(
					`<path d="${isCut ? wavy(place(b.line)) : pathOf(place(b.line))}" fill="none" stroke="${INK}" stroke-width="${isCut ? 0.4 : 0.2}"/>`
				);
			}
		}
	}
	holes.forEach((h, k) => {
		const head = trackHeads(spec.axis === 'age' ? [] : spec.tracks, data, h.name + (h.guessed ? ' (not there)' : ''), HEAD - 1, 2.8);
		parts.push(`<g transform="translate(${f(h.x)} 0)">${head}</g>`);
		if (spec.axis === 'age') {
			parts.push(drawStretches(h, layout, colorOf));
			return;
		}
		const [top, bottom] = [Math.min(h.y(h.from), h.y(h.to)), Math.max(h.y(h.from), h.y(h.to))];
		if (spec.tracks.length === 0) for (const r of h.runs) parts.push(box(h, r.top, r.bottom, colorOf(r.name)));
		let x = 0;
		for (const [i, t] of spec.tracks.entries()) {
			parts.push(
				`<g transform="translate(${f(h.x + x)} 0)"><rect x="0" y="${f(top)}" width="${f(t.width)}" height="${f(bottom - top)}" fill="${PAPER}"/>${drawTrack(t, h, data, { y: h.y, from: h.from, to: h.to, top, bottom, text: 2.8, prefix: `${prefix}h${k}t${i}` }, spec.axis as 'depth')}</g>`
			);
			x += t.width;
		}
	});
	parts.push(drawTies(layout, data.ties), drawAxis(layout));
	return parts.join('');
}

const box = (h: CorrelatedHole, top: number, bottom: number, color: string) =>
	`<rect x="${f(h.x)}" y="${f(top)}" width="${f(h.width)}" height="${f(Math.max(0.05, bottom - top))}" fill="${color}" stroke="${INK}" stroke-width="0.12"/>`;

const GAP_WORDS = { removed: 'removed', 'not-deposited': 'not deposited', unknown: '?' };

/** A hole by age: boxes of rock, and gaps that say why nothing is there. */
function drawStretches(h: CorrelatedHole, layout: CorrelationLayout, colorOf: (name: string) => string): string {
	const y = (age: number) => HEAD + TOP + (Math.min(layout.ends[1], Math.max(layout.ends[0], age)) - layout.ends[0]) * layout.perUnit;
	if (!h.stretches.some((s) => s.kind === 'logged'))
		return `<text x="${f(h.x + h.width / 2)}" y="${f(HEAD + 8)}" font-size="2.6" text-anchor="middle" fill="${INK}">nothing</text><text x="${f(h.x + h.width / 2)}" y="${f(HEAD + 11)}" font-size="2.6" text-anchor="middle" fill="${INK}">dates it</text>`;
	return h.stretches
		.map((s) => {
			const [a, b] = [y(s.top), y(s.base)];
			if (b - a < 0.01) return '';
			if (s.kind === 'logged') {
				const name =
					b - a > 3.4
						? `<text x="${f(h.x + h.width / 2)}" y="${f((a + b) / 2 + 0.9)}" font-size="2.4" text-anchor="middle" fill="${INK}" stroke="${PAPER}" stroke-width="0.5" paint-order="stroke">${escaped(s.name.slice(0, 14))}</text>`
						: '';
				return box(h, a, b, colorOf(s.name)) + name;
			}
			const step = s.kind === 'removed' ? 1.6 : 3.2;
			const lines = [];
			if (s.kind !== 'unknown') for (let v = a + step / 2; v < b; v += step) lines.push(`M${f(h.x)} ${f(v)}h${f(h.width)}`);
			const word =
				b - a > 4
					? `<text x="${f(h.x + h.width / 2)}" y="${f((a + b) / 2 + 0.9)}" font-size="2.4" text-anchor="middle" fill="${INK}" stroke="${PAPER}" stroke-width="0.9" paint-order="stroke">${GAP_WORDS[s.kind]}</text>`
					: '';
			return `<path d="${lines.join('')}" stroke="${INK}" stroke-width="0.12" fill="none"${s.kind === 'removed' ? '' : ' stroke-dasharray="1 1"'}/>${word}`;
		})
		.join('');
}

/** Height of the name of a tie, mm, the mean width of a letter beside it, and where along the tie it may stand. */
const TIE_TEXT = 2.4;
const LETTER = 0.55;
const NAMED_AT = [0.5, 0.35, 0.65, 0.2, 0.8];

function drawTies({ holes }: CorrelationLayout, ties: readonly Tie[]): string {
	const parts: string[] = [];
	const named: { x: number; y: number; half: number }[] = [];
	for (let i = 0; i < holes.length; i++)
		for (let j = i + 1; j < holes.length; j++) {
			const [l, r] = [holes[i]!, holes[j]!];
			for (const t of ties) {
				const ends = tieBetween(t, l.name, r.name);
				if (!ends) continue;
				const doubtful = t.kind === 'doubtful';
				const [x0, y0, x1, y1] = [l.x + l.width, l.y(ends[0]), r.x, r.y(ends[1])];
				parts.push(
					`<path d="M${f(x0)} ${f(y0)}L${f(x1)} ${f(y1)}" data-tie="${escaped(t.id)}" stroke="${doubtful ? NOTED : DRAWN}" stroke-width="0.55" fill="none"${doubtful ? ' stroke-dasharray="2 1.2"' : ''}><title>${escaped(t.name)}${doubtful ? ' (doubtful)' : ''}</title></path>`
				);
				if (j !== i + 1 || !t.name) continue;
				const text = `${t.name}${doubtful ? ' ?' : ''}`;
				const half = (LETTER * TIE_TEXT * text.length) / 2;
				// Along the tie wherever there is room; a name that finds none is told when the tie is pointed at.
				const at = NAMED_AT.map((share) => [x0 + share * (x1 - x0), y0 + share * (y1 - y0) - 0.8] as const).find(([x, y]) =>
					named.every((n) => Math.abs(n.x - x) > n.half + half || Math.abs(n.y - y) > TIE_TEXT)
				);
				if (!at) continue;
				named.push({ x: at[0], y: at[1], half });
				parts.push(
					`<text x="${f(at[0])}" y="${f(at[1])}" font-size="${TIE_TEXT}" text-anchor="middle" fill="${INK}" stroke="${PAPER}" stroke-width="0.6" paint-order="stroke">${escaped(text)}</text>`
				);
			}
		}
	return parts.join('');
}

function drawAxis({ spec, ends, perUnit, height }: CorrelationLayout): string {
	const turned = spec.axis === 'elevation' && !spec.flatten;
	return (
		ticks(ends[0], ends[1], Math.max(2, (height - HEAD) / 14))
			.map((v) => {
				const y = HEAD + TOP + (v - ends[0]) * perUnit;
				return `<path d="M10.5 ${f(y)}h1.5" stroke="${INK}" stroke-width="0.2"/><text x="10" y="${f(y + 0.9)}" font-size="2.5" text-anchor="end" fill="${INK}">${spaced(turned ? -v : v)}</text>`;
			})
			.join('') + `<path d="M12 ${HEAD + TOP}V${f(height - TOP)}" stroke="${INK}" stroke-width="0.2"/>`
	);
}

const AXIS_NAMES = { depth: 'measured depth', tvd: 'true vertical depth', elevation: 'elevation', age: 'age' };

/** The correlation on one sheet at its true scale, with a head. */
export function correlationPage(spec: CorrelationSpec, data: CorrelationData, head: LogHead): Page {
	const perUnit = spec.axis === 'age' ? 10_000 / spec.scale : (1000 / spec.scale) * (data.lengthUnit === 'ft' ? 0.3048 : 1);
	const layout = layoutCorrelation(spec, data, { perUnit });
	const [margin, title] = [10, 18];
	const width = Math.max(150, layout.width + 2 * margin);
	const height = layout.height + 2 * margin + title;
	const unit = spec.axis === 'age' ? 'Ma' : data.lengthUnit;
	const scale = spec.axis === 'age' ? `${spaced(perUnit, 2)} mm for a million years` : `1 : ${spaced(spec.scale)}`;
	const flat =
		spec.flatten && spec.axis !== 'age' ? `, flattened on ${spec.flatten.by === 'top' ? 'the top of ' : ''}${spec.flatten.name}` : '';
	const text = (x: number, y: number, size: number, t: string, more = '') =>
		`<text x="${f(x)}" y="${f(y)}" font-size="${size}" fill="${INK}"${more}>${escaped(t)}</text>`;
	return {
		width,
		height,
		svg: `<svg xmlns="http://www.w3.org/2000/svg" width="${f(width)}mm" height="${f(height)}mm" viewBox="0 0 ${f(width)} ${f(height)}" font-family="IBM Plex Sans, sans-serif"><rect width="100%" height="100%" fill="${PAPER}"/>${text(margin, margin + 5, 4.2, head.project, ' font-weight="600"')}${text(margin, margin + 9.5, 2.8, `Correlation by ${AXIS_NAMES[spec.axis]}, ${unit}, ${scale}${flat}`)}${text(margin, margin + 13.5, 2.5, [head.author, head.crs, head.date].filter(Boolean).join(' · '))}<path d="M${margin} ${margin + title - 2.5}H${f(width - margin)}" stroke="${INK}" stroke-width="0.3"/><g transform="translate(${margin} ${margin + title})">${drawCorrelation(layout, data)}</g></svg>`
	};
}
