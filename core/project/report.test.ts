import { describe, expect, it } from 'vitest';
import { p2 } from '../../bench/problems';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import type { ContactPoint } from '../units/contacts';
import { reportOf } from './report';

describe('what a build says of itself', () => {
	const { input } = p2();
	const beyond: ContactPoint = { ...input.contacts[0]!, x: 2600, hole: 'AWAY' };
	const contacts = [...input.contacts, beyond];

	it('measures contacts in the box only, and names the others', async () => {
		const ground = fitGround({ ...input, contacts });
		const { report, misfits } = reportOf(ground, await buildModel(ground, { spacing: 100 }), 100, null);
		expect(misfits).toHaveLength(contacts.length);
		expect(misfits.at(-1)).toEqual({ contact: contacts.length - 1, distance: null });
		for (const s of report.surfaces) {
			const own = contacts.filter((c) => c.surface === input.column.findIndex((u) => u.id === s.unit));
			expect(s.contacts).toBe(own.length);
			expect(s.measured).toBe(own.filter((c) => c.hole !== 'AWAY').length);
			expect(s.max).toBeLessThan(2);
			expect(s.rms).toBeLessThanOrEqual(s.max);
			expect(s.supported).toBeLessThanOrEqual(s.area);
		}
		expect(report.findings.filter((f) => f.kind === 'contacts-beyond')).toMatchObject([{ hole: 'AWAY', severity: 'noted' }]);
		expect(report.volumeError).toBeLessThan(1e-9);
		expect(report.agreement).toBeNull();
		expect(report.volumes.map((v) => v.unit)).toEqual(input.column.map((u) => u.id));
		expect(report.volumes.reduce((s, v) => s + v.volume, 0) / 4e9).toBeCloseTo(1, 9);
	});
});
