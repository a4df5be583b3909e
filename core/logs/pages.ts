import { INK, PAPER, RULE } from '../palette';
import { escaped, paintOf } from '../formats/svg-text';
import { spaced } from '../formats/ticks';
import { drawTrack } from './draw-log';
import { logHoles, trackTitle, type LogData, type LogHole } from './log-parts';
import type { LogSpec, LogTrack } from './spec';
import { textWidth, wrapText } from './text';

/** What stands in the head of each page. */
export interface LogHead {
	project: string;
	author: string;
	/** ISO. */
	date: string;
	crs: string;
}

export interface Page {
	/** mm */
	width: number;
	height: number;
	/** An SVG document in mm. */
	svg: string;
}

const MARGIN = 10;
const HEAD = 18;
const TRACK_HEAD = 12;
const TEXT = 2.3;
const f = (v: number) => (Math.round(v * 100) / 100).toString();
const MOST_PAGES = 500;

export const trackWidth = (tracks: readonly LogTrack[]): number => tracks.reduce((w, t) => w + t.width, 0);

/** Heads of the tracks of a hole, from y = 0 to `TRACK_HEAD`. */
export function trackHeads(tracks: readonly LogTrack[], data: LogData, name: string, height = TRACK_HEAD, size = TEXT): string {
	let x = 0;
	const parts = [`<text x="0" y="${f(size * 1.2)}" font-size="${f(size * 1.15)}" font-weight="600" fill="${INK}">${escaped(name)}</text>`];
	for (const t of tracks) {
		const { title, low, high } = trackTitle(t, data);
		// A word that is wider than its track is written smaller, not broken.
		const own = size * Math.min(1, (t.width - 1) / Math.max(...title.split(' ').map((w) => textWidth(w, size)), 0.1));
		const lines = wrapText(title, t.width - 0.9, own).slice(0, low === '' ? 3 : 1);
		parts.push(
			lines
				.map(
					(l, i) =>
						`<text x="${f(x + t.width / 2)}" y="${f(size * (2.5 + 1.05 * i))}" font-size="${f(own)}" text-anchor="middle" fill="${t.series.length === 1 && t.kind === 'curves' ? paintOf(t.series[0]!.color) : INK}">${escaped(l)}</text>`
				)
				.join('')
		);
		if (low !== '')
			parts.push(
				`<text x="${f(x + 0.4)}" y="${f(height - 0.6)}" font-size="${f(size * 0.9)}" fill="${INK}">${escaped(low)}</text><text x="${f(x + t.width - 0.4)}" y="${f(height - 0.6)}" font-size="${f(size * 0.9)}" text-anchor="end" fill="${INK}">${escaped(high)}</text>`
			);
		parts.push(
			`<rect x="${f(x)}" y="${f(size * 1.5)}" width="${f(t.width)}" height="${f(height - size * 1.5)}" fill="none" stroke="${RULE}" stroke-width="0.15"/>`
		);
		x += t.width;
	}
	return parts.join('');
}

/**
 * A log at a true scale on pages of paper, each with a head. Holes stand side by side as long as they fit the width; the others follow
 * on pages of their own. Every page shows the same part of the axis for all holes on it.
 * @param paper width and height of the page, mm
 */
export function logPages(spec: LogSpec, data: LogData, head: LogHead, paper: readonly [number, number] = [210, 297]): Page[] {
	const holes = logHoles(spec, data);
	const wide = trackWidth(spec.tracks) + 4;
	const [pageWidth, pageHeight] = [Math.max(paper[0], wide + 2 * MARGIN), paper[1]];
	const across = Math.max(1, Math.floor((pageWidth - 2 * MARGIN + 4) / wide));
	const perUnit = (1000 / spec.scale) * (data.lengthUnit === 'ft' ? 0.3048 : 1);
	const body = pageHeight - 2 * MARGIN - HEAD - TRACK_HEAD;
	const pages: { holes: LogHole[]; from: number; to: number }[] = [];
	for (let i = 0; i < holes.length; i += across) {
		const group = holes.slice(i, i + across);
		const ends = group.flatMap((h) => [h.axis(h.from) + h.shift, h.axis(h.to) + h.shift]);
		const [low, high] = [Math.min(...ends), Math.max(...ends)];
		for (let from = low; from < high - 1e-9 && pages.length < MOST_PAGES; from += body / perUnit)
			pages.push({ holes: group, from, to: Math.min(high, from + body / perUnit) });
	}
	return pages.map((p, n) => {
		const top = MARGIN + HEAD + TRACK_HEAD;
		const parts = p.holes.map((h, k) => {
			const from = depthOn(h, p.from);
			const to = depthOn(h, p.to);
			const y = (depth: number) => top + (h.axis(depth) + h.shift - p.from) * perUnit;
			const x0 = MARGIN + k * wide;
			const c = data.paths.holes[h.number]!.collar;
			const name = `${h.name}   ${spaced(c[0], 1)} E  ${spaced(c[1], 1)} N  ${spaced(c[2], 1)} ${data.lengthUnit}`;
			let x = 0;
			const tracks =
				to > from
					? spec.tracks.map((t, i) => {
							const svg = `<g transform="translate(${f(x)} 0)">${drawTrack(t, h, data, { y, from, to, top: y(from), bottom: y(to), text: TEXT, prefix: `p${n}h${k}t${i}` }, spec.axis)}</g>`;
							x += t.width;
							return svg;
						})
					: [];
			return `<g transform="translate(${f(x0)} 0)"><g transform="translate(0 ${f(MARGIN + HEAD)})">${trackHeads(spec.tracks, data, name)}</g>${tracks.join('')}</g>`;
		});
		const axisName = { depth: 'measured depth', elevation: 'elevation', tvd: 'true vertical depth' }[spec.axis];
		const title = `<text x="${MARGIN}" y="${MARGIN + 5}" font-size="4.2" font-weight="600" fill="${INK}">${escaped(head.project)}</text><text x="${MARGIN}" y="${MARGIN + 9.5}" font-size="2.8" fill="${INK}">Log by ${axisName}, ${data.lengthUnit}, 1 : ${spaced(spec.scale)}${spec.align ? `, aligned at the top of ${escaped(spec.align.category)}` : ''}</text><text x="${MARGIN}" y="${MARGIN + 13.5}" font-size="2.5" fill="${INK}">${escaped([head.author, head.crs].filter(Boolean).join(' · '))}</text><text x="${f(pageWidth - MARGIN)}" y="${MARGIN + 5}" font-size="2.8" text-anchor="end" fill="${INK}">page ${n + 1} of ${pages.length}</text><text x="${f(pageWidth - MARGIN)}" y="${MARGIN + 9.5}" font-size="2.8" text-anchor="end" fill="${INK}">${escaped(head.date)}</text><path d="M${MARGIN} ${MARGIN + HEAD - 2.5}H${f(pageWidth - MARGIN)}" stroke="${INK}" stroke-width="0.3"/>`;
		return {
			width: pageWidth,
			height: pageHeight,
			svg: `<svg xmlns="http://www.w3.org/2000/svg" width="${f(pageWidth)}mm" height="${f(pageHeight)}mm" viewBox="0 0 ${f(pageWidth)} ${f(pageHeight)}" font-family="IBM Plex Sans, sans-serif"><rect width="100%" height="100%" fill="${PAPER}"/>${title}${parts.join('')}</svg>`
		};
	});
}

/** Measured depth of a hole at a value of the page's axis, kept within the hole. */
function depthOn(h: LogHole, value: number): number {
	const wanted = value - h.shift;
	let [low, high] = [h.from, h.to];
	if (wanted <= h.axis(low)) return low;
	if (wanted >= h.axis(high)) return high;
	for (let i = 0; i < 50; i++) {
		const middle = (low + high) / 2;
		if (h.axis(middle) < wanted) low = middle;
		else high = middle;
	}
	return (low + high) / 2;
}

/** All pages below each other, as one drawing. */
export function joinPages(pages: readonly Page[]): string {
	const width = Math.max(1, ...pages.map((p) => p.width));
	const height = pages.reduce((h, p) => h + p.height, 0);
	let y = 0;
	const parts = pages.map((p) => {
		const svg = p.svg.replace('<svg ', `<svg y="${f(y)}" `).replace(/width="([\d.]+)mm" height="([\d.]+)mm"/, 'width="$1" height="$2"');
		y += p.height;
		return svg;
	});
	return `<svg xmlns="http://www.w3.org/2000/svg" width="${f(width)}mm" height="${f(height)}mm" viewBox="0 0 ${f(width)} ${f(height)}">${parts.join('')}</svg>`;
}
