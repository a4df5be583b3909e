import { GRATICULE, INK, PAPER } from '../palette';
import { spreadLabels } from '../scene/leader-labels';
import type { SectionDrawing } from './section-drawing';
import { spaced, ticks } from '../formats/ticks';
const RULE = GRATICULE;

const escapeXml = (text: string): string =>
	text.replace(/[<>&"']/g, (c) => `&#${c.charCodeAt(0)};`).replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, ' ');

/** What lies around the picture on a sheet, pixels. */
const MARGIN = { left: 70, right: 210, top: 80, bottom: 52 };
/** Size of the names of holes, and the width of a letter, pixels. */
const NAME = { size: 10.5, letter: 6.2 };

/** Height of the sheet of a section, pixels. @param length along the trace @param depth from its lowest to its highest place, the same unit */
export const sheetHeight = (length: number, depth: number, exaggeration: number, width = 1400): number =>
	Math.round(MARGIN.top + MARGIN.bottom + (depth * exaggeration * (width - MARGIN.left - MARGIN.right)) / length);

/** A section as an SVG sheet with axes, legend, scale and exaggeration; text stays text. */
export function sectionSvg(d: SectionDrawing, width = 1400): string {
	const { left, right, top, bottom } = MARGIN;
	const sx = (width - left - right) / d.picture.length;
	const sz = sx * d.exaggeration;
	const height = sheetHeight(d.picture.length, d.maxZ - d.minZ, d.exaggeration, width);
	const X = (v: number) => left + v * sx;
	const Y = (v: number) => top + (d.maxZ - v) * sz;
	const at = (points: ArrayLike<number>) => {
		const out: string[] = [];
		for (let i = 0; i < points.length; i += 2) out.push(`${X(points[i]!).toFixed(2)} ${Y(points[i + 1]!).toFixed(2)}`);
		return out.join('L');
	};
	const out: string[] = [
		`<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}" font-family="IBM Plex Sans, sans-serif" font-size="12" fill="${INK}">`,
		`<title>${escapeXml(d.title)}</title>`,
		`<rect width="${width}" height="${height}" fill="${PAPER}"/>`,
		`<text x="${left}" y="26" font-size="17" font-weight="600">${escapeXml(d.title)}</text>`,
		`<clipPath id="frame"><rect x="${left}" y="${top}" width="${width - left - right}" height="${height - top - bottom}"/></clipPath>`
	];
	out.push('<g clip-path="url(#frame)">');
	if (d.filled)
		for (const [unit, rings] of d.picture.fills)
			out.push(
				`<path data-unit="${escapeXml(d.units[unit]!.name)}" d="${rings.map((r) => `M${at(r)}Z`).join('')}" fill="${d.units[unit]!.color}" fill-rule="evenodd"/>`
			);
	for (const [surface, lines] of d.picture.lines) {
		const s = d.surfaces.get(surface);
		if (!s) continue;
		const stroke =
			s.kind === 'fault'
				? `stroke="${INK}" stroke-width="2" stroke-dasharray="9 3"`
				: s.kind === 'terrain'
					? `stroke="${INK}" stroke-width="1.6"`
					: `stroke="${INK}" stroke-width="${d.filled ? 0.8 : 1.2}"`;
		out.push(
			`<path data-surface="${escapeXml(s.name)}" d="${lines.map((l) => `M${at(l)}`).join('')}" fill="none" ${stroke} stroke-linejoin="round"/>`
		);
	}
	for (const bend of d.picture.bends)
		out.push(`<path d="M${X(bend)} ${top}V${height - bottom}" stroke="${INK}" stroke-width="0.6" stroke-dasharray="2 4"/>`);
	for (const hole of d.holes) out.push(...holeMarks(hole, d, X, Y));
	out.push('</g>');
	out.push(...holeNames(d, X, Y, left, top, width - right));
	out.push(...frame(d, X, Y, left, top, width - right, height - bottom));
	out.push(...key(d, width - right + 24, top));
	out.push('</svg>');
	return out.join('\n');
}

function holeMarks(hole: SectionDrawing['holes'][number], d: SectionDrawing, X: (v: number) => number, Y: (v: number) => number): string[] {
	const out: string[] = [];
	for (let i = 0; i + 3 < hole.points.length; i += 2) {
		const unit = hole.units[i / 2]!;
		const line = `M${X(hole.points[i]!).toFixed(2)} ${Y(hole.points[i + 1]!).toFixed(2)}L${X(hole.points[i + 2]!).toFixed(2)} ${Y(hole.points[i + 3]!).toFixed(2)}`;
		out.push(
			`<path d="${line}" stroke="${INK}" stroke-width="5" fill="none"/>`,
			`<path d="${line}" stroke="${unit < 0 ? PAPER : d.units[unit]!.color}" stroke-width="3.4" fill="none"/>`
		);
	}
	return out;
}

/** Names of holes in a row above the picture, none on another, with lines down to the collars. Those that are nearest have their place first. */
function holeNames(
	d: SectionDrawing,
	X: (v: number) => number,
	Y: (v: number) => number,
	left: number,
	top: number,
	right: number
): string[] {
	const within = d.holes.flatMap((hole) => {
		const x = X(hole.points[0]!);
		const width = NAME.letter * hole.name.length;
		return x < left || x > right
			? []
			: [{ x, width, name: hole.name, collar: Math.max(top, Y(hole.points[1]!)), rank: -Math.abs(hole.off) }];
	});
	return spreadLabels(within, left - 30, right + 30).flatMap((l) => [
		`<path d="M${l.at.toFixed(1)} ${top - 13}L${l.x.toFixed(1)} ${top - 3}V${l.collar.toFixed(1)}" fill="none" stroke="${INK}" stroke-width="0.5"/>`,
		`<text x="${l.at.toFixed(1)}" y="${top - 16}" text-anchor="middle" font-size="${NAME.size}">${escapeXml(l.name)}</text>`
	]);
}

function frame(
	d: SectionDrawing,
	X: (v: number) => number,
	Y: (v: number) => number,
	left: number,
	top: number,
	right: number,
	bottom: number
): string[] {
	const out = [`<rect x="${left}" y="${top}" width="${right - left}" height="${bottom - top}" fill="none" stroke="${INK}"/>`];
	for (const z of ticks(d.minZ, d.maxZ, Math.max(2, (bottom - top) / 45))) {
		out.push(
			`<path d="M${left - 5} ${Y(z)}H${left}M${right} ${Y(z)}h5" stroke="${INK}"/>`,
			`<text x="${left - 9}" y="${Y(z) + 4}" text-anchor="end">${spaced(z)}</text>`
		);
	}
	for (const x of ticks(0, d.picture.length, Math.max(2, (right - left) / 110)))
		out.push(
			`<path d="M${X(x)} ${bottom}v5" stroke="${INK}"/>`,
			`<text x="${X(x)}" y="${bottom + 19}" text-anchor="middle">${spaced(x)}</text>`
		);
	out.push(
		`<text x="${left}" y="${top - 32}" font-weight="600">${escapeXml(d.ends[0])}</text>`,
		`<text x="${right}" y="${top - 32}" text-anchor="end" font-weight="600">${escapeXml(d.ends[1])}</text>`,
		`<text x="${(left + right) / 2}" y="${bottom + 40}" text-anchor="middle">distance along the section, ${escapeXml(d.lengthUnit)} · vertical exaggeration ${d.exaggeration}×</text>`,
		`<text transform="translate(18 ${(top + bottom) / 2}) rotate(-90)" text-anchor="middle">elevation, ${escapeXml(d.lengthUnit)}</text>`
	);
	return out;
}

function key(d: SectionDrawing, x: number, y: number): string[] {
	const out: string[] = [];
	let row = y + 6;
	d.units.forEach((u, i) => {
		if (!d.picture.fills.has(i)) return;
		out.push(
			`<rect x="${x}" y="${row}" width="26" height="15" fill="${u.color}" stroke="${INK}" stroke-width="0.8"/>`,
			`<text x="${x + 35}" y="${row + 12}">${escapeXml(u.name)}</text>`
		);
		row += 23;
	});
	out.push(`<path d="M${x} ${row}h150" stroke="${RULE}"/>`);
	row += 10;
	for (const [surface, s] of d.surfaces) {
		if (s.kind === 'contact' || !d.picture.lines.has(surface)) continue;
		out.push(
			`<path d="M${x} ${row + 8}h26" stroke="${INK}" stroke-width="${s.kind === 'fault' ? 2 : 1.6}" ${s.kind === 'fault' ? 'stroke-dasharray="9 3"' : ''}/>`,
			`<text x="${x + 35}" y="${row + 12}">${escapeXml(s.name)}</text>`
		);
		row += 23;
	}
	return out;
}
