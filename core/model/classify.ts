import { sampleRaster } from '../grids/raster';
import { AIR, OUTSIDE } from '../mesh/cut-lattice';
import { insideLimits, SIDE_ONLY } from './limits';
import { evaluateHere, type Evaluate } from './evaluate';
import type { Ground } from './fit-ground';
import { Screen } from './screen';
import { walkOf, type Walk } from './walk';

/** From this many places on, fields are looked at on a coarse grid first. */
const MANY = 20_000;

/**
 * The units that many places are in: indexes into all units, `AIR` above the terrain, `OUTSIDE` beyond the limits. The same decision as `unitAt`, but field by
 * field for all places that still need it, so that the kernels and threads can be used; of many places only those that may lie
 * near a level are evaluated.
 * @param xyz project coordinates, 3 × n
 * @returns n indexes
 */
export async function unitsAt(
	ground: Ground,
	xyz: Float64Array,
	evaluate: Evaluate = evaluateHere,
	signal?: AbortSignal
): Promise<Int16Array> {
	const n = xyz.length / 3;
	const { root, sources } = walkOf(ground);
	const { terrain, extent } = ground.input;
	const out = new Int16Array(n).fill(AIR);
	const exact = sources.map(() => null as Float64Array | null);
	const screens = sources.map(() => null as Screen | null);
	const near = new Float64Array(2);
	/** 1 above the level that was asked last, 0 below. */
	const side = new Uint8Array(n);
	const missing = new Uint32Array(n);

	const visit = async (walk: Walk, set: Uint32Array): Promise<void> => {
		if (set.length === 0) return;
		if (!('question' in walk)) {
			for (let k = 0; k < set.length; k++) out[set[k]!] = walk.unit;
			return;
		}
		signal?.throwIfAborted();
		const { source, level } = walk.question;
		const v = (exact[source.id] ??= new Float64Array(n).fill(NaN));
		// Cells at a fortieth of the places: a screen costs little beside what it saves.
		const screen =
			screens[source.id] ??
			(set.length < MANY ? null : (screens[source.id] = await Screen.of(source, extent, Math.round(Math.cbrt(n / 40)), evaluate)));
		let open = 0;
		for (let k = 0; k < set.length; k++) {
			const i = set[k]!;
			const known = v[i]!;
			if (known === known) side[i] = known >= level ? 1 : 0;
			else if (screen) {
				screen.at(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!, near);
				const off = near[0]! - level;
				if (Math.abs(off) > near[1]!) side[i] = off > 0 ? 1 : 0;
				else missing[open++] = i;
			} else missing[open++] = i;
		}
		if (open) {
			const places = new Float64Array(3 * open);
			for (let k = 0; k < open; k++) {
				const i = 3 * missing[k]!;
				places[3 * k] = xyz[i]!;
				places[3 * k + 1] = xyz[i + 1]!;
				places[3 * k + 2] = xyz[i + 2]!;
			}
			const found = await evaluate(source.field, source.block, places);
			for (let k = 0; k < open; k++) {
				v[missing[k]!] = found[k]!;
				side[missing[k]!] = found[k]! >= level ? 1 : 0;
			}
		}
		let over = 0;
		for (let k = 0; k < set.length; k++) over += side[set[k]!]!;
		const [above, below] = [new Uint32Array(over), new Uint32Array(set.length - over)];
		let [a, b] = [0, 0];
		for (let k = 0; k < set.length; k++) {
			const i = set[k]!;
			if (side[i] === 1) above[a++] = i;
			else below[b++] = i;
		}
		await visit(walk.above, above);
		await visit(walk.below, below);
	};
	let all: Uint32Array = Uint32Array.from({ length: n }, (_, i) => i);
	if (terrain) all = all.filter((i) => !(xyz[3 * i + 2]! > sampleRaster(terrain, xyz[3 * i]!, xyz[3 * i + 1]!)));
	const inside = insideLimits(ground.input, SIDE_ONLY);
	if (inside)
		all = all.filter((i) => {
			if (inside(xyz[3 * i]!, xyz[3 * i + 1]!, xyz[3 * i + 2]!) >= 0) return true;
			out[i] = OUTSIDE;
			return false;
		});
	await visit(root, all);
	return out;
}
