import { decodeText } from '../tables/delimited';
import type { Feature, Geometry, Position } from 'geojson';
import { fail } from '../problem';
import type { Layer } from './layer';

/** A group of a drawing: its code and its value. */
type Pair = readonly [code: number, value: string];

interface Entity {
	type: string;
	pairs: Pair[];
	/** Of a polyline, its vertices; of an insertion, its attributes. */
	parts: Entity[];
}

type Place = (p: readonly [number, number, number]) => [number, number, number];

/** Angle between the points of an arc that is drawn as a line: they lie within a thousandth of its radius. */
const ARC_STEP = Math.PI / 36;
const MOST_FEATURES = 500_000;
const DEEPEST_BLOCKS = 16;

/**
 * Reads an ASCII drawing (DXF, the public reference of its group codes): points, lines, polylines with bulges, circles, arcs, ellipses,
 * splines, faces, polyface meshes, text, and the blocks that are inserted. Curves become lines within a thousandth of their radius.
 * Layers are a property. What is not read is counted.
 * @throws ProblemError `damaged-file` where it is not made of pairs of a group code and a value, or ends before its end
 */
export function readDxf(bytes: Uint8Array, name: string): Layer {
	const { entities, blocks } = entitiesOf(pairsOf(decodeText(bytes), name));
	const out: Drawing = { features: [], left: new Map(), curves: 0, radius: 0, blocks, name };
	for (const e of entities) draw(out, e, (p) => [...p] as [number, number, number], '', 0);
	const notes = [...out.left].map(([type, n]) => `${n} ${type} left out`);
	if (out.curves)
		notes.unshift(
			`${out.curves} curves are read as lines, to within ${Number((out.radius * (1 - Math.cos(ARC_STEP / 2))).toPrecision(2))} of the curve`
		);
	return { features: out.features, epsg: null, notes };
}

interface Drawing {
	features: Feature<Geometry>[];
	left: Map<string, number>;
	curves: number;
	/** Greatest radius of a curve. */
	radius: number;
	blocks: ReadonlyMap<string, { base: [number, number, number]; entities: Entity[] }>;
	name: string;
}

function* pairsOf(text: string, name: string): Generator<Pair> {
	const lines = text.split(/\r\n|\r|\n/);
	for (let i = 0; i + 1 < lines.length; i += 2) {
		if (!/^\s*-?\d{1,4}\s*$/.test(lines[i]!))
			return fail(
				'damaged-file',
				`${name}: line ${i + 1} is "${lines[i]!.slice(0, 40)}", where a group code was expected`,
				'Save it again as ASCII DXF.',
				name
			);
		const pair: Pair = [Number(lines[i]), lines[i + 1]!.trim()];
		yield pair;
		if (pair[0] === 0 && pair[1] === 'EOF') return;
	}
	fail('damaged-file', `${name} ends before its end: the drawing was cut short`, 'Save or send it again.', name);
}

/** The entities of a drawing, and its blocks by name. */
function entitiesOf(pairs: Iterable<Pair>): {
	entities: Entity[];
	blocks: Map<string, { base: [number, number, number]; entities: Entity[] }>;
} {
	const entities: Entity[] = [];
	const blocks = new Map<string, { base: [number, number, number]; entities: Entity[] }>();
	let section = '';
	let entity: Entity | null = null;
	let owner: Entity | null = null;
	let block: { head: Entity; entities: Entity[] } | null = null;
	const put = (e: Entity) => {
		// A vertex belongs to the polyline before it, an attribute to the insertion.
		if (owner && ((owner.type === 'POLYLINE' && e.type === 'VERTEX') || (owner.type === 'INSERT' && e.type === 'ATTRIB')))
			return void owner.parts.push(e);
		owner = e.type === 'POLYLINE' || e.type === 'INSERT' ? e : null;
		if (e.type === 'VERTEX' || e.type === 'SEQEND') return;
		if (section === 'ENTITIES') entities.push(e);
		else if (block) block.entities.push(e);
	};
	for (const [code, value] of pairs) {
		if (code !== 0) {
			if (entity?.type === 'SECTION' && code === 2) section = value;
			entity?.pairs.push([code, value]);
			continue;
		}
		entity = { type: value, pairs: [], parts: [] };
		if (value === 'SECTION' || value === 'ENDSEC') {
			if (value === 'ENDSEC') section = '';
			owner = null;
		} else if (section === 'BLOCKS' && value === 'BLOCK') block = { head: entity, entities: [] };
		else if (section === 'BLOCKS' && value === 'ENDBLK') {
			if (block) blocks.set(first(block.head, 2) ?? '', { base: placeOf(block.head), entities: block.entities });
			block = null;
		} else if (section === 'ENTITIES' || block) put(entity);
	}
	return { entities, blocks };
}

const first = (e: Entity, code: number): string | undefined => e.pairs.find((p) => p[0] === code)?.[1];
const number = (e: Entity, code: number, otherwise = 0): number => {
	const v = Number(first(e, code) ?? NaN);
	return Number.isFinite(v) ? v : otherwise;
};
const placeOf = (e: Entity, code = 10): [number, number, number] => [number(e, code), number(e, code + 10), number(e, code + 20)];
const hasPlace = (e: Entity, code = 10): boolean =>
	Number.isFinite(Number(first(e, code) ?? NaN)) && Number.isFinite(Number(first(e, code + 10) ?? NaN));

/** Places of a code that is repeated: x begins each. */
function places(e: Entity, code: number): { at: [number, number, number]; bulge: number }[] {
	const out: { at: [number, number, number]; bulge: number }[] = [];
	for (const [c, v] of e.pairs) {
		const last = out[out.length - 1];
		if (c === code) out.push({ at: [Number(v), NaN, 0], bulge: 0 });
		else if (last && c === code + 10) last.at[1] = Number(v);
		else if (last && c === code + 20) last.at[2] = Number(v);
		else if (last && c === 42) last.bulge = Number(v);
	}
	return out.filter((p) => p.at.every(Number.isFinite));
}

/** From the plane that an entity is drawn in to the drawing's own: the arbitrary axis algorithm of the format. */
function ofExtrusion(e: Entity): Place {
	const n = [number(e, 210), number(e, 220), number(e, 230, 1)] as const;
	const length = Math.hypot(...n);
	if (!(length > 0) || (n[0] === 0 && n[1] === 0 && n[2] > 0)) return (p) => [...p] as [number, number, number];
	const z = n.map((v) => v / length) as [number, number, number];
	const cross = (a: readonly number[], b: readonly number[]): [number, number, number] => [
		a[1]! * b[2]! - a[2]! * b[1]!,
		a[2]! * b[0]! - a[0]! * b[2]!,
		a[0]! * b[1]! - a[1]! * b[0]!
	];
	const unit = (v: [number, number, number]): [number, number, number] => v.map((c) => c / Math.hypot(...v)) as [number, number, number];
	const x = unit(Math.abs(z[0]) < 1 / 64 && Math.abs(z[1]) < 1 / 64 ? cross([0, 1, 0], z) : cross([0, 0, 1], z));
	const y = unit(cross(z, x));
	return (p) => [0, 1, 2].map((c) => p[0] * x[c]! + p[1] * y[c]! + p[2] * z[c]!) as [number, number, number];
}

/** Points of an arc about a middle, from an angle over a sweep, its first point among them. */
function arc(
	out: Drawing,
	middle: readonly [number, number, number],
	radius: number,
	from: number,
	sweep: number,
	ratio: readonly [number, number] = [1, 1],
	turn = 0
): [number, number, number][] {
	out.curves++;
	out.radius = Math.max(out.radius, radius);
	const steps = Math.max(2, Math.ceil(Math.abs(sweep) / ARC_STEP));
	return Array.from({ length: steps + 1 }, (_, k) => {
		const t = from + (sweep * k) / steps;
		const [u, v] = [radius * ratio[0] * Math.cos(t), radius * ratio[1] * Math.sin(t)];
		return [middle[0] + u * Math.cos(turn) - v * Math.sin(turn), middle[1] + u * Math.sin(turn) + v * Math.cos(turn), middle[2]];
	});
}

/** The line through vertices; a bulge, the tangent of a quarter of the angle, makes an arc of the stretch behind it. */
function withBulges(
	out: Drawing,
	vertices: readonly { at: [number, number, number]; bulge: number }[],
	closed: boolean
): [number, number, number][] {
	const line: [number, number, number][] = [];
	const n = vertices.length;
	vertices.forEach(({ at, bulge }, i) => {
		line.push(at);
		const next = vertices[(i + 1) % n]!;
		if (!Number.isFinite(bulge) || Math.abs(bulge) < 1e-9 || (i === n - 1 && !closed)) return;
		const [dx, dy] = [next.at[0] - at[0], next.at[1] - at[1]];
		const chord = Math.hypot(dx, dy);
		if (chord === 0) return;
		const angle = 4 * Math.atan(bulge);
		const radius = chord / (2 * Math.sin(Math.abs(angle) / 2));
		const off = ((1 - bulge * bulge) / (4 * bulge)) * chord;
		const middle = [(at[0] + next.at[0]) / 2 - (dy / chord) * off, (at[1] + next.at[1]) / 2 + (dx / chord) * off, at[2]] as const;
		line.push(...arc(out, middle, radius, Math.atan2(at[1] - middle[1], at[0] - middle[0]), angle).slice(1, -1));
	});
	return closed && n > 1 ? [...line, line[0]!] : line;
}

/** Points along a spline: by de Boor's recurrence where its knots and controls fit, else through its fit points. */
function spline(out: Drawing, e: Entity): [number, number, number][] {
	const controls = places(e, 10).map((p) => p.at);
	const knots = e.pairs.filter((p) => p[0] === 40).map((p) => Number(p[1]));
	const weights = e.pairs.filter((p) => p[0] === 41).map((p) => Number(p[1]));
	const degree = number(e, 71, 3);
	const fit = places(e, 11).map((p) => p.at);
	out.curves++;
	if (controls.length <= degree || degree < 1 || degree > 10 || knots.length !== controls.length + degree + 1 || controls.length > 10_000)
		return fit.length > 1 ? fit : controls;
	const w = (i: number) => (weights.length === controls.length ? weights[i]! : 1);
	const points: [number, number, number][] = [];
	const at = (t: number, span: number) => {
		const d = Array.from({ length: degree + 1 }, (_, j) => {
			const i = span - degree + j;
			return [...controls[i]!.map((c) => c * w(i)), w(i)];
		});
		for (let r = 1; r <= degree; r++)
			for (let j = degree; j >= r; j--) {
				const i = span - degree + j;
				const low = knots[i]!;
				const high = knots[i + degree - r + 1]!;
				const a = high > low ? (t - low) / (high - low) : 0;
				d[j] = d[j]!.map((c, k) => (1 - a) * d[j - 1]![k]! + a * c);
			}
		const p = d[degree]!;
		return p.slice(0, 3).map((c) => c / p[3]!) as [number, number, number];
	};
	const pieces = 16;
	for (let span = degree; span < controls.length; span++) {
		if (!(knots[span + 1]! > knots[span]!)) continue;
		for (let k = points.length ? 1 : 0; k <= pieces; k++)
			points.push(at(knots[span]! + ((knots[span + 1]! - knots[span]!) * k) / pieces, span));
	}
	const box = [0, 1].map((c) => Math.max(...controls.map((p) => p[c]!)) - Math.min(...controls.map((p) => p[c]!)));
	out.radius = Math.max(out.radius, Math.max(...box) / 2);
	return points.length > 1 ? points : controls;
}

const leave = (out: Drawing, what: string): void => void out.left.set(what, (out.left.get(what) ?? 0) + 1);

/** Puts what an entity draws into the features. @param place from the plane of its block to the drawing */
function draw(out: Drawing, e: Entity, place: Place, layerOfBlock: string, depth: number): void {
	const own = first(e, 8) ?? '';
	// What lies on layer 0 of a block lies on the layer that the block is inserted on.
	const layer = own === '0' && layerOfBlock ? layerOfBlock : own;
	const put = (geometry: Geometry, more: Record<string, unknown> = {}) => {
		if (out.features.length >= MOST_FEATURES)
			fail('too-many-features', `${out.name} draws more than ${MOST_FEATURES} things`, 'Split it.', out.name);
		out.features.push({ type: 'Feature', geometry, properties: { layer, entity: e.type, ...more } });
	};
	const lift = ofExtrusion(e);
	const positions = (points: readonly (readonly [number, number, number])[], flat = true): Position[] =>
		points.map((p) => place(flat ? lift(p) : [...p]));
	const line = (points: readonly (readonly [number, number, number])[], flat = true, more: Record<string, unknown> = {}) =>
		points.length > 1 ? put({ type: 'LineString', coordinates: positions(points, flat) }, more) : leave(out, `${e.type} without places`);
	switch (e.type) {
		case 'POINT':
			return hasPlace(e) ? put({ type: 'Point', coordinates: place(placeOf(e)) }) : leave(out, 'POINT without places');
		case 'LINE':
			return hasPlace(e) && hasPlace(e, 11) ? line([placeOf(e), placeOf(e, 11)], false) : leave(out, 'LINE without places');
		case 'LWPOLYLINE': {
			const z = number(e, 38);
			return line(
				withBulges(
					out,
					places(e, 10).map((v) => ({ ...v, at: [v.at[0], v.at[1], z] })),
					(number(e, 70) & 1) === 1
				)
			);
		}
		case 'POLYLINE':
			return polyline(out, e, place, put);
		case '3DFACE':
		case 'SOLID':
		case 'TRACE': {
			const corners = [10, 11, 12, 13].filter((c) => hasPlace(e, c)).map((c) => placeOf(e, c));
			// The corners of a filled area run crosswise.
			const turned = e.type === '3DFACE' || corners.length < 4 ? corners : [corners[0]!, corners[1]!, corners[3]!, corners[2]!];
			const ring = turned.filter((p, i) => i === 0 || p.some((v, c) => v !== turned[i - 1]![c]));
			return ring.length > 2
				? put({ type: 'Polygon', coordinates: [positions([...ring, ring[0]!], e.type !== '3DFACE')] })
				: leave(out, `${e.type} without places`);
		}
		case 'CIRCLE': {
			const points = arc(out, placeOf(e), number(e, 40), 0, 2 * Math.PI);
			return line([...points.slice(0, -1), points[0]!]);
		}
		case 'ARC': {
			const [from, to] = [(number(e, 50) * Math.PI) / 180, (number(e, 51, 360) * Math.PI) / 180];
			const sweep = (((to - from) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI) || 2 * Math.PI;
			return line(arc(out, placeOf(e), number(e, 40), from, sweep));
		}
		case 'ELLIPSE': {
			const [mx, my, mz] = placeOf(e, 11);
			if (Math.abs(mz) > 1e-9 * Math.hypot(mx, my)) return leave(out, 'ELLIPSE that is not level');
			const [from, to] = [number(e, 41), number(e, 42, 2 * Math.PI)];
			const sweep = to > from ? to - from : to - from + 2 * Math.PI;
			return line(
				arc(out, placeOf(e), Math.hypot(mx, my), from, sweep, [1, number(e, 40, 1) * (number(e, 230, 1) < 0 ? -1 : 1)], Math.atan2(my, mx)),
				false
			);
		}
		case 'SPLINE':
			return line(spline(out, e), false);
		case 'TEXT':
		case 'MTEXT':
		case 'ATTRIB': {
			const text = [...e.pairs.filter((p) => p[0] === 3), ...e.pairs.filter((p) => p[0] === 1)].map((p) => p[1]).join('');
			return hasPlace(e)
				? put(
						{ type: 'Point', coordinates: positions([placeOf(e)], e.type !== 'MTEXT')[0]! },
						{ text: text.replace(/\\P/g, ' ').replace(/\\[A-Za-z][^;\\]*;|[{}]/g, '') }
					)
				: leave(out, `${e.type} without places`);
		}
		case 'INSERT':
			return insert(out, e, place, layer, depth);
		case 'SEQEND':
		case 'VIEWPORT':
			return;
		default:
			leave(out, e.type);
	}
}

/** A polyline, a mesh of faces, or a net of rows and columns. */
function polyline(out: Drawing, e: Entity, place: Place, put: (g: Geometry, more?: Record<string, unknown>) => void): void {
	const flags = number(e, 70);
	const lift = ofExtrusion(e);
	const vertex = (v: Entity) => ({ at: placeOf(v), bulge: number(v, 42) });
	if (flags & 64) {
		// Vertices with flag 128 and no place are faces: numbers of vertices, negative along hidden edges.
		const corners = e.parts.filter((v) => number(v, 70) & 64).map((v) => placeOf(v));
		for (const f of e.parts.filter((v) => (number(v, 70) & 192) === 128)) {
			const ring = [71, 72, 73, 74]
				.map((c) => Math.abs(number(f, c)))
				.filter((i) => i >= 1 && i <= corners.length)
				.map((i) => place(corners[i - 1]!));
			if (ring.length > 2) put({ type: 'Polygon', coordinates: [[...ring, ring[0]!]] });
		}
		return;
	}
	if (flags & 16) {
		const [m, n] = [number(e, 71), number(e, 72)];
		const grid = e.parts.filter((v) => (number(v, 70) & 16) === 0 || number(v, 70) & 64).map((v) => place(placeOf(v)));
		if (!(m > 1 && n > 1) || grid.length < m * n) return leave(out, 'POLYLINE net without its vertices');
		for (let i = 0; i + 1 < m; i++)
			for (let j = 0; j + 1 < n; j++) {
				const ring = [grid[i * n + j]!, grid[(i + 1) * n + j]!, grid[(i + 1) * n + j + 1]!, grid[i * n + j + 1]!];
				put({ type: 'Polygon', coordinates: [[...ring, ring[0]!]] });
			}
		return;
	}
	// Control points of a fitted curve are no part of it.
	const vertices = e.parts.filter((v) => !(number(v, 70) & 16) && hasPlace(v)).map(vertex);
	const flat = (flags & 8) === 0;
	const z = number(e, 30);
	const points = withBulges(
		out,
		flat ? vertices.map((v) => ({ ...v, at: [v.at[0], v.at[1], v.at[2] || z] })) : vertices.map((v) => ({ ...v, bulge: 0 })),
		(flags & 1) === 1
	);
	if (points.length < 2) return leave(out, 'POLYLINE without places');
	put({ type: 'LineString', coordinates: points.map((p) => place(flat ? lift(p) : p)) });
}

/** The entities of a block where it is inserted: moved, scaled, turned, in rows and columns. */
function insert(out: Drawing, e: Entity, place: Place, layer: string, depth: number): void {
	const block = out.blocks.get(first(e, 2) ?? '');
	if (!block || depth >= DEEPEST_BLOCKS) return leave(out, block ? 'INSERT nested too deeply' : 'INSERT of a block that is not there');
	const lift = ofExtrusion(e);
	const at = placeOf(e);
	const scale = [number(e, 41, 1), number(e, 42, 1), number(e, 43, 1)] as const;
	const turn = (number(e, 50) * Math.PI) / 180;
	const [columns, rows] = [Math.min(1000, Math.max(1, number(e, 70, 1))), Math.min(1000, Math.max(1, number(e, 71, 1)))];
	for (let i = 0; i < columns; i++)
		for (let j = 0; j < rows; j++) {
			const [ox, oy] = [i * number(e, 44), j * number(e, 45)];
			const inner: Place = (p) => {
				const [x, y, z] = [0, 1, 2].map((c) => (p[c as 0 | 1 | 2] - block.base[c as 0 | 1 | 2]) * scale[c as 0 | 1 | 2]) as [
					number,
					number,
					number
				];
				const [u, v] = [x + ox, y + oy];
				return place(lift([at[0] + u * Math.cos(turn) - v * Math.sin(turn), at[1] + u * Math.sin(turn) + v * Math.cos(turn), at[2] + z]));
			};
			for (const b of block.entities) draw(out, b, inner, layer, depth + 1);
		}
	for (const a of e.parts) draw(out, a, place, layer, depth + 1);
}
