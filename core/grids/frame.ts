import { fail } from '../problem';
import type { Raster } from './raster';

/** Where a grid has its values: all of a raster but these. */
export type Frame = Omit<Raster, 'values'>;

/** A rectangle on the map. */
export interface Rectangle {
	minX: number;
	minY: number;
	maxX: number;
	maxY: number;
}

/** Most cells that a grid may have. */
export const MOST_CELLS = 25_000_000;

/**
 * Square cells over a rectangle: its outer edges are those of the first and last cells, as nearly as whole cells allow.
 * @param cell side, length units
 * @throws ProblemError `too-fine` with the width that would fit, `no-room` for a rectangle without an area
 */
export function frameOf(box: Rectangle, cell: number, where = 'cell'): Frame {
	const [wide, high] = [box.maxX - box.minX, box.maxY - box.minY];
	if (!(wide >= 0) || !(high >= 0) || (wide === 0 && high === 0))
		fail('no-room', 'there is no area to make a grid of', 'Give two different places at least, or type the frame.', where);
	const [nx, ny] = [Math.max(2, Math.round(wide / cell)), Math.max(2, Math.round(high / cell))];
	if (nx * ny > MOST_CELLS) {
		const fits = niceAbove(Math.sqrt((Math.max(wide, cell) * Math.max(high, cell)) / MOST_CELLS));
		fail(
			'too-fine',
			`cells of ${cell} make ${nx.toLocaleString('en')} × ${ny.toLocaleString('en')} cells; the most is ${MOST_CELLS.toLocaleString('en')}`,
			`Cells of ${fits} would fit.`,
			where
		);
	}
	// What whole cells do not fill is shared by both sides.
	return {
		x0: box.minX + (wide - (nx - 1) * cell) / 2,
		y0: box.minY + (high - (ny - 1) * cell) / 2,
		dx: cell,
		dy: cell,
		nx,
		ny
	};
}

/** The least of 1, 2, 5 times a power of ten that is not below a number. */
export function niceAbove(v: number): number {
	if (!(v > 0) || !Number.isFinite(v)) return 1;
	const ten = 10 ** Math.floor(Math.log10(v));
	return Number(([1, 2, 5, 10].find((f) => f * ten >= v * (1 - 1e-12)) ?? 10).toString()) * ten;
}

export const frameBox = (f: Frame): Rectangle => ({
	minX: Math.min(f.x0 - f.dx / 2, f.x0 + (f.nx - 0.5) * f.dx),
	minY: Math.min(f.y0 - f.dy / 2, f.y0 + (f.ny - 0.5) * f.dy),
	maxX: Math.max(f.x0 - f.dx / 2, f.x0 + (f.nx - 0.5) * f.dx),
	maxY: Math.max(f.y0 - f.dy / 2, f.y0 + (f.ny - 0.5) * f.dy)
});

/** The cell that a place lies in, −1 outside. */
export function cellAt(f: Frame, x: number, y: number): number {
	const [i, j] = [Math.floor((x - f.x0) / f.dx + 0.5), Math.floor((y - f.y0) / f.dy + 0.5)];
	return i >= 0 && j >= 0 && i < f.nx && j < f.ny ? j * f.nx + i : -1;
}

/** The same rectangle with a quarter of the cells. */
export const quarterOf = (f: Frame): Frame => {
	const [nx, ny] = [Math.max(2, Math.ceil(f.nx / 2)), Math.max(2, Math.ceil(f.ny / 2))];
	const [dx, dy] = [(f.dx * f.nx) / nx, (f.dy * f.ny) / ny];
	return { x0: f.x0 - f.dx / 2 + dx / 2, y0: f.y0 - f.dy / 2 + dy / 2, dx, dy, nx, ny };
};

/** Whether two grids have their values at the same places, to a thousandth of a cell. */
export const sameFrame = (a: Frame, b: Frame): boolean =>
	a.nx === b.nx &&
	a.ny === b.ny &&
	Math.abs(a.dx - b.dx) * a.nx < 1e-3 * Math.abs(a.dx) &&
	Math.abs(a.dy - b.dy) * a.ny < 1e-3 * Math.abs(a.dy) &&
	Math.abs(a.x0 - b.x0) < 1e-3 * Math.abs(a.dx) &&
	Math.abs(a.y0 - b.y0) < 1e-3 * Math.abs(a.dy);

const overlapping = (a: Rectangle, b: Rectangle): boolean => a.minX < b.maxX && b.minX < a.maxX && a.minY < b.maxY && b.minY < a.maxY;

/** @throws ProblemError `no-overlap`, with where both lie */
export function requireOverlap(a: Rectangle, b: Rectangle, names: readonly [string, string], where?: string): void {
	if (overlapping(a, b)) return;
	const told = (r: Rectangle) => `E ${Math.round(r.minX)}–${Math.round(r.maxX)}, N ${Math.round(r.minY)}–${Math.round(r.maxY)}`;
	const degrees = [a, b].find(
		(r) => Math.abs(r.minX) <= 360 && Math.abs(r.maxX) <= 360 && Math.abs(r.minY) <= 90 && Math.abs(r.maxY) <= 90
	);
	fail(
		'no-overlap',
		`${names[0]} (${told(a)}) and ${names[1]} (${told(b)}) do not overlap`,
		degrees
			? 'One of them looks like degrees: say which coordinate system its file is in.'
			: 'Is one of them in another coordinate system? Say so where it was brought in.',
		where
	);
}
