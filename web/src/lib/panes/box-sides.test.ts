import { describe, expect, it } from 'vitest';
import { dragCorner, dragSide } from './box-sides';

const box = { minX: 1000, minY: 2000, minZ: -500, maxX: 5000, maxY: 4000, maxZ: 200 };

describe('dragging a box', () => {
	it('moves one side, in round numbers', () => {
		expect(dragSide(box, 1, 6234.4)).toEqual({ ...box, maxX: 6230 });
		expect(dragSide(box, 4, -643.21)).toEqual({ ...box, minZ: -643 });
	});
	it('never turns it inside out', () => {
		expect(dragSide(box, 0, 9000).minX).toBe(4960);
		expect(dragSide(box, 3, 0).maxY).toBe(2020);
		const flat = dragSide(box, 5, -9999);
		expect(flat.maxZ).toBeGreaterThan(flat.minZ);
	});
	it('moves two sides by a corner', () => {
		expect(dragCorner(box, true, false, 1503, 4508)).toEqual({ ...box, minX: 1500, maxY: 4510 });
	});
});
