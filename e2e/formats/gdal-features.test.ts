import { writeFileSync } from 'node:fs';
import { unzipSync, zipSync } from 'fflate';
import type { Feature, FeatureCollection } from 'geojson';
import { describe, expect, it } from 'vitest';
import { readGeoPackage, writeGeoPackage } from '#core/formats/geopackage';
import { eachPosition } from '#core/formats/layer';
import { writeShapefiles } from '#core/formats/shapefile';
import { readVectors } from '#core/formats/vectors';
import { at, bytesOf, gdal } from './gdal';

const features: Feature[] = [
	{
		type: 'Feature',
		properties: { name: 'spring', depth: 12.25 },
		geometry: { type: 'Point', coordinates: [402_310.125, 4_992_011.5, 210.4] }
	},
	{
		type: 'Feature',
		properties: { name: 'Sallow Fault', depth: null },
		geometry: {
			type: 'LineString',
			coordinates: [
				[402_000, 4_991_000, 10],
				[402_500.5, 4_992_000.25, 20.5],
				[403_100, 4_993_000, 5]
			]
		}
	},
	{
		type: 'Feature',
		properties: { name: 'Größe “A”', depth: 3 },
		geometry: {
			type: 'Polygon',
			coordinates: [
				[
					[402_000, 4_991_000, 1],
					[403_000, 4_991_000, 1],
					[403_000, 4_992_000, 1],
					[402_000, 4_992_000, 1],
					[402_000, 4_991_000, 1]
				],
				[
					[402_400, 4_991_400, 1],
					[402_400, 4_991_600, 1],
					[402_600, 4_991_600, 1],
					[402_600, 4_991_400, 1],
					[402_400, 4_991_400, 1]
				]
			]
		}
	}
];
/** All coordinates of some features, in no order. */
const places = (list: readonly Feature[], digits = 6) => {
	const out: string[] = [];
	for (const f of list) eachPosition(f.geometry, (p) => out.push([...p.slice(0, 2), p[2] ?? 0].map((v) => v.toFixed(digits)).join(' ')));
	return out.sort();
};
const names = (list: readonly Feature[]) => [...new Set(list.map((f) => String(f.properties?.['name'] ?? f.properties?.['Name'])))].sort();
const source = () =>
	writeFileSync(
		at('source.geojson'),
		JSON.stringify({ type: 'FeatureCollection', crs: { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::32628' } }, features })
	);
const byGdal = (name: string, ...layer: string[]) =>
	(JSON.parse(gdal('ogr2ogr', '-f', 'GeoJSON', '-lco', 'COORDINATE_PRECISION=9', '/vsistdout/', at(name), ...layer)) as FeatureCollection)
		.features;

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

	it('in a GeoPackage of several layers: all of them with their names, or the one that is wanted', async () => {
		source();
		gdal('ogr2ogr', '-f', 'GPKG', '-nlt', 'GEOMETRY', '-nln', 'first', at('layers.gpkg'), at('source.geojson'));
		gdal(
			'ogr2ogr',
			'-f',
			'GPKG',
			'-update',
			'-nlt',
			'GEOMETRY',
			'-nln',
			'second one',
			'-where',
			"name = 'spring'",
			at('layers.gpkg'),
			at('source.geojson')
		);
		const all = await readVectors(bytesOf('layers.gpkg'), 'layers.gpkg');
		expect(all.parts).toEqual([
			{ name: 'first', count: 3 },
			{ name: 'second one', count: 1 }
		]);
		expect(all.features.map((f) => f.properties!['layer'])).toEqual(['first', 'first', 'first', 'second one']);
		expect((await readVectors(bytesOf('layers.gpkg'), 'layers.gpkg', 'second one')).features).toHaveLength(1);
	});
	it('in a GeoPackage with curves and patches: read as lines and polygons', async () => {
		writeFileSync(
			at('curves.csv'),
			'name,wkt\narc,"CIRCULARSTRING (0 0, 5 5, 10 0)"\ncompound,"COMPOUNDCURVE ((0 0, 1 0), CIRCULARSTRING (1 0, 2 1, 3 0))"\ntin,"TIN Z (((0 0 0, 1 0 0, 0 1 5, 0 0 0)), ((1 0 0, 1 1 0, 0 1 5, 1 0 0)))"\n'
		);
		gdal(
			'ogr2ogr',
			'-f',
			'GPKG',
			'-nlt',
			'GEOMETRY',
			'-a_srs',
			'EPSG:32628',
			'-oo',
			'GEOM_POSSIBLE_NAMES=wkt',
			at('curves.gpkg'),
			at('curves.csv')
		);
		const layer = await readVectors(bytesOf('curves.gpkg'), 'curves.gpkg');
		expect(layer.features.map((f) => f.geometry.type)).toEqual(['LineString', 'LineString', 'MultiPolygon']);
		for (const [x, y] of (layer.features[0]!.geometry as { coordinates: number[][] }).coordinates)
			expect(Math.hypot(x! - 5, y!)).toBeCloseTo(5, 9);
		expect((layer.features[2]!.geometry as { coordinates: unknown[] }).coordinates).toHaveLength(2);
	});
	it('in a shapefile in an older code page, with and without a file that says so', async () => {
		source();
		gdal('ogr2ogr', '-overwrite', '-lco', 'ENCODING=CP850', '-where', "name LIKE 'G%'", at('old.shp'), at('source.geojson'));
		const part = (e: string) => [`x.${e}`, bytesOf(`old.${e}`)] as const;
		const of = async (zip: Uint8Array) => (await readVectors(zip, 'x.zip')).features[0]!.properties!['name'];
		expect(await of(zipSync(Object.fromEntries(['shp', 'dbf', 'prj', 'cpg'].map(part))))).toContain('Größe');
		const dbf = bytesOf('old.dbf').slice();
		dbf[29] = 2;
		expect(await of(zipSync({ 'x.shp': bytesOf('old.shp'), 'x.dbf': dbf }))).toContain('Größe');
	});

	it.each(['Point', 'LineString', 'Polygon'])('in a shapefile of %s', async (type) => {
		source();
		const own = features.filter((f) => f.geometry.type === type);
		gdal(
			'ogr2ogr',
			'-overwrite',
			'-lco',
			'ENCODING=UTF-8',
			'-where',
			`OGR_GEOMETRY LIKE '${type.toUpperCase()}%'`,
			'-nlt',
			`${type}Z`,
			at(`other_${type}.shp`),
			at('source.geojson')
		);
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

	it('in GML 2, 3 and 3.2', async () => {
		source();
		for (const version of ['GML2', 'GML3', 'GML3.2']) {
			gdal('ogr2ogr', '-f', 'GML', '-dsco', `FORMAT=${version}`, at('other.gml'), at('source.geojson'));
			const layer = await readVectors(bytesOf('other.gml'), 'other.gml');
			expect(layer.epsg).toBe(32628);
			expect(places(layer.features, 3)).toEqual(places(features, 3));
			expect(names(layer.features)).toEqual(names(features));
		}
	});

	it('in GPX: waypoints and tracks', async () => {
		const track: Feature[] = [
			{
				type: 'Feature',
				properties: { name: 'Walk' },
				geometry: {
					type: 'MultiLineString',
					coordinates: [
						[
							[-17, 45],
							[-17.25, 45.5]
						]
					]
				}
			}
		];
		writeFileSync(at('track.geojson'), JSON.stringify({ type: 'FeatureCollection', features: track }));
		gdal('ogr2ogr', '-f', 'GPX', at('other.gpx'), at('track.geojson'));
		const layer = await readVectors(bytesOf('other.gpx'), 'other.gpx');
		expect([layer.epsg, places(layer.features), names(layer.features)]).toEqual([4326, places(track), ['Walk']]);
	});

	it('in KML and KMZ, in degrees', async () => {
		const degrees = features.map((f) => ({
			...f,
			geometry: JSON.parse(
				JSON.stringify(f.geometry).replace(
					/\[(\d+\.?\d*),(\d+\.?\d*),/g,
					(_, x: string, y: string) => `[${(Number(x) - 402_500) / 1e5},${(Number(y) - 4_992_000) / 1e5},`
				)
			) as Feature['geometry']
		}));
		writeFileSync(at('degrees.geojson'), JSON.stringify({ type: 'FeatureCollection', features: degrees }));
		gdal('ogr2ogr', '-f', 'KML', at('other.kml'), at('degrees.geojson'), '-dsco', 'AltitudeMode=absolute');
		writeFileSync(at('other.kmz'), zipSync({ 'doc.kml': bytesOf('other.kml') }));
		for (const name of ['other.kml', 'other.kmz']) {
			const layer = await readVectors(bytesOf(name), name);
			expect(layer.epsg).toBe(4326);
			expect(places(layer.features)).toEqual(places(degrees));
			expect(names(layer.features)).toEqual(names(degrees));
		}
	});

	it('in a drawing', async () => {
		source();
		gdal(
			'ogr2ogr',
			'-f',
			'DXF',
			'-where',
			"OGR_GEOMETRY LIKE 'POINT%' OR OGR_GEOMETRY LIKE 'LINESTRING%'",
			at('other.dxf'),
			at('source.geojson')
		);
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
