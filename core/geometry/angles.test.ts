import fc from 'fast-check';
import { expect, it } from 'vitest';
import { apparentDip, dipAzimuthOfStrike, lineAngles, lineDirection, planeAngles, planeNormal } from './angles';

it('turns dip and dip azimuth into a normal and back', () => {
	fc.assert(
		fc.property(fc.double({ min: 0.01, max: 89.99, noNaN: true }), fc.double({ min: 0, max: 359.99, noNaN: true }), (dip, dipAzimuth) => {
			const back = planeAngles(planeNormal(dip, dipAzimuth));
			expect(back.dip).toBeCloseTo(dip, 8);
			expect(Math.cos(((back.dipAzimuth - dipAzimuth) * Math.PI) / 180)).toBeCloseTo(1, 9);
			const line = lineAngles(lineDirection(dipAzimuth, -dip));
			expect(line.inclination).toBeCloseTo(-dip, 8);
		})
	);
});

it('points the normal of a plane that dips east upwards and east', () => {
	const n = planeNormal(30, 90);
	expect(n[0]).toBeCloseTo(0.5, 12);
	expect(n[1]).toBeCloseTo(0, 12);
	expect(n[2]).toBeCloseTo(Math.sqrt(3) / 2, 12);
	expect(planeNormal(30, 90, -1)[2]).toBeLessThan(0);
});

it('takes strike by the right-hand rule', () => {
	expect(dipAzimuthOfStrike(20)).toBe(110);
	expect(dipAzimuthOfStrike(300)).toBe(30);
});

it('gives the full dip along the dip and none along the strike', () => {
	expect(apparentDip(40, 120, 120)).toBeCloseTo(40, 9);
	expect(apparentDip(40, 120, 300)).toBeCloseTo(-40, 9);
	expect(apparentDip(40, 120, 30)).toBeCloseTo(0, 9);
});
