import { describe, expect, it } from 'vitest';
import { cutDyke } from '../../bench/grounds';
import { p3 } from '../../bench/problems';
import { sampled } from '../../bench/sampled';
import { buildModel } from '../model/build';
import { fitGround } from '../model/fit-ground';
import { AIR, FAULT, SIDE } from './labels';
import { unitsIn } from './extract';
import { expectClosedSolids } from './for-tests';
import { mergedUnits } from './merged-units';

const whole = (mesh: { volumes: Map<number, number> }) => [...mesh.volumes].reduce((s, [u, v]) => s + (u > AIR ? v : 0), 0);

describe('units of a model as one', () => {
	for (const [what, problem] of [
		['faulted layers', () => p3().input],
		['a dyke that is cut', () => sampled(cutDyke())]
	] as const)
		it(`closed solids with the volumes of their parts: ${what}`, async () => {
			const { mesh } = await buildModel(fitGround(problem()), { spacing: 100 });
			const units = unitsIn(mesh);
			const into: number[] = [];
			for (const u of units) into[u] = u - (u % 2);
			const merged = mergedUnits(mesh, into);
			expect(unitsIn(merged)).toEqual([...new Set(units.map((u) => into[u]!))].sort((a, b) => a - b));
			for (const u of unitsIn(merged))
				expect(merged.volumes.get(u)).toBeCloseTo(
					units.filter((x) => into[x] === u).reduce((s, x) => s + mesh.volumes.get(x)!, 0),
					6
				);
			expectClosedSolids(merged, whole(mesh));
			// Faces within a unit are those of faults, and none of these is lost.
			const onFault = (m: typeof mesh) => [...m.surface].filter((s) => s >= FAULT && s < SIDE).length;
			expect(onFault(merged)).toBe(onFault(mesh));
			expect([...merged.front].every((f, t) => f !== merged.back[t] || (merged.surface[t]! >= FAULT && merged.surface[t]! < SIDE))).toBe(
				true
			);
			// What was given is as it was, and nothing to put together changes nothing.
			expect(unitsIn(mesh)).toEqual(units);
			expect(mergedUnits(mesh, []).triangles).toEqual(mesh.triangles);
		});
});
