import { describe, expect, it } from 'vitest';
import type { LogTrack } from '#core/logs/spec';
import { classes, dataSet, numbers } from '../for-tests';
import { depthOf, nearestBoundary, nearestRow, readingsAt, rowsBetween, trackAt } from './log-places';

const log = dataSet('Log', { columns: [classes('code', ['SST', '', 'SLT'])] });
const gamma = dataSet('Gamma', {
	kind: 'readings',
	place: 'depth',
	from: Float32Array.of(2, 12, 3),
	columns: [numbers('GR', [40, 80, 60])]
});
const track = (table: string, column: string, width = 10) =>
	({ kind: 'curves', width, series: [{ table, column }] }) as unknown as LogTrack;

const noModel = () => null;

describe('places of a log', () => {
	it('have the row of their interval, or the nearest reading when it is near', () => {
		expect([nearestRow(log, 2, 0, 5), nearestRow(log, 2, 0, 25), nearestRow(log, 2, 0, 31)]).toEqual([0, 1, -1]);
		expect([nearestRow(gamma, 2, 0, 6), nearestRow(gamma, 2, 0, 8), nearestRow(gamma, 2, 0, 30), nearestRow(gamma, 2, 1, 0)]).toEqual([
			0, 1, -1, 2
		]);
	});
	it('are told by every track that has something there', () => {
		const of = (t: string) => [log, gamma].find((s) => s.id === t) ?? null;
		const tracks = [track('Log', 'code'), track('Gamma', 'GR'), track('Nobody', 'x')];
		expect(readingsAt(tracks, of, noModel, 2, 0, 3)).toEqual([
			['code', 'SST'],
			['GR', '40']
		]);
		// A row without a class tells nothing of it.
		expect(readingsAt(tracks, of, noModel, 2, 0, 12).map(([n]) => n)).toEqual(['GR']);
	});
	it('are told by a model that stands beside the logs', () => {
		const of = { kind: 'model', width: 10, series: [{ table: 'm', column: '' }] } as unknown as LogTrack;
		const model = (id: string) => (id === 'm' ? { name: 'Mine', runs: [{ from: 0, to: 8, name: 'Sand', color: '#fff' }] } : null);
		expect(readingsAt([of], () => null, model, 1, 0, 3)).toEqual([['Mine', 'Sand']]);
		expect(readingsAt([of], () => null, model, 1, 0, 9)).toEqual([]);
		expect(readingsAt([of], () => null, noModel, 1, 0, 3)).toEqual([]);
	});
	it('have the depth that is drawn there, whatever the axis', () => {
		expect(depthOf(30, (d) => 2 * d, 0, 100)).toBeCloseTo(15, 6);
		expect(depthOf(5, (d) => Math.sqrt(d), 0, 100)).toBeCloseTo(25, 6);
		expect(depthOf(-5, (d) => d, 10, 20)).toBeCloseTo(10, 6);
	});
	it('lie in the track that stands there', () => {
		const tracks = [track('a', 'x', 10), track('b', 'x', 20)];
		expect([trackAt(tracks, 3), trackAt(tracks, 15), trackAt(tracks, 31)]).toEqual([tracks[0], tracks[1], undefined]);
	});
});

describe('intervals of a log', () => {
	it('between two depths are swept over, also those that reach beyond', () => {
		expect(rowsBetween(log, 2, 0, 3, 12)).toEqual([0, 1].map((i) => log.row[i]!));
		expect(rowsBetween(log, 2, 0, 100, 200)).toEqual([]);
	});
	it('meet at boundaries; the ends of the log are none', () => {
		const inside = nearestBoundary(log, 2, 0, 0);
		expect(inside).toBe(log.to[0]);
		expect(nearestBoundary(log, 2, 1, 5)).toBeNull();
	});
});
