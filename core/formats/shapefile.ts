import { zipSync } from 'fflate';
import type { Feature, Geometry, Position } from 'geojson';
import { fail } from '../problem';
import { eachPosition } from './layer';

/** Shape types with z (Shapefile Technical Description, 1998). */
const POINT_Z = 11;
const LINE_Z = 13;
const POLYGON_Z = 15;
/** Of a dBase III table. */
const MOST_COLUMNS = 255;

type Parts = Position[][];

const partsOf = (g: Geometry): { type: number; parts: Parts }[] => {
	switch (g.type) {
		case 'Point':
			return [{ type: POINT_Z, parts: [[g.coordinates]] }];
		case 'MultiPoint':
			return g.coordinates.map((c) => ({ type: POINT_Z, parts: [[c]] }));
		case 'LineString':
			return [{ type: LINE_Z, parts: [g.coordinates] }];
		case 'MultiLineString':
			return [{ type: LINE_Z, parts: g.coordinates }];
		case 'Polygon':
			return [{ type: POLYGON_Z, parts: turned(g.coordinates) }];
		case 'MultiPolygon':
			return [{ type: POLYGON_Z, parts: g.coordinates.flatMap(turned) }];
		default:
			return g.geometries.flatMap(partsOf);
	}
};

/** Outer rings clockwise, holes anticlockwise: the other way round than GeoJSON. */
const turned = (rings: Parts): Parts => rings.map((r, i) => (area(r) > 0 === (i === 0) ? [...r].reverse() : r));

function area(ring: Position[]): number {
	let s = 0;
	for (let i = 0; i + 1 < ring.length; i++) s += ring[i]![0]! * ring[i + 1]![1]! - ring[i + 1]![0]! * ring[i]![1]!;
	return s;
}

/**
 * Writes features as shapefiles in one ZIP: a set for points, one for lines, one for polygons, as far as there are any. Text is cut
 * to 254 bytes and names of columns to 10 letters, as the format demands.
 * @throws ProblemError `too-many-columns`
 */
export function writeShapefiles(name: string, features: readonly Feature[], wkt: string): Uint8Array {
	const files: Record<string, Uint8Array> = {};
	const sets: [number, string][] = [
		[POINT_Z, 'points'],
		[LINE_Z, 'lines'],
		[POLYGON_Z, 'polygons']
	];
	for (const [type, suffix] of sets) {
		const own = features.flatMap((f) =>
			(f.geometry ? partsOf(f.geometry) : [])
				.filter((p) => p.type === type)
				.map((p) => ({ parts: p.parts, properties: f.properties ?? {} }))
		);
		if (own.length === 0) continue;
		const base = `${name}_${suffix}`;
		const { shp, shx } = shapes(
			type,
			own.map((o) => o.parts)
		);
		files[`${base}.shp`] = shp;
		files[`${base}.shx`] = shx;
		files[`${base}.dbf`] = table(own.map((o) => o.properties));
		files[`${base}.cpg`] = new TextEncoder().encode('UTF-8');
		if (wkt) files[`${base}.prj`] = new TextEncoder().encode(wkt);
	}
	return zipSync(files);
}

function shapes(type: number, records: Parts[]): { shp: Uint8Array; shx: Uint8Array } {
	const size = (parts: Parts) => {
		const points = parts.reduce((n, p) => n + p.length, 0);
		return type === POINT_Z ? 36 : 4 + 32 + 8 + 4 * parts.length + 16 * points + 2 * (16 + 8 * points);
	};
	const total = records.reduce((n, r) => n + 8 + size(r), 100);
	const shp = new Uint8Array(total);
	const shx = new Uint8Array(100 + 8 * records.length);
	const box = [Infinity, Infinity, -Infinity, -Infinity, Infinity, -Infinity];
	records.forEach((parts) =>
		parts.forEach((p) => eachPosition({ type: 'MultiPoint', coordinates: p }, ([x, y, z]) => grow(box, x!, y!, z ?? 0)))
	);
	for (const [bytes, length] of [
		[shp, total],
		[shx, shx.length]
	] as const) {
		const v = new DataView(bytes.buffer);
		v.setInt32(0, 9994);
		v.setInt32(24, length / 2);
		v.setInt32(28, 1000, true);
		v.setInt32(32, type, true);
		box.slice(0, 4).forEach((b, i) => v.setFloat64(36 + 8 * i, b, true));
		v.setFloat64(68, box[4]!, true);
		v.setFloat64(76, box[5]!, true);
	}
	const view = new DataView(shp.buffer);
	const index = new DataView(shx.buffer);
	let at = 100;
	records.forEach((parts, n) => {
		const length = size(parts);
		index.setInt32(100 + 8 * n, at / 2);
		index.setInt32(104 + 8 * n, length / 2);
		view.setInt32(at, n + 1);
		view.setInt32(at + 4, length / 2);
		let o = at + 8;
		const double = (v: number) => {
			view.setFloat64(o, v, true);
			o += 8;
		};
		const int = (v: number) => {
			view.setInt32(o, v, true);
			o += 4;
		};
		int(type);
		if (type === POINT_Z) [...parts[0]![0]!.slice(0, 2), parts[0]![0]![2] ?? 0, 0].forEach(double);
		else {
			const own = [Infinity, Infinity, -Infinity, -Infinity, Infinity, -Infinity];
			const points = parts.flat();
			for (const [x, y, z] of points) grow(own, x!, y!, z ?? 0);
			own.slice(0, 4).forEach(double);
			int(parts.length);
			int(points.length);
			let first = 0;
			for (const p of parts) {
				int(first);
				first += p.length;
			}
			for (const p of points) {
				double(p[0]!);
				double(p[1]!);
			}
			double(own[4]!);
			double(own[5]!);
			for (const p of points) double(p[2] ?? 0);
			double(0);
			double(0);
			for (let i = 0; i < points.length; i++) double(0);
		}
		at += 8 + length;
	});
	return { shp, shx };
}

function grow(box: number[], x: number, y: number, z: number): void {
	box[0] = Math.min(box[0]!, x);
	box[1] = Math.min(box[1]!, y);
	box[2] = Math.max(box[2]!, x);
	box[3] = Math.max(box[3]!, y);
	box[4] = Math.min(box[4]!, z);
	box[5] = Math.max(box[5]!, z);
}

/** A dBase III table of the properties. */
function table(rows: Record<string, unknown>[]): Uint8Array {
	const encoder = new TextEncoder();
	const keys = [...new Set(rows.flatMap((r) => Object.keys(r)))];
	const taken = new Set<string>();
	const columns = keys.map((key) => {
		let name = key.replace(/[^\w]/g, '_').slice(0, 10) || 'column';
		for (let n = 1; taken.has(name); n++) name = `${name.slice(0, 10 - String(n).length)}${n}`;
		taken.add(name);
		const numeric = rows.every((r) => r[key] === null || r[key] === undefined || typeof r[key] === 'number');
		return { key, name, type: numeric ? 'N' : 'C', width: numeric ? 24 : 254, decimals: numeric ? 15 : 0 };
	});
	if (columns.length > MOST_COLUMNS)
		fail(
			'too-many-columns',
			`a shapefile has at most ${MOST_COLUMNS} columns, and this layer has ${columns.length}`,
			'Save it as a GeoPackage or GeoJSON.'
		);
	if (columns.length === 0) columns.push({ key: '', name: 'ID', type: 'N', width: 24, decimals: 15 });
	const length = 1 + columns.reduce((n, c) => n + c.width, 0);
	const head = 33 + 32 * columns.length;
	const bytes = new Uint8Array(head + length * rows.length + 1).fill(32, head);
	const view = new DataView(bytes.buffer);
	bytes.set([3, 124, 1, 1]);
	view.setUint32(4, rows.length, true);
	view.setUint16(8, head, true);
	view.setUint16(10, length, true);
	columns.forEach((c, i) => {
		const o = 32 + 32 * i;
		bytes.set(encoder.encode(c.name), o);
		bytes[o + 11] = c.type.charCodeAt(0);
		bytes[o + 16] = c.width;
		bytes[o + 17] = c.decimals;
	});
	bytes[head - 1] = 13;
	rows.forEach((r, n) => {
		let o = head + n * length + 1;
		for (const c of columns) {
			const v = c.key === '' ? n : r[c.key];
			const text = v === null || v === undefined ? '' : c.type === 'N' ? numberCell(v as number).padStart(c.width) : String(v);
			// Writes whole characters only.
			encoder.encodeInto(text, bytes.subarray(o, o + c.width));
			o += c.width;
		}
	});
	bytes[bytes.length - 1] = 26;
	return bytes;
}

/** A number in at most 24 characters that reads back to itself. */
const numberCell = (v: number): string => {
	const plain = String(v);
	return plain.length <= 24 ? plain : v.toExponential();
};
