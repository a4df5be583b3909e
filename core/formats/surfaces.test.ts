import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import { meshFormat, readMesh } from './mesh-readers';
import { writePly } from './meshes';
import { readVectors, vectorFormat } from './vectors';

const text = (t: string) => new TextEncoder().encode(t);
const problem = async (run: Promise<unknown>): Promise<string> =>
	run.then(
		() => 'taken',
		(e: unknown) => {
			if (e instanceof ProblemError) return e.problem.kind;
			throw e;
		}
	);
/** A tetrahedron far from the origin of the coordinates. */
const corners = [
	[402000.125, 4992000.25, 10],
	[402010, 4992000, 10],
	[402000, 4992010, 10],
	[402000, 4992000, 20.5]
];
const faces = [
	[0, 2, 1],
	[0, 1, 3],
	[1, 2, 3],
	[0, 3, 2]
];
const mesh = { positions: Float64Array.from(corners.flat()), triangles: Uint32Array.from(faces.flat()) };

describe('OBJ', () => {
	const obj = (f: string) => text(`# made up\no thing\n${corners.map((c) => `v ${c.join(' ')}`).join('\n')}\nvn 0 0 1\n${f}\n`);
	it('has faces by number, from the end, with textures and normals, and of many corners', async () => {
		expect([...(await readMesh(obj('f 1 3 2\nf 1 2 4'), 'a.obj')).triangles]).toEqual([0, 2, 1, 0, 1, 3]);
		expect([...(await readMesh(obj('f -4 -2 -3'), 'a.obj')).triangles]).toEqual([0, 2, 1]);
		expect([...(await readMesh(obj('f 1//1 3/2/1 2'), 'a.obj')).triangles]).toEqual([0, 2, 1]);
		expect([...(await readMesh(obj('f 1 2 3 4'), 'a.obj')).triangles]).toEqual([0, 1, 2, 0, 2, 3]);
	});
	it('keeps every digit of its coordinates', async () =>
		expect((await readMesh(obj('f 1 2 3'), 'a.obj')).positions).toEqual(mesh.positions));
	it.each([
		['names a vertex that is not there', 'f 1 2 9', 'damaged-file'],
		['names a vertex before the first', 'f 1 2 -9', 'damaged-file'],
		['has no faces', '', 'empty-file'],
		['has a coordinate that is no number', 'v 1 two 3\nf 1 2 5', 'damaged-file']
	])('that %s is refused', async (_, f, kind) => expect(await problem(readMesh(obj(f), 'a.obj'))).toBe(kind));
});

describe('PLY', () => {
	const head = (format: string, vertex: string, face = 'list uchar int vertex_indices') =>
		`ply\nformat ${format} 1.0\ncomment made up\nelement vertex 4\n${vertex}element face 4\nproperty ${face}\nend_header\n`;
	const xyz = 'property double x\nproperty double y\nproperty double z\n';
	it('is read as text, with further properties between the coordinates', async () => {
		const body = `${corners.map(([x, y, z]) => `${x} 7 ${y} ${z}`).join('\n')}\n${faces.map((f) => `3 ${f.join(' ')}`).join('\n')}\n`;
		expect(
			await readMesh(
				text(head('ascii', 'property float64 x\nproperty uchar red\nproperty float64 y\nproperty float64 z\n') + body),
				'a.ply'
			)
		).toEqual(mesh);
	});
	it('written here reads back to the same', async () => expect(await readMesh(writePly(mesh), 'a.ply')).toEqual(mesh));
	it('is read with the high byte first, and with every kind of number', async () => {
		const properties =
			'property float64 x\nproperty double y\nproperty double z\nproperty char a\nproperty int16 b\nproperty ushort c\nproperty float d\n';
		const start = text(head('binary_big_endian', properties, 'list uint8 uint32 vertex_indices'));
		const bytes = new Uint8Array(start.length + 4 * (24 + 1 + 2 + 2 + 4) + 4 * 13);
		bytes.set(start);
		const view = new DataView(bytes.buffer);
		let at = start.length;
		for (const c of corners) {
			for (const v of c) {
				view.setFloat64(at, v);
				at += 8;
			}
			at += 9;
		}
		for (const f of faces) {
			view.setUint8(at++, 3);
			for (const v of f) {
				view.setUint32(at, v);
				at += 4;
			}
		}
		expect(await readMesh(bytes, 'a.ply')).toEqual(mesh);
	});
	it.each([
		['has no end of its header', 'ply\nformat ascii 1.0\nelement vertex 1\n'],
		['claims more vertices than it has bytes', head('ascii', xyz).replace('vertex 4', 'vertex 4000000000') + '1 2 3\n'],
		['claims a face of a million corners', `${head('ascii', xyz)}${corners.map((c) => c.join(' ')).join('\n')}\n1000000 1 2 3\n`],
		['has numbers of an unknown kind', `${head('binary_little_endian', xyz.replace('double x', 'quad x'))}0000000000000000000000000000`]
	])('that %s is refused', async (_, t) => expect(await problem(readMesh(text(t), 'a.ply'))).toBe('damaged-file'));
});

describe('STL', () => {
	const solid = (n: number) =>
		`solid thing\n${faces
			.slice(0, n)
			.map((f) => `facet normal 0 0 1\nouter loop\n${f.map((v) => `vertex ${corners[v]!.join(' ')}`).join('\n')}\nendloop\nendfacet`)
			.join('\n')}\nendsolid thing\n`;
	it('as text has its shared corners joined', async () => {
		const back = await readMesh(text(solid(4)), 'a.stl');
		expect(back.positions.length).toBe(12);
		expect(back.triangles.length).toBe(12);
	});
	it('that ends within a triangle loses that one only', async () => {
		const cut = solid(4);
		expect((await readMesh(text(cut.slice(0, cut.lastIndexOf('vertex'))), 'a.stl')).triangles.length).toBe(9);
	});
	it('without triangles is refused', async () =>
		expect(await problem(readMesh(text('solid nothing\nendsolid nothing\n'), 'a.stl'))).toBe('empty-file'));
});

describe('what is no surface', () => {
	it.each([
		['a table', 'x,y,z\n1,2,3\n', 'a.csv'],
		['a text that calls itself OBJ', 'hello there\n', 'a.obj'],
		['nothing', '', 'a.stl']
	])('%s is told apart', async (_, t, name) => {
		expect(meshFormat(text(t), name)).toBeNull();
		expect(await problem(readMesh(text(t), name))).toBe('not-a-surface');
	});
	it('a glTF that is damaged says so', async () =>
		expect(await problem(readMesh(text('{"asset":{"version":"2.0"},"scenes":[{"nodes":[7]}],"scene":0}'), 'a.gltf'))).not.toBe('taken'));
});

describe('vector files', () => {
	const layer = (t: string, name = 'a.geojson') => readVectors(text(t), name);
	it('a bare geometry, a single feature and a collection are one layer each', async () => {
		const point = '{"type":"Point","coordinates":[1,2]}';
		expect((await layer(point)).features).toHaveLength(1);
		expect((await layer(`{"type":"Feature","properties":null,"geometry":${point}}`)).features[0]!.properties).toEqual({});
		expect((await layer(`{"type":"GeometryCollection","geometries":[${point},${point}]}`)).features[0]!.geometry.type).toBe(
			'GeometryCollection'
		);
	});
	it('an older file names its coordinate system; without a name it is longitude and latitude', async () => {
		const of = (crs: string) =>
			layer(
				`{"type":"FeatureCollection",${crs}"features":[{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[1,2]}}]}`
			).then((l) => l.epsg);
		expect(await of('')).toBe(4326);
		expect(await of('"crs":{"properties":{"name":"urn:ogc:def:crs:EPSG::32628"}},')).toBe(32628);
		expect(await of('"crs":{"properties":{"name":"urn:ogc:def:crs:OGC:1.3:CRS84"}},')).toBe(4326);
	});
	it('features without a place are left out, and none is told', async () => {
		const mixed =
			'{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":null},{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[1,"x"]}},{"type":"Feature","properties":{"n":1},"geometry":{"type":"Point","coordinates":[1,2]}}]}';
		expect((await layer(mixed)).features.map((f) => f.properties)).toEqual([{ n: 1 }]);
		expect(await problem(layer('{"type":"FeatureCollection","features":[]}'))).toBe('empty-file');
	});
	it('KML with entities of its own is refused before it is read', async () => {
		const bomb =
			'<?xml version="1.0"?><!DOCTYPE k [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><name>&b;</name></Placemark></kml>';
		expect(vectorFormat(text(bomb), 'a.kml')).toBe('kml');
		expect(await problem(layer(bomb, 'a.kml'))).toBe('unsafe-xml');
	});
	it('a drawing has points, lines, closed lines and faces, each with its layer and elevation', async () => {
		const dxf = (entities: string) => `0\nSECTION\n2\nENTITIES\n${entities}0\nENDSEC\n0\nEOF\n`;
		const found = await layer(
			dxf(
				'0\nPOINT\n8\nspots\n10\n1\n20\n2\n30\n3\n0\nLWPOLYLINE\n8\nshore\n90\n3\n70\n1\n38\n5\n10\n0\n20\n0\n10\n9\n20\n0\n10\n9\n20\n9\n0\n3DFACE\n8\nwall\n10\n0\n20\n0\n30\n0\n11\n1\n21\n0\n31\n0\n12\n1\n22\n1\n32\n0\n13\n0\n23\n1\n33\n0\n0\nCIRCLE\n8\nodd\n10\n1\n20\n1\n40\n5\n'
			),
			'a.dxf'
		);
		expect(found.features.map((f) => [f.properties!['layer'], f.geometry.type])).toEqual([
			['spots', 'Point'],
			['shore', 'LineString'],
			['wall', 'Polygon'],
			['odd', 'LineString']
		]);
		expect(found.features[1]!.geometry).toMatchObject({
			coordinates: [
				[0, 0, 5],
				[9, 0, 5],
				[9, 9, 5],
				[0, 0, 5]
			]
		});
		expect(found.features[2]!.geometry).toEqual({
			type: 'Polygon',
			coordinates: [
				[
					[0, 0, 0],
					[1, 0, 0],
					[1, 1, 0],
					[0, 1, 0],
					[0, 0, 0]
				]
			]
		});
		// A triangle has its third corner twice.
		const triangle = await layer(
			dxf('0\n3DFACE\n8\nwall\n10\n0\n20\n0\n30\n4\n11\n1\n21\n0\n31\n5\n12\n1\n22\n1\n32\n6\n13\n1\n23\n1\n33\n6\n'),
			'a.dxf'
		);
		expect(triangle.features[0]!.geometry).toMatchObject({
			coordinates: [
				[
					[0, 0, 4],
					[1, 0, 5],
					[1, 1, 6],
					[0, 0, 4]
				]
			]
		});
		expect(await problem(layer(dxf('0\nHATCH\n8\nodd\n10\n1\n20\n1\n40\n5\n'), 'a.dxf'))).toBe('empty-file');
		expect(await problem(layer(`${dxf('').slice(0, -5)}`, 'a.dxf'))).toBe('damaged-file');
		expect(await problem(layer('0\nSECTION\n2\nENTITIES\nzero\nPOINT\n0\nEOF\n', 'a.dxf'))).toBe('damaged-file');
	});
	it('what is none of them is told apart', async () => {
		expect(vectorFormat(text('{"a":1}'), 'a.json')).toBeNull();
		expect(await problem(layer('{"a":1}', 'a.json'))).toBe('not-vectors');
		expect(await problem(layer('{"type":"FeatureCollection","features":[', 'a.geojson'))).toBe('damaged-file');
	});
});
