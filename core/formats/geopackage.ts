import type { Feature, Geometry, Position } from 'geojson';
import type { SqlJsStatic } from 'sql.js';
import { fail } from '../problem';
import { eachPosition, type Layer } from './layer';

let engine: Promise<SqlJsStatic> | null = null;
/** It is large: whoever reads other files does without. */
const sql = (): Promise<SqlJsStatic> => (engine ??= import('sql.js/dist/sql-wasm-inline.js').then((m) => m.default()));

const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/**
 * Reads the feature tables of a GeoPackage (OGC 12-128r19), or the one of a name; each thing carries the name of its table. Curves are
 * read as lines, surfaces of patches as polygons; what is not read is counted.
 */
export async function readGeoPackage(bytes: Uint8Array, name: string, part?: string): Promise<Layer> {
	const db = new (await sql()).Database(bytes);
	try {
		// A view may never end: only real tables are read.
		const real = new Set((db.exec("select name from sqlite_master where type = 'table'")[0]?.values ?? []).map(([n]) => String(n)));
		const listed =
			db.exec(
				'select c.table_name, g.column_name, s.organization_coordsys_id from gpkg_contents c join gpkg_geometry_columns g on g.table_name = c.table_name join gpkg_spatial_ref_sys s on s.srs_id = c.srs_id'
			)[0]?.values ?? [];
		const tables = (listed as [string, string, number][]).filter(([t]) => real.has(t));
		if (tables.length === 0)
			return fail(
				'empty-file',
				`${name} holds no table of features`,
				listed.length ? 'It only has views; save them as tables.' : 'Rasters in a GeoPackage are not read; choose GeoTIFF for them.',
				name
			);
		const wanted = part === undefined ? tables : tables.filter(([t]) => t === part);
		if (wanted.length === 0)
			return fail('no-such-part', `${name} has no layer "${part}"`, `Its layers are: ${tables.map(([t]) => t).join(', ')}.`, name);
		const features: Feature<Geometry>[] = [];
		const left = new Map<string, number>();
		const systems = new Set<number>();
		for (const [table, column, srs] of wanted) {
			if (srs > 0) systems.add(srs);
			const statement = db.prepare(`select * from ${quoted(table)}`);
			const columns = statement.getColumnNames();
			const at = columns.indexOf(column);
			while (statement.step()) {
				const row = statement.get();
				const blob = row[at];
				if (!(blob instanceof Uint8Array)) continue;
				try {
					const geometry = geometryOf(blob);
					if (geometry)
						features.push({
							type: 'Feature',
							geometry,
							properties: {
								...Object.fromEntries(columns.flatMap((c, i) => (i === at || row[i] instanceof Uint8Array ? [] : [[c, row[i]]]))),
								...(tables.length > 1 ? { layer: table } : {})
							}
						});
				} catch (error) {
					if (!(error instanceof NotRead)) throw error;
					left.set(error.message, (left.get(error.message) ?? 0) + 1);
				}
			}
			statement.free();
		}
		if (systems.size > 1)
			return fail(
				'other-system',
				`the layers of ${name} are in different systems: ${[...systems].map((e) => `EPSG:${e}`).join(', ')}`,
				`Choose one of them: ${tables.map(([t]) => t).join(', ')}.`,
				name
			);
		const count = (table: string) => Number(db.exec(`select count(*) from ${quoted(table)}`)[0]?.values[0]?.[0] ?? 0);
		return {
			features,
			epsg: [...systems][0] ?? null,
			notes: [...left].map(([what, n]) => `${n} ${what} left out`),
			...(tables.length > 1 ? { parts: tables.map(([t]) => ({ name: t, count: count(t) })) } : {})
		};
	} finally {
		db.close();
	}
}

/** A geometry of a kind that is not read. */
class NotRead extends Error {}

/** Geometry of a GeoPackage blob: a header with an envelope, then well-known binary. */
function geometryOf(blob: Uint8Array): Geometry | null {
	if (blob[0] !== 0x47 || blob[1] !== 0x50) throw new Error('a geometry has no GeoPackage header');
	const flags = blob[3]!;
	if (flags & 0x10) return null;
	const envelope = [0, 32, 48, 48, 64][(flags >> 1) & 7];
	if (envelope === undefined) throw new Error('a geometry has an unknown envelope');
	const view = new DataView(blob.buffer, blob.byteOffset, blob.byteLength);
	return new WkbReader(view, 8 + envelope).geometry();
}

const NAMES = ['', 'Point', 'LineString', 'Polygon', 'MultiPoint', 'MultiLineString', 'MultiPolygon', 'GeometryCollection'] as const;

/** Well-known binary (ISO 13249-3 and the older form with flags in the high bits), two to four coordinates; m is dropped. */
class WkbReader {
	constructor(
		private readonly view: DataView,
		private at: number
	) {}

	geometry(depth = 0): Geometry {
		if (depth > 8) throw new Error('geometries are nested too deeply');
		const little = this.view.getUint8(this.at++) === 1;
		const code = this.uint(little);
		const kind = (code & 0xffff) % 1000;
		const thousands = Math.floor((code & 0xffff) / 1000);
		const hasZ = thousands === 1 || thousands === 3 || (code & 0x80000000) !== 0;
		const hasM = thousands === 2 || thousands === 3 || (code & 0x40000000) !== 0;
		if (code & 0x20000000) this.at += 4;
		const position = (): Position => {
			const p = [this.double(little), this.double(little)];
			if (hasZ) p.push(this.double(little));
			if (hasM) this.at += 8;
			return p;
		};
		const list = <T>(item: () => T): T[] => {
			const n = this.uint(little);
			if (n > this.view.byteLength) throw new Error('a geometry claims more parts than the file has bytes');
			return Array.from({ length: n }, item);
		};
		const name = NAMES[kind];
		if (name === 'Point') return { type: name, coordinates: position() };
		if (name === 'LineString') return { type: name, coordinates: list(position) };
		if (name === 'Polygon') return { type: name, coordinates: list(() => list(position)) };
		if (!name) return this.curved(kind, code, position, list, depth);
		const parts = list(() => this.geometry(depth + 1));
		if (name === 'GeometryCollection') return { type: name, geometries: parts };
		return { type: name, coordinates: parts.map((p) => (p as { coordinates: unknown }).coordinates) } as Geometry;
	}

	/** Curves as lines along their arcs, curve polygons and patches as polygons (ISO 13249-3, types 8 to 17). */
	private curved(kind: number, code: number, position: () => Position, list: <T>(item: () => T) => T[], depth: number): Geometry {
		const lines = (g: Geometry): Position[] =>
			g.type === 'LineString' ? g.coordinates : g.type === 'MultiLineString' ? g.coordinates.flat() : [];
		switch (kind) {
			case 8:
				return { type: 'LineString', coordinates: alongArcs(list(position)) };
			case 9:
				return {
					type: 'LineString',
					coordinates: list(() => lines(this.geometry(depth + 1))).flatMap((part, i) => (i ? part.slice(1) : part))
				};
			case 10:
				return { type: 'Polygon', coordinates: list(() => lines(this.geometry(depth + 1))) };
			case 11:
				return { type: 'MultiLineString', coordinates: list(() => lines(this.geometry(depth + 1))) };
			case 12:
			case 15:
			case 16: {
				const parts = list(() => this.geometry(depth + 1));
				return { type: 'MultiPolygon', coordinates: parts.flatMap((p) => (p.type === 'Polygon' ? [p.coordinates] : [])) };
			}
			case 17:
				return { type: 'Polygon', coordinates: list(() => list(position)) };
			default:
				throw new NotRead(`geometries of type ${code & 0xffff}`);
		}
	}

	private uint(little: boolean): number {
		this.at += 4;
		return this.view.getUint32(this.at - 4, little);
	}

	private double(little: boolean): number {
		this.at += 8;
		return this.view.getFloat64(this.at - 8, little);
	}
}

/** Angle between the points of an arc that is drawn as a line. */
const ARC_STEP = Math.PI / 36;

/** The line along circular arcs, each through three points of which the last begins the next. */
function alongArcs(points: readonly Position[]): Position[] {
	const out: Position[] = points.length ? [points[0]!] : [];
	for (let i = 0; i + 2 < points.length; i += 2) {
		const [a, b, c] = [points[i]!, points[i + 1]!, points[i + 2]!] as [Position, Position, Position];
		out.push(...arcThrough(a, b, c));
	}
	return out;
}

/** Points of the arc from a by b to c, without a; a straight line where they lie on one. */
function arcThrough(a: Position, b: Position, c: Position): Position[] {
	const [ax, ay, bx, by, cx, cy] = [a[0]!, a[1]!, b[0]! - a[0]!, b[1]! - a[1]!, c[0]! - a[0]!, c[1]! - a[1]!];
	const d = 2 * (bx * cy - by * cx);
	const full = cx === 0 && cy === 0;
	if (!full && Math.abs(d) < 1e-12 * (bx * bx + by * by + cx * cx + cy * cy)) return [b, c];
	const [ux, uy] = full
		? [bx / 2, by / 2]
		: [(cy * (bx * bx + by * by) - by * (cx * cx + cy * cy)) / d, (bx * (cx * cx + cy * cy) - cx * (bx * bx + by * by)) / d];
	const r = Math.hypot(ux, uy);
	const from = Math.atan2(-uy, -ux);
	const turn = (x: number) => ((x % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI);
	const middle = turn(Math.atan2(by - uy, bx - ux) - from);
	let sweep = full ? 2 * Math.PI : turn(Math.atan2(cy - uy, cx - ux) - from);
	if (!full && middle > sweep) sweep -= 2 * Math.PI;
	const steps = Math.max(2, Math.ceil(Math.abs(sweep) / ARC_STEP));
	return Array.from({ length: steps }, (_, k) => {
		if (k === steps - 1) return c;
		const t = from + (sweep * (k + 1)) / steps;
		return [ax + ux + r * Math.cos(t), ay + uy + r * Math.sin(t), ...(a.length > 2 ? [a[2]! + ((c[2]! - a[2]!) * (k + 1)) / steps] : [])];
	});
}

/** A geometry as a GeoPackage blob, little endian, without envelope. */
function blobOf(g: Geometry, epsg: number): Uint8Array {
	let bytes = new Uint8Array(1024);
	let view = new DataView(bytes.buffer);
	let at = 0;
	const room = (n: number) => {
		if (at + n <= bytes.length) return;
		const more = new Uint8Array(2 * (at + n));
		more.set(bytes);
		bytes = more;
		view = new DataView(bytes.buffer);
	};
	const byte = (v: number) => (room(1), view.setUint8(at++, v));
	const uint = (v: number) => (room(4), view.setUint32(at, v, true), (at += 4));
	const double = (v: number) => (room(8), view.setFloat64(at, v, true), (at += 8));
	[0x47, 0x50, 0, 1].forEach(byte);
	uint(epsg);
	let hasZ = false;
	eachPosition(g, (p) => (hasZ ||= p.length > 2));
	const position = (p: Position) => {
		double(p[0]!);
		double(p[1]!);
		if (hasZ) double(p[2] ?? 0);
	};
	const positions = (list: Position[]) => {
		uint(list.length);
		list.forEach(position);
	};
	const write = (x: Geometry): void => {
		byte(1);
		uint(NAMES.indexOf(x.type) + (hasZ ? 1000 : 0));
		if (x.type === 'Point') position(x.coordinates);
		else if (x.type === 'LineString') positions(x.coordinates);
		else if (x.type === 'Polygon') {
			uint(x.coordinates.length);
			x.coordinates.forEach(positions);
		} else if (x.type === 'GeometryCollection') {
			uint(x.geometries.length);
			x.geometries.forEach(write);
		} else {
			const part = x.type.slice(5) as 'Point' | 'LineString' | 'Polygon';
			uint(x.coordinates.length);
			for (const c of x.coordinates) write({ type: part, coordinates: c } as Geometry);
		}
	};
	write(g);
	return bytes.slice(0, at);
}

/** Names of columns as SQL takes them, which does not tell capitals from small letters: the second `Name` becomes `name 2`. */
function columnNames(columns: readonly string[]): string[] {
	const taken = new Set<string>();
	return columns.map((c) => {
		let name = c || 'column';
		for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${c || 'column'} ${n}`;
		taken.add(name.toLowerCase());
		return name;
	});
}

/** Writes features as a GeoPackage with one table. @param wkt definition of the coordinate system */
export async function writeGeoPackage(name: string, features: readonly Feature[], epsg: number, wkt: string): Promise<Uint8Array> {
	const db = new (await sql()).Database();
	try {
		const table = name.replace(/[^\w]+/g, '_').slice(0, 60) || 'features';
		const columns = [...new Set(features.flatMap((f) => Object.keys(f.properties ?? {})))].filter(
			(c) => !['fid', 'geom'].includes(c.toLowerCase())
		);
		const names = columnNames(columns);
		const isNumber = (c: string) =>
			features.every((f) => f.properties?.[c] === null || f.properties?.[c] === undefined || typeof f.properties[c] === 'number');
		const box = [Infinity, Infinity, -Infinity, -Infinity];
		for (const f of features)
			eachPosition(f.geometry, ([x, y]) => {
				box[0] = Math.min(box[0]!, x!);
				box[1] = Math.min(box[1]!, y!);
				box[2] = Math.max(box[2]!, x!);
				box[3] = Math.max(box[3]!, y!);
			});
		db.exec(`pragma application_id = 1196444487; pragma user_version = 10300;
			create table gpkg_spatial_ref_sys (srs_name text not null, srs_id integer not null primary key, organization text not null, organization_coordsys_id integer not null, definition text not null, description text);
			create table gpkg_contents (table_name text not null primary key, data_type text not null, identifier text unique, description text default '', last_change datetime not null default (strftime('%Y-%m-%dT%H:%M:%fZ','now')), min_x double, min_y double, max_x double, max_y double, srs_id integer, foreign key (srs_id) references gpkg_spatial_ref_sys (srs_id));
			create table gpkg_geometry_columns (table_name text not null, column_name text not null, geometry_type_name text not null, srs_id integer not null, z tinyint not null, m tinyint not null, primary key (table_name, column_name));
			insert into gpkg_spatial_ref_sys values ('Undefined cartesian', -1, 'NONE', -1, 'undefined', null), ('Undefined geographic', 0, 'NONE', 0, 'undefined', null);
			create table ${quoted(table)} (fid integer primary key autoincrement not null, geom blob${columns.map((c, i) => `, ${quoted(names[i]!)} ${isNumber(c) ? 'double' : 'text'}`).join('')});`);
		db.run('insert or ignore into gpkg_spatial_ref_sys values (?, ?, ?, ?, ?, null)', [
			'WGS 84 geodetic',
			4326,
			'EPSG',
			4326,
			'GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433]]'
		]);
		if (epsg > 0)
			db.run('insert or ignore into gpkg_spatial_ref_sys values (?, ?, ?, ?, ?, null)', [
				`EPSG:${epsg}`,
				epsg,
				'EPSG',
				epsg,
				wkt || 'undefined'
			]);
		const srs = epsg > 0 ? epsg : -1;
		db.run(
			'insert into gpkg_contents (table_name, data_type, identifier, min_x, min_y, max_x, max_y, srs_id) values (?, ?, ?, ?, ?, ?, ?, ?)',
			[table, 'features', name, ...box, srs]
		);
		db.run('insert into gpkg_geometry_columns values (?, ?, ?, ?, ?, ?)', [table, 'geom', 'GEOMETRY', srs, 2, 0]);
		const insert = db.prepare(
			`insert into ${quoted(table)} (geom${names.map((n) => `, ${quoted(n)}`).join('')}) values (?${', ?'.repeat(columns.length)})`
		);
		for (const f of features)
			insert.run([
				blobOf(f.geometry, srs),
				...columns.map((c) => {
					const v: unknown = f.properties?.[c];
					return v === null || v === undefined ? null : typeof v === 'number' ? v : String(v);
				})
			]);
		insert.free();
		return db.export();
	} finally {
		db.close();
	}
}
