import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import type { Table } from '../tables/table';
import { readAgs } from './ags';
import { writeAgs } from './ags-writer';
import { layerDxf } from './layer-dxf';
import { readMesh } from './mesh-readers';
import { writeGltf, writeVtp } from './meshes';
import { classicGrid } from './netcdf-sample';
import { rasterFormat, readRaster, systemOfRaster } from './rasters';
import { readVectors, vectorFormat } from './vectors';

const text = (t: string) => new TextEncoder().encode(t);
const refused = async (run: Promise<unknown>): Promise<string> =>
	run.then(
		() => 'taken',
		(e: unknown) => (e instanceof ProblemError ? e.problem.kind : String(e))
	);

describe('lines of x, y and z', () => {
	it('in any order, with places left out and columns by name, are a grid', async () => {
		const { raster } = await readRaster(text('elevation,easting,northing\n7,20,100\n1,0,100\n2.5,10,150\n'), 'a.xyz');
		expect(raster).toMatchObject({ x0: 0, y0: 100, dx: 10, dy: 50, nx: 3, ny: 2 });
		expect([...raster.values]).toEqual([1, NaN, 7, NaN, 2.5, NaN]);
	});
	it('without a header, apart by blanks, with rounded coordinates', async () => {
		const lines = [0, 1, 2].flatMap((i) => [0, 1].map((j) => `${(i * 3.3333).toFixed(2)}  ${(j * 5).toFixed(2)}   ${i + 10 * j}`));
		const { raster } = await readRaster(text(lines.join('\n')), 'a.xyz');
		expect([raster.nx, raster.ny]).toEqual([3, 2]);
		expect([...raster.values]).toEqual([0, 1, 2, 10, 11, 12]);
	});
	it('marks of no value leave a gap, and are counted', async () => {
		const { raster, notes } = await readRaster(text('0 0 1\n1 0 -9999\n0 1 -3.4028234663852886e38\n1 1 4\n'), 'a.xyz');
		expect([[...raster.values], notes[0]]).toEqual([[1, NaN, NaN, 4], expect.stringContaining('2 cells hold a mark of no value')]);
	});
	it.each([
		['places off any lattice', '0 0 1\n1 0 2\n2.7 1 3\n3.1 2 4\n', 'not-a-grid'],
		['one row only', '0 0 1\n1 0 2\n', 'not-a-grid'],
		['two columns', '0 0\n1 0\n', 'not-a-grid'],
		['letters for a place', 'x y z\n0 0 1\nfour 0 1\n', 'not-a-grid'],
		['two places a micrometre apart in a kilometre', '0 0 1\n1000 1000 2\n0.01 0.01 3\n', 'raster-too-large']
	])('%s are refused', async (_, t, kind) => expect(await refused(readRaster(text(t), 'a.xyz'))).toBe(kind));
});

describe('netCDF', () => {
	it('has its values by scale and offset, its gaps, its rows from the south, its system', async () => {
		const file = Uint8Array.from(classicGrid());
		expect(rasterFormat(file, 'any')).toBe('netcdf');
		const { raster, epsg } = await readRaster(file, 'g.nc');
		expect(raster).toMatchObject({ x0: 100, y0: 2000, dx: 10, dy: 10, nx: 3, ny: 2 });
		expect([...raster.values]).toEqual([-90, -85, -80, -100, -95, NaN]);
		expect(epsg).toBe(32628);
		expect(await systemOfRaster(file, 'g.nc')).toEqual({ epsg: 32628, system: null });
	});
	it('with uneven steps, or with HDF5 inside, is refused with a way out', async () => {
		expect(await refused(readRaster(Uint8Array.from(classicGrid({ x: [100, 110, 130] })), 'g.nc'))).toBe('not-a-grid');
		expect(await refused(readRaster(Uint8Array.of(0x89, 0x48, 0x44, 0x46, 0x0d, 0x0a, 0x1a, 0x0a), 'g.nc'))).toBe('not-read');
		expect(await refused(readRaster(Uint8Array.from(classicGrid()).subarray(0, 120), 'g.nc'))).toBe('damaged-file');
	});
});

describe('GML', () => {
	const collection = (inner: string, ns = 'http://www.opengis.net/gml/3.2') =>
		text(
			`<?xml version="1.0"?><c:FeatureCollection xmlns:c="x" xmlns:gml="${ns}"><gml:boundedBy><gml:Envelope><gml:lowerCorner>0 0</gml:lowerCorner></gml:Envelope></gml:boundedBy>${inner}</c:FeatureCollection>`
		);
	it('newer: points, lines with heights, rings with holes, many; properties as text', async () => {
		const file =
			collection(`<gml:featureMember><c:well gml:id="w.1"><c:name>A &amp; B</c:name><c:geom><gml:Point srsName="urn:ogc:def:crs:EPSG::32628"><gml:pos>402000 4992000 7</gml:pos></gml:Point></c:geom></c:well></gml:featureMember>
			<gml:featureMember><c:t><c:g><gml:LineString><gml:posList srsDimension="3">0 0 1 5 5 2 9 0 3</gml:posList></gml:LineString></c:g></c:t></gml:featureMember>
			<gml:featureMember><c:t><c:g><gml:MultiSurface><gml:surfaceMember><gml:Polygon><gml:exterior><gml:LinearRing><gml:posList>0 0 9 0 9 9 0 0</gml:posList></gml:LinearRing></gml:exterior><gml:interior><gml:LinearRing><gml:posList>1 1 2 1 2 2 1 1</gml:posList></gml:LinearRing></gml:interior></gml:Polygon></gml:surfaceMember></gml:MultiSurface></c:g></c:t></gml:featureMember>`);
		expect(vectorFormat(file, 'a.gml')).toBe('gml');
		const { features, epsg } = await readVectors(file, 'a.gml');
		expect(epsg).toBe(32628);
		expect(features[0]).toMatchObject({
			geometry: { type: 'Point', coordinates: [402000, 4992000, 7] },
			properties: { name: 'A & B', id: 'w.1' }
		});
		expect(features[1]!.geometry).toEqual({
			type: 'LineString',
			coordinates: [
				[0, 0, 1],
				[5, 5, 2],
				[9, 0, 3]
			]
		});
		expect(features[2]!.geometry).toMatchObject({
			type: 'MultiPolygon',
			coordinates: [
				[
					[
						[0, 0],
						[9, 0],
						[9, 9],
						[0, 0]
					],
					[
						[1, 1],
						[2, 1],
						[2, 2],
						[1, 1]
					]
				]
			]
		});
	});
	it('older: coordinates in tuples; degrees with latitude first are turned', async () => {
		const older = collection(
			'<gml:featureMember><t fid="7"><g><gml:Polygon srsName="EPSG:4326"><gml:outerBoundaryIs><gml:LinearRing><gml:coordinates>0,0 9,0 9,9 0,0</gml:coordinates></gml:LinearRing></gml:outerBoundaryIs></gml:Polygon></g></t></gml:featureMember>',
			'http://www.opengis.net/gml'
		);
		expect((await readVectors(older, 'a.gml')).features[0]).toMatchObject({
			properties: { id: '7' },
			geometry: {
				type: 'Polygon',
				coordinates: [
					[
						[0, 0],
						[9, 0],
						[9, 9],
						[0, 0]
					]
				]
			}
		});
		const turned = collection(
			'<gml:featureMember><t><g><gml:Point srsName="urn:ogc:def:crs:EPSG::4326"><gml:pos>45 -17</gml:pos></gml:Point></g></t></gml:featureMember>'
		);
		expect((await readVectors(turned, 'a.gml')).features[0]!.geometry).toEqual({ type: 'Point', coordinates: [-17, 45] });
	});
	it('arcs are counted, not guessed; none at all, or entities, are refused', async () => {
		const arc =
			'<gml:featureMember><t><g><gml:Curve><gml:segments><gml:Arc><gml:posList>0 0 1 1 2 0</gml:posList></gml:Arc></gml:segments></gml:Curve></g></t></gml:featureMember>';
		const point = '<gml:featureMember><t><g><gml:Point><gml:pos>1 2</gml:pos></gml:Point></g></t></gml:featureMember>';
		const read = await readVectors(collection(arc + point), 'a.gml');
		expect([read.features.length, read.notes]).toEqual([1, ['1 shapes of a kind that is not read are left out']]);
		expect(await refused(readVectors(collection(arc), 'a.gml'))).toBe('empty-file');
		expect(await refused(readVectors(text('<!DOCTYPE a [<!ENTITY b "c">]><a xmlns:gml="http://www.opengis.net/gml"/>'), 'a.gml'))).not.toBe(
			'taken'
		);
	});
});

describe('GPX and KMZ', () => {
	it('waypoints and tracks, in degrees', async () => {
		const { features, epsg } = await readVectors(
			text(
				'<gpx xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="45.5" lon="-17.25"><ele>12</ele><name>Spring</name></wpt><trk><name>Walk</name><trkseg><trkpt lat="45" lon="-17"><time>2026-01-02T03:04:05Z</time></trkpt><trkpt lat="45.1" lon="-17.1"/></trkseg></trk></gpx>'
			),
			'a.gpx'
		);
		expect(epsg).toBe(4326);
		expect(features.map((f) => [f.properties!['name'], f.geometry.type])).toEqual(
			expect.arrayContaining([
				['Spring', 'Point'],
				['Walk', 'LineString']
			])
		);
		expect(features.find((f) => f.geometry.type === 'Point')!.geometry).toEqual({ type: 'Point', coordinates: [-17.25, 45.5, 12] });
		// Lists, such as the times of a track, are no properties of a layer.
		for (const f of features) for (const v of Object.values(f.properties!)) expect(typeof v).not.toBe('object');
	});
	it('the KML inside a ZIP; a ZIP without one is none', async () => {
		const kml = text(
			'<kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><name>a</name><Point><coordinates>10,50,3</coordinates></Point></Placemark></kml>'
		);
		const { features } = await readVectors(zipSync({ 'files/logo.png': text('x'), 'doc.kml': kml }), 'a.kmz');
		expect(features[0]).toMatchObject({ properties: { name: 'a' }, geometry: { coordinates: [10, 50, 3] } });
		expect(vectorFormat(zipSync({ 'readme.txt': kml }), 'a.kmz')).toBeNull();
	});
});

describe('surfaces', () => {
	const mesh = {
		positions: Float64Array.of(412345.125, 4991234.5, 10, 412355.25, 4991234.5, 12, 412345.125, 4991244.75, 15),
		triangles: Uint32Array.of(0, 1, 2)
	};
	it('VTK written here comes back to the last digit, all parts of it', async () => {
		const back = await readMesh(
			text(
				writeVtp([
					{ name: 'a', color: '#fff', mesh },
					{ name: 'b', color: '#fff', mesh }
				])
			),
			'a.vtp'
		);
		expect([...back.positions]).toEqual([...mesh.positions, ...mesh.positions]);
		expect([...back.triangles]).toEqual([0, 1, 2, 3, 4, 5]);
	});
	it('VTK polygons of four corners become triangles; packed data are refused with a way out', async () => {
		const file = (format: string) =>
			`<VTKFile type="PolyData"><PolyData><Piece NumberOfPoints="4"><Points><DataArray type="Float32" NumberOfComponents="3" format="${format}">0 0 0 1 0 0 1 1 0 0 1 0</DataArray></Points><Polys><DataArray type="Int32" Name="connectivity" format="${format}">0 1 2 3</DataArray><DataArray type="Int32" Name="offsets" format="${format}">4</DataArray></Polys></Piece></PolyData></VTKFile>`;
		expect([...(await readMesh(text(file('ascii')), 'a.vtp')).triangles]).toEqual([0, 1, 2, 0, 2, 3]);
		expect(await refused(readMesh(text(file('binary')), 'a.vtp'))).toBe('not-read');
	});
	it('glTF lies where it was, by a node that moves it', async () => {
		const back = await readMesh(await writeGltf([{ name: 'a', color: '#ffffff', mesh }], [412000, 4991000, 0]), 'a.glb');
		back.positions.forEach((v, i) => expect(v).toBeCloseTo(mesh.positions[i]!, 3));
	});
});

it('a drawing has the layers that its features name', async () => {
	const at = (layer: unknown, x: number) => ({
		type: 'Feature' as const,
		geometry: { type: 'Point' as const, coordinates: [x, 0] },
		properties: { layer }
	});
	const back = await readVectors(text(layerDxf('all', [at('roads', 1), at('a|b', 2), at(null, 3), at('  ', 4)])), 'a.dxf');
	expect(back.features.map((f) => f.properties!['layer'])).toEqual(['roads', 'a b', 'all', 'all']);
});

describe('AGS', () => {
	const table = (kind: Table['kind'], name: string, columns: Record<string, string[] | number[]>): Table => {
		const entries = Object.entries(columns);
		const is = (v: string[] | number[]): v is number[] => typeof v[0] === 'number';
		const rowCount = entries[0]![1].length;
		return {
			name,
			kind,
			rowCount,
			lines: new Int32Array(rowCount),
			excluded: new Uint8Array(rowCount),
			notNumbers: [],
			headers: Object.fromEntries(entries.map(([k]) => [k, k])),
			text: Object.fromEntries(entries.filter(([, v]) => !is(v)) as [string, string[]][]),
			numbers: Object.fromEntries(entries.filter(([, v]) => is(v)).map(([k, v]) => [k, Float64Array.from(v as number[])]))
		};
	};
	const collars = table('collars', 'c', {
		hole: ['A "1"', 'B'],
		easting: [100, 200],
		northing: [10, 20],
		elevation: [5, NaN],
		totalDepth: [30, 12.345]
	});
	const log = table('intervals', 'l', {
		hole: ['A "1"', 'A "1"', 'B', 'gone'],
		from: [0, 10, 0, 0],
		to: [10, 30, 12, 3],
		code: ['SAND', 'CLAY', 'SAND', 'X'],
		description: ['fine,\nwet', '', 'x', '']
	});
	it('written here reads back with nothing to remark, in metres, without rows that are out or whose hole is not there', () => {
		const { groups, notes } = readAgs(text(writeAgs('Quay', collars, log, { l: [0, 1, 0, 0] }, 0.3048, '2026-05-01')), 'a.ags');
		expect(notes).toEqual([]);
		const of = (name: string) => groups.find((g) => g.name === name)!;
		expect(of('LOCA').rows).toEqual([
			['A "1"', '30.48', '3.05', '1.52', '9.14'],
			['B', '60.96', '6.10', '', '3.76']
		]);
		expect(of('GEOL').rows).toEqual([
			['A "1"', '0.00', '3.05', 'fine, wet', 'SAND'],
			['B', '0.00', '3.66', 'x', 'SAND']
		]);
		expect(of('ABBR').rows.map((r) => r[1])).toEqual(['SAND']);
	});
	it('of collars alone has no log', () => {
		const { groups, notes } = readAgs(text(writeAgs('Quay', collars, null, {}, 1, '2026-05-01')), 'a.ags');
		expect([notes, groups.map((g) => g.name)]).toEqual([[], ['PROJ', 'TRAN', 'LOCA', 'TYPE', 'UNIT']]);
	});
});
