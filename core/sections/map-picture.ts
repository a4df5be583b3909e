import { GRATICULE, HELD, INK, SHEET } from '../palette';
import type { Box } from '../geometry/box';

/** What a small map shows, in project coordinates. */
interface MapPicture {
	box: Pick<Box, 'minX' | 'minY' | 'maxX' | 'maxY'>;
	/** Rings by colour, each x, y, x, y …, to be filled even-odd. */
	geology: readonly { color: string; rings: readonly (readonly number[])[] }[];
	holes: readonly (readonly [number, number])[];
	section: readonly (readonly [number, number])[];
}

const WIDTH = 240;
const HEIGHT = 150;
const MARGIN = 6;
/** Holes that are drawn; of more a part tells as much. */
const MOST_HOLES = 400;

/** A map the size of a stamp, as SVG: geology, holes, section. Only numbers and checked colours go into it. */
export function drawMapPicture(p: MapPicture): string {
	const [w, h] = [Math.max(p.box.maxX - p.box.minX, 1e-9), Math.max(p.box.maxY - p.box.minY, 1e-9)];
	const scale = Math.min((WIDTH - 2 * MARGIN) / w, (HEIGHT - 2 * MARGIN) / h);
	const [left, top] = [(WIDTH - w * scale) / 2, (HEIGHT - h * scale) / 2];
	const at = (x: number, y: number) => `${(left + (x - p.box.minX) * scale).toFixed(1)} ${(top + (p.box.maxY - y) * scale).toFixed(1)}`;
	const path = (line: readonly (readonly [number, number])[]) => `M${line.map((v) => at(...v)).join('L')}`;
	const ringPath = (r: readonly number[]) => `${path(Array.from({ length: r.length / 2 }, (_, i) => [r[2 * i]!, r[2 * i + 1]!]))}Z`;
	const fills = p.geology
		.filter((g) => /^#[0-9a-f]{6}$/i.test(g.color) && g.rings.length)
		.map((g) => `<path fill="${g.color}" fill-rule="evenodd" d="${g.rings.map(ringPath).join('')}"/>`);
	const step = Math.ceil(p.holes.length / MOST_HOLES) || 1;
	const dots = p.holes
		.filter((c, i) => i % step === 0 && c.every(Number.isFinite))
		.map(([x, y]) => `M${at(x, y)}h0`)
		.join('');
	return [
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}">`,
		`<rect width="${WIDTH}" height="${HEIGHT}" fill="${SHEET}"/>`,
		...fills,
		fills.length
			? ''
			: `<rect x="${left.toFixed(1)}" y="${top.toFixed(1)}" width="${(w * scale).toFixed(1)}" height="${(h * scale).toFixed(1)}" fill="none" stroke="${GRATICULE}"/>`,
		dots ? `<path d="${dots}" stroke="${INK}" stroke-width="2.4" stroke-linecap="round" fill="none"/>` : '',
		p.section.length > 1 ? `<path d="${path(p.section)}" stroke="${HELD}" stroke-width="1.4" fill="none"/>` : '',
		'</svg>'
	].join('');
}
