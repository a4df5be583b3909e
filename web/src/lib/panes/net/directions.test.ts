import { describe, expect, it } from 'vitest';
import { project } from '#core/directions/stereonet';
import { dataSet, numbers, workspaceOf } from '../for-tests';
import { directionsOf, nearestDirection } from './directions';

const planes = dataSet('Planes', {
	kind: 'orientations',
	place: 'map',
	columns: [
		numbers('dip', [30, NaN, 80]),
		numbers('dipAzimuth', [90, 10, NaN]),
		numbers('plunge', [NaN, 20, NaN]),
		numbers('trend', [NaN, 45, NaN])
	]
});

describe('directions on the net', () => {
	const data = directionsOf(workspaceOf([planes]));
	it('are poles of planes and lines; a row without a direction is none', () => {
		expect(data.map((d) => [d.row, d.isLine, d.dip, d.dipAzimuth])).toEqual([
			[0, false, 30, 90],
			[1, true, 20, 45]
		]);
		expect(data[0]!.what).toBe('Planes: dips 30° to 90°');
		expect(directionsOf(workspaceOf([planes], { hidden: ['data:Planes'] }))).toEqual([]);
	});
	it('are found where they are drawn, and not beyond', () => {
		const [x, y] = project(data[1]!.v);
		expect(nearestDirection(data, x + 0.02, y)).toBe(1);
		expect(nearestDirection(data, x + 0.2, y)).toBe(-1);
		expect(nearestDirection([], 0, 0)).toBe(-1);
	});
});
