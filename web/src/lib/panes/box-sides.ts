import type { Box } from '#core/geometry/box';

/** The sides of a box that can be dragged: along which axis, and which end. */
export const SIDES_OF_BOX = [
	{ key: 'minX', axis: 0, high: false },
	{ key: 'maxX', axis: 0, high: true },
	{ key: 'minY', axis: 1, high: false },
	{ key: 'maxY', axis: 1, high: true },
	{ key: 'minZ', axis: 2, high: false },
	{ key: 'maxZ', axis: 2, high: true }
] as const;

const OTHER = { minX: 'maxX', maxX: 'minX', minY: 'maxY', maxY: 'minY', minZ: 'maxZ', maxZ: 'minZ' } as const;

/** A box with one side moved to a place, in round numbers; a box keeps at least a hundredth of its side. */
export function dragSide(box: Box, side: number, to: number): Box {
	const { key, high } = SIDES_OF_BOX[side]!;
	const other = box[OTHER[key]];
	const long = Math.abs(box[key] - other);
	const step = 10 ** Math.max(0, Math.floor(Math.log10(Math.max(long, 1))) - 2);
	const round = Math.round(to / step) * step;
	const least = Math.max(step, long / 100);
	return { ...box, [key]: high ? Math.max(round, other + least) : Math.min(round, other - least) };
}

/** A box with a corner on the map moved. @param west whether it is a western corner, @param south a southern one */
export const dragCorner = (box: Box, west: boolean, south: boolean, x: number, y: number): Box =>
	dragSide(dragSide(box, west ? 0 : 1, x), south ? 2 : 3, y);
