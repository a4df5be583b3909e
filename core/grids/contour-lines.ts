import { contours } from 'd3-contour';
import type { Feature, Position } from 'geojson';
import { niceAbove } from './frame';
import type { Raster } from './raster';

/** A round step that makes about ten contours between two values. */
export const contourStep = (least: number, greatest: number): number => (greatest > least ? niceAbove((greatest - least) / 12) : 1);

/**
 * Lines of equal value (marching squares). A line ends where the grid does; beside cells without a value there is none.
 * @param step between values, @param base one of the values that lines are drawn at
 */
export function contourLines(r: Raster, step: number, base = 0): Feature[] {
	let [least, greatest] = [Infinity, -Infinity];
	for (const v of r.values) if (Number.isFinite(v)) [least, greatest] = [Math.min(least, v), Math.max(greatest, v)];
	const levels: number[] = [];
	for (let k = Math.ceil((least - base) / step); k * step + base <= greatest; k++) levels.push(Number((k * step + base).toPrecision(12)));
	const known = (i: number, j: number) => i >= 0 && j >= 0 && i < r.nx && j < r.ny && Number.isFinite(r.values[j * r.nx + i]!);
	const filled = Array.from(r.values, (v) => (Number.isFinite(v) ? v : -1e30));
	const make = contours().size([r.nx, r.ny]).smooth(true);
	const out: Feature[] = [];
	for (const level of levels) {
		const lines: Position[][] = [];
		for (const polygon of make.contour(filled, level).coordinates)
			for (const ring of polygon) {
				let line: Position[] = [];
				const end = () => {
					if (line.length > 1) lines.push(line);
					line = [];
				};
				for (const [u, v] of ring) {
					// d3 counts from the corner of the first cell: its middle is at one half.
					const [a, b] = [u! - 0.5, v! - 0.5];
					// What lies next to a gap or outside is an edge of the faces that are made, not a line of equal value: it is pushed onto a
					// cell that has another value.
					const [i, j] = [Math.round(a), Math.round(b)];
					const pushed =
						Math.abs(a - i) + Math.abs(b - j) < 1e-6 && !(Math.abs((r.values[j * r.nx + i] ?? NaN) - level) <= 1e-6 * (greatest - least));
					if (!pushed && known(Math.floor(a + 1e-9), Math.floor(b + 1e-9)) && known(Math.ceil(a - 1e-9), Math.ceil(b - 1e-9)))
						line.push([r.x0 + a * r.dx, r.y0 + b * r.dy]);
					else end();
				}
				end();
			}
		if (lines.length)
			out.push({ type: 'Feature', properties: { value: level }, geometry: { type: 'MultiLineString', coordinates: lines } });
	}
	return out;
}
