import { DOMParser } from '@xmldom/xmldom';
import { gpx, kml } from '@tmcw/togeojson';
import { unzipSync } from 'fflate';
import type { Feature, Geometry } from 'geojson';
import { combine, parseDbf, parseShp } from 'shpjs';
import { fail, ProblemError } from '../problem';
import { decodingOf, encodingNamed, encodingOfDbf } from './code-pages';
import { decodeText } from '../tables/delimited';
import { readDxf } from './dxf';
import { readGeoPackage } from './geopackage';
import { readGml } from './gml';
import { titlesRead } from './known';
import type { Layer } from './layer';
import { formatAmong, type Readers } from './reader';
import { isZip, zipEntries } from './xlsx';

const MOST_FEATURES = 500_000;

/** What a vector file is, from its first bytes and its name; null when it is none. */
export const vectorFormat = (bytes: Uint8Array, name: string): keyof typeof LAYER_READERS | null => formatAmong(LAYER_READERS, bytes, name);

/** Reads any vector file. @param part of a file with several layers, the one that is wanted @throws ProblemError that says what is wrong with it */
export async function readVectors(bytes: Uint8Array, name: string, part?: string): Promise<Layer> {
	const format = vectorFormat(bytes, name);
	if (!format)
		return fail('not-vectors', `${name} holds no points, lines or polygons that can be read`, `${titlesRead('layer')} are read.`, name);
	let layer: Layer;
	try {
		layer = await LAYER_READERS[format].read(bytes, name, part);
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail(
			'damaged-file',
			`${name} can not be read as ${format}`,
			`The file is damaged, or uses something that is not read. The reader said: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`,
			name
		);
	}
	const before = layer.features.length;
	layer.features = layer.features.filter((f) => f.geometry && isFinite(f.geometry));
	if (layer.features.length < before)
		layer.notes = [
			...(layer.notes ?? []),
			`${before - layer.features.length} of ${before} have no place, or coordinates that are no numbers, and are left out`
		];
	if (layer.features.length === 0) return fail('empty-file', `${name} holds no points, lines or polygons`, 'Choose another file.', name);
	if (layer.features.length > MOST_FEATURES)
		return fail('too-many-features', `${name} holds ${layer.features.length} features; the most is ${MOST_FEATURES}`, 'Split it.', name);
	return layer;
}

/** Whether every coordinate is a number. */
function isFinite(g: Geometry): boolean {
	if (g.type === 'GeometryCollection') return g.geometries.every(isFinite);
	const ok = (c: unknown): boolean =>
		Array.isArray(c) &&
		(c.length === 0 ||
			(typeof c[0] === 'number' ? c.length >= 2 && c.every((v) => typeof v === 'number' && Number.isFinite(v)) : c.every(ok)));
	return ok(g.coordinates);
}

const GEOJSON = /"type"\s*:\s*"(FeatureCollection|Feature|GeometryCollection|(Multi)?(Point|LineString|Polygon))"/;

/** How points, lines and polygons are told and read. */
const LAYER_READERS: Readers<'layer', Layer> = {
	geopackage: { is: ({ text }) => text.startsWith('SQLite format 3'), read: readGeoPackage },
	shapefile: {
		is: ({ bytes: b, entries }) => (b[0] === 0 && b[1] === 0 && b[2] === 0x27 && b[3] === 0x0a) || entries.some((n) => /\.shp$/i.test(n)),
		read: readShapefile
	},
	kmz: { is: ({ entries }) => entries.some((n) => /\.kml$/i.test(n)), read: readKmz },
	geojson: { is: ({ text }) => /^\s*\{/.test(text) && GEOJSON.test(text), read: readGeoJson },
	kml: { is: ({ text }) => /<kml[\s>]/i.test(text), read: readKml },
	gpx: { is: ({ text }) => /<gpx[\s>]/i.test(text), read: readGpx },
	gml: {
		is: ({ text }) => /^\s*(\ufeff|ï»¿)?\s*</.test(text) && /www\.opengis\.net\/gml/.test(text),
		read: (bytes) => readGml(documentOf(bytes).documentElement)
	},
	dxf: { is: ({ text }) => /^\s*(999\r?\n.*\r?\n\s*)*0\r?\n\s*SECTION/.test(text), read: readDxf }
};

function readGeoJson(bytes: Uint8Array): Layer {
	const value = JSON.parse(new TextDecoder().decode(bytes)) as {
		type: string;
		features?: Feature[];
		crs?: { properties?: { name?: string } };
	};
	const features =
		value.type === 'FeatureCollection'
			? (value.features ?? [])
			: value.type === 'Feature'
				? [value as unknown as Feature]
				: [{ type: 'Feature' as const, properties: {}, geometry: value as unknown as Geometry }];
	// RFC 7946 knows longitude and latitude only; older files may name another system.
	const named = /(\d+)$/.exec(value.crs?.properties?.name ?? '')?.[1];
	const epsg = named && !/CRS84$/.test(value.crs?.properties?.name ?? '') ? Number(named) : 4326;
	return { features: features.map((f) => ({ type: 'Feature', geometry: f.geometry, properties: f.properties ?? {} })), epsg };
}

function documentOf(bytes: Uint8Array): Document {
	const text = decodeText(bytes);
	if (/<!DOCTYPE|<!ENTITY/i.test(text))
		return fail('unsafe-xml', 'the file declares entities of its own', 'Save it again without a document type.');
	return new DOMParser({ onError: () => {} }).parseFromString(text, 'text/xml') as unknown as Document;
}

/** A KML file in a ZIP: the first one in it, as the format has it (OGC 12-007r2). */
function readKmz(bytes: Uint8Array, name: string): Layer {
	zipEntries(bytes, name);
	const main = Object.entries(unzipSync(bytes, { filter: (f) => /\.kml$/i.test(f.name) && !f.name.includes('..') }))[0];
	return main ? readKml(main[1]) : fail('empty-file', `${name} holds no KML file`, 'Choose another file.', name);
}

/** Waypoints, routes and tracks of a receiver for satellite navigation, degrees on WGS 84. */
function readGpx(bytes: Uint8Array): Layer {
	return {
		features: gpx(documentOf(bytes))
			.features.filter((f): f is Feature<Geometry> => f.geometry !== null)
			.map((f) => ({ type: 'Feature', geometry: f.geometry, properties: flat(f.properties ?? {}) })),
		epsg: 4326
	};
}

/** Properties without lists of their own, such as the times of a track. */
const flat = (properties: Record<string, unknown>) =>
	Object.fromEntries(Object.entries(properties).filter(([, v]) => typeof v !== 'object' || v === null));

function readKml(bytes: Uint8Array): Layer {
	return {
		features: kml(documentOf(bytes))
			.features.filter((f): f is Feature<Geometry> => f.geometry !== null)
			.map((f) => ({ type: 'Feature', geometry: f.geometry, properties: plainProperties(f.properties ?? {}) })),
		epsg: 4326
	};
}

/** Descriptions hold tables of values as HTML: their rows become properties, anything else plain text. */
function plainProperties(properties: Record<string, unknown>): Record<string, unknown> {
	const described = properties['description'];
	const html =
		typeof described === 'string'
			? described
			: typeof described === 'object' && described !== null && 'value' in described
				? String(described.value)
				: null;
	if (html === null || !/<\w/.test(html)) return html === null ? properties : { ...properties, description: html };
	const text = (part: string) =>
		part
			.replace(/<br\s*\/?>/gi, ' ')
			.replace(/<[^>]*>/g, '')
			.replace(/&nbsp;/g, ' ')
			.replace(/&lt;/g, '<')
			.replace(/&gt;/g, '>')
			.replace(/&quot;/g, '"')
			.replace(/&#39;/g, "'")
			.replace(/&amp;/g, '&')
			.replace(/\s+/g, ' ')
			.trim();
	const rows = [...html.matchAll(/<tr[^>]*>\s*<t[dh][^>]*>([\s\S]*?)<\/t[dh]>\s*<t[dh][^>]*>([\s\S]*?)<\/t[dh]>\s*<\/tr>/gi)]
		.map((m) => [text(m[1]!), text(m[2]!)] as const)
		.filter(([k]) => k !== '' && k.length < 100);
	return { ...properties, description: rows.length ? '' : text(html), ...Object.fromEntries(rows.filter(([k]) => !(k in properties))) };
}

async function readShapefile(bytes: Uint8Array, name: string): Promise<Layer> {
	if (!isZip(bytes))
		return {
			features: parseShp(bytes as never).map((geometry) => ({ type: 'Feature', geometry: geometry as Geometry, properties: {} })),
			epsg: null
		};
	zipEntries(bytes, name);
	const files = unzipSync(bytes, { filter: (f) => /\.(shp|dbf|prj|cpg)$/i.test(f.name) && !f.name.includes('..') });
	const shapes = Object.keys(files).filter((n) => /\.shp$/i.test(n));
	const features: Feature<Geometry>[] = [];
	let epsg: number | null = null;
	for (const shp of shapes) {
		const beside = (ending: string) =>
			files[Object.keys(files).find((n) => n.toLowerCase() === shp.toLowerCase().replace(/shp$/, ending)) ?? ''];
		const geometries = parseShp(files[shp]! as never);
		const dbf = beside('dbf');
		const cpg = beside('cpg');
		if (dbf) requireWholeTable(dbf);
		const { encoding, mend } = decodingOf((cpg && encodingNamed(new TextDecoder().decode(cpg))) ?? (dbf ? encodingOfDbf(dbf) : 'utf-8'));
		const rows = (dbf ? parseDbf(dbf as never, encoding as never) : []).map((row: object) =>
			Object.fromEntries(Object.entries(row).map(([k, v]) => [mend(k), typeof v === 'string' ? mend(v) : v]))
		);
		for (const f of combine([geometries, dbf ? rows : undefined] as never).features)
			features.push({ type: 'Feature', geometry: f.geometry as Geometry, properties: withoutNaN(f.properties ?? {}) });
		const prj = beside('prj');
		epsg ??= prj ? epsgOfWkt(new TextDecoder().decode(prj)) : null;
	}
	return { features, epsg };
}

/** A head that promises more rows than the file holds would be followed for minutes. */
function requireWholeTable(dbf: Uint8Array): void {
	if (dbf.length < 33) throw new Error('the table beside the shapes is cut off');
	const head = new DataView(dbf.buffer, dbf.byteOffset, dbf.byteLength);
	const [rows, start, width] = [head.getUint32(4, true), head.getUint16(8, true), head.getUint16(10, true)];
	if (rows > 0 && (width < 2 || start + rows * width > dbf.length + 1))
		throw new Error(`the table beside the shapes says ${rows} rows of ${width} bytes and holds ${Math.max(0, dbf.length - start)} bytes`);
}

/** An empty cell of a column of numbers is no number. */
const withoutNaN = (properties: Record<string, unknown>) =>
	Object.fromEntries(Object.entries(properties).map(([k, v]) => [k, Number.isNaN(v) ? null : v]));

/** EPSG code that a projection file states, directly or as a UTM zone on WGS 84. */
export function epsgOfWkt(wkt: string): number | null {
	const stated = /AUTHORITY\["EPSG","(\d+)"\]\]\s*$/.exec(wkt.trim())?.[1];
	if (stated) return Number(stated);
	const zone = /WGS[_ ]?(?:19)?84[_ ]UTM[_ ]zone[_ ](\d+)([NS])/i.exec(wkt);
	if (zone) return (zone[2]!.toUpperCase() === 'N' ? 32600 : 32700) + Number(zone[1]);
	return /^GEOGCS\["(GCS_)?WGS[_ ]?(19)?84"/i.test(wkt) ? 4326 : null;
}
