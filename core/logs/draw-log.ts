import { DRAWN, HELD, INK, NOTED, PAPER, RULE } from '../palette';
import { columnOf, NO_CLASS, numberOf, type CategoryColumn, type DataSet } from '../datasets/dataset';
import { spaced, ticks } from '../formats/ticks';
import { RADIANS } from '../geometry/angles';
import { patternElement } from '../styles/patterns';
import { classStyle, painter, type ClassStyle } from '../styles/style';
import type { LogAxis, LogTrack } from './spec';
import { escaped, paintOf } from '../formats/svg-text';
import { stackBlocks, textWidth, wrapText } from './text';
import { runsOf } from './curve-runs';
import { clipped, rowsOf, scaleOf, trackRange, type LogData, type LogFrame, type LogHole } from './log-parts';

const f = (v: number) => (Math.round(v * 100) / 100).toString();

/** Draws one track from x = 0 on, as SVG markup in mm. */
export function drawTrack(track: LogTrack, hole: LogHole, data: LogData, frame: LogFrame, axis: LogAxis): string {
	if (!Object.hasOwn(DRAW, track.kind)) return '';
	const body = DRAW[track.kind](track, hole, data, frame, axis);
	return `<rect x="0" y="${f(frame.top)}" width="${f(track.width)}" height="${f(frame.bottom - frame.top)}" fill="none" stroke="${RULE}" stroke-width="0.15"/>${body}`;
}

type Draw = (track: LogTrack, hole: LogHole, data: LogData, frame: LogFrame, axis: LogAxis) => string;

/** Set, column and rows of the first series that lie in the frame. */
function first(track: LogTrack, hole: LogHole, data: LogData, frame: LogFrame): { set: DataSet; rows: number[]; key: string } | null {
	const s = track.series[0];
	const set = s ? data.set(s.table) : null;
	if (!s || !set || set.place === 'map') return null;
	return {
		set,
		key: s.column,
		rows: Array.from(rowsOf(data, set, hole.number)).filter(
			(i) => set.place === 'hole' || (set.to[i]! >= frame.from && set.from[i]! <= frame.to)
		)
	};
}

/** A rectangle as part of a path: many of one look are one element of the drawing. */
const box = (x: number, y: number, w: number, h: number): string => `M${f(x)} ${f(y)}h${f(w)}v${f(h)}h${f(-w)}z`;

const label = (x: number, y: number, text: string, size: number, extra = ''): string =>
	`<text x="${f(x)}" y="${f(y)}" font-size="${f(size)}" fill="${INK}"${extra}>${escaped(text)}</text>`;

/** A name inside what it names, readable on any colour. */
const nameInside = (name: string, x: number, middle: number, size: number): string =>
	`<text x="${f(x)}" y="${f(middle + size * 0.35)}" font-size="${f(size)}" text-anchor="middle" fill="${INK}" stroke="${PAPER}" stroke-opacity="0.75" stroke-width="${f(size * 0.22)}" paint-order="stroke">${escaped(name)}</text>`;

/** Lines at round values of the axis, through the width of a track. */
function axisTicks(hole: LogHole, frame: LogFrame, axis: LogAxis): { y: number; text: string }[] {
	const [a, b] = [hole.axis(frame.from) + hole.shift, hole.axis(frame.to) + hole.shift];
	const [low, high] = [Math.min(a, b), Math.max(a, b)];
	const mm = Math.abs(frame.bottom - frame.top);
	return ticks(low, high, Math.max(2, mm / 12)).flatMap((v) => {
		const depth = depthAt(hole, v - hole.shift, frame.from, frame.to);
		return depth === null ? [] : [{ y: frame.y(depth), text: spaced(axis === 'elevation' && hole.shift === 0 ? -v : v) }];
	});
}

/** Measured depth at a value of the axis, by halving; null outside. */
function depthAt(hole: LogHole, value: number, low: number, high: number): number | null {
	if (value < Math.min(hole.axis(low), hole.axis(high)) - 1e-9 || value > Math.max(hole.axis(low), hole.axis(high)) + 1e-9) return null;
	const rising = hole.axis(high) >= hole.axis(low);
	for (let i = 0; i < 40; i++) {
		const middle = (low + high) / 2;
		if (hole.axis(middle) < value === rising) low = middle;
		else high = middle;
	}
	return (low + high) / 2;
}

function numberGrid(track: LogTrack, data: LogData, frame: LogFrame): string {
	const range = track.kind === 'tadpoles' ? ([0, 90] as [number, number]) : trackRange(track, data);
	const x = scaleOf(track, range, track.width);
	const marks = track.log ? decades(range) : ticks(range[0], range[1], Math.max(2, track.width / 9));
	return marks
		.map((v) => `<path d="M${f(x(v))} ${f(frame.top)}V${f(frame.bottom)}" stroke="${RULE}" stroke-width="0.1" fill="none"/>`)
		.join('');
}

function decades([low, high]: [number, number]): number[] {
	const out: number[] = [];
	for (let e = Math.ceil(Math.log10(low)); 10 ** e < high && out.length < 12; e++) out.push(10 ** e);
	return out;
}

/** A colour of a ramp with 4 bits each, so that bars of nearly one colour are one element of the drawing. */
const coarseColor = (css: string): string => (/^#[0-9a-f]{6}$/i.test(css) ? `#${[1, 3, 5].map((k) => css[k]! + css[k]!).join('')}` : css);

const DRAW: Record<LogTrack['kind'], Draw> = {
	axis: (track, hole, _data, frame, axis) => {
		let last = -Infinity;
		return axisTicks(hole, frame, axis)
			.map(({ y, text }) => {
				const mark = `<path d="M${f(track.width - 1.5)} ${f(y)}h1.5" stroke="${INK}" stroke-width="0.2" fill="none"/>`;
				if (y - last < frame.text * 1.2 || y - frame.top < frame.text * 0.4) return mark;
				last = y;
				return mark + label(track.width - 2, y + frame.text * 0.35, text, frame.text, ' text-anchor="end"');
			})
			.join('');
	},

	classes: (track, hole, data, frame) => {
		const own = first(track, hole, data, frame);
		const column = own ? columnOf(own.set, own.key) : null;
		if (!own || column?.type !== 'category') return '';
		const style = data.style(own.set);
		const shown = painter(own.set, style, data.defaults).shown;
		const looks = new Map<number, ClassStyle>();
		const look = (c: number) => {
			let l = looks.get(c);
			if (!l) looks.set(c, (l = classStyle(column as CategoryColumn, column.categories[c]!, style, data.defaults)));
			return l;
		};
		const boxes = new Map<number, string>();
		const labels: string[] = [];
		const patterns = new Set<number>();
		let last = -Infinity;
		for (const i of own.rows) {
			const c = column.values[i]!;
			if (c === NO_CLASS || !shown(i)) continue;
			const [y0, y1] = clipped(frame, own.set.from[i]!, own.set.to[i]!);
			if (look(c).pattern) patterns.add(c);
			boxes.set(c, (boxes.get(c) ?? '') + box(0, y0, track.width, Math.max(0.05, y1 - y0)));
			const middle = (y0 + y1) / 2;
			const name = column.categories[c]!;
			if (y1 - y0 > frame.text * 1.25 && middle - last > frame.text * 1.2) {
				last = middle;
				const size = Math.min(frame.text, (frame.text * (track.width - 1)) / Math.max(0.1, textWidth(name, frame.text)));
				if (size > frame.text * 0.55) labels.push(nameInside(name, track.width / 2, middle, size));
			}
		}
		const defs = [...patterns].map((c) => patternElement(`${frame.prefix}c${c}`, look(c).pattern!, look(c).color, INK, 4)).join('');
		const fills = [...boxes].map(
			([c, path]) =>
				`<path d="${path}" fill="${look(c).pattern ? `url(#${frame.prefix}c${c})` : paintOf(look(c).color)}" stroke="${INK}" stroke-width="0.12"/>`
		);
		return `${defs ? `<defs>${defs}</defs>` : ''}${fills.join('')}${labels.join('')}`;
	},

	model: (track, hole, data, frame) => {
		const log = data.model(track.series[0]?.table ?? '', hole.number);
		let last = -Infinity;
		return (log?.runs ?? [])
			.filter((r) => r.to >= frame.from && r.from <= frame.to)
			.map((r) => {
				const [y0, y1] = clipped(frame, r.from, r.to);
				const body = `<path d="${box(0, y0, track.width, Math.max(0.05, y1 - y0))}" fill="${paintOf(r.color)}" stroke="${INK}" stroke-width="0.12"/>`;
				const middle = (y0 + y1) / 2;
				const size = Math.min(frame.text, (frame.text * (track.width - 1)) / Math.max(0.1, textWidth(r.name, frame.text)));
				if (y1 - y0 <= frame.text * 1.25 || middle - last <= frame.text * 1.2 || size <= frame.text * 0.55) return body;
				last = middle;
				return body + nameInside(r.name, track.width / 2, middle, size);
			})
			.join('');
	},

	text: (track, hole, data, frame) => {
		const own = first(track, hole, data, frame);
		if (!own) return '';
		const column = columnOf(own.set, own.key);
		const room = frame.bottom - frame.top;
		const entries = own.rows.flatMap((i) => {
			const text =
				column?.type === 'category' ? (column.categories[column.values[i]!] ?? '') : data.text(own.set.id, own.key, own.set.row[i]!);
			return text ? [{ text, at: clipped(frame, own.set.from[i]!, own.set.to[i]!)[0] }] : [];
		});
		// Smaller letters before any text is cut.
		let size = frame.text;
		let lines = entries.map((e) => wrapText(e.text, track.width - 4, size));
		for (; size > frame.text * 0.62 && lines.reduce((n, l) => n + l.length, 0) * size * 1.2 > room; size *= 0.92)
			lines = entries.map((e) => wrapText(e.text, track.width - 4, size));
		const most = Math.max(1, Math.floor(room / (size * 1.2) / Math.max(1, entries.length)));
		const total = lines.reduce((n, l) => n + l.length, 0) * size * 1.2;
		if (total > room) lines = lines.map((l) => (l.length > most ? [...l.slice(0, most - 1), `${l[most - 1]!.slice(0, -1)}…`] : l));
		// Where even one line for each does not fit, only those that do are written.
		const fit = Math.max(1, Math.floor(room / (size * 1.2)));
		const kept = entries.length > fit ? entries.filter((_, i) => i % Math.ceil(entries.length / fit) === 0) : entries;
		const blocks = kept.map((e) => ({ at: e.at, height: lines[entries.indexOf(e)]!.length * size * 1.2 }));
		const places = stackBlocks(blocks, frame.top, frame.bottom);
		return kept
			.map((e, k) => {
				const y = places[k]!;
				const rows = lines[entries.indexOf(e)]!.map((l, n) => label(3.2, y + size * (0.95 + 1.2 * n), l, size)).join('');
				return `<path d="M0 ${f(e.at)}h0.8L2.4 ${f(y + size * 0.5)}h0.5" fill="none" stroke="${RULE}" stroke-width="0.15"/>${rows}`;
			})
			.join('');
	},

	curves: (track, hole, data, frame) => {
		const range = trackRange(track, data);
		const x = scaleOf(track, range, track.width);
		const paths = track.series.map((s) => ({ color: s.color, runs: runsOf(s.table, s.column, hole, data, frame, x) }));
		let fills = '';
		if (track.fill === 'left' && paths[0])
			fills = paths[0].runs
				.map(
					(r) => `<path d="M0 ${f(r[1]!)}${lineTo(r)}L0 ${f(r[r.length - 1]!)}Z" fill="${paintOf(paths[0]!.color)}" fill-opacity="0.25"/>`
				)
				.join('');
		if (track.fill === 'between' && paths[1]?.runs[0] && paths[0]?.runs[0]) {
			const [a, b] = [paths[0].runs.flat(), paths[1].runs.flat()];
			const back: number[] = [];
			for (let i = b.length - 2; i >= 0; i -= 2) back.push(b[i]!, b[i + 1]!);
			fills = `<path d="M${f(a[0]!)} ${f(a[1]!)}${lineTo(a)}${lineTo(back)}Z" fill="${paintOf(paths[0].color)}" fill-opacity="0.25"/>`;
		}
		return (
			numberGrid(track, data, frame) +
			fills +
			paths
				.map(
					(p) =>
						`<path d="${p.runs.map((r) => `M${f(r[0]!)} ${f(r[1]!)}${lineTo(r)}`).join('')}" fill="none" stroke="${paintOf(p.color)}" stroke-width="0.3"/>`
				)
				.join('')
		);
	},

	bars: (track, hole, data, frame) => {
		const own = first(track, hole, data, frame);
		const column = own ? numberOf(own.set, own.key) : null;
		if (!own || !column) return '';
		const x = scaleOf(track, trackRange(track, data), track.width);
		const style = data.style(own.set);
		const p = painter(own.set, { ...style, by: own.key }, data.defaults);
		const bars = new Map<string, string>();
		for (const i of own.rows) {
			const w = x(column.values[i]!);
			if (Number.isNaN(w) || p.rgb(i) < 0) continue;
			const [y0, y1] =
				own.set.place === 'interval'
					? clipped(frame, own.set.from[i]!, own.set.to[i]!)
					: [frame.y(own.set.from[i]!) - 0.3, frame.y(own.set.from[i]!) + 0.3];
			const color = coarseColor(p.css(i));
			bars.set(color, (bars.get(color) ?? '') + box(0, y0, w, Math.max(0.06, y1 - y0)));
		}
		return (
			numberGrid(track, data, frame) +
			[...bars]
				.map(([color, path]) => `<path d="${path}" fill="${paintOf(color)}" stroke="${INK}" stroke-opacity="0.5" stroke-width="0.06"/>`)
				.join('')
		);
	},

	points: (track, hole, data, frame) => {
		const x = scaleOf(track, trackRange(track, data), track.width);
		const dots = track.series.map((s) => {
			const set = data.set(s.table);
			const column = set ? numberOf(set, s.column) : null;
			if (!set || !column) return '';
			const path = Array.from(rowsOf(data, set, hole.number))
				.map((i) => {
					const depth = (set.from[i]! + set.to[i]!) / 2;
					const w = x(column.values[i]!);
					return Number.isNaN(w) || depth < frame.from || depth > frame.to
						? ''
						: `M${f(w - 0.7)} ${f(frame.y(depth))}a.7 .7 0 1 0 1.4 0a.7 .7 0 1 0-1.4 0`;
				})
				.join('');
			return path ? `<path d="${path}" fill="${paintOf(s.color)}" stroke="${PAPER}" stroke-width="0.12"/>` : '';
		});
		return numberGrid(track, data, frame) + dots.join('');
	},

	tadpoles: (track, hole, data, frame) => {
		const own = first(track, hole, data, frame);
		const [dip, azimuth] = own ? [numberOf(own.set, 'dip'), numberOf(own.set, 'dipAzimuth')] : [null, null];
		if (!own || !dip || !azimuth) return '';
		const p = painter(own.set, data.style(own.set), data.defaults);
		return (
			numberGrid(track, data, frame) +
			own.rows
				.map((i) => {
					const [d, a] = [dip.values[i]!, azimuth.values[i]!];
					if (Number.isNaN(d) || Number.isNaN(a) || p.rgb(i) < 0) return '';
					const [x, y] = [(d / 90) * track.width, frame.y(own.set.from[i]!)];
					return `<path d="M${f(x)} ${f(y)}l${f(2.6 * Math.sin(a * RADIANS))} ${f(-2.6 * Math.cos(a * RADIANS))}" stroke="${INK}" stroke-width="0.25" fill="none"/><circle cx="${f(x)}" cy="${f(y)}" r="0.9" fill="${paintOf(p.css(i))}" stroke="${INK}" stroke-width="0.12"/>`;
				})
				.join('')
		);
	},

	rose: (track, hole, data, frame) => {
		const own = first(track, hole, data, frame);
		const azimuth = own ? numberOf(own.set, 'dipAzimuth') : null;
		if (!own || !azimuth) return '';
		const shown = painter(own.set, data.style(own.set), data.defaults).shown;
		// One rose for each part of the log that is as tall as the track is wide.
		const radius = track.width / 2 - 1;
		const count = Math.max(1, Math.floor((frame.bottom - frame.top) / (track.width + 2)));
		const tall = (frame.bottom - frame.top) / count;
		const bins = Array.from({ length: count }, () => new Array<number>(18).fill(0));
		for (const i of own.rows) {
			const a = azimuth.values[i]!;
			if (Number.isNaN(a) || !shown(i)) continue;
			bins[Math.min(count - 1, Math.max(0, Math.floor((frame.y(own.set.from[i]!) - frame.top) / tall)))]![
				Math.floor((((a % 360) + 360) % 360) / 20)
			]!++;
		}
		return bins
			.map((counts, k) => {
				const total = counts.reduce((x, y) => x + y, 0);
				if (total === 0) return '';
				const [cx, cy] = [track.width / 2, frame.top + (k + 0.5) * tall];
				const most = Math.max(...counts);
				const petals = counts.map((n, b) => {
					if (n === 0) return '';
					// Area, not radius, grows with the count.
					const r = radius * Math.sqrt(n / most);
					const at = (deg: number) => `${f(cx + r * Math.sin(deg * RADIANS))} ${f(cy - r * Math.cos(deg * RADIANS))}`;
					return `<path d="M${f(cx)} ${f(cy)}L${at(20 * b)}A${f(r)} ${f(r)} 0 0 1 ${at(20 * b + 20)}Z" fill="${DRAWN}" fill-opacity="0.6" stroke="${INK}" stroke-width="0.1"/>`;
				});
				return `<circle cx="${f(cx)}" cy="${f(cy)}" r="${f(radius)}" fill="none" stroke="${RULE}" stroke-width="0.15"/><path d="M${f(cx)} ${f(cy - radius)}v-0.8" stroke="${INK}" stroke-width="0.25"/>${petals.join('')}${label(cx + radius * 0.72, cy + radius, String(total), frame.text * 0.8)}`;
			})
			.join('');
	},

	samples: (track, hole, data, frame) => {
		const own = first(track, hole, data, frame);
		if (!own) return '';
		const name = columnOf(own.set, 'sample');
		let last = -Infinity;
		return own.rows
			.map((i) => {
				const [y0, y1] = clipped(frame, own.set.from[i]!, own.set.to[i]!);
				const text =
					name?.type === 'category' ? (name.categories[name.values[i]!] ?? '') : data.text(own.set.id, 'sample', own.set.row[i]!);
				const mark = `<path d="M1 ${f(y0)}h1.6V${f(Math.max(y1, y0 + 0.1))}h-1.6" fill="none" stroke="${INK}" stroke-width="0.18"/>`;
				const middle = (y0 + y1) / 2;
				if (!text || middle - last < frame.text * 1.1) return mark;
				last = middle;
				return mark + label(3.4, middle + frame.text * 0.35, text, frame.text);
			})
			.join('');
	},

	levels: (track, hole, data, frame) => {
		const own = first(track, hole, data, frame);
		const depth = own ? numberOf(own.set, 'waterDepth') : null;
		const date = own ? columnOf(own.set, 'date') : null;
		if (!own || !depth) return '';
		const rows = own.rows
			.filter((i) => depth.values[i]! >= frame.from && depth.values[i]! <= frame.to)
			.sort((a, b) => depth.values[a]! - depth.values[b]!);
		const texts = rows.map((i) => ({ at: frame.y(depth.values[i]!) - frame.text * 0.5, height: frame.text * 1.15 }));
		const places = stackBlocks(texts, frame.top, frame.bottom);
		return rows
			.map((i, k) => {
				const y = frame.y(depth.values[i]!);
				const day =
					date && date.type === 'date' && !Number.isNaN(date.values[i]!)
						? new Date(date.values[i]! * 86_400_000).toISOString().slice(0, 10)
						: '';
				return `<path d="M1 ${f(y - 1.6)}h2l-1 1.6zM0.8 ${f(y)}h2.4M1.3 ${f(y + 0.5)}h1.4" fill="${DRAWN}" stroke="${DRAWN}" stroke-width="0.2"/>${places[k]! + frame.text <= frame.bottom + 0.1 ? label(4, places[k]! + frame.text * 0.85, day, frame.text * 0.9) : ''}`;
			})
			.join('');
	},

	photographs: (track, hole, data, frame) => {
		const clip = `${frame.prefix}photo`;
		const shown = data.photographs(hole.name).filter((p) => p.to > frame.from && p.from < frame.to);
		if (shown.length === 0) return '';
		return `<defs><clipPath id="${clip}"><rect x="0" y="${f(frame.top)}" width="${f(track.width)}" height="${f(frame.bottom - frame.top)}"/></clipPath></defs><g clip-path="url(#${clip})">${shown
			.map((p) => {
				const [y0, y1] = [frame.y(p.from), frame.y(p.to)];
				// As wide as the track and as long as its depths: a rock in it lies beside its interval.
				return `<image href="${escaped(p.href)}" x="0.6" y="${f(Math.min(y0, y1))}" width="${f(track.width - 1.2)}" height="${f(Math.max(0.1, Math.abs(y1 - y0)))}" preserveAspectRatio="none"><title>${escaped(p.name)}</title></image>`;
			})
			.join('')}</g>`;
	},

	findings: (track, hole, data, frame) =>
		data
			.findings(hole.name)
			.filter((x) => x.depth >= frame.from && x.depth <= frame.to)
			.map((x) => {
				const [cx, cy] = [track.width / 2, frame.y(x.depth)];
				const title = `<title>${escaped(x.message)}</title>`;
				if (x.severity === 'noted')
					return `<g>${title}<circle cx="${f(cx)}" cy="${f(cy)}" r="1.5" fill="${PAPER}" stroke="${NOTED}" stroke-width="0.5"/></g>`;
				const r = 1.7;
				const corners = Array.from(
					{ length: 8 },
					(_, k) => `${f(cx + r * Math.cos(((k + 0.5) * Math.PI) / 4))} ${f(cy + r * Math.sin(((k + 0.5) * Math.PI) / 4))}`
				).join('L');
				return `<g>${title}<path d="M${corners}Z" fill="${PAPER}" stroke="${HELD}" stroke-width="0.5"/><path d="M${f(cx - 0.8)} ${f(cy)}h1.6" stroke="${HELD}" stroke-width="0.5"/></g>`;
			})
			.join('')
};

const lineTo = (run: readonly number[]): string => {
	let out = '';
	for (let i = 0; i < run.length; i += 2) out += `L${f(run[i]!)} ${f(run[i + 1]!)}`;
	return out;
};
