import fc from 'fast-check';
import { unzipSync, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import { rowOf } from '../tables/raw-table';
import { readAgs, tableOfGroup } from './ags';
import { readAsc, writeAsc } from './asc';
import { writeGeoPackage } from './geopackage';
import { readGeoTiff, writeGeoTiff } from './geotiff';
import { lasWell, readLas, tableOfLas, writeLas } from './las';
import { readMesh } from './mesh-readers';
import { writeGltf, writeObj, writeStl, writePly } from './meshes';
import { coreOfName, parseWorldFile, placeByPoints, readPicture } from './picture';
import { writeShapefiles } from './shapefile';
import { partsOfFile, readTabular } from './tabular';
import { epsgOfWkt, readVectors } from './vectors';
import { readSheets, tableOfSheet, writeXlsx } from './xlsx';

const bytes = (text: string) => new TextEncoder().encode(text);
const LAS = (wrap: boolean) => `~Version
 VERS.   2.0 : CWLS
 WRAP.   ${wrap ? 'YES' : 'NO'} :
# a comment
~Well
 STRT.M  10.0 :
 NULL.   -999.25 :
 WELL.   TW-007 : Name
 DATE.   2024-05-31 12:30 : Day and time
~Curve
 DEPT.M     : Depth
 GR.API     : Gamma
 DENS.G/CC  : Density
~Parameter
 BS.MM  96 : Bit size
~Ascii
${wrap ? '10.0\n55.2 2.61\n10.5\n-999.25\n2.62' : '10.0 55.2 2.61\n10.5 -999.25 2.62'}
`;

describe('LAS', () => {
	it.each([
		['as it is', false],
		['wrapped', true]
	])('is read %s, with null values, units and parameters', (_, wrap) => {
		const las = readLas(bytes(LAS(wrap)), 'x.las');
		expect(lasWell(las)).toBe('TW-007');
		expect(las.parameters).toEqual([{ mnemonic: 'BS', unit: 'MM', value: '96', description: 'Bit size' }]);
		expect(las.well.find((w) => w.mnemonic === 'DATE')!.value).toBe('2024-05-31 12:30');
		const t = tableOfLas(las, 'x.las');
		expect(t.header).toEqual(['WELL', 'DEPT', 'GR', 'DENS']);
		expect([rowOf(t, 0), rowOf(t, 1)]).toEqual([
			['TW-007', '10.0', '55.2', '2.61'],
			['TW-007', '10.5', '', '2.62']
		]);
	});
	it('written here reads back to the same', () => {
		const las = readLas(bytes(LAS(false)), 'x.las');
		const back = readLas(bytes(writeLas(las)), 'y.las');
		expect([back.columns, back.parameters, back.curves]).toEqual([las.columns, las.parameters, las.curves]);
	});
	it.each([
		['too many values', LAS(false).replace('2.61', '2.61 9'), 'where 3 curves'],
		['an end in the middle', LAS(true).replace('\n2.62', ''), 'middle of a depth step'],
		['another version', LAS(false).replace('2.0 :', '3.0 :'), 'LAS 3.0'],
		['no values', LAS(false).split('~Ascii')[0]! + '~Ascii\n', 'no values']
	])('with %s is refused', (_, text, message) => expect(() => readLas(bytes(text), 'x.las')).toThrow(message));
});

const AGS = `"GROUP","PROJ"\n"HEADING","PROJ_ID","PROJ_NAME"\n"UNIT","",""\n"TYPE","ID","X"\n"DATA","1","Tunnel"\n\n"GROUP","LOCA"\n"HEADING","LOCA_ID","LOCA_NATE","LOCA_NATN","LOCA_GL","LOCA_FDEP"\n"UNIT","","m","m","m","m"\n"TYPE","ID","2DP","2DP","2DP","2DP"\n"DATA","BH1","402310.00","4992011.00","210.40","30.00"\n\n"GROUP","GEOL"\n"HEADING","LOCA_ID","GEOL_TOP","GEOL_BASE","GEOL_DESC","GEOL_LEG","GEOL_ODD"\n"UNIT","","m","m","","",""\n"TYPE","ID","2DP","2DP","X","PA","X"\n"DATA","BH1","0.00","3.20","Firm, brown ""CLAY""","201",""\n"DATA","BH1","3.20","deep","Rock","801",""\n`;

describe('AGS', () => {
	it('groups become tables, and what the dictionary does not know is said', async () => {
		const { groups, notes } = readAgs(bytes(AGS), 'x.ags');
		expect(groups.map((g) => g.name)).toEqual(['PROJ', 'LOCA', 'GEOL']);
		expect(notes.map((n) => n.message)).toEqual(['GEOL_ODD is not in the dictionary of GEOL', 'GEOL_BASE "deep" is no 2DP']);
		const t = tableOfGroup(groups, 'x.ags', 'GEOL');
		expect(rowOf(t, 0)).toEqual(['BH1', '0.00', '3.20', 'Firm, brown "CLAY"', '201', '']);
		expect([...t.lines]).toEqual([17, 18]);
		expect((await partsOfFile(bytes(AGS), 'x.ags')).parts.map((p) => p.name)).toEqual(['PROJ', 'LOCA', 'GEOL']);
		expect((await readTabular(bytes(AGS), 'x.ags')).reading.part).toBe('LOCA');
	});
	it.each([
		['a group twice', `${AGS}"GROUP","GEOL"\n`, 'comes twice'],
		['data before headings', '"GROUP","LOCA"\n"DATA","x"\n', 'before its headings']
	])('with %s is refused with the line', (_, text, message) => expect(() => readAgs(bytes(text), 'x.ags')).toThrow(message));
});

describe('XLSX', () => {
	it('sheets, titles above the header, numbers and dates come back', async () => {
		const file = await writeXlsx([
			{ name: 'Notes', header: ['Campaign 2024'], rows: [] },
			{
				name: 'Collars',
				header: ['hole', 'x', 'when'],
				rows: [
					['A', 402310.125, '2024-05-31'],
					['=1+1', -3, '']
				]
			}
		]);
		expect((await partsOfFile(file, 'x.xlsx')).parts.map((p) => p.name)).toEqual(['Notes', 'Collars']);
		const t = tableOfSheet(await readSheets(file, 'x.xlsx'), 'x.xlsx', { part: 'Collars' });
		expect(t.header).toEqual(['hole', 'x', 'when']);
		expect([rowOf(t, 0), rowOf(t, 1)]).toEqual([
			['A', '402310.125', '2024-05-31'],
			['=1+1', '-3', '']
		]);
		expect(() =>
			tableOfSheet(
				[
					{
						name: 'A',
						rows: [
							['a', 'b'],
							['1', '2']
						]
					}
				],
				'x',
				{ part: 'B' }
			)
		).toThrow('no sheet "B"');
	});
	it('a ZIP that is no workbook, or unpacks to too much, is refused before it is unpacked', async () => {
		await expect(readSheets(zipSync({ 'a.txt': bytes('x') }), 'x.zip')).rejects.toThrow('no workbook');
		const bomb = zipSync({ 'xl/workbook.xml': bytes('x') });
		const directory = bomb.findIndex((_, i) => bomb[i] === 0x50 && bomb[i + 1] === 0x4b && bomb[i + 2] === 1 && bomb[i + 3] === 2);
		new DataView(bomb.buffer).setUint32(directory + 24, 650 * 1024 * 1024, true);
		await expect(readSheets(bomb, 'bomb.xlsx')).rejects.toThrow('unpacks to');
	});
});

const mesh = {
	positions: new Float64Array([412345.125, 4991234.5, 10, 412355.125, 4991234.5, 10, 412345.125, 4991244.5, 10, 412345.125, 4991234.5, 20]),
	triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3])
};
const named = [{ name: 'm', color: '#888888', mesh }];
const corners = (m: typeof mesh) =>
	Array.from(m.triangles, (v) => [...m.positions.subarray(3 * v, 3 * v + 3)].map((c) => c.toFixed(3)).join(' '));

describe('surfaces', () => {
	it.each<[string, () => Uint8Array | Promise<Uint8Array>]>([
		['m.obj', () => bytes(writeObj(named))],
		['m.stl', () => writeStl(named, [412000, 4991000, 0])],
		['m.ply', () => writePly(mesh)],
		['m.glb', () => writeGltf(named, [412000, 4991000, 0])],
		[
			'ascii.stl',
			() =>
				bytes(
					`solid x\n${corners(mesh)
						.map(
							(c, i) => `${i % 3 === 0 ? 'facet normal 0 0 0\nouter loop\n' : ''}vertex ${c}\n${i % 3 === 2 ? 'endloop\nendfacet\n' : ''}`
						)
						.join('')}endsolid\n`
				)
		],
		[
			'ascii.ply',
			() =>
				bytes(
					`ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty double z\nproperty uchar red\nelement face 4\nproperty list uchar int vertex_indices\nend_header\n${Array.from({ length: 4 }, (_, i) => `${[...mesh.positions.subarray(3 * i, 3 * i + 3)].join(' ')} 200`).join('\n')}\n${Array.from({ length: 4 }, (_, t) => `3 ${[...mesh.triangles.subarray(3 * t, 3 * t + 3)].join(' ')}`).join('\n')}\n`
				)
		]
	])('%s reads back to the same triangles', async (name, write) =>
		expect(corners((await readMesh(await write(), name)) as typeof mesh)).toEqual(corners(mesh))
	);
	it('quadrilaterals and negative numbers of an OBJ are understood', async () => {
		const m = await readMesh(bytes('v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf -4/1 -3/2/3 -2//1 -1\n'), 'q.obj');
		expect([...m.triangles]).toEqual([0, 1, 2, 0, 2, 3]);
	});
	it('a face of a vertex that is not there is refused', async () => {
		await expect(readMesh(bytes('v 0 0 0\nv 1 0 0\nf 1 2 9\n'), 'q.obj')).rejects.toThrow('vertices that it does not have');
	});
});

describe('photographs of core', () => {
	it('tell their hole and depths by their name; the longest name of a hole wins', () => {
		const holes = ['TW-1', 'TW-12', ''];
		expect(coreOfName('TW-12 24.0-28.5.jpg', holes)).toEqual({ hole: 'TW-12', from: 24, to: 28.5 });
		expect(coreOfName('box_tw-1_3,5_to_6.png', holes)).toEqual({ hole: 'TW-1', from: 3.5, to: 6 });
	});
	it('tell nothing without a hole, without two depths, or upside down', () => {
		for (const name of ['XX 1-2.png', 'TW-1.png', 'TW-1 5.png', 'TW-1 9-3.png']) expect(coreOfName(name, ['TW-1'])).toBeNull();
	});
});

describe('pictures', () => {
	const png = () => {
		const b = new Uint8Array(33);
		b.set([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10, 0, 0, 0, 13, 0x49, 0x48, 0x44, 0x52, 0, 0, 0, 40, 0, 0, 0, 30]);
		return b;
	};
	it('take their place from a world file beside them', () => {
		const p = readPicture(zipSync({ 'a.png': png(), 'a.pgw': bytes('2\n0\n0\n-2\n402001\n4992059\n') }), 'a.zip');
		expect(p).toMatchObject({ width: 40, height: 30, placement: { a: 2, b: 0, c: 402001, d: 0, e: -2, f: 4992059 } });
		expect(readPicture(png(), 'a.png').placement).toBeNull();
		expect(() => parseWorldFile('1 0 0', 'a')).toThrow('six numbers');
	});
	it('or from control points: two turn and scale, three fit freely', () => {
		const at = (p: ReturnType<typeof placeByPoints>, u: number, v: number) => [p.a * u + p.b * v + p.c, p.d * u + p.e * v + p.f];
		const two = placeByPoints([
			[0, 0, 1000, 2000],
			[100, 0, 1200, 2000]
		]);
		expect(at(two, 100, 50)).toEqual([1200, 1900]);
		const three = placeByPoints([
			[0, 0, 1000, 2000],
			[100, 0, 1200, 2010],
			[0, 50, 1005, 1900]
		]);
		expect(at(three, 100, 50).map((v) => Number(v.toFixed(6)))).toEqual([1205, 1910]);
		expect(() => placeByPoints([[1, 1, 2, 2]])).toThrow('two control points');
	});
});

it('a projection file names its EPSG code, directly or as a UTM zone', () => {
	expect(epsgOfWkt('PROJCS["WGS_1984_UTM_Zone_28N",GEOGCS["GCS_WGS_1984"]]')).toBe(32628);
	expect(epsgOfWkt('GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984"]]')).toBe(4326);
	expect(epsgOfWkt('PROJCS["x",AUTHORITY["EPSG","27700"]]')).toBe(27700);
	expect(epsgOfWkt('LOCAL_CS["site"]')).toBeNull();
});

it('a table beside the shapes that promises more rows than it holds is refused at once', async () => {
	const set = unzipSync(
		writeShapefiles('t', [{ type: 'Feature', properties: { n: 1 }, geometry: { type: 'Point', coordinates: [1, 2, 3] } }], '')
	);
	const table = set['t_points.dbf']!;
	new DataView(table.buffer, table.byteOffset).setUint32(4, 4_000_000_000, true);
	await expect(readVectors(zipSync(set), 'x.zip')).rejects.toMatchObject({
		problem: { hint: expect.stringContaining('4000000000 rows') as string }
	});
});

it('KML that declares entities is refused', async () => {
	await expect(
		readVectors(bytes('<!DOCTYPE k [<!ENTITY a "aaaa">]><kml><Placemark><name>&a;</name></Placemark></kml>'), 'x.kml')
	).rejects.toThrow('entities');
});

describe('damaged files', () => {
	const point = {
		type: 'Feature' as const,
		properties: { n: 1, t: 'x' },
		geometry: {
			type: 'LineString' as const,
			coordinates: [
				[1, 2, 3],
				[4, 5, 6]
			]
		}
	};
	const raster = { x0: 0, y0: 0, dx: 1, dy: 1, nx: 4, ny: 3, values: new Float32Array(12).fill(2) };
	const samples: [string, () => Promise<Uint8Array> | Uint8Array, (b: Uint8Array, name: string) => unknown][] = [
		['t.csv', () => bytes('hole;from;to\nA;0;5,5\n"B";1;"2"\n'), (b, n) => readTabular(b, n)],
		['t.las', () => bytes(LAS(true)), (b, n) => readTabular(b, n)],
		['t.ags', () => bytes(AGS), (b, n) => readTabular(b, n)],
		['t.xlsx', () => writeXlsx([{ name: 'A', header: ['a', 'b'], rows: [[1, 'x']] }]), (b, n) => readTabular(b, n)],
		['t.tif', () => writeGeoTiff(raster, 32628), readGeoTiff],
		['t.asc', () => bytes(writeAsc(raster)), readAsc],
		['t.geojson', () => bytes(JSON.stringify({ type: 'FeatureCollection', features: [point] })), readVectors],
		[
			't.kml',
			() => bytes('<kml><Placemark><name>a</name><LineString><coordinates>1,2,3 4,5,6</coordinates></LineString></Placemark></kml>'),
			readVectors
		],
		[
			't.dxf',
			() => bytes('0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nL\n10\n1\n20\n2\n30\n3\n11\n4\n21\n5\n31\n6\n0\nENDSEC\n0\nEOF\n'),
			readVectors
		],
		['t.zip', () => writeShapefiles('t', [point], ''), readVectors],
		['t.gpkg', () => writeGeoPackage('t', [point], 32628, ''), readVectors],
		['t.obj', () => bytes(writeObj(named)), readMesh],
		['t.stl', () => writeStl(named, [0, 0, 0]), readMesh],
		['t.ply', () => writePly(mesh), readMesh],
		['t.glb', () => writeGltf(named, [0, 0, 0]), readMesh]
	];

	it.each(samples)(
		'%s: cut off, with bytes changed, doubled or of chance: an answer or a clear error, never a crash or a hang',
		async (name, make, read) => {
			const whole = await make();
			await fc.assert(
				fc.asyncProperty(
					fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 12 }),
					fc.nat(whole.length),
					fc.boolean(),
					async (changes, length, cut) => {
						const b = cut ? whole.slice(0, length) : whole.slice();
						for (const [at, value] of changes) if (at < b.length) b[at] = value;
						const started = performance.now();
						try {
							await read(b, name);
						} catch (error) {
							if (!(error instanceof ProblemError)) throw error;
							expect(error.problem.message).not.toBe('');
						}
						expect(performance.now() - started).toBeLessThan(30_000);
					}
				),
				{ numRuns: 120 }
			);
			await fc.assert(
				fc.asyncProperty(fc.uint8Array({ minLength: 1, maxLength: 3000 }), async (b) => {
					try {
						await read(b, name);
					} catch (error) {
						if (!(error instanceof ProblemError)) throw error;
					}
				}),
				{ numRuns: 40 }
			);
		},
		120_000
	);
});
