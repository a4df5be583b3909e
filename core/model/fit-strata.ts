import type { Bound, GradientDatum } from '../fields/data';
import { spreadOut, type FitOptions } from '../fields/fit';
import { fromBlocks, inBlock, surfaceField, valueAt, type Field } from '../fields/field';
import { together, type Steps } from '../fields/steps';
import { rasterCovers, sampleRaster, type Raster } from '../grids/raster';
import { planeNormal } from '../geometry/angles';
import { quantileSorted } from '../statistics/spread';
import type { Sequence } from '../units/column';
import { alongBases } from './along-bases';
import { faultDistance } from './fault-field';
import { blockAt, type FittedFault } from './faults';
import type { NearFault } from './fault-sides';
import { emptySequence, note, rangeOf, slackOf, tryFit, withNuggets, type FittedSequence } from './fit-sequence';
import { lengthSaid, type FaultSide, type GroundFinding, type GroundInput } from './ground';
import type { Shape } from './trends';
import { oddAtBase, oddBesideBase, oddHoles } from './odd-base';
import { noteLeft, noteTwins, worstOf, withTwinErrors, type HoleDatum, type Left } from './neighbours';
import { isStrained, loosened, MISSING, thicknessSpread, usualThickness, varyingFields, type Gap } from './vary';
import { weigh } from './weigh';
/** Orientations tell how layers lie, and little of how thick they are: error of the length of the gradient, as a share of its prior variance. */
const LENGTH_NUGGET = 0.3;

/** Contacts and orientations that make the shape that contacts share where thickness varies. */
const MOST_SHAPE = 800;
const MOST_SHAPE_GRADIENTS = 120;
/** Least error of contacts there, as a share of the usual thickness. */
const LEAST_LOOSE = 0.05;
/** The shape is loose enough when it is this steep between contacts (see `isStrained`). */
const TIGHT = 0.7;

const zonesOf = (faults: readonly FittedFault[]) => faults.flatMap((f) => (f.zone ? [f.zone] : []));

export function* fitStrata(
	input: GroundInput,
	s: Sequence,
	sequences: readonly Sequence[],
	index: number,
	faults: readonly FittedFault[],
	findings: GroundFinding[],
	shape: Shape,
	made: Raster | null,
	sides: FaultSide[]
): Steps<FittedSequence> {
	const { column } = input;
	const name = column[s.units[0]!]!.name;
	const faultBlocks = faults.map((f) => inBlock(f.field, 0));
	// A fault cuts the whole of a sequence when it cuts any unit of it.
	const cuts = (k: number) => faults[k]!.youngestCut <= s.units[s.units.length - 1]!;
	const block = (p: { x: number; y: number; z: number }) => blockAt(faults, faultBlocks, cuts, p.x, p.y, p.z);

	const seen = new Set(input.observations.map((o) => o.unit));
	const result = emptySequence(s);
	const older = new Set(sequences.slice(index + 1).flatMap((o) => o.units));
	const own = new Set(s.units);

	const contacts = input.contacts.filter((c) => s.base >= 0 && c.surface === s.base);
	if (!made && s.base >= 0 && contacts.length === 0 && !s.units.some((u) => seen.has(u)))
		return {
			...result,
			absent: note(findings, 'unit-not-seen', `${name} and what belongs to it was not met in any hole`, 'It is left out of the model.')
		};

	const [atBase, inside]: [GroundFinding[], GroundFinding[]] = [[], []];
	function* fitBase(): Steps<void> {
		if (made) result.baseField = surfaceField(made, rangeOf(input));
		if (made || s.base < 0) return;
		const what = `the base of ${column[s.base]!.name}`;
		if (contacts.length === 0)
			return void note(
				atBase,
				'base-not-reached',
				`no hole reaches ${what}`,
				'It fills the model downwards. Add a contact or a deeper hole.'
			);
		const points = withNuggets(
			contacts.map((c) => ({ x: c.x, y: c.y, z: c.z, group: 0, block: block(c) })),
			(i) => contacts[i]!.error,
			rangeOf(input)
		);
		const all: Bound[] = input.observations
			.filter((o) => own.has(o.unit) || older.has(o.unit))
			.map((o) => ({ x: o.x, y: o.y, z: o.z, group: 0, sense: own.has(o.unit) ? 1 : -1, block: block(o), source: o.hole, ...slackOf(o) }));
		const ofHoles = points.map((p, i) => ({ ...p, hole: contacts[i]!.hole }));
		const certain = new Set(input.certain);
		const length = (by: number) => lengthSaid(input, by);
		const odd = yield* oddBesideBase(ofHoles, all, faults.length, { range: rangeOf(input), ...shape });
		const left: Left[] = [...odd].map(([b, off]) => ({ hole: b.source, off, at: [b.x, b.y, b.z] }));
		const told = (input.bounds ?? []).flatMap((b): Bound[] =>
			b.surface === s.base ? [{ x: b.x, y: b.y, z: b.z, group: 0, sense: b.sense, block: block(b), source: b.source }] : []
		);
		const through = (own: typeof points, without: ReadonlySet<string>) =>
			tryFit(
				input,
				`base of ${column[s.base]!.name}`,
				{
					groupCount: 1,
					faultCount: faults.length,
					points: own,
					values: [],
					gradients: [],
					bounds: [...all.filter((b) => certain.has(b.source) || !(odd.has(b) || without.has(b.source))), ...told],
					bounded: zonesOf(faults)
				},
				faults,
				atBase,
				shape
			);
		result.baseField = yield* through(points, new Set());
		if (result.baseField) {
			const { findings, gorges } = yield* oddAtBase(
				what,
				ofHoles,
				result.baseField,
				faults.length,
				{ range: rangeOf(input), ...shape },
				certain,
				length
			);
			atBase.push(...findings);
			for (const [i, off] of gorges) left.push({ hole: ofHoles[i]!.hole, off, at: [ofHoles[i]!.x, ofHoles[i]!.y, ofHoles[i]!.z] });
			if (gorges.size > 0)
				result.baseField = yield* through(
					points.filter((_, i) => !gorges.has(i)),
					new Set([...gorges.keys()].map((i) => ofHoles[i]!.hole))
				);
		}
		noteLeft(
			left.filter((l) => !certain.has(l.hole)),
			length,
			atBase
		);
		noteCertain(left, certain, length, atBase);
		if (points.length === 1)
			note(atBase, 'one-contact', `${what} is known from one contact only`, 'It is drawn horizontal through that point.');
	}
	yield* together([fitBase(), fitInside(input, s, result, block, faults, seen, inside, shape, sides)]);
	findings.push(...atBase, ...inside);
	return result;
}

/** The conformable contacts inside a sequence: one field, one level each. */
function* fitInside(
	input: GroundInput,
	s: Sequence,
	result: FittedSequence,
	block: (p: { x: number; y: number; z: number }) => number,
	faults: readonly FittedFault[],
	seen: ReadonlySet<number>,
	findings: GroundFinding[],
	shape: Shape,
	sides: FaultSide[]
): Steps<void> {
	const { column } = input;
	const groupOf = new Map(s.units.slice(0, -1).map((u, g) => [u, g]));
	const contacts = input.contacts.filter((c) => groupOf.has(c.surface));
	let points: HoleDatum[] = withNuggets(
		contacts.map((c) => ({
			x: c.x,
			y: c.y,
			z: c.z,
			hole: c.hole,
			group: groupOf.get(c.surface)!,
			block: block(c),
			...(c.error ? { error: c.error } : {})
		})),
		(i) => contacts[i]!.error,
		rangeOf(input)
	);
	const certain = new Set(input.certain);
	const length = (by: number) => lengthSaid(input, by);
	const twins = withTwinErrors(points, certain);
	points = twins.points;
	const counts = s.units.map((_, g) => points.filter((p) => p.group === g).length);
	/** Units whose base no contact shows, above others that were seen. */
	const loose: number[] = [];
	for (let g = 0; g < s.units.length; g++) {
		const u = s.units[g]!;
		const isLast = g === s.units.length - 1;
		const isBasement = u === column.length - 1;
		if (!isLast && counts[g] === 1)
			note(
				findings,
				'one-contact',
				`the base of ${column[u]!.name} is known from one contact only`,
				'Its shape follows the other contacts of the sequence.'
			);
		if (isLast || counts[g]! > 0) result.present.push(u);
		else if (seen.has(u)) {
			result.present.push(u);
			const below = s.units.slice(g + 1).some((o, k) => seen.has(o) || (counts[g + 1 + k] ?? 0) > 0);
			if (below) loose.push(g);
			else {
				note(findings, 'base-not-reached', `no contact was found at the base of ${column[u]!.name}`, 'It fills its sequence downwards.');
				break;
			}
		} else if (!isBasement) note(findings, 'unit-not-seen', `${column[u]!.name} was not met in any hole`, 'It is left out of the model.');
	}
	if (points.length === 0) return;
	const orientations = input.orientations.filter((o) => s.units.includes(o.unit));
	const gradients = orientations.map((o) => ({
		x: o.x,
		y: o.y,
		z: o.z,
		gradient: planeNormal(o.dip, o.dipAzimuth, o.polarity),
		block: block(o)
	}));
	let bounds: Bound[] = [];
	for (const o of input.observations) {
		const g = s.units.indexOf(o.unit);
		if (g < 0) continue;
		const at = { x: o.x, y: o.y, z: o.z, block: block(o), source: o.hole, ...slackOf(o) };
		if (counts[g]! > 0) bounds.push({ ...at, group: g, sense: 1 });
		if (g > 0 && counts[g - 1]! > 0) bounds.push({ ...at, group: g - 1, sense: -1 });
	}
	for (const b of input.bounds ?? []) {
		const g = groupOf.get(b.surface);
		if (g !== undefined && counts[g]! > 0)
			bounds.push({ x: b.x, y: b.y, z: b.z, group: g, sense: b.sense, block: block(b), source: b.source });
	}
	const options = { lengthNugget: LENGTH_NUGGET, ...shape };
	const gaps = (input.absences ?? []).flatMap((a): Gap[] => {
		const g = groupOf.get(a.unit);
		return g === undefined ? [] : [{ group: g, by: MISSING, x: a.x, y: a.y, z: a.z, block: block(a), hole: a.hole }];
	});
	// Where units pinch out no one shape fits; each contact is weighed by itself then.
	const weighed = gaps.length
		? null
		: yield* weigh(
				{ groupCount: s.units.length, faultCount: faults.length, points, values: [], gradients, bounds, bounded: zonesOf(faults) },
				{ range: rangeOf(input), ...options },
				faultsNear(s, faults),
				!input.faultSides,
				twins.most
			);
	for (const { fault, ...side } of weighed?.sides ?? []) sides.push({ ...side, fault: faults[fault]!.id });
	const sure = weighed ? besides(points, weighed.points, (p) => certain.has(p.hole)) : [];
	const sureBounds = weighed ? besides(bounds, weighed.bounds, (b) => certain.has(b.source)) : [];
	if (weighed) ({ points, bounds } = weighed);
	const left: Left[] = (weighed?.left ?? []).filter((l) => !certain.has(l.hole));
	noteCertain(weighed?.left ?? [], certain, length, findings);
	result.innerField = yield* tryFit(
		input,
		`contacts inside ${column[s.units[0]!]!.name} … ${column[s.units[s.units.length - 1]!]!.name}`,
		{ groupCount: s.units.length, faultCount: faults.length, points, values: [], gradients, bounds, bounded: zonesOf(faults) },
		faults,
		findings,
		options
	);
	left.push(...(yield* varied(input, s, result, { points, sure, gaps, bounds, sureBounds, gradients, faults, block }, options)));
	if (result.innerField) {
		const { terrain } = input;
		// Beyond its edge, or in a gap of it, it tells nothing of how deep a contact lies.
		const isKnown = terrain && points.every((p) => rasterCovers(terrain, p.x, p.y));
		const ground = isKnown ? (x: number, y: number) => sampleRaster(terrain, x, y) : null;
		const whole = yield* oddHoles(points, result.innerField, faults.length, { range: rangeOf(input), ...options }, certain, length, ground);
		findings.push(...whole.filter((f) => !left.some((l) => l.hole === f.hole)));
	}
	nameLeft(left, s, faults, length, findings);
	noteTwins(twins.pairs, (g) => `the base of ${column[s.units[g]!]!.name}`, certain, length, findings);
	const levels = result.innerField?.levels;
	for (const g of loose) {
		if (levels) levels[g] = levelBetween(result.innerField!, input, s, g, block);
		note(
			findings,
			'base-not-reached',
			`no contact was found at the base of ${column[s.units[g]!]!.name}`,
			'It is laid midway between where the unit and where the next one below it was seen. Give the codes between them a unit, or add a contact.'
		);
	}
	if (levels) {
		const known = s.units.map((u, g) => ({ u, level: levels[g]! })).filter((l) => Number.isFinite(l.level));
		for (let i = 1; i < known.length; i++)
			if (known[i]!.level >= known[i - 1]!.level)
				note(
					findings,
					'crossed-contacts',
					`the bases of ${column[known[i - 1]!.u]!.name} and ${column[known[i]!.u]!.name} come out in the wrong order`,
					'Check the order of the column, and holes where one of them was logged.'
				);
	}
}

/** The faults that cut a sequence and may pass through a place, as far as they are known. */
function faultsNear(s: Sequence, faults: readonly FittedFault[]): (p: { x: number; y: number; z: number }) => NearFault[] {
	const blocks = faults.map((f) => inBlock(f.field, 0));
	return (p) =>
		faults.flatMap((f, fault) => {
			const off = f.youngestCut <= s.units[s.units.length - 1]! ? Math.abs(faultDistance(blocks[fault]!, p.x, p.y, p.z)) : Infinity;
			return off <= f.reach ? [{ fault, off }] : [];
		});
}

/** Gives each contact a field of its own where thickness varies too much for one, or units pinch out. */
function* varied(
	input: GroundInput,
	s: Sequence,
	result: FittedSequence,
	{
		points,
		sure,
		gaps,
		bounds,
		sureBounds,
		gradients,
		faults,
		block
	}: {
		points: HoleDatum[];
		/** Contacts that are believed although they contradict the shape of all others: each bends its own surface, near it. */
		sure: HoleDatum[];
		gaps: Gap[];
		bounds: Bound[];
		/** The same of what was seen between contacts. */
		sureBounds: Bound[];
		gradients: GradientDatum[];
		faults: readonly FittedFault[];
		block: (p: { x: number; y: number; z: number }) => number;
	},
	options: Partial<FitOptions>
): Steps<Left[]> {
	const { innerField } = result;
	if (!innerField || (gaps.length + sure.length + sureBounds.length === 0 && !isStrained(innerField, points))) return [];
	const what = `contacts inside ${input.column[s.units[0]!]!.name} … ${input.column[s.units[s.units.length - 1]!]!.name}`;
	const thick = usualThickness(points);
	let shape: Field | null = null;
	// As loose as it takes until the shape has the layers as far apart as they are.
	for (let spread = Math.max(thicknessSpread(points), LEAST_LOOSE * thick); ; spread *= 2) {
		const loose = spreadOut(loosened(points, spread), (p) => `${p.group} ${p.block}`, MOST_SHAPE);
		shape = yield* tryFit(
			input,
			what,
			{
				groupCount: s.units.length,
				faultCount: faults.length,
				points: loose,
				values: [],
				gradients: spreadOut(gradients, () => '', MOST_SHAPE_GRADIENTS),
				bounds: [],
				bounded: zonesOf(faults)
			},
			faults,
			[],
			options
		);
		if (!shape || spread > thick || !isStrained(shape, points, TIGHT)) break;
	}
	if (!shape) return [];
	// What lies below the base of one unit lies below those of all younger ones. Above it only its own matters: younger ones are asked before it.
	const order = [...bounds, ...sureBounds].flatMap((b) =>
		b.sense === 1 ? [b] : Array.from({ length: b.group + 1 }, (_, group) => ({ ...b, group }))
	);
	const { fields, left } = yield* varyingFields(
		shape,
		{
			points: [...points, ...sure],
			gaps,
			bounds: order,
			faultCount: faults.length,
			groupCount: s.units.length,
			certain: new Set(input.certain),
			held: gaps.length ? alongBases(points, input, block) : undefined
		},
		{ range: rangeOf(input), ...options }
	);
	result.innerField = shape;
	result.contactFields = fields;
	return left;
}

/** What of a list is not in another, as far as it is wanted. */
function besides<T>(list: readonly T[], other: readonly T[], wanted: (item: T) => boolean): T[] {
	const known = new Set(other);
	return list.filter((item) => wanted(item) && !known.has(item));
}

/** Names holes that are believed against their neighbours. */
function noteCertain(left: readonly Left[], certain: ReadonlySet<string>, length: (by: number) => string, findings: GroundFinding[]): void {
	for (const { hole, off, at } of worstOf(left))
		if (certain.has(hole))
			findings.push({
				kind: 'believed',
				severity: 'noted',
				message: `${hole} is ${length(off)} off what its neighbours say, and believed as it is`,
				hint: 'The surfaces bend to it, near it.',
				at: [...at],
				hole
			});
}

/** Names each hole whose evidence was left out once, by what is farthest off. What lies at a fault was made by the fault. */
function nameLeft(
	left: readonly Left[],
	s: Sequence,
	faults: readonly FittedFault[],
	length: (by: number) => string,
	findings: GroundFinding[]
): void {
	const near = faultsNear(s, faults);
	const atFault = new Map<number, Set<string>>();
	const off: Left[] = [];
	for (const l of left) {
		const [x, y, z] = l.at;
		const k = near({ x, y, z })[0]?.fault;
		if (k !== undefined) (atFault.get(k) ?? atFault.set(k, new Set()).get(k)!).add(l.hole);
		else off.push(l);
	}
	for (const [k, holes] of atFault)
		note(
			findings,
			'contacts-at-fault',
			`contacts at ${faults[k]!.name} in ${holes.size} ${holes.size === 1 ? 'hole' : 'holes'} (${[...holes].sort().slice(0, 5).join(', ')}) fit the layers on neither side: taken as made by the fault`,
			'Widen its zone, or give it places at depth.'
		);
	noteLeft(off, length, findings);
}

/**
 * The level midway between the lowest places of a unit and the highest ones of what was seen below it, one in ten left out on each side;
 * between the levels next to it.
 */
function levelBetween(
	field: Field,
	input: GroundInput,
	s: Sequence,
	g: number,
	block: (p: { x: number; y: number; z: number }) => number
): number {
	const seen = fromBlocks(field);
	const valuesOf = (units: readonly number[]) =>
		Float64Array.from(
			input.observations.filter((o) => units.includes(o.unit)),
			(o) => valueAt(seen(block(o)), o.x, o.y, o.z)
		).sort();
	const known = Array.from(field.levels, (level, k) => ({ level, k })).filter((l) => Number.isFinite(l.level));
	const above = known.filter((l) => l.k < g).at(-1)?.level ?? Infinity;
	const below = known.find((l) => l.k > g)?.level ?? -Infinity;
	const own = quantileSorted(valuesOf([s.units[g]!]), 0.1);
	const next = s.units
		.slice(g + 1)
		.map((u) => valuesOf([u]))
		.find((v) => v.length > 0);
	const low = next ? quantileSorted(next, 0.9) : below;
	const wanted = Number.isFinite(low) ? (own + low) / 2 : own;
	return Math.min(
		above,
		Math.max(below, Number.isFinite(wanted) ? wanted : Number.isFinite(below) && Number.isFinite(above) ? (above + below) / 2 : NaN)
	);
}
