import { describe, expect, it } from 'vitest';
import Feature from 'ol/Feature';
import { LineString, Point, type MultiLineString } from 'ol/geom';
import { collarStyle, contourStyle, faultStyle, geologyStyle, sectionStyle } from './styles';

describe('faults on the map', () => {
	const fault = (line: [number, number][], dipAzimuth: number) =>
		new Feature({ geometry: new LineString(line), id: 'f', name: 'Sallow Fault', dipAzimuth });
	const ticksOf = (f: Feature, resolution = 1) => (faultStyle(null)(f, resolution)[0]!.getGeometry() as MultiLineString).getCoordinates();

	it.each([
		[
			'a fault to the north that dips east',
			[
				[0, 0],
				[0, 500]
			],
			90,
			[1, 0]
		],
		[
			'a fault to the north that dips west',
			[
				[0, 0],
				[0, 500]
			],
			270,
			[-1, 0]
		],
		[
			'the same drawn from the north',
			[
				[0, 500],
				[0, 0]
			],
			90,
			[1, 0]
		],
		[
			'a fault to the east that dips south',
			[
				[0, 0],
				[500, 0]
			],
			180,
			[0, -1]
		],
		[
			'a fault to the north-east, roughly dipping south',
			[
				[0, 0],
				[400, 400]
			],
			170,
			[Math.SQRT1_2, -Math.SQRT1_2]
		]
	] as [string, [number, number][], number, [number, number]][])('%s has its ticks on that side', (_, line, dip, side) => {
		const ticks = ticksOf(fault(line, dip));
		expect(ticks.length).toBeGreaterThan(8);
		for (const [from, to] of ticks) {
			const d = [to![0]! - from![0]!, to![1]! - from![1]!];
			expect(d[0]! / 8).toBeCloseTo(side[0], 9);
			expect(d[1]! / 8).toBeCloseTo(side[1], 9);
		}
	});

	it('have ticks at even distances on the screen, round bends, too', () => {
		const bent: [number, number][] = [
			[0, 0],
			[100, 0],
			[100, 300]
		];
		expect(ticksOf(fault(bent, 0), 1).length).toBe(Math.floor((400 - 23) / 46) + 1);
		expect(ticksOf(fault(bent, 0), 4).length).toBe(Math.floor((400 - 92) / 184) + 1);
		expect(ticksOf(fault(bent, 0), 100)).toEqual([]);
	});

	it('stand out when they are selected, and carry their name', () => {
		const f = fault(
			[
				[0, 0],
				[0, 500]
			],
			90
		);
		expect(faultStyle('f')(f, 1)).toHaveLength(4);
		expect(faultStyle('other')(f, 1)).toHaveLength(2);
		expect(faultStyle(null)(f, 1).at(-1)!.getText()!.getText()).toBe('Sallow Fault');
	});
});

describe('other signs of the map', () => {
	const collar = new Feature({ geometry: new Point([0, 0]), name: 'TW-001' });

	it('collars have names when that is wanted, and always when they are selected', () => {
		expect(collarStyle(new Set(), false)(collar)).toHaveLength(1);
		expect(collarStyle(new Set(), false)(collar)[0]!.getText()).toBeNull();
		expect(collarStyle(new Set(), true)(collar)[0]!.getText()!.getText()).toBe('TW-001');
		const chosen = collarStyle(new Set(['TW-001']), false)(collar);
		expect(chosen).toHaveLength(3);
		expect(chosen.at(-1)!.getText()!.getText()).toBe('TW-001');
	});

	it('every fifth contour is heavier and has its elevation', () => {
		const of = (major: boolean) =>
			contourStyle(
				new Feature({
					geometry: new LineString([
						[0, 0],
						[1, 1]
					]),
					value: 120,
					major
				})
			);
		expect(of(true).getStroke()!.getWidth()).toBeGreaterThan(of(false).getStroke()!.getWidth()!);
		expect([of(true).getText()?.getText(), of(false).getText()]).toEqual(['120', null]);
	});

	it('geology lets the relief shine through in the colour of its unit', () => {
		expect(
			geologyStyle(new Feature({ color: '#d8b25c' }))
				.getFill()!
				.getColor()
		).toBe('#d8b25cC8');
	});

	it('of a set of sections the one that is looked at is strong, with its ends', () => {
		const of = (more: object) =>
			sectionStyle(
				new Feature({
					geometry: new LineString([
						[0, 0],
						[1, 1]
					]),
					...more
				})
			);
		expect(of({ faint: true })).toHaveLength(1);
		expect(of({})).toHaveLength(2);
		expect(of({ end: 'A′' }).at(-1)!.getText()!.getText()).toBe('A′');
	});
});
