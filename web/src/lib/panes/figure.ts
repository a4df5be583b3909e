import { INK, PAPER } from '#core/palette';
import { escaped } from '#core/formats/svg-text';
import { columnOf, titleOf } from '#core/datasets/dataset';
import { patternElement, proposePattern, type PatternName } from '#core/styles/patterns';
import { classStyle, orderedClasses } from '#core/styles/style';
import type { Workspace } from '$lib/workspace.svelte';
import { sheetOf } from './sheet';
import type { View } from './views';

/** A line of a printed legend. */
interface LegendEntry {
	label: string;
	color: string;
	pattern: PatternName | null;
	/** A heading has no symbol. */
	heading?: true;
}

const MOST_ENTRIES = 40;

/** What the legend shows of what a pane shows. */
export function legendEntries(workspace: Workspace, view: View): LegendEntry[] {
	const entries: LegendEntry[] = [];
	if (['map', 'section', 'space', 'log'].includes(view))
		for (const u of workspace.shownUnits)
			if (workspace.shown(`unit:${u.id}`))
				entries.push({ label: u.name, color: u.color, pattern: view === 'map' ? null : proposePattern(u.name) });
	for (const t of workspace.tables) {
		const set =
			workspace.shown(`data:${t.id}`) && (t.id === workspace.along || workspace.mapTables.some((m) => m.id === t.id))
				? workspace.sets.of(t.id)
				: null;
		const style = set ? workspace.sets.style(set) : null;
		const column = set && style ? columnOf(set, style.by) : null;
		if (!set || !style || column?.key === 'unit') continue;
		if (column?.type === 'category') {
			entries.push({ label: `${t.name}, ${column.label}`, color: '', pattern: null, heading: true });
			for (const c of orderedClasses(column, style)) {
				const s = classStyle(column, c, style, workspace.sets.defaults);
				if (!s.hidden) entries.push({ label: c, color: s.color, pattern: s.pattern });
			}
		} else if (column) {
			const scale = workspace.sets.painter(set).scale!;
			entries.push({ label: `${t.name}, ${titleOf(column)}`, color: '', pattern: null, heading: true });
			for (const f of [0, 0.25, 0.5, 0.75, 1]) {
				const v = scale.low + (scale.high - scale.low) * f;
				entries.push({ label: String(Number(v.toPrecision(3))), color: scale.color(v), pattern: null });
			}
		}
	}
	return entries.length > MOST_ENTRIES
		? [...entries.slice(0, MOST_ENTRIES), { label: `and ${entries.length - MOST_ENTRIES} more`, color: '', pattern: null, heading: true }]
		: entries;
}

interface FigureParts {
	title: string;
	entries: readonly LegendEntry[];
	frame: boolean;
}

/** A picture with a title above, a frame, and the legend at its right. */
export function framed(picture: HTMLCanvasElement, o: FigureParts & { width: number; height: number }): HTMLCanvasElement {
	const { canvas, context: c } = sheetOf(o.width, o.height);
	const em = Math.max(12, o.width / 90);
	const top = o.frame ? em * 2.2 : 0;
	const margin = o.frame ? em * 0.7 : 0;
	const side = o.entries.length ? o.width - picture.width : 0;
	const box = { x: margin, y: top, w: o.width - side - 2 * margin, h: o.height - top - margin };
	// The picture keeps its proportions; what does not fit the frame is cut evenly.
	const scale = Math.max(box.w / picture.width, box.h / picture.height);
	c.save();
	c.beginPath();
	c.rect(box.x, box.y, box.w, box.h);
	c.clip();
	c.drawImage(
		picture,
		box.x + (box.w - picture.width * scale) / 2,
		box.y + (box.h - picture.height * scale) / 2,
		picture.width * scale,
		picture.height * scale
	);
	c.restore();
	c.fillStyle = INK;
	c.strokeStyle = INK;
	if (o.frame) {
		c.lineWidth = Math.max(1, em / 12);
		c.strokeRect(box.x, box.y, box.w, box.h);
		c.font = `600 ${em * 1.15}px "IBM Plex Sans", sans-serif`;
		c.fillText(o.title, margin, em * 1.5);
		c.font = `${em * 0.85}px "IBM Plex Sans", sans-serif`;
		const date = new Date().toISOString().slice(0, 10);
		c.fillText(date, o.width - margin - c.measureText(date).width, em * 1.5);
	}
	const step = Math.min(em * 1.6, (box.h - em) / Math.max(1, o.entries.length));
	o.entries.forEach((e, i) => {
		const [x, y] = [o.width - side + em * 0.6, top + em * 0.4 + i * step];
		c.font = `${e.heading ? '600 ' : ''}${Math.min(em * 0.85, step * 0.75)}px "IBM Plex Sans", sans-serif`;
		if (!e.heading) {
			c.fillStyle = e.color;
			c.fillRect(x, y, em * 1.8, step * 0.72);
			c.lineWidth = 1;
			c.strokeRect(x, y, em * 1.8, step * 0.72);
			c.fillStyle = INK;
		}
		c.fillText(e.label, e.heading ? x : x + em * 2.3, y + step * 0.58, side - em * 3.2);
	});
	return canvas;
}

/** A drawing with title, frame and legend around it. */
export function framedSvg(svg: string, o: FigureParts): string {
	const size = /<svg[^>]*?\swidth="([\d.]+)"[^>]*?\sheight="([\d.]+)"/.exec(svg);
	if (!size || (!o.frame && o.entries.length === 0)) return svg;
	const [w, h] = [Number(size[1]), Number(size[2])];
	const top = o.frame ? 30 : 0;
	const margin = o.frame ? 10 : 0;
	const side = o.entries.length ? 190 : 0;
	const inner = svg.replace(/^<\?xml[^>]*>\s*/, '').replace('<svg', `<svg x="${margin}" y="${top}"`);
	const rows = o.entries
		.map((e, i) => {
			const y = top + 6 + i * 20;
			const swatch = e.heading
				? ''
				: `<rect x="${w + 2 * margin + 6}" y="${y}" width="26" height="14" fill="${e.pattern ? `url(#fig${i})` : e.color}" stroke="${INK}"/>`;
			return `${e.pattern && !e.heading ? `<defs>${patternElement(`fig${i}`, e.pattern, e.color)}</defs>` : ''}${swatch}<text x="${w + 2 * margin + (e.heading ? 6 : 40)}" y="${y + 11}" font-size="12"${e.heading ? ' font-weight="600"' : ''}>${escaped(e.label)}</text>`;
		})
		.join('');
	return `<svg xmlns="http://www.w3.org/2000/svg" width="${w + 2 * margin + side}" height="${Math.max(h + top + margin, top + 20 * o.entries.length + 12)}" font-family="IBM Plex Sans, sans-serif" fill="${INK}"><rect width="100%" height="100%" fill="${PAPER}"/>${inner}${o.frame ? `<rect x="${margin}" y="${top}" width="${w}" height="${h}" fill="none" stroke="${INK}"/><text x="${margin}" y="20" font-size="15" font-weight="600">${escaped(o.title)}</text><text x="${w + margin}" y="20" font-size="12" text-anchor="end">${new Date().toISOString().slice(0, 10)}</text>` : ''}${rows}</svg>`;
}
