import { describe, expect, it } from 'vitest';
import { holeLines, holesOnSection, type HoleScene } from './hole-lines';

/** Two holes: a straight one with a gap in its log, and one that was never logged. Codes A and B are units 0 and 1, C is none. */
const scene: HoleScene = {
	holes: [
		{ name: 'logged', collar: [100, 10, 50], totalDepth: 100, row: 0 },
		{ name: 'bare', collar: [300, 80, 40], totalDepth: 30, row: 1 }
	],
	codes: ['A', 'B', 'C'],
	pathStart: Uint32Array.of(0, 3, 5),
	depths: Float64Array.of(0, 40, 100, 0, 30),
	xyz: Float64Array.of(100, 10, 50, 100, 10, 10, 100, 10, -50, 300, 80, 40, 300, 80, 10),
	intervalHole: Uint32Array.of(0, 0, 0),
	intervalFrom: Float64Array.of(0, 20, 60),
	intervalTo: Float64Array.of(20, 40, 90),
	intervalCode: Uint32Array.of(0, 2, 1),
	intervalRow: Uint32Array.of(0, 1, 2),
	intervalEnds: Float64Array.of(100, 10, 50, 100, 10, 30, 100, 10, 30, 100, 10, 10, 100, 10, -10, 100, 10, -40)
};
const unitOfCode = (code: string) => ['A', 'B'].indexOf(code);
const lines = holeLines(scene, unitOfCode);

describe('holes as lines with units', () => {
	it('have a vertex at each bend and each end of an interval, once, with the unit below it', () => {
		expect(lines[0]!.depths).toEqual([0, 20, 40, 60, 90, 100]);
		// Nothing is known of a code without a unit, between 40 and 60 where nothing was logged, and below 90.
		expect(lines[0]!.units).toEqual([0, -1, -1, 1, -1, -1]);
		expect(lines[0]!.xyz.map((p) => p[2])).toEqual([50, 30, 10, -10, -40, -50]);
	});

	it('go on with the unit past a bend of the path inside an interval', () => {
		const bent = holeLines(
			{
				...scene,
				intervalFrom: Float64Array.of(0, 20, 60),
				intervalTo: Float64Array.of(60, 20, 90),
				intervalCode: Uint32Array.of(0, 2, 1)
			},
			unitOfCode
		);
		const at = bent[0]!.depths.indexOf(40);
		expect(at).toBeGreaterThan(0);
		expect(bent[0]!.units[at]).toBe(-1);
	});

	it('that were not logged are their path alone', () => {
		expect(lines[1]).toEqual({
			depths: [0, 30],
			xyz: [
				[300, 80, 40],
				[300, 80, 10]
			],
			units: [-1, -1]
		});
	});
});

describe('holes on a section', () => {
	const trace = [
		[0, 0],
		[400, 0]
	] as const;

	it('are those with a collar in the corridor, at their distance along it', () => {
		const near = holesOnSection(scene, lines, trace, 20);
		expect(near.map((h) => [h.name, h.off])).toEqual([['logged', 10]]);
		expect([...near[0]!.points]).toEqual([100, 50, 100, 30, 100, 10, 100, -10, 100, -40, 100, -50]);
		expect([...near[0]!.units]).toEqual([0, -1, -1, 1, -1, -1]);
		expect(holesOnSection(scene, lines, trace, 80)).toHaveLength(2);
	});

	it('before its start or beyond its end are left out, however near', () => {
		expect(
			holesOnSection(
				scene,
				lines,
				[
					[100, 0],
					[280, 0]
				],
				200
			)
		).toEqual([]);
	});
});
