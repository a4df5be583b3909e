import type { BoundedZone } from '../fields/bounded';
import type { Bound, FieldData, GradientDatum, GroupDatum } from '../fields/data';
import { gradientAt, inBlock, type Field } from '../fields/field';
import { valuesSteps, type Steps } from '../fields/steps';
import { NearestPoint } from '../geometry/nearest';
import { add, dot, normalize, scale, subtract, type Vec3 } from '../geometry/vector';
import type { ContactPoint, Observation } from '../units/contacts';
import type { Sequence } from '../units/column';
import { fitEllipsoid, normalAt, placesOn, type Ellipsoid } from './ellipsoid';
import { blockAt, type FittedFault } from './faults';
import { interceptsOf, meanOf, nearestOf, planeOf, type Intercept } from './intercepts';
import { note, rangeOf, tryFit, type FittedSequence } from './fit-sequence';
import type { GroundFinding, GroundInput } from './ground';
import { noteLeft, type HoleDatum } from './neighbours';
import { carriedOn, endsInside } from './open-body';
import { passingHoles, thinWalls, type Placed } from './thinning';
import type { Shape } from './trends';
import { loosened, varyingFields, type Gap } from './vary';
import { quantileSorted } from '../statistics/spread';

/** Samples of a body along the holes, at most, for its first shape; and how often the shape is made rounder by its own boundary. */
const SAMPLES = 700;
const ROUNDS = 3;
/** A place in a hole lies at least this share of its distance from the nearest contact inside or outside. */
const MARGIN = 0.5;
/** A body with more contacts tells its shape by itself; places on the ellipsoid of one with fewer, and their least error as a share of its radius. */
const MOST_FOR_ELLIPSOID = 200;
const ON_ELLIPSOID = 100;
const LEAST_ERROR = 0.01;
/** A body that lies farther than this share of its radius from its ellipsoid is another shape. */
const MOST_MISFIT = 0.12;
const meanRadius = (e: Ellipsoid) => Math.cbrt(e.radii[0] * e.radii[1] * e.radii[2]);
/** Intercepts thinner than this share of their spread are those of a sheet. */
const SHEET = 0.15;
/** The thickness of a sheet varies when its spread is more than this share of it. */
const VARIES = 0.05;
const FEWEST_ACROSS = 8;
/** Error of how neighbouring intercepts tell a sheet to lie. */
const SHEET_NUGGET = 0.1;

const byPlace = (a: Observation, b: Observation) =>
	a.x - b.x || a.y - b.y || a.z - b.z || a.unit - b.unit || (a.hole < b.hole ? -1 : a.hole > b.hole ? 1 : 0);

/** Boundary of an intrusion: of a sheet (a dyke, a vein) two walls that follow each other, of any other body one closed surface. */
export function* fitIntrusion(
	input: GroundInput,
	s: Sequence,
	sequences: readonly Sequence[],
	index: number,
	faults: readonly FittedFault[],
	findings: GroundFinding[],
	shape: Shape
): Steps<FittedSequence> {
	const unit = s.base;
	const cut = cutBy(faults, unit);
	const name = input.column[unit]!.name;
	const result: FittedSequence = {
		...s,
		baseField: null,
		footField: null,
		walls: null,
		innerField: null,
		contactFields: [],
		present: [unit],
		absent: false
	};
	const contacts = input.contacts.filter((c) => c.surface === unit);
	if (contacts.length === 0)
		return { ...result, absent: note(findings, 'intrusion-not-met', `no hole meets a contact of ${name}`, 'It is left out of the model.') };
	// What is younger than the intrusion says nothing about where it was before that was laid down.
	const younger = new Set(
		sequences
			.slice(0, index)
			.filter((y) => y.kind === 'strata')
			.flatMap((y) => y.units)
	);
	const seen = input.observations.filter((o) => !younger.has(o.unit)).sort(byPlace);
	const intercepts = interceptsOf(
		contacts,
		seen.filter((o) => o.unit === unit)
	);
	const form = input.column[unit]!.form ?? (contacts.some((c) => c.wall !== undefined) || isSheet(intercepts) ? 'sheet' : 'body');
	if (form === 'sheet') {
		const sheet = yield* fitSheet(input, name, intercepts, seen, unit, cut, findings, shape);
		if (sheet) return { ...result, ...sheet };
		note(
			findings,
			'sheet-as-body',
			`${name} has too few intercepts for a sheet`,
			'It is modelled as a body. At least three holes must cross it.'
		);
	}
	// Midway between two walls is no boundary; it lies inside.
	const middles = contacts
		.filter((c) => c.wall === 0)
		.map((c): Observation => ({ unit, x: c.x, y: c.y, z: c.z, hole: c.hole, depth: c.depth, table: c.table }));
	const boundary = contacts.filter((c) => c.wall !== 0);
	if (boundary.length === 0)
		return {
			...result,
			absent: note(
				findings,
				'intrusion-not-met',
				`only the middle of ${name} is known, not its boundary`,
				'It is left out of the model. Make it a sheet, or add places on its boundary.'
			)
		};
	return { ...result, baseField: yield* fitBody(input, name, boundary, [...seen, ...middles].sort(byPlace), unit, cut, findings, shape) };
}

/** The faults that cut an intrusion, and the block of a place among them. */
interface Cut {
	faults: readonly FittedFault[];
	zones: BoundedZone[];
	block: (p: { x: number; y: number; z: number }) => number;
}

function cutBy(faults: readonly FittedFault[], unit: number): Cut {
	const cuts = (k: number) => faults[k]!.youngestCut <= unit;
	if (!faults.some((_, k) => cuts(k))) return { faults: [], zones: [], block: () => 0 };
	const blocks = faults.map((f) => inBlock(f.field, 0));
	return { faults, zones: faults.flatMap((f) => (f.zone ? [f.zone] : [])), block: (p) => blockAt(faults, blocks, cuts, p.x, p.y, p.z) };
}

/**
 * A closed body. Its first shape is the ellipsoid that fits it, where there is one; else it interpolates signed distances to the contacts, sampled along all holes: between holes the nearest
 * contact is farther away than the boundary, so distances are believed up to a share of the hole spacing. That shape tells how the
 * boundary lies at each contact; contacts with these directions, and the holes as bounds, give the shape that is kept (points with
 * normals, Wendland 2005, ch. 16; the field fades to nothing far away, so the body closes).
 */
function* fitBody(
	input: GroundInput,
	name: string,
	contacts: readonly ContactPoint[],
	observed: readonly Observation[],
	unit: number,
	cut: Cut,
	findings: GroundFinding[],
	shape: Shape
): Steps<Field | null> {
	const reach = 0.35 * spacingOfHoles(contacts, rangeOf(input));
	const seen = denser(observed, reach / 2);
	const step = Math.max(1, Math.ceil(seen.length / SAMPLES));
	const values = contacts.map((c) => ({ x: c.x, y: c.y, z: c.z, value: 0, block: 0 }));
	const nearest = new NearestPoint(contacts);
	const distances = seen.map((o) => nearest.distance(o.x, o.y, o.z));
	seen.forEach((o, i) => {
		if (i % step !== 0 && o.unit !== unit) return;
		const d = distances[i]!;
		if (d > 1e-6) values.push({ x: o.x, y: o.y, z: o.z, value: (o.unit === unit ? 1 : -1) * reach * Math.tanh(d / reach), block: 0 });
	});
	const empty: FieldData = { groupCount: 1, faultCount: 0, points: [], values: [], gradients: [], bounds: [] };
	function* firstShape(): Steps<Field | null> {
		const first = yield* tryFit(input, name, { ...empty, values }, [], findings, shape);
		if (first) first.levels[0] = 0;
		return first;
	}
	const parted = { ...empty, faultCount: cut.faults.length, bounded: cut.zones };
	const blockOf = contacts.map(cut.block);
	const points: GroupDatum[] = contacts.map((c, i) => ({ x: c.x, y: c.y, z: c.z, group: 0, block: blockOf[i]! }));
	const told = (input.bounds ?? []).filter((b) => b.surface === unit);
	const whole =
		cut.faults.length || contacts.length > MOST_FOR_ELLIPSOID
			? null
			: fitEllipsoid(contacts, [
					...observed.map((o) => ({ ...o, inside: o.unit === unit })),
					...told.map((b) => ({ ...b, hole: b.source, inside: b.sense > 0 }))
				]);
	// One that goes on is no ellipsoid.
	const round = !input.column[unit]!.opens && whole && whole.misfit < MOST_MISFIT * meanRadius(whole) ? whole : null;
	if (round) points.push(...betweenContacts(round, nearest, rangeOf(input)));
	let field = round ? null : yield* firstShape();
	if (!round && !field) return null;
	const bounds: Bound[] = seen.map((o, i) => ({
		x: o.x,
		y: o.y,
		z: o.z,
		group: 0,
		sense: o.unit === unit ? 1 : -1,
		block: cut.block(o),
		source: o.hole,
		margin: MARGIN * Math.min(distances[i]!, 2 * reach)
	}));
	for (const b of told) bounds.push({ x: b.x, y: b.y, z: b.z, group: 0, sense: b.sense, block: cut.block(b), source: b.source });
	const { opens } = input.column[unit]!;
	const closed = (['down', 'up'] as const)
		.filter((side) => opens !== side && opens !== 'both')
		.map((side) => ({ side, holes: new Set(endsInside(observed, unit, side === 'down').map((o) => o.hole)) }));
	for (const { side, holes } of closed)
		// A hole that begins inside began at the ground: the terrain cuts the body.
		if (side === 'down' && holes.size > 0)
			note(
				findings,
				'body-closes',
				`${holes.size} ${holes.size === 1 ? 'hole ends' : 'holes end'} inside ${name}: below them it is closed without evidence`,
				'Let it go on downwards in its row of the column, if it does.'
			);
	let beyond: ReturnType<typeof carriedOn> | null = null;
	for (let turn = 0; turn < ROUNDS + (opens ? 1 : 0); turn++) {
		if (opens && turn === ROUNDS && field) beyond = carriedOn(field, observed, unit, opens, input.extent, reach);
		const shaped = field;
		const now = new Map(shaped ? [...new Set(blockOf)].map((block) => [block, inBlock(shaped, block)]) : []);
		const gradients = contacts.flatMap((c, i): GradientDatum[] => {
			const own = now.get(blockOf[i]!);
			const g = own ? gradientAt(own, c.x, c.y, c.z) : scale(normalAt(round!, c), -1);
			return Math.hypot(...g) > 1e-6 ? [{ x: c.x, y: c.y, z: c.z, gradient: normalize(g), block: blockOf[i]! }] : [];
		});
		const rounder = yield* tryFit(
			input,
			name,
			{ ...parted, points: [...points, ...(beyond?.points ?? [])], gradients: [...gradients, ...(beyond?.gradients ?? [])], bounds },
			cut.faults,
			turn === ROUNDS - 1 ? findings : [],
			{ drift: 'none', ...shape }
		);
		if (!rounder) break;
		field = rounder;
	}
	return field ?? (yield* firstShape());
}

/**
 * What the ellipsoid of a body says where no contact is near: places that count the less the worse it fits.
 */
function betweenContacts(e: Ellipsoid, contacts: NearestPoint, range: number): GroupDatum[] {
	const radius = meanRadius(e);
	const error = Math.max(e.misfit, LEAST_ERROR * radius);
	// The variance of a field whose slope is about 1 and whose covariance is cubic.
	const nugget = 14 * (error / range) ** 2;
	const apart = radius * Math.sqrt((4 * Math.PI) / ON_ELLIPSOID);
	return placesOn(e, ON_ELLIPSOID)
		.filter((p) => contacts.distance(p.x, p.y, p.z) > apart / 2)
		.map((p) => ({ ...p, group: 0, block: 0, nugget }));
}

/** Observations with others between those of one unit that follow each other in a hole, no farther apart than `step`. */
function denser(observed: readonly Observation[], step: number): Observation[] {
	const byHole = new Map<string, Observation[]>();
	for (const o of observed) {
		const list = byHole.get(o.hole);
		if (list) list.push(o);
		else byHole.set(o.hole, [o]);
	}
	const out: Observation[] = [];
	for (const list of byHole.values()) {
		list.sort((a, b) => a.depth - b.depth || a.unit - b.unit);
		// Where one unit ends and another begins two places have one depth: the one that goes on comes first.
		for (let i = 1; i + 1 < list.length; i++) {
			const [before, a, b] = [list[i - 1]!, list[i]!, list[i + 1]!];
			if (a.depth === b.depth && before.unit === b.unit && before.unit !== a.unit) [list[i], list[i + 1]] = [b, a];
		}
		list.forEach((a, i) => {
			out.push(a);
			const b = list[i + 1];
			if (!b || b.unit !== a.unit) return;
			const n = Math.ceil((b.depth - a.depth) / step);
			for (let k = 1; k < n; k++)
				out.push({
					...a,
					x: a.x + ((b.x - a.x) * k) / n,
					y: a.y + ((b.y - a.y) * k) / n,
					z: a.z + ((b.z - a.z) * k) / n,
					depth: a.depth + ((b.depth - a.depth) * k) / n
				});
		});
	}
	return out.sort(byPlace);
}

/** Thin, measured across the plane through its intercepts, against their spread. */
function isSheet(intercepts: readonly Intercept[]): boolean {
	if (intercepts.filter((i) => i.contacts.length === 2).length < 3) return false;
	const across = planeOf(intercepts.map((i) => i.middle));
	const lengths = intercepts
		.flatMap(({ contacts: [a, b] }) => (a && b ? [Math.abs(dot(subtract([a.x, a.y, a.z], [b.x, b.y, b.z]), across))] : []))
		.sort((a, b) => a - b);
	const center = meanOf(intercepts.map((i) => i.middle));
	const spread = Math.sqrt(
		intercepts.reduce((s, i) => s + dot(subtract(i.middle, center), subtract(i.middle, center)), 0) / intercepts.length
	);
	return lengths[lengths.length >> 1]! < SHEET * spread;
}

/**
 * A sheet: one field with a level for each wall, so that the walls follow each other and never meet; how it lies comes from the
 * intercepts around each intercept. Contacts that are seen from one side only (a line on the map) lie on a level of their own
 * between the walls, unless they tell their wall. Where a hole passes without meeting it, it thins out (see `thinWalls`), or keeps its
 * thickness and the hole is left aside.
 */
function* fitSheet(
	input: GroundInput,
	name: string,
	intercepts: readonly Intercept[],
	seen: readonly Observation[],
	unit: number,
	cut: Cut,
	findings: GroundFinding[],
	shape: Shape
): Steps<Pick<FittedSequence, 'baseField' | 'footField' | 'walls'> | null> {
	const middles = intercepts.map((i) => i.middle);
	if (middles.length < 3) return null;
	// The hanging wall is the upper one.
	const whole = upward(planeOf(middles));
	const normals = middles.map((m) => {
		const near = nearestOf(middles, m, (o) => o);
		const n = near.length > 3 ? planeOf(near) : whole;
		return dot(n, whole) < 0 ? scale(n, -1) : n;
	});
	const points: HoleDatum[] = [];
	const inside = new Set(seen.filter((o) => o.unit === unit).map((o) => o.hole));
	intercepts.forEach((met, i) => {
		for (const c of met.contacts) {
			const at: Vec3 = [c.x, c.y, c.z];
			if (c.wall !== undefined) {
				const block = cut.block(c);
				const half = (c.thickness ?? 0) / 2;
				for (const group of c.wall === 0 ? [0, 1] : [c.wall === 1 ? 0 : 1]) {
					const [x, y, z] = add(at, scale(normals[i]!, group === 0 ? half : -half));
					points.push({ x, y, z, group, block, hole: c.hole });
				}
				continue;
			}
			let within = met.contacts.length === 2 ? met.middle : null;
			// One end only: the other side of it is told by the nearest place in the hole that lies inside.
			if (!within && inside.has(c.hole)) {
				const o = seen
					.filter((s) => s.hole === c.hole && s.unit === unit && Math.abs(s.depth - c.depth) > 1e-6)
					.sort((a, b) => Math.abs(a.depth - c.depth) - Math.abs(b.depth - c.depth))[0];
				if (o) within = [o.x, o.y, o.z];
			}
			const group = within ? (dot(subtract(at, within), normals[i]!) > 0 ? 0 : 1) : 2;
			points.push({ x: c.x, y: c.y, z: c.z, group, block: cut.block(c), hole: c.hole });
		}
	});
	if (![0, 1].every((g) => points.some((p) => p.group === g))) return null;
	const gradients: GradientDatum[] = middles.map((m, i) => ({
		x: m[0],
		y: m[1],
		z: m[2],
		gradient: normals[i]!,
		block: cut.block({ x: m[0], y: m[1], z: m[2] })
	}));
	const data: FieldData = { groupCount: 3, faultCount: cut.faults.length, bounded: cut.zones, points, values: [], gradients, bounds: [] };
	const first = yield* tryFit(input, name, data, cut.faults, [], { orientationNugget: SHEET_NUGGET, ...shape });
	if (!first || !(first.levels[0]! > first.levels[1]!)) return null;
	const middle = (first.levels[0]! + first.levels[1]!) / 2;
	const placed = seen.map((o) => ({ ...o, block: cut.block(o) }));
	const values = yield* valuesSteps(first, placed);
	const passing = yield* passingHoles(first, middle, placed, inside);
	const names = new Set(passing.map((p) => p.hole));
	const bounds = placed.flatMap((o, i): Bound[] => {
		if (names.has(o.hole)) return [];
		const at = { x: o.x, y: o.y, z: o.z, block: o.block, source: o.hole };
		if (o.unit === unit)
			return [
				{ ...at, group: 0, sense: -1 },
				{ ...at, group: 1, sense: 1 }
			];
		return [values[i]! > middle ? { ...at, group: 0, sense: 1 } : { ...at, group: 1, sense: -1 }];
	});
	const varied = yield* varyingSheet(
		input,
		name,
		data,
		points,
		intercepts.flatMap(({ contacts: [a, b] }, i) =>
			a && b && a.wall === undefined ? [Math.abs(dot(subtract([a.x, a.y, a.z], [b.x, b.y, b.z]), normals[i]!))] : []
		),
		bounds,
		placed,
		inside,
		unit,
		cut,
		findings,
		shape
	);
	if (varied) return varied;
	const field =
		(yield* tryFit(input, name, { ...data, bounds }, cut.faults, findings, { orientationNugget: SHEET_NUGGET, ...shape })) ?? first;
	if (!(field.levels[0]! > field.levels[1]!))
		note(
			findings,
			'crossed-contacts',
			`the walls of ${name} come out in the wrong order`,
			'Look for intercepts that belong to another sheet.'
		);
	const walls: [number, number] = [field.levels[0]!, field.levels[1]!];
	const plain = { baseField: field, footField: null, walls };
	if (passing.length === 0 || !(walls[0] > walls[1])) return plain;
	if (input.column[unit]!.thinsOut === false) {
		note(
			findings,
			'sheet-not-thinned',
			`${name} keeps its thickness though ${names.size === 1 ? `the hole ${passing[0]!.hole} passes` : `${names.size} holes pass`} it without meeting it`,
			'Let it thin out, or check what was logged there.'
		);
		return plain;
	}
	const crossed = yield* passingHoles(
		field,
		(walls[0] + walls[1]) / 2,
		placed.filter((o) => names.has(o.hole)),
		inside
	);
	const [baseField, footField] = yield* thinWalls(
		field,
		walls,
		points.filter((p) => p.group < 2),
		crossed,
		whole,
		input.extent,
		cut.zones,
		{ range: rangeOf(input), ...shape }
	);
	return { baseField, footField, walls };
}

/**
 * The walls of a sheet whose thickness varies, as fields of their own: they share a shape and are off it as their contacts show (see
 * `varyingFields`). Where a hole passes without meeting it, its thickness goes on below nothing, and it ends between the holes.
 * @param across true thicknesses of its intercepts
 * @returns null where the thickness hardly varies, or too little is known of it
 */
function* varyingSheet(
	input: GroundInput,
	name: string,
	data: FieldData,
	points: readonly HoleDatum[],
	across: readonly number[],
	bounds: readonly Bound[],
	placed: readonly Placed<Observation>[],
	inside: ReadonlySet<string>,
	unit: number,
	cut: Cut,
	findings: GroundFinding[],
	shape: Shape
): Steps<Pick<FittedSequence, 'baseField' | 'footField' | 'walls'> | null> {
	const walls = points.filter((p) => p.group < 2);
	if (across.length < FEWEST_ACROSS) return null;
	const thick = quantileSorted(Float64Array.from(across).sort(), 0.5);
	const spread = 1.4826 * quantileSorted(Float64Array.from(across, (t) => Math.abs(t - thick)).sort(), 0.5);
	if (!(spread > VARIES * thick)) return null;
	const loose = [...loosened(walls, spread), ...points.filter((p) => p.group === 2)];
	const options = { orientationNugget: SHEET_NUGGET, ...shape };
	const middle = yield* tryFit(input, name, { ...data, points: loose }, cut.faults, findings, options);
	if (!middle || middle.local || !(middle.levels[0]! > middle.levels[1]!)) return null;
	const passing = yield* passingHoles(middle, (middle.levels[0]! + middle.levels[1]!) / 2, placed, inside);
	const thins = input.column[unit]!.thinsOut !== false;
	if (passing.length && !thins)
		note(
			findings,
			'sheet-not-thinned',
			`${name} keeps its thickness though ${passing.length === 1 ? `the hole ${passing[0]!.hole} passes` : `${passing.length} holes pass`} it without meeting it`,
			'Let it thin out, or check what was logged there.'
		);
	const gaps = thins
		? passing.flatMap((p): Gap[] => [
				{ ...p, group: 0, by: 0.5 },
				{ ...p, group: 1, by: -0.5 }
			])
		: [];
	const missed = new Set(passing.map((p) => p.hole));
	const { fields, left } = yield* varyingFields(
		middle,
		{
			points: walls,
			gaps,
			bounds: bounds.filter((b) => !missed.has(b.source)),
			faultCount: cut.faults.length,
			groupCount: 2,
			certain: new Set(input.certain)
		},
		{ range: rangeOf(input), ...shape }
	);
	const [baseField, footField] = fields;
	if (!baseField || !footField) return null;
	noteLeft(left, findings);
	return { baseField, footField, walls: [middle.levels[0]!, middle.levels[1]!] };
}

const upward = (n: Vec3): Vec3 => (n[2] < 0 || (n[2] === 0 && (n[0] < 0 || (n[0] === 0 && n[1] < 0))) ? scale(n, -1) : n);

/** Median distance from a contact to the nearest one in another hole; the fallback when all are in one hole. */
function spacingOfHoles(contacts: readonly ContactPoint[], fallback: number): number {
	const places = new NearestPoint(contacts);
	const nearest = contacts.map((a) => places.distance(a.x, a.y, a.z, (i) => contacts[i]!.hole !== a.hole)).sort((a, b) => a - b);
	const median = nearest[nearest.length >> 1]!;
	return Number.isFinite(median) && median > 0 ? median : fallback / 10;
}
