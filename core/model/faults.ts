import { faultDistance, faultField, heightOf, linesOf } from './fault-field';
import { besideSides } from './moved-fault';
import { isInZone, type BoundedZone } from '../fields/bounded';
import { gradientAt, inBlock, MOST_FAULTS, type BlockField, type Field } from '../fields/field';
import { cross, normalize, type Vec3 } from '../geometry/vector';
import { fail } from '../problem';
import type { FaultZones } from '../units/contacts';
import type { FaultSpec, FaultTips, GroundInput } from './ground';

/** How far a fault may be off when nothing else is said, as a share of the extent. */
const ROUGHLY = 0.02;

/** A fault with its field: positive in the hanging wall, zero on the fault. */
export interface FittedFault {
	id: string;
	name: string;
	field: Field;
	/** Index into the column of the youngest unit that is cut. */
	youngestCut: number;
	halfWidth: number;
	/** How far it may be off, length units. */
	reach: number;
	/** Root mean square of how far it is off the places that it is said to pass through, length units; null without any. */
	misfit: number | null;
	/** Where it dies out, in project coordinates; null when it does not. */
	zone: BoundedZone | null;
	/** Number of the fault that it ends on, −1 for none, and the side of that fault on which it is. */
	endsOn: number;
	side: 0 | 1;
}

/**
 * Checks a fault before it is used or stored.
 * @throws ProblemError `fault-trace`, `fault-dip`, `fault-cuts-nothing`, `fault-tips`, `fault-place`
 */
export function validateFault(
	f: Pick<FaultSpec, 'name' | 'trace' | 'pieces' | 'dip' | 'youngestCut' | 'tips' | 'places' | 'uncertainty'>,
	unitIds: readonly string[]
): void {
	for (const [k, line] of linesOf(f).entries()) {
		const distinct = line.filter((p, i) => i === 0 || p[0] !== line[i - 1]![0] || p[1] !== line[i - 1]![1]);
		if (distinct.length < 2)
			fail(
				'fault-trace',
				`${k ? `piece ${k} of ` : ''}the trace of ${f.name || 'the fault'} has ${distinct.length === 1 ? 'one vertex' : 'no vertices'}`,
				'Draw a line of at least two different points.',
				k ? `pieces[${k - 1}]` : 'trace'
			);
	}
	if (!(f.dip > 0 && f.dip <= 90))
		fail('fault-dip', `the dip of ${f.name || 'the fault'} must be above 0 and at most 90°`, undefined, 'dip');
	if (f.uncertainty !== undefined && f.uncertainty !== null && !(f.uncertainty >= 0))
		fail('fault-uncertainty', `how far ${f.name || 'the fault'} may be off must not be below 0`, undefined, 'uncertainty');
	for (const p of f.places ?? [])
		if (![p.x, p.y, p.z].every(Number.isFinite) || (p.dip !== undefined && p.dip !== null && !(p.dip > 0 && p.dip <= 90)))
			fail(
				'fault-place',
				`a place of ${f.name || 'the fault'} is not given by three numbers, or its dip is not above 0 and at most 90°`,
				undefined,
				'places'
			);
	if (!unitIds.includes(f.youngestCut))
		fail(
			'fault-cuts-nothing',
			`${f.name || 'the fault'} names no unit of the column as the youngest that it cuts`,
			'Choose the youngest unit that the fault cuts.',
			'youngestCut'
		);
	if (f.tips && !(f.tips.halfHeight > 0 && f.tips.reach > 0 && f.tips.halfLength >= 0))
		fail('fault-tips', `the tip line of ${f.name || 'the fault'} has no size`, 'Its height and its reach must be above 0.', 'tips');
}

/**
 * Fits a field to each fault that is on: the trace on the terrain gives points, its dip together with
 * each leg of the trace gives gradients, so that the trace of a plane over any relief gives that plane. Places at depth, and planes
 * measured there, bend it, and so does what is known to lie on one side of it.
 */
export function fitFaults(input: GroundInput): FittedFault[] {
	const active = input.faults.filter((f) => f.on);
	if (active.length > MOST_FAULTS) fail('too-many-faults', `${active.length} faults; the most is ${MOST_FAULTS}`);
	refuseCircles(active);
	const ids = input.column.map((u) => u.id);
	const height = heightOf(input);
	const fitted = active.map((f): FittedFault => {
		validateFault(f, ids);
		const reach = Math.max(
			f.halfWidth,
			f.uncertainty ?? ROUGHLY * Math.hypot(input.extent.maxX - input.extent.minX, input.extent.maxY - input.extent.minY)
		);
		const field = besideSides(f, faultField(f, input), reach, input);
		const own = inBlock(field, 0);
		const off = (f.places ?? []).map((p) => faultDistance(own, p.x, p.y, p.z));
		return {
			id: f.id,
			name: f.name,
			field,
			youngestCut: ids.indexOf(f.youngestCut),
			halfWidth: f.halfWidth,
			reach,
			misfit: off.length ? Math.sqrt(off.reduce((s, d) => s + d * d, 0) / off.length) : null,
			zone: null,
			endsOn: -1,
			side: 0
		};
	});
	const blocks = fitted.map((f) => inBlock(f.field, 0));
	active.forEach((f, k) => {
		const own = fitted[k]!;
		if (f.tips) own.zone = zoneOf(f, f.tips, k, height, blocks[k]!);
		if (!f.endsOn) return;
		own.endsOn = active.findIndex((o) => o.id === f.endsOn);
		// A fault that is off or gone ends nothing.
		if (own.endsOn < 0) return;
		const other = blocks[own.endsOn]!;
		const sides = linesOf(f)
			.flat()
			.reduce((sum, [x, y]) => sum + faultDistance(other, x, y, height(x, y)), 0);
		own.side = sides >= 0 ? 1 : 0;
	});
	return fitted;
}

/** @throws ProblemError `fault-circle` when a fault ends on itself, by way of others */
export function refuseCircles(faults: readonly Pick<FaultSpec, 'id' | 'name' | 'endsOn'>[]): void {
	const byId = new Map(faults.map((f) => [f.id, f]));
	for (const f of faults) {
		const seen = new Set<string>();
		for (let at: typeof f | undefined = f; at; at = at.endsOn ? byId.get(at.endsOn) : undefined) {
			if (seen.has(at.id))
				fail(
					'fault-circle',
					`${f.name} ends on itself, by way of ${[...seen].map((id) => byId.get(id)!.name).join(', ')}`,
					'Choose which of them goes on past the other.',
					'endsOn'
				);
			seen.add(at.id);
		}
	}
}

/** Ellipsoid of a fault that dies out: its middle lies on the fault, below the middle of the trace, at the elevation of the tips. */
function zoneOf(f: FaultSpec, tips: FaultTips, fault: number, height: (x: number, y: number) => number, b: BlockField): BoundedZone {
	const [x0, y0] = f.trace[0]!;
	const [x1, y1] = f.trace[f.trace.length - 1]!;
	const chord = Math.hypot(x1 - x0, y1 - y0);
	const along: Vec3 = [(x1 - x0) / chord, (y1 - y0) / chord, 0];
	const [mx, my] = [(x0 + x1) / 2, (y0 + y1) / 2];
	const normal = (p: Vec3): Vec3 => normalize(gradientAt(b, ...p));
	let middle: Vec3 = [mx, my, height(mx, my)];
	// Down the fault in short steps: it may be curved.
	const steps = 40;
	const fall = (tips.elevation - middle[2]) / steps;
	for (let i = 0; i < steps; i++) {
		const down = normalize(cross(normal(middle), along));
		const step = fall / (Math.abs(down[2]) > 0.05 ? down[2] : -1);
		middle = [middle[0] + step * down[0], middle[1] + step * down[1], middle[2] + fall];
	}
	const across = normal(middle);
	const strike = normalize(cross([0, 0, 1], across).every((v) => Math.abs(v) < 1e-9) ? along : cross([0, 0, 1], across));
	const down = cross(across, strike);
	const halfLength = tips.halfLength > 0 ? tips.halfLength : chord / 2;
	return {
		fault,
		center: [...middle],
		axes: [...strike.map((v) => v / halfLength), ...down.map((v) => v / tips.halfHeight), ...across.map((v) => v / tips.reach)]
	};
}

/**
 * Block of a place among the faults: bit k is set in the hanging wall of fault k. On the side on which a fault is not, it has no bit.
 * @param cuts which faults count
 */
export function blockAt(
	faults: readonly FittedFault[],
	blocks: readonly BlockField[],
	cuts: (fault: number) => boolean,
	x: number,
	y: number,
	z: number
): number {
	let mask = 0;
	const sideOf = (k: number): 0 | 1 => (faultDistance(blocks[k]!, x, y, z) >= 0 ? 1 : 0);
	for (let k = 0; k < faults.length; k++) if (cuts(k) && isThere(faults, k, cuts, sideOf) && sideOf(k)) mask |= 1 << k;
	return mask;
}

/** Whether a fault is on the side on which it was drawn of those that it ends on. */
function isThere(faults: readonly FittedFault[], k: number, cuts: (fault: number) => boolean, sideOf: (k: number) => 0 | 1): boolean {
	const { endsOn, side } = faults[k]!;
	return endsOn < 0 || !cuts(endsOn) || !isThere(faults, endsOn, cuts, sideOf) || sideOf(endsOn) === side;
}

/** The faults as `contactsOf` asks for them. */
export function faultZones(faults: readonly FittedFault[], lengthUnit: string): FaultZones {
	const blocks = faults.map((f) => inBlock(f.field, 0));
	return {
		count: faults.length,
		distance: (f, x, y, z) =>
			isThere(
				faults,
				f,
				() => true,
				(k) => (faultDistance(blocks[k]!, x, y, z) >= 0 ? 1 : 0)
			) &&
			(!faults[f]!.zone || isInZone(faults[f]!.zone!, x, y, z))
				? faultDistance(blocks[f]!, x, y, z)
				: Infinity,
		halfWidth: (f) => faults[f]!.halfWidth,
		reach: (f) => faults[f]!.reach,
		name: (f) => faults[f]!.name,
		cuts: (f, unit) => unit >= faults[f]!.youngestCut,
		lengthUnit
	};
}

/** The faults that cut an intrusion, and the block of a place among them. */
export interface Cut {
	faults: readonly FittedFault[];
	zones: BoundedZone[];
	block: (p: { x: number; y: number; z: number }) => number;
}

export function cutBy(faults: readonly FittedFault[], unit: number): Cut {
	const cuts = (k: number) => faults[k]!.youngestCut <= unit;
	if (!faults.some((_, k) => cuts(k))) return { faults: [], zones: [], block: () => 0 };
	const blocks = faults.map((f) => inBlock(f.field, 0));
	return { faults, zones: faults.flatMap((f) => (f.zone ? [f.zone] : [])), block: (p) => blockAt(faults, blocks, cuts, p.x, p.y, p.z) };
}
