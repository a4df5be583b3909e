import fc from 'fast-check';
import { unzipSync, zipSync } from 'fflate';
import type { Feature, Geometry } from 'geojson';
import { describe, expect, it } from 'vitest';
import type { Raster } from '../grids/raster';
import { rowOf } from '../tables/raw-table';
import { readAsc, writeAsc } from './asc';
import { writeGeoPackage } from './geopackage';
import { readGeoTiff, writeGeoTiff } from './geotiff';
import { readLas, writeLas, type Las } from './las';
import { describeLayer, eachPosition, mapPositions } from './layer';
import { layerDxf, layerName } from './layer-dxf';
import { readMesh } from './mesh-readers';
import { writeObj, writePly } from './meshes';
import { writePng } from './png';
import { readPicture } from './picture';
import { writeShapefiles } from './shapefile';
import { readTabular } from './tabular';
import { readVectors } from './vectors';
import { writeXlsx } from './xlsx';

const bytes = (text: string) => new TextEncoder().encode(text);

// Everything that is written here reads back to the same values, whatever they are.
const coordinate = fc.double({ min: -1e7, max: 1e7, noNaN: true }).map((v) => (v === 0 ? 0 : v));
const position = fc.tuple(coordinate, coordinate, coordinate);
const line = fc.array(position, { minLength: 2, maxLength: 6 });
/** A convex ring around a place, anticlockwise. */
const ring = fc
	.tuple(fc.integer({ min: -1e6, max: 1e6 }), fc.integer({ min: -1e6, max: 1e6 }), fc.integer({ min: 1, max: 900 }))
	.map(([x, y, r]) => [
		[x - r, y - r, 1],
		[x + r, y - r, 2],
		[x + r, y + r, 3],
		[x - r, y + r, 4],
		[x - r, y - r, 1]
	]);
const geometry: fc.Arbitrary<Geometry> = fc.oneof(
	position.map((coordinates) => ({ type: 'Point' as const, coordinates })),
	line.map((coordinates) => ({ type: 'LineString' as const, coordinates })),
	fc.array(line, { minLength: 2, maxLength: 3 }).map((coordinates) => ({ type: 'MultiLineString' as const, coordinates })),
	ring.map((r) => ({ type: 'Polygon' as const, coordinates: [r] }))
);
const word = fc.stringMatching(/^[A-Za-zäöüßé0-9 .-]{0,40}$/).map((s) => s.trim());
const feature: fc.Arbitrary<Feature> = fc
	.tuple(geometry, word, fc.option(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e12, max: 1e12 })))
	.map(([g, name, value]) => ({
		type: 'Feature',
		geometry: g,
		properties: { name, value: value === null ? null : value === 0 ? 0 : value }
	}));
const features = fc.array(feature, { minLength: 1, maxLength: 8 });
const places = (list: readonly Feature[]) => {
	const out: string[] = [];
	for (const f of list) eachPosition(f.geometry, (p) => out.push(p.map((v) => String(v === 0 ? 0 : v)).join(' ')));
	return out.sort();
};

describe('points, lines and polygons come back', () => {
	it('from a GeoPackage, with their properties and in their order', async () => {
		await fc.assert(
			fc.asyncProperty(features, async (list) => {
				const { features: back, epsg } = await readVectors(await writeGeoPackage('layer', list, 32628, ''), 'l.gpkg');
				expect(epsg).toBe(32628);
				expect(back.map((f) => f.geometry)).toEqual(list.map((f) => f.geometry));
				expect(back.map(({ properties }) => [properties!['name'], properties!['value']])).toEqual(
					list.map(({ properties }) => [properties!['name'], properties!['value']])
				);
			}),
			{ numRuns: 40 }
		);
	});
	it('from shapefiles, one for each kind', async () => {
		await fc.assert(
			fc.asyncProperty(features, async (list) => {
				const { features: back } = await readVectors(writeShapefiles('layer', list, ''), 'l.zip');
				expect(places(back)).toEqual(places(list));
				expect(back.map((f) => f.properties!['name'] || '').sort()).toEqual(list.map((f) => f.properties!['name']).sort());
				const sum = (all: readonly Feature[]) => all.reduce((n, f) => n + ((f.properties!['value'] as number | null) ?? 0), 0);
				expect(sum(back)).toBeCloseTo(sum(list), 0);
			}),
			{ numRuns: 40 }
		);
	});
	it('from a drawing, to its three decimals or better', async () => {
		const rounded = (list: readonly Feature[]) => {
			const out: string[] = [];
			for (const f of list) eachPosition(f.geometry, (p) => out.push(p.map((v) => (Math.round(v * 1000) || 0) / 1000).join(' ')));
			return out.sort();
		};
		await fc.assert(
			fc.asyncProperty(features, async (list) => {
				expect(rounded((await readVectors(bytes(layerDxf('layer', list)), 'l.dxf')).features)).toEqual(rounded(list));
			}),
			{ numRuns: 40 }
		);
	});
});

describe('what formats can not hold', () => {
	const at = (properties: Record<string, unknown>): Feature => ({
		type: 'Feature',
		geometry: { type: 'Point', coordinates: [1, 2, 3] },
		properties
	});
	it('SQL does not tell capitals apart: both columns stay, one under another name', async () => {
		const { features: back } = await readVectors(
			await writeGeoPackage('x', [at({ Name: 'a', name: 'b', 'na"me': 'c', '': 'd' })], 0, ''),
			'x.gpkg'
		);
		expect(back[0]!.properties).toMatchObject({ Name: 'a', 'name 2': 'b', 'na"me': 'c', column: 'd' });
	});
	it('long names of a shapefile are cut and stay different; long text ends with a whole letter', async () => {
		const { features: back } = await readVectors(
			writeShapefiles('x', [at({ temperature_1: 1, temperature_2: 2, text: 'ü'.repeat(300) })], ''),
			'x.zip'
		);
		expect(back[0]!.properties).toEqual({ temperatur: 1, temperatu1: 2, text: 'ü'.repeat(127) });
	});
	it('more columns than a shapefile has are refused with a way out', () => {
		const wide = at(Object.fromEntries(Array.from({ length: 256 }, (_, i) => [`c${i}`, i])));
		expect(() => writeShapefiles('x', [wide], '')).toThrow('at most 255 columns');
	});
	it('a layer without properties still has a table', async () => {
		expect((await readVectors(writeShapefiles('x', [at({}), at({})], ''), 'x.zip')).features.map((f) => f.properties)).toEqual([
			{ ID: 0 },
			{ ID: 1 }
		]);
	});
	it('names of layers of a drawing lose what would break it', () => {
		expect(layerName('a/b:c*"d"')).toBe('a b c  d');
		expect(layerName('<>')).toBe('unnamed');
		expect(layerName('x'.repeat(500))).toHaveLength(200);
	});
});

const raster: fc.Arbitrary<Raster> = fc
	.tuple(
		fc.integer({ min: 2, max: 9 }),
		fc.integer({ min: 2, max: 9 }),
		fc.constantFrom(0.5, 1, 25, 90),
		fc.constantFrom(0.5, 1, 25, 30),
		fc.integer({ min: -1000, max: 1e6 }),
		fc.integer({ min: -1000, max: 1e6 })
	)
	.chain(([nx, ny, dx, dy, x0, y0]) =>
		fc
			.array(
				fc.oneof(
					{ weight: 6, arbitrary: fc.float({ noNaN: true, noDefaultInfinity: true, min: -20000, max: 20000 }) },
					{ weight: 1, arbitrary: fc.constantFrom(NaN, -9999, 0) }
				),
				{ minLength: nx * ny, maxLength: nx * ny }
			)
			.map((v) => {
				v[0] = 1.5;
				return { x0: x0 + dx / 2, y0: y0 + dy / 2, dx, dy, nx, ny, values: Float32Array.from(v, (x) => (x === 0 ? 0 : x)) };
			})
	);

describe('rasters come back', () => {
	it('from a GeoTIFF', async () => {
		await fc.assert(
			fc.asyncProperty(raster, async (r) => {
				expect((await readGeoTiff(await writeGeoTiff(r, 32628), 'r.tif')).raster).toEqual(r);
			}),
			{ numRuns: 60 }
		);
	});
	it('from an ASCII grid, also when a cell holds the usual mark of no value', () => {
		fc.assert(
			fc.property(raster, (r) => {
				expect(readAsc(bytes(writeAsc(r)), 'r.asc')).toEqual(r);
			}),
			{ numRuns: 200 }
		);
	});
	const GRID = 'ncols 3\nnrows 2\nxllcorner 10\nyllcorner 20\ncellsize 5\nNODATA_value -1\n1 2 3\n4 -1 6\n';
	it('an ASCII grid by corner or by centre', () => {
		expect(readAsc(bytes(GRID), 'a.asc')).toEqual({
			x0: 12.5,
			y0: 22.5,
			dx: 5,
			dy: 5,
			nx: 3,
			ny: 2,
			values: Float32Array.of(4, NaN, 6, 1, 2, 3)
		});
		expect(readAsc(bytes(GRID.replace('xllcorner', 'XLLCENTER').replace('yllcorner', 'yllcenter')), 'a.asc')).toMatchObject({
			x0: 10,
			y0: 20
		});
	});
	it.each([
		['half a column', GRID.replace('ncols 3', 'ncols 3.5'), 'does not say its size'],
		['no corner', GRID.replace('xllcorner 10\n', ''), 'does not say its size'],
		['a cell size of zero', GRID.replace('cellsize 5', 'cellsize 0'), 'does not say its size'],
		['a value too few', GRID.replace(' 6\n', '\n'), 'holds 5 of 6 values'],
		['one row', GRID.replace('nrows 2', 'nrows 1'), 'at least 2 × 2'],
		['nothing but gaps', GRID.replace(/1 2 3\n4 -1 6/, '-1 -1 -1\n-1 -1 -1'), 'holds no values'],
		['too many cells', GRID.replace('ncols 3', 'ncols 90000').replace('nrows 2', 'nrows 90000'), 'the most is'],
		['no head', '1 2 3\n', 'no ASCII grid']
	])('an ASCII grid with %s is refused', (_, text, message) => expect(() => readAsc(bytes(text), 'a.asc')).toThrow(message));
});

describe('tables come back', () => {
	it('from a workbook, cell by cell, formulas as text', async () => {
		const cell = fc.oneof(
			fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e12, max: 1e12 }).map((v) => (v === 0 ? 0 : v)),
			fc.stringMatching(/^[A-Za-z=+@][A-Za-z0-9<>&"' =+-]{0,20}$/).map((s) => s.trim())
		);
		await fc.assert(
			fc.asyncProperty(fc.array(fc.tuple(fc.stringMatching(/^H[A-Z]{1,6}$/), cell), { minLength: 1, maxLength: 8 }), async (rows) => {
				const t = await readTabular(await writeXlsx([{ name: 'S', header: ['hole', 'value'], rows }]), 't.xlsx', {
					headerLine: 1,
					unitsLine: false
				});
				expect(Array.from({ length: t.rowCount }, (_, n) => rowOf(t, n))).toEqual(rows.map(([a, b]) => [a, String(b)]));
			}),
			{ numRuns: 30 }
		);
	});
	it('from a LAS file, with its empty cells', () => {
		const value = fc.oneof(
			fc.double({ min: -900, max: 1e6, noNaN: true }).map((v) => String(v === 0 ? 0 : v)),
			fc.constant('')
		);
		fc.assert(
			fc.property(
				fc.array(fc.tuple(value, value), { minLength: 1, maxLength: 30 }),
				fc.stringMatching(/^[A-Z]{2}-\d{1,3}$/),
				(rows, name) => {
					const las: Las = {
						well: [{ mnemonic: 'WELL', unit: '', value: name, description: 'Name' }],
						curves: ['DEPT', 'GR', 'RES'].map((mnemonic, i) => ({
							mnemonic,
							unit: ['M', 'API', 'OHMM'][i]!,
							value: '',
							description: mnemonic
						})),
						parameters: [],
						columns: [rows.map((_, i) => String(10 + 0.5 * i)), rows.map((r) => r[0]), rows.map((r) => r[1])],
						lines: new Int32Array(rows.length)
					};
					const back = readLas(bytes(writeLas(las)), 'x.las');
					expect(back.columns).toEqual(las.columns);
					expect(back.curves).toEqual(las.curves);
					expect(back.well.find((w) => w.mnemonic === 'WELL')!.value).toBe(name);
				}
			),
			{ numRuns: 100 }
		);
	});
	it('columns named like what every object has get a name of their own', async () => {
		const t = await readTabular(bytes('hole,constructor,__proto__,toString\nA,1,2,3\n'), 't.csv');
		expect(t.header).toEqual(['hole', 'constructor (column)', '__proto__ (column)', 'toString (column)']);
	});
});

describe('surfaces come back', () => {
	const mesh = fc
		.array(position, { minLength: 3, maxLength: 12 })
		.chain((points) =>
			fc
				.array(fc.uniqueArray(fc.nat(points.length - 1), { minLength: 3, maxLength: 3 }), { minLength: 1, maxLength: 15 })
				.map((triangles) => ({ positions: Float64Array.from(points.flat()), triangles: Uint32Array.from(triangles.flat()) }))
		);
	it('from OBJ and PLY, to the last digit', async () => {
		await fc.assert(
			fc.asyncProperty(mesh, async (m) => {
				expect(await readMesh(bytes(writeObj([{ name: 'm', color: '#000000', mesh: m }])), 'm.obj')).toEqual(m);
				expect(await readMesh(writePly(m), 'm.ply')).toEqual(m);
			}),
			{ numRuns: 60 }
		);
	});
	it.each<[string, string, Uint8Array, string]>([
		['a face before its vertices', 'm.obj', bytes('v 0 0 0\nf 1 2 3\n'), 'vertices that it does not have'],
		['letters for numbers', 'm.obj', bytes('v 0 0 zero\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'), 'no number'],
		['no faces', 'm.obj', bytes('v 0 0 0\nv 1 0 0\n'), 'no triangles'],
		['a head without end', 'm.ply', bytes('ply\nformat ascii 1.0\nelement vertex 3\n'), 'can not be read as PLY'],
		[
			'a type that is none',
			'm.ply',
			bytes('ply\nformat binary_little_endian 1.0\nelement vertex 1\nproperty odd x\nend_header\n12345678'),
			'can not be read as PLY'
		],
		['another ending', 'm.txt', bytes('v 0 0 0\n'), 'no surface that can be read'],
		['JSON that is no glTF', 'm.gltf', bytes('{"asset": 1'), 'can not be read as GLTF']
	])('with %s are refused', async (_, name, content, message) => {
		await expect(readMesh(content, name)).rejects.toThrow(message);
	});
});

describe('layers', () => {
	const layer = {
		epsg: null,
		features: [
			{ type: 'Feature' as const, properties: { a: 1 }, geometry: { type: 'Point' as const, coordinates: [5, 6] } },
			{
				type: 'Feature' as const,
				properties: { b: 1 },
				geometry: {
					type: 'GeometryCollection' as const,
					geometries: [
						{
							type: 'LineString' as const,
							coordinates: [
								[0, 0, 1],
								[9, -2, 1]
							]
						},
						{
							type: 'MultiPolygon' as const,
							coordinates: [
								[
									[
										[1, 1],
										[2, 1],
										[2, 2],
										[1, 1]
									]
								]
							]
						}
					]
				}
			}
		]
	};
	it('are described by what they hold and where', () => {
		expect(describeLayer(layer)).toEqual({ points: 1, lines: 1, polygons: 1, box: [0, -2, 9, 6], properties: ['a', 'b'] });
		expect(describeLayer({ epsg: null, features: [] }).box).toBeNull();
	});
	it('are moved as a copy', () => {
		const moved = mapPositions(layer, ([x, y, ...z]) => [x! + 100, y!, ...z]);
		expect(describeLayer(moved).box).toEqual([100, -2, 109, 6]);
		expect(describeLayer(layer).box).toEqual([0, -2, 9, 6]);
	});
	it('GeoJSON: a bare geometry, a feature, a collection; its system when it names one', async () => {
		const point = { type: 'Point', coordinates: [1, 2] };
		const read = async (value: unknown) => readVectors(bytes(JSON.stringify(value)), 'x.geojson');
		expect((await read(point)).features).toHaveLength(1);
		expect((await read({ type: 'Feature', properties: null, geometry: point })).features[0]!.properties).toEqual({});
		expect((await read(point)).epsg).toBe(4326);
		const named = (name: string) =>
			read({
				type: 'FeatureCollection',
				crs: { type: 'name', properties: { name } },
				features: [{ type: 'Feature', properties: {}, geometry: point }]
			});
		expect((await named('urn:ogc:def:crs:EPSG::32628')).epsg).toBe(32628);
		expect((await named('urn:ogc:def:crs:OGC:1.3:CRS84')).epsg).toBe(4326);
	});
	it.each([
		['a coordinate that is text', { type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: ['1', 2] } }],
		['a coordinate alone', { type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [1] } }],
		['no geometry', { type: 'Feature', properties: {}, geometry: null }],
		['an empty collection', { type: 'FeatureCollection', features: [] }]
	])('GeoJSON with %s holds nothing', async (_, value) => {
		await expect(readVectors(bytes(JSON.stringify(value)), 'x.geojson')).rejects.toThrow('holds no points');
	});
});

describe('pictures', () => {
	it('written here have their size, and hold their pixels as every PNG reader unpacks them', () => {
		const rgb = Uint8Array.from({ length: 3 * 5 * 4 }, (_, i) => (i * 37) % 256);
		const png = writePng(5, 4, rgb);
		expect(readPicture(png, 'p.png')).toMatchObject({ media: 'image/png', width: 5, height: 4 });
	});
	it('a JPEG has its size behind its segments', () => {
		const jpeg = Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0xff, 0xc0, 0, 11, 8, 0, 30, 0, 40, 3, 0, 0, 0, 0, 0, 0);
		expect(readPicture(jpeg, 'p.jpg')).toMatchObject({ media: 'image/jpeg', width: 40, height: 30 });
		expect(() => readPicture(jpeg.slice(0, 9), 'p.jpg')).toThrow('no PNG or JPEG');
	});
	it('an archive without a picture is refused, and paths in it lead nowhere', () => {
		expect(() => readPicture(zipSync({ 'a.txt': bytes('x') }), 'p.zip')).toThrow('no PNG or JPEG');
		const evil = zipSync({ '../../evil.png': writePng(2, 2, new Uint8Array(12)) });
		expect(Object.keys(unzipSync(evil))).toEqual(['../../evil.png']);
		expect(readPicture(evil, 'p.zip')).toMatchObject({ width: 2, height: 2 });
	});
});
