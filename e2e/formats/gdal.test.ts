import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync, zipSync } from 'fflate';
import type { Feature, FeatureCollection } from 'geojson';
import { describe, expect, it } from 'vitest';
import { readAsc, writeAsc } from '#core/formats/asc';
import { readGeoPackage, writeGeoPackage } from '#core/formats/geopackage';
import { isColorTiff, readColorTiff, readGeoTiff, writeGeoTiff } from '#core/formats/geotiff';
import { readPicture } from '#core/formats/picture';
import { eachPosition } from '#core/formats/layer';
import { writeShapefiles } from '#core/formats/shapefile';
import { readVectors } from '#core/formats/vectors';
import type { Raster } from '#core/grids/raster';

// Files of other programs are read to the same values, and files written here are read by them: GDAL from Debian stands for them.
const folder = mkdtempSync(join(tmpdir(), 'malachite-gdal-'));
const at = (name: string) => join(folder, name);
const gdal = (command: string, ...args: string[]) => execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], env: { ...process.env, CPL_LOG: '/dev/null' } });
const bytesOf = (name: string) => new Uint8Array(readFileSync(at(name)));

const raster: Raster = { x0: 402_005, y0: 4_990_005, dx: 10, dy: 10, nx: 37, ny: 23, values: Float32Array.from({ length: 37 * 23 }, (_, i) => (i % 50 === 7 ? NaN : Math.fround(Math.sin(i / 9) * 300 + i / 7))) };
const sameRaster = (r: Raster, tolerance = 0) => {
	expect([r.nx, r.ny]).toEqual([raster.nx, raster.ny]);
	for (const [a, b] of [[r.x0, raster.x0], [r.y0, raster.y0], [r.dx, raster.dx], [r.dy, raster.dy]] as const) expect(a).toBeCloseTo(b, 6);
	r.values.forEach((v, i) => (Number.isNaN(raster.values[i]!) ? expect(v).toBeNaN() : expect(Math.abs(v - raster.values[i]!)).toBeLessThanOrEqual(tolerance)));
};

describe('rasters', () => {
	it.each([
		['no compression', []],
		['DEFLATE with a predictor', ['-co', 'COMPRESS=DEFLATE', '-co', 'PREDICTOR=3']],
		['LZW in tiles', ['-co', 'COMPRESS=LZW', '-co', 'TILED=YES', '-co', 'BLOCKXSIZE=16', '-co', 'BLOCKYSIZE=16']],
		['PACKBITS', ['-co', 'COMPRESS=PACKBITS']],
		['64-bit numbers', ['-ot', 'Float64', '-co', 'COMPRESS=DEFLATE', '-co', 'PREDICTOR=3']],
		['a BigTIFF', ['-co', 'BIGTIFF=YES']]
	])('GeoTIFF with %s', async (name, options) => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal('gdal_translate', '-q', ...options, at('own.tif'), at('other.tif'));
		const read = await readGeoTiff(bytesOf('other.tif'), name);
		expect(read.epsg).toBe(32628);
		sameRaster(read.raster);
	});

	it('GeoTIFF of whole numbers with scale and offset', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal('gdal_translate', '-q', '-ot', 'Int16', '-a_nodata', '-32768', '-scale', '-500', '500', '-32000', '32000', '-a_scale', '0.015625', '-a_offset', '0', at('own.tif'), at('scaled.tif'));
		const { raster: r } = await readGeoTiff(bytesOf('scaled.tif'), 'scaled.tif');
		r.values.forEach((v, i) => !Number.isNaN(raster.values[i]!) && !Number.isNaN(v) && expect(Math.abs(v - raster.values[i]!)).toBeLessThan(0.02));
	});

	it('a GeoTIFF in colours as a picture with its place', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal('gdal_translate', '-q', '-ot', 'Byte', '-scale', '-500', '500', '0', '255', '-b', '1', '-b', '1', '-b', '1', '-co', 'PHOTOMETRIC=RGB', at('own.tif'), at('color.tif'));
		expect(await isColorTiff(bytesOf('own.tif'))).toBe(false);
		expect(await isColorTiff(bytesOf('color.tif'))).toBe(true);
		const p = await readColorTiff(bytesOf('color.tif'), 'color.tif');
		expect(p).toMatchObject({ width: 37, height: 23, epsg: 32628, placement: { a: 10, b: 0, d: 0, e: -10, c: raster.x0, f: raster.y0 + 220 } });
		expect(readPicture(p.png, 'x.png')).toMatchObject({ width: 37, height: 23 });
		writeFileSync(at('own.png'), p.png);
		writeFileSync(at('own.pgw'), [p.placement.a, p.placement.d, p.placement.b, p.placement.e, p.placement.c, p.placement.f].join('\n'));
		const grey = (name: string) => gdal('gdal_translate', '-q', '-of', 'AAIGrid', '-b', '2', at(name), '/vsistdout/').split(/\s+/).filter((t) => /^\d+$/.test(t)).slice(-700);
		expect(grey('own.png')).toEqual(grey('color.tif'));
	});

	it('ASCII grids both ways', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal('gdal_translate', '-q', '-of', 'AAIGrid', '-co', 'SIGNIFICANT_DIGITS=10', at('own.tif'), at('other.asc'));
		sameRaster(readAsc(bytesOf('other.asc'), 'other.asc'), 1e-4);
		writeFileSync(at('own.asc'), writeAsc(raster));
		gdal('gdal_translate', '-q', '-a_srs', 'EPSG:32628', at('own.asc'), at('back.tif'));
		sameRaster((await readGeoTiff(bytesOf('back.tif'), 'back.tif')).raster, 1e-4);
	});
});

const features: Feature[] = [
	{ type: 'Feature', properties: { name: 'spring', depth: 12.25 }, geometry: { type: 'Point', coordinates: [402_310.125, 4_992_011.5, 210.4] } },
	{ type: 'Feature', properties: { name: 'Sallow Fault', depth: null }, geometry: { type: 'LineString', coordinates: [[402_000, 4_991_000, 10], [402_500.5, 4_992_000.25, 20.5], [403_100, 4_993_000, 5]] } },
	{ type: 'Feature', properties: { name: 'Größe “A”', depth: 3 }, geometry: { type: 'Polygon', coordinates: [[[402_000, 4_991_000, 1], [403_000, 4_991_000, 1], [403_000, 4_992_000, 1], [402_000, 4_992_000, 1], [402_000, 4_991_000, 1]], [[402_400, 4_991_400, 1], [402_400, 4_991_600, 1], [402_600, 4_991_600, 1], [402_600, 4_991_400, 1], [402_400, 4_991_400, 1]]] } }
];
/** All coordinates of some features, in no order. */
const places = (list: readonly Feature[], digits = 6) => {
	const out: string[] = [];
	for (const f of list) eachPosition(f.geometry, (p) => out.push([...p.slice(0, 2), p[2] ?? 0].map((v) => v.toFixed(digits)).join(' ')));
	return out.sort();
};
const names = (list: readonly Feature[]) => [...new Set(list.map((f) => String(f.properties?.['name'] ?? f.properties?.['Name'])))].sort();
const source = () => writeFileSync(at('source.geojson'), JSON.stringify({ type: 'FeatureCollection', crs: { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::32628' } }, features }));
const byGdal = (name: string, ...layer: string[]) => (JSON.parse(gdal('ogr2ogr', '-f', 'GeoJSON', '-lco', 'COORDINATE_PRECISION=9', '/vsistdout/', at(name), ...layer)) as FeatureCollection).features;

describe('points, lines and polygons', () => {
	it('in a GeoPackage', async () => {
		source();
		gdal('ogr2ogr', '-f', 'GPKG', '-nlt', 'GEOMETRY', at('other.gpkg'), at('source.geojson'));
		const layer = await readGeoPackage(bytesOf('other.gpkg'), 'other.gpkg');
		expect(layer.epsg).toBe(32628);
		expect(places(layer.features)).toEqual(places(features));
		expect(names(layer.features)).toEqual(names(features));
		writeFileSync(at('own.gpkg'), await writeGeoPackage('own', features, 32628, ''));
		expect(places(byGdal('own.gpkg'))).toEqual(places(features));
		expect(names(byGdal('own.gpkg'))).toEqual(names(features));
		expect(places((await readVectors(bytesOf('own.gpkg'), 'own.gpkg')).features)).toEqual(places(features));
	});

	it.each(['Point', 'LineString', 'Polygon'])('in a shapefile of %s', async (type) => {
		source();
		const own = features.filter((f) => f.geometry.type === type);
		gdal('ogr2ogr', '-overwrite', '-lco', 'ENCODING=UTF-8', '-where', `OGR_GEOMETRY LIKE '${type.toUpperCase()}%'`, '-nlt', `${type}Z`, at(`other_${type}.shp`), at('source.geojson'));
		const zip = zipSync(Object.fromEntries(['shp', 'dbf', 'prj', 'cpg', 'shx'].map((e) => [`x.${e}`, bytesOf(`other_${type}.${e}`)])));
		const layer = await readVectors(zip, 'x.zip');
		expect(places(layer.features)).toEqual(places(own));
		expect(layer.features.map((f) => f.properties!['name'])).toEqual(own.map((f) => f.properties!['name']));
		expect(layer.epsg).toBe(32628);
		const files = unzipSync(writeShapefiles('own', features, ''));
		for (const [name, bytes] of Object.entries(files)) writeFileSync(at(name), bytes);
		const file = { Point: 'own_points.shp', LineString: 'own_lines.shp', Polygon: 'own_polygons.shp' }[type]!;
		expect(places(byGdal(file))).toEqual(places(own));
		expect(names(byGdal(file))).toEqual(names(own));
	});

	it('in KML, in degrees', async () => {
		const degrees = features.map((f) => ({ ...f, geometry: JSON.parse(JSON.stringify(f.geometry).replace(/\[(\d+\.?\d*),(\d+\.?\d*),/g, (_, x: string, y: string) => `[${(Number(x) - 402_500) / 1e5},${(Number(y) - 4_992_000) / 1e5},`)) as Feature['geometry'] }));
		writeFileSync(at('degrees.geojson'), JSON.stringify({ type: 'FeatureCollection', features: degrees }));
		gdal('ogr2ogr', '-f', 'KML', at('other.kml'), at('degrees.geojson'), '-dsco', 'AltitudeMode=absolute');
		const layer = await readVectors(bytesOf('other.kml'), 'other.kml');
		expect(layer.epsg).toBe(4326);
		expect(places(layer.features)).toEqual(places(degrees));
		expect(names(layer.features)).toEqual(names(degrees));
	});

	it('in a drawing', async () => {
		source();
		gdal('ogr2ogr', '-f', 'DXF', '-where', "OGR_GEOMETRY LIKE 'POINT%' OR OGR_GEOMETRY LIKE 'LINESTRING%'", at('other.dxf'), at('source.geojson'));
		const layer = await readVectors(bytesOf('other.dxf'), 'other.dxf');
		expect(places(layer.features, 3)).toEqual(places(features.slice(0, 2), 3));
	});

	it('in GeoJSON', async () => {
		source();
		gdal('ogr2ogr', '-f', 'GeoJSON', '-lco', 'COORDINATE_PRECISION=9', '-t_srs', 'EPSG:32628', at('other.geojson'), at('source.geojson'));
		const layer = await readVectors(bytesOf('other.geojson'), 'other.geojson');
		expect(layer.epsg).toBe(32628);
		expect(places(layer.features)).toEqual(places(features));
	});
});
