import { inBlock, valueAt, type BlockField, type Field } from '../fields/field';
import type { Vec3 } from '../geometry/vector';
import { sampleRaster } from '../grids/raster';
import { downFault } from './fault-field';
import { blockAt } from './faults';
import type { Ground } from './fit-ground';
import { contactOf } from './fit-sequence';

/** How far a contact is offset at one place along a fault. */
interface FaultOffset {
	/** Index into the column of the unit whose base it is. */
	surface: number;
	/** Distance along the trace. */
	along: number;
	/** Where the contact meets the fault on the hanging-wall and on the footwall side. */
	hanging: Vec3;
	foot: Vec3;
	/** Difference of elevation: positive when the hanging wall is down. */
	throw: number;
	/** Distance on the fault. */
	separation: number;
}

/** Steps down the fault from its trace. */
const STEPS = 160;

/**
 * The offset of each contact along a fault that is on: from each of `count` places on the trace, down the fault, where the contact
 * meets it on either side. Where it meets only one side within the extent there is no offset to tell.
 * @param fault number among the faults of the ground
 */
export function faultOffsets(ground: Ground, fault: number, count = 40): FaultOffset[] {
	const spec = ground.input.faults.filter((f) => f.on)[fault]!;
	const { extent, terrain } = ground.input;
	const blocks = ground.faults.map((f) => inBlock(f.field, 0));
	const own = blocks[fault]!;
	const out: FaultOffset[] = [];
	const prepared = new Map<Field, Map<number, BlockField>>();
	const seenFrom = (field: Field, block: number): BlockField => {
		let byBlock = prepared.get(field);
		if (!byBlock) prepared.set(field, (byBlock = new Map()));
		let b = byBlock.get(block);
		if (!b) byBlock.set(block, (b = inBlock(field, block)));
		return b;
	};
	const lengths = spec.trace.slice(1).map((p, i) => Math.hypot(p[0] - spec.trace[i]![0], p[1] - spec.trace[i]![1]));
	const total = lengths.reduce((a, b) => a + b, 0);
	for (let n = 0; n < count; n++) {
		const along = ((n + 0.5) / count) * total;
		let [leg, rest] = [0, along];
		while (leg < lengths.length - 1 && rest > lengths[leg]!) rest -= lengths[leg++]!;
		const [a, b] = [spec.trace[leg]!, spec.trace[leg + 1]!];
		const t = lengths[leg]! > 0 ? rest / lengths[leg]! : 0;
		const [x, y] = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
		const top = terrain ? sampleRaster(terrain, x, y) : extent.maxZ;
		if (Number.isNaN(top)) continue;
		const line = downFault(own, [x, y, top], [b[0] - a[0], b[1] - a[1], 0], extent.minZ, STEPS);
		for (const s of ground.sequences) {
			if (s.kind !== 'strata') continue;
			// Places are asked for several contacts on two sides: which block the other faults put them in, and what a field is there, is found once.
			const othersAt = new Int32Array(line.length).fill(-1);
			const valuesOf = new Map<Field, [Float64Array, Float64Array]>();
			const cuts = (k: number) => ground.faults[k]!.youngestCut <= s.units[s.units.length - 1]!;
			if (!cuts(fault)) continue;
			const surfaces = [
				...(s.baseField && s.base >= 0 ? [{ field: s.baseField, level: s.baseField.levels[0]!, surface: s.base }] : []),
				...s.present.slice(0, -1).flatMap((u) => {
					const own = contactOf(s, u);
					return own ? [{ ...own, surface: u }] : [];
				})
			];
			for (const { field, level, surface } of surfaces) {
				let values = valuesOf.get(field);
				if (!values) valuesOf.set(field, (values = [unasked(line.length), unasked(line.length)]));
				const meets = ([1, 0] as const).map((side) =>
					crossing(line, (p, i) => {
						const known = values[side];
						if (Number.isNaN(known[i])) {
							if (othersAt[i]! < 0) othersAt[i] = blockAt(ground.faults, blocks, (k) => k !== fault && cuts(k), ...p);
							known[i] = valueAt(seenFrom(field, othersAt[i]! | (side << fault)), ...p);
						}
						return known[i]! - level;
					})
				);
				const [hanging, foot] = meets;
				if (!hanging || !foot) continue;
				out.push({
					surface,
					along,
					hanging,
					foot,
					throw: foot[2] - hanging[2],
					separation: Math.hypot(hanging[0] - foot[0], hanging[1] - foot[1], hanging[2] - foot[2])
				});
			}
		}
	}
	return out;
}

const unasked = (count: number) => new Float64Array(count).fill(NaN);

/** The first place of a line at which a function changes sign, between the two points around it. */
function crossing(line: readonly Vec3[], f: (p: Vec3, i: number) => number): Vec3 | null {
	let before = f(line[0]!, 0);
	for (let i = 1; i < line.length; i++) {
		const now = f(line[i]!, i);
		if (before >= 0 !== now >= 0) {
			const t = before / (before - now);
			const [a, b] = [line[i - 1]!, line[i]!];
			return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])];
		}
		before = now;
	}
	return null;
}
