import fc from 'fast-check';
import { zipSync } from 'fflate';
import type { Feature } from 'geojson';
import { describe, expect, it } from 'vitest';
import type { Raster } from '../grids/raster';
import { ProblemError } from '../problem';
import { describeLayer } from './layer';
import { readAsc, writeAsc } from './asc';
import { writeGeoPackage } from './geopackage';
import { systemOfGeoTiff, isColorTiff, readGeoTiff, writeGeoTiff } from './geotiff';
import { readLas, writeLas } from './las';
import { layerDxf } from './layer-dxf';
import { meshFormat, readMesh } from './mesh-readers';
import { writeGltf, writeObj, writeStl, writeVtp, writePly } from './meshes';
import { classicGrid } from './netcdf-sample';
import { readPicture } from './picture';
import { writePng } from './png';
import { readRaster } from './rasters';
import { writeShapefiles } from './shapefile';
import { partsOfFile, readTabular } from './tabular';
import { readVectors, vectorFormat } from './vectors';
import { writeXlsx } from './xlsx';

// Files that were cut short, overwritten or mixed up on the way: each is read, or refused with a problem that a person can act on.
const bytes = (text: string) => new TextEncoder().encode(text);

const features: Feature[] = [
	{ type: 'Feature', geometry: { type: 'Point', coordinates: [402_000, 4_992_000, 12] }, properties: { name: 'a', value: 1.5 } },
	{
		type: 'Feature',
		geometry: {
			type: 'LineString',
			coordinates: [
				[402_000, 4_992_000, 1],
				[402_100, 4_992_050, 2],
				[402_200, 4_992_000, 3]
			]
		},
		properties: { name: 'b', value: null }
	},
	{
		type: 'Feature',
		geometry: {
			type: 'Polygon',
			coordinates: [
				[
					[0, 0, 0],
					[10, 0, 0],
					[10, 10, 0],
					[0, 10, 0],
					[0, 0, 0]
				]
			]
		},
		properties: { name: 'ß', value: -3 }
	}
];
const raster: Raster = {
	x0: 402_000,
	y0: 4_992_000,
	dx: 10,
	dy: 10,
	nx: 12,
	ny: 9,
	values: Float32Array.from({ length: 108 }, (_, i) => (i === 40 ? NaN : 100 + Math.sin(i)))
};
const mesh = {
	positions: Float64Array.of(0, 0, 0, 10, 0, 0, 0, 10, 0, 0, 0, 10),
	triangles: Uint32Array.of(0, 2, 1, 0, 1, 3, 1, 2, 3, 2, 0, 3)
};
const named = [{ name: 'body', color: '#ffffff', mesh }];
const AGS =
	'"GROUP","PROJ"\r\n"HEADING","PROJ_ID","PROJ_NAME"\r\n"UNIT","",""\r\n"TYPE","ID","X"\r\n"DATA","1","Quay"\r\n\r\n"GROUP","LOCA"\r\n"HEADING","LOCA_ID","LOCA_NATE","LOCA_NATN","LOCA_GL","LOCA_FDEP"\r\n"UNIT","","m","m","m","m"\r\n"TYPE","ID","2DP","2DP","2DP","2DP"\r\n"DATA","BH1","402000.00","4992000.00","3.20","20.00"\r\n';
const GML =
	'<gml:FeatureCollection xmlns:gml="http://www.opengis.net/gml/3.2"><gml:featureMember><w gml:id="a"><name>one</name><place><gml:LineString srsName="EPSG:32628"><gml:posList srsDimension="3">1 2 3 4 5 6</gml:posList></gml:LineString></place></w></gml:featureMember></gml:FeatureCollection>';
const KML =
	'<?xml version="1.0"?><kml xmlns="http://www.opengis.net/kml/2.2"><Document><Placemark><name>a</name><Point><coordinates>10,50,3</coordinates></Point></Placemark><Placemark><LineString><coordinates>10,50 11,51 12,52</coordinates></LineString></Placemark></Document></kml>';

type Reader = (file: Uint8Array) => unknown;
const table: Reader = async (file) => {
	await partsOfFile(file, 'file');
	return readTabular(file, 'file');
};
const layer =
	(name: string): Reader =>
	async (file) =>
		describeLayer(await readVectors(file, name));
const tiff: Reader = async (file) => {
	await isColorTiff(file);
	await systemOfGeoTiff(file);
	return readGeoTiff(file, 'grid.tif');
};

const FILES: [string, () => Promise<Uint8Array> | Uint8Array, Reader][] = [
	['delimited text', () => bytes('hole,from,to,code\nA,0,1.5,"sand, fine"\nA,1.5,9,clay\n"B ""2""",0,4,peat\n'), table],
	[
		'a workbook',
		async () =>
			new Uint8Array(
				await writeXlsx([
					{
						name: 'Logs',
						header: ['hole', 'from'],
						rows: [
							['A', 0],
							['B', 1.5]
						]
					},
					{ name: 'More', header: ['x'], rows: [['y']] }
				])
			),
		table
	],
	[
		'LAS',
		() =>
			bytes(
				writeLas({
					well: [{ mnemonic: 'WELL', unit: '', value: 'A', description: '' }],
					curves: [
						{ mnemonic: 'DEPT', unit: 'M', value: '', description: '' },
						{ mnemonic: 'GR', unit: 'API', value: '', description: '' }
					],
					parameters: [],
					columns: [
						['1', '2', '3'],
						['50', '', '52']
					]
				} as unknown as Parameters<typeof writeLas>[0])
			),
		async (f) => (readLas(f, 'l.las'), table(f))
	],
	['AGS', () => bytes(AGS), table],
	['GeoJSON', () => bytes(JSON.stringify({ type: 'FeatureCollection', features })), layer('l.geojson')],
	['KML', () => bytes(KML), layer('l.kml')],
	['KMZ', () => zipSync({ 'doc.kml': bytes(KML) }), layer('l.kmz')],
	[
		'GPX',
		() =>
			bytes(
				'<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="45.1" lon="-17.2"><ele>12</ele><name>A</name></wpt><trk><trkseg><trkpt lat="45" lon="-17"/><trkpt lat="45.2" lon="-17.1"/></trkseg></trk></gpx>'
			),
		layer('l.gpx')
	],
	['GML', () => bytes(GML), layer('l.gml')],
	['a drawing', () => bytes(layerDxf('layer', features)), layer('l.dxf')],
	['zipped shapefiles', () => writeShapefiles('layer', features, ''), layer('l.zip')],
	['a GeoPackage', () => writeGeoPackage('layer', features, 32628, ''), layer('l.gpkg')],
	['GeoTIFF', () => writeGeoTiff(raster, 32628), tiff],
	['an ASCII grid', () => bytes(writeAsc(raster)), (f) => readAsc(f, 'g.asc')],
	['a grid as lines', () => bytes('x y z\n0 0 1\n10 0 2\n0 10 3\n10 10 4.5\n'), (f) => readRaster(f, 'g.xyz')],
	['netCDF', () => Uint8Array.from(classicGrid()), (f) => readRaster(f, 'g.nc')],
	['OBJ', () => bytes(writeObj(named)), (f) => readMesh(f, 'm.obj')],
	['STL', () => writeStl(named, [0, 0, 0]), (f) => readMesh(f, 'm.stl')],
	['PLY', () => writePly(mesh), (f) => readMesh(f, 'm.ply')],
	['VTK', () => bytes(writeVtp(named)), (f) => readMesh(f, 'm.vtp')],
	['glTF', () => writeGltf(named, [0, 0, 0]), (f) => readMesh(f, 'm.glb')],
	['PNG', () => writePng(3, 2, new Uint8Array(18).fill(90)), (f) => readPicture(f, 'p.png')]
];

/** Ways in which a file comes to harm. */
const harm = fc.oneof(
	fc.record({ kind: fc.constant('cut' as const), share: fc.double({ min: 0, max: 1, noNaN: true }) }),
	fc.record({
		kind: fc.constant('bytes' as const),
		at: fc.array(fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.integer({ min: 0, max: 255 })), { minLength: 1, maxLength: 12 })
	}),
	fc.record({
		kind: fc.constant('gap' as const),
		from: fc.double({ min: 0, max: 1, noNaN: true }),
		length: fc.integer({ min: 1, max: 200 })
	}),
	fc.record({
		kind: fc.constant('twice' as const),
		from: fc.double({ min: 0, max: 1, noNaN: true }),
		length: fc.integer({ min: 1, max: 400 })
	}),
	fc.record({ kind: fc.constant('huge' as const), at: fc.double({ min: 0, max: 1, noNaN: true }) })
);
type Harm = typeof harm extends fc.Arbitrary<infer T> ? T : never;

function harmed(file: Uint8Array, h: Harm): Uint8Array {
	const place = (share: number) => Math.min(file.length - 1, Math.floor(share * file.length));
	const joined = (...parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((p) => [...p]));
	if (h.kind === 'cut') return file.slice(0, place(h.share));
	if (h.kind === 'gap') return joined(file.slice(0, place(h.from)), file.slice(place(h.from) + h.length));
	if (h.kind === 'twice') return joined(file.slice(0, place(h.from) + h.length), file.slice(place(h.from)));
	const out = file.slice();
	// A count or a size that promises far too much.
	if (h.kind === 'huge') for (let k = 0; k < 4; k++) out[Math.min(out.length - 1, place(h.at) + k)] = k === 3 ? 0x7f : 0xff;
	else for (const [at, value] of h.at) out[place(at)] = value;
	return out;
}

describe('a damaged file is read or refused, never more', () => {
	it.each(FILES)(
		'%s',
		async (_, make, read) => {
			const file = new Uint8Array(await make());
			await read(file);
			await fc.assert(
				fc.asyncProperty(harm, async (h) => {
					const damaged = harmed(file, h);
					try {
						await read(damaged);
					} catch (error) {
						if (!(error instanceof ProblemError)) throw error;
						expect(error.problem.kind).toMatch(/^[a-z-]+$/);
						expect(error.problem.message.length).toBeLessThan(600);
					}
				}),
				{ numRuns: 120 }
			);
		},
		60_000
	);

	it('nothing at all, noise, and a file under another name', async () => {
		const noise = Uint8Array.from({ length: 3000 }, (_, i) => (Math.imul(i, 2654435761) >>> 13) & 255);
		for (const [, make, read] of FILES) {
			const other = new Uint8Array(await FILES[(FILES.findIndex((f) => f[1] === make) + 5) % FILES.length]![1]());
			for (const file of [new Uint8Array(0), noise, other, bytes('\n\n\n'), bytes('\u0000'.repeat(500))])
				await Promise.resolve()
					.then(() => read(file))
					.catch((error: unknown) => expect(error).toBeInstanceOf(ProblemError));
		}
		expect(vectorFormat(noise, 'l.xyz')).toBeNull();
		expect(meshFormat(noise, 'm.xyz')).toBeNull();
	});
});
