import initSql from 'sql.js/dist/sql-wasm-inline.js';
import { zipSync } from 'fflate';
import type { Feature, Geometry, Position } from 'geojson';
import { describe, expect, it } from 'vitest';
import { ProblemError } from '../problem';
import { writeGeoPackage } from './geopackage';
import { coreOfName, isPicture, parseWorldFile, placeByPoints, readPicture } from './picture';
import { writePng } from './png';
import { writeShapefiles } from './shapefile';
import { readVectors } from './vectors';

const feature = (geometry: Geometry, properties: Feature['properties'] = { n: 1 }): Feature => ({ type: 'Feature', geometry, properties });
const kindOf = async (run: () => unknown): Promise<string> => {
	try {
		await run();
	} catch (error) {
		if (error instanceof ProblemError) return error.problem.kind;
		throw error;
	}
	return 'taken';
};

const square: Position[] = [
	[0, 0],
	[10, 0],
	[10, 10],
	[0, 10],
	[0, 0]
];
const hole: Position[] = [
	[2, 2],
	[2, 4],
	[4, 4],
	[4, 2],
	[2, 2]
];
const all: Geometry[] = [
	{ type: 'Point', coordinates: [1, 2, 3] },
	{
		type: 'LineString',
		coordinates: [
			[0, 0],
			[5, 5],
			[9, 1]
		]
	},
	{ type: 'Polygon', coordinates: [square, hole] },
	{
		type: 'MultiPoint',
		coordinates: [
			[1, 1],
			[2, 2]
		]
	},
	{
		type: 'MultiLineString',
		coordinates: [
			[
				[0, 0],
				[1, 1]
			],
			[
				[5, 5],
				[6, 6],
				[7, 5]
			]
		]
	},
	{
		type: 'MultiPolygon',
		coordinates: [
			[square, hole],
			[
				[
					[20, 20],
					[30, 20],
					[30, 30],
					[20, 20]
				]
			]
		]
	},
	{
		type: 'GeometryCollection',
		geometries: [
			{ type: 'Point', coordinates: [7, 7] },
			{
				type: 'LineString',
				coordinates: [
					[7, 7],
					[8, 8]
				]
			}
		]
	}
];

describe('every kind of geometry', () => {
	it.each(all.map((g) => [g.type, g] as const))('%s comes back from a GeoPackage', async (_, g) => {
		const back = await readVectors(await writeGeoPackage('x', [feature(g)], 32628, ''), 'x.gpkg');
		expect(back.features.map((f) => f.geometry)).toEqual([g]);
	});

	it('goes into the shapefile of its kind, parts and all, with the rings turned as the format wants them', async () => {
		const back = await readVectors(
			writeShapefiles(
				'x',
				all.map((g, i) => feature(g, { n: i })),
				''
			),
			'x.zip'
		);
		const of = (type: string) => back.features.filter((f) => f.geometry.type === type);
		expect(of('Point').map((f) => (f.geometry as { coordinates: Position }).coordinates.slice(0, 2))).toEqual([
			[1, 2],
			[1, 1],
			[2, 2],
			[7, 7]
		]);
		expect(of('LineString').length + of('MultiLineString').length).toBe(3);
		expect(of('Polygon').length + of('MultiPolygon').length).toBe(2);
		const area = (ring: Position[]) => ring.reduce((s, p, i) => s + (i ? ring[i - 1]![0]! * p[1]! - p[0]! * ring[i - 1]![1]! : 0), 0) / 2;
		const whole = back.features.flatMap((f) =>
			f.geometry.type === 'Polygon' ? f.geometry.coordinates : f.geometry.type === 'MultiPolygon' ? f.geometry.coordinates.flat() : []
		);
		// Twice the square with its hole, and the triangle; outer rings come back anticlockwise, holes clockwise or the other way about.
		expect(Math.abs(whole.map(area).reduce((s, a) => s + a, 0))).toBeCloseTo(2 * (100 - 4) + 50, 9);
	});
});

describe('a GeoPackage that others wrote', () => {
	/** One row whose geometry is these bytes. */
	async function withBlob(blob: Uint8Array): Promise<Uint8Array> {
		const db = new (await initSql()).Database(await writeGeoPackage('x', [feature({ type: 'Point', coordinates: [0, 0] })], 32628, ''));
		db.run('update x set geom = ?', [blob]);
		const out = db.export();
		db.close();
		return out;
	}
	/** Header and well-known binary: a byte, or numbers of 4 or 8 bytes. */
	function blob(flags: number, parts: ['b' | 'u' | 'd', number][], little = true): Uint8Array {
		const size = { b: 1, u: 4, d: 8 };
		const envelope = [0, 32, 48, 48, 64][(flags >> 1) & 7] ?? 0;
		const out = new Uint8Array(8 + envelope + parts.reduce((n, [k]) => n + size[k], 0));
		out.set([0x47, 0x50, 0, flags]);
		const view = new DataView(out.buffer);
		let at = 8 + envelope;
		for (const [kind, v] of parts) {
			if (kind === 'b') view.setUint8(at, v);
			else if (kind === 'u') view.setUint32(at, v, little);
			else view.setFloat64(at, v, little);
			at += size[kind];
		}
		return out;
	}
	const read = async (b: Uint8Array) => (await readVectors(await withBlob(b), 'x.gpkg')).features[0]!.geometry;

	it('has heights and measures in the newer and in the older way; measures are left out', async () => {
		expect(
			await read(
				blob(1, [
					['b', 1],
					['u', 3001],
					['d', 1],
					['d', 2],
					['d', 3],
					['d', 99]
				])
			)
		).toEqual({ type: 'Point', coordinates: [1, 2, 3] });
		expect(
			await read(
				blob(1, [
					['b', 1],
					['u', 2001],
					['d', 1],
					['d', 2],
					['d', 99]
				])
			)
		).toEqual({ type: 'Point', coordinates: [1, 2] });
		expect(
			await read(
				blob(1, [
					['b', 1],
					['u', 0xe0000001],
					['u', 32628],
					['d', 1],
					['d', 2],
					['d', 3],
					['d', 99]
				])
			)
		).toEqual({ type: 'Point', coordinates: [1, 2, 3] });
	});
	it('has the high byte first, or an envelope before the geometry', async () => {
		expect(
			await read(
				blob(
					0,
					[
						['b', 0],
						['u', 1],
						['d', 1],
						['d', 2]
					],
					false
				)
			)
		).toEqual({ type: 'Point', coordinates: [1, 2] });
		for (const envelope of [1, 2, 3, 4])
			expect(
				await read(
					blob(1 | (envelope << 1), [
						['b', 1],
						['u', 1],
						['d', 1],
						['d', 2]
					])
				)
			).toEqual({ type: 'Point', coordinates: [1, 2] });
	});
	it.each([
		['is empty', blob(0x11, []), 'empty-file'],
		['has no header', Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8, 9), 'damaged-file'],
		[
			'has an envelope of an unknown kind',
			blob(1 | (7 << 1), [
				['b', 1],
				['u', 1],
				['d', 1],
				['d', 2]
			]),
			'damaged-file'
		],
		[
			'is of a kind that is not read',
			blob(1, [
				['b', 1],
				['u', 99],
				['d', 1],
				['d', 2]
			]),
			'empty-file'
		],
		[
			'claims a thousand million vertices',
			blob(1, [
				['b', 1],
				['u', 2],
				['u', 1e9],
				['d', 1],
				['d', 2]
			]),
			'damaged-file'
		],
		[
			'is cut off',
			blob(1, [
				['b', 1],
				['u', 2],
				['u', 3],
				['d', 1]
			]),
			'damaged-file'
		],
		[
			'is nested without an end',
			blob(1, [
				['b', 1],
				...Array.from({ length: 30 }, (): ['u' | 'b', number][] => [
					['u', 7],
					['u', 1],
					['b', 1]
				]).flat()
			]),
			'damaged-file'
		]
	])('whose geometry %s is refused', async (_, bytes, kind) =>
		expect(await kindOf(async () => readVectors(await withBlob(bytes), 'x.gpkg'))).toBe(kind)
	);
});

describe('pictures', () => {
	const png = writePng(3, 2, new Uint8Array(18).fill(200));
	/** A JPEG as far as its size goes: start, an application segment, the frame. */
	const jpeg = Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0xff, 0xc0, 0, 11, 8, 0, 40, 0, 60, 1, 1, 0x11, 0, 0, 0, 0);

	it('have their size from their first bytes', () => {
		expect(readPicture(png, 'a.png')).toMatchObject({ media: 'image/png', width: 3, height: 2, placement: null });
		expect(readPicture(jpeg, 'a.jpg')).toMatchObject({ media: 'image/jpeg', width: 60, height: 40 });
	});
	it('in a ZIP bring their world file along', () => {
		const zip = zipSync({ 'map.png': png, 'map.pgw': new TextEncoder().encode('2\n0\n0\n-2\n402000\n4992000\n') });
		expect(isPicture(zip, 'map.zip')).toBe(true);
		expect(readPicture(zip, 'map.zip').placement).toEqual({ a: 2, b: 0, c: 402000, d: 0, e: -2, f: 4992000 });
		expect(readPicture(zipSync({ 'map.png': png }), 'map.zip').placement).toBeNull();
		expect(isPicture(zipSync({ 'a.txt': png }), 'a.zip')).toBe(false);
	});
	it.each([
		['a JPEG without a frame', Uint8Array.of(0xff, 0xd8, 0xff, 0xe0, 0, 4, 0, 0, 0xff, 0xd9, 0, 0, 0, 0, 0, 0)],
		['a JPEG that is noise', Uint8Array.of(0xff, 0xd8, 0xff, 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12)],
		['a PNG of eight bytes', png.slice(0, 8)],
		['a text', new TextEncoder().encode('hello')]
	])('%s is refused', async (_, bytes) => expect(await kindOf(() => readPicture(bytes, 'a.png'))).toBe('damaged-file'));
	it.each([
		['five numbers', '1 0 0 -1 5'],
		['a word among them', '1 0 0 -1 east 7'],
		['no size', '0 0 0 0 5 7']
	])('a world file with %s is refused', async (_, t) => expect(await kindOf(() => parseWorldFile(t, 'a.png'))).toBe('bad-world-file'));
	it('are placed by two points without a change of shape, and by three as they tell', async () => {
		const two = placeByPoints([
			[0, 0, 1000, 2000],
			[100, 0, 1200, 2000]
		]);
		expect([two.a, two.b, two.d, two.e].map((v) => Math.round(v * 1e9) / 1e9 + 0)).toEqual([2, 0, 0, -2]);
		expect([two.c, two.f]).toEqual([1000, 2000]);
		const three = placeByPoints([
			[0, 0, 1000, 2000],
			[100, 0, 1200, 2010],
			[0, 50, 995, 1900]
		]);
		expect([three.a, three.d, three.b, three.e].map((v) => Math.round(v * 1e9) / 1e9)).toEqual([2, 0.1, -0.1, -2]);
		// Three in a line tell no more than two.
		const inLine = placeByPoints([
			[0, 0, 1000, 2000],
			[50, 0, 1100, 2000],
			[100, 0, 1200, 2000]
		]);
		expect(inLine.e).toBeCloseTo(-2, 9);
		expect(await kindOf(() => placeByPoints([[0, 0, 1, 1]]))).toBe('control-points');
		expect(
			await kindOf(() =>
				placeByPoints([
					[5, 5, 1, 1],
					[5, 5, 2, 2]
				])
			)
		).toBe('control-points');
	});
	it('of core are named after their hole and depths', () => {
		const holes = ['TW-1', 'TW-12', 'TW-120'];
		expect(coreOfName('TW-12 24.0-28.5.jpg', holes)).toEqual({ hole: 'TW-12', from: 24, to: 28.5 });
		expect(coreOfName('core_tw-120_100,5_103.jpeg', holes)).toEqual({ hole: 'TW-120', from: 100.5, to: 103 });
		expect(coreOfName('TW-12.jpg', holes)).toBeNull();
		expect(coreOfName('TW-12 28-24.jpg', holes)).toBeNull();
		expect(coreOfName('KT-9 1-2.jpg', holes)).toBeNull();
	});
});
