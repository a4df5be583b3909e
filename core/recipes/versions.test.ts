import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { CASES } from '../../bench/imperfect-cases';
import { random } from '../../bench/problems';
import { logsOf, seenIn } from '../../bench/sampled';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import { unitAt } from '../model/walk';
import { contacts } from './contacts';
import { fields } from './fields';
import { model } from './model';

/** Grounds that between them ask for layers, faults, dykes, veins, bodies, divisions of what is wrong, and wrong rows. */
const GROUNDS = [
	'one unit skipped',
	'as logged, three dykes',
	'vein ±60 %',
	'as logged, a thrust',
	'a thrust, dip off by 2°',
	'a wrong code, stock',
	'weathering',
	'5 % wrong rows, a steep sheet'
];
const shortHash = (value: unknown) => createHash('sha256').update(JSON.stringify(value)).digest('hex').slice(0, 12);
const round = (v: number) => Math.round(v * 1000) / 1000;

const seen = GROUNDS.map((name) => {
	const c = CASES.find((c) => c.name === name) ?? expect.unreachable(name);
	const r = random(3);
	const t = c.truth(r);
	const holes = logsOf(t);
	c.damage?.(holes, t, r);
	return { box: t.box, ...seenIn(t, holes, c.input?.(t, r)) };
});
const fitted = seen.map(({ input, box }) => ({ box, ground: fitGround(input) }));

/**
 * What was built before is taken for up to date as long as the version of its recipe is the same. Where the numbers here change on purpose, raise
 * that version and write down both.
 */
describe('what a recipe makes changes with its version', () => {
	it('contacts', () => {
		const made = seen.map(({ input }) => [
			input.contacts.map((c) => [c.hole, c.surface, round(c.depth)]),
			input.observations.map((o) => [o.hole, o.unit, round(o.depth), o.rows])
		]);
		expect([contacts.version, shortHash(made)]).toEqual([6, '3f115d20004d']);
	});
	it('fields', () => {
		const made = fitted.map(({ box, ground }) => {
			const at = unitAt(ground);
			const q = random(5);
			const units = Array.from({ length: 3000 }, () =>
				at(box.minX + (box.maxX - box.minX) * q(), box.minY + (box.maxY - box.minY) * q(), box.minZ + (box.maxZ - box.minZ) * q())
			).join('');
			return [units, ground.findings.map((f) => [f.kind, f.hole])];
		});
		expect([fields.version, shortHash(made)]).toEqual([14, 'ec0904645ff2']);
	});
	it('model', async () => {
		const made = [];
		for (const { ground } of fitted) {
			const { mesh } = await buildModel(ground, { spacing: 80 });
			made.push([mesh.front.length, [...mesh.volumes].map(([u, v]) => [u, Math.round(v)])]);
		}
		const [{ ground }] = fitted as [(typeof fitted)[number]];
		const surfaces = [{ unit: ground.input.column[1]!.id, spacing: 40 }];
		const { mesh } = await buildModel(ground, { spacing: 80, finer: { surfaces, units: [], dense: false } });
		made.push([mesh.front.length, [...mesh.volumes].map(([u, v]) => [u, Math.round(v)])]);
		expect([model.version, shortHash(made)]).toEqual([10, '2656a0ad8e02']);
	});
});
