import { NodeIO } from '@gltf-transform/core';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rasterRange, sampleRaster, type Raster } from '../grids/raster';
import { readGeoTiff, writeGeoTiff } from './geotiff';
import { fileName, writeGltf, writeObj, writeStl, writeVtp, type NamedMesh } from './meshes';
import { packValue, readPack, unpackValue, writePack } from './pack';
import { spaced, ticks } from './ticks';

const tetrahedron: NamedMesh = {
	name: 'Fennick Sandstone',
	color: '#E3C27A',
	mesh: {
		positions: new Float64Array([
			412345.125, 4991234.5, 10, 412355.125, 4991234.5, 10, 412345.125, 4991244.5, 10, 412345.125, 4991234.5, 20
		]),
		triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3])
	}
};
const origin = [412000, 4991000, 0] as const;

describe('mesh files', () => {
	it('OBJ keeps every digit and shares vertices', () => {
		const lines = writeObj([tetrahedron, tetrahedron]).split('\n');
		expect(lines.filter((l) => l.startsWith('v '))[0]).toBe('v 412345.125 4991234.5 10');
		expect(lines.filter((l) => l.startsWith('v '))).toHaveLength(8);
		expect(lines.filter((l) => l.startsWith('f '))[4]).toBe('f 5 7 6');
		expect(lines).toContain('g Fennick_Sandstone');
	});

	it('STL holds the triangles relative to the origin in its header', () => {
		const bytes = writeStl([tetrahedron], origin);
		const view = new DataView(bytes.buffer);
		expect(bytes.length).toBe(84 + 4 * 50);
		expect(view.getUint32(80, true)).toBe(4);
		expect(new TextDecoder().decode(bytes.subarray(0, 80))).toContain('origin 412000 4991000 0');
		expect(view.getFloat32(84 + 12, true)).toBe(345.125);
		// The first triangle is the underside: its normal points down.
		expect(view.getFloat32(84 + 8, true)).toBe(-1);
	});

	it('glTF is read back by a general reader to the same triangles', async () => {
		const document = await new NodeIO().readBinary(await writeGltf([tetrahedron], origin));
		const primitive = document.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
		expect([...primitive.getIndices()!.getArray()!]).toEqual([...tetrahedron.mesh.triangles]);
		expect([...primitive.getAttribute('POSITION')!.getElement(3, [])]).toEqual([345.125, 20, -234.5]);
		// A node above moves it to where it belongs: y is up, z to the south.
		expect(
			document
				.getRoot()
				.listNodes()
				.find((n) => n.getMesh())!
				.getWorldTranslation()
		).toEqual([origin[0], origin[2], -origin[1]]);
	});

	it('VTK XML names counts and parts', () => {
		const xml = writeVtp([tetrahedron, { ...tetrahedron, name: 'a<b>--c' }]);
		expect(xml).toContain('NumberOfPoints="8"');
		expect(xml).toContain('NumberOfPolys="8"');
		expect(xml).not.toContain('a<b>');
		// Names as the numbers of their bytes, each ended by a zero.
		const names = /Name="parts"[^>]*>([^<]*)</.exec(xml)![1]!.split(' ').map(Number);
		expect(new TextDecoder().decode(Uint8Array.from(names)).split('\0')).toEqual([tetrahedron.name, 'a<b>--c', '']);
		expect(xml).toContain('412345.125 4991234.5 10');
	});

	it('file names can not leave their folder', () => {
		expect(fileName('../../etc/passwd')).toBe('etc_passwd');
		expect(fileName('<>:"')).toBe('unnamed');
	});
});

describe('GeoTIFF', () => {
	const raster: Raster = {
		x0: 400005,
		y0: 4990005,
		dx: 10,
		dy: 20,
		nx: 4,
		ny: 3,
		values: Float32Array.from([1, 2, 3, 4, 5, NaN, 7, 8, 9, 10, 11, 12.5])
	};

	it('is read back to the same cells, position and coordinate system', async () => {
		const { raster: back, epsg } = await readGeoTiff(await writeGeoTiff(raster, 32628), 't.tif');
		expect(back).toEqual(raster);
		expect(epsg).toBe(32628);
		expect(rasterRange(back)).toEqual({ min: 1, max: 12.5, missing: 1 });
	});
	it('of a raster with more cells than a grid may have reads means, at the middle of the cells that they are of', async () => {
		const [nx, ny] = [11, 8];
		const values = Float32Array.from({ length: nx * ny }, (_, k) =>
			(k % nx) + Math.floor(k / nx) * 100 === 0 ? NaN : (k % nx) + Math.floor(k / nx) * 100
		);
		const file = await writeGeoTiff({ x0: 1000, y0: 2000, dx: 10, dy: 10, nx, ny, values }, 32628);
		const { raster: back, notes } = await readGeoTiff(file, 't.tif', 30);
		// Of eleven columns the last is left over; rows are counted from the north.
		expect(back).toMatchObject({ nx: 5, ny: 4, dx: 20, dy: 20, x0: 1005, y0: 2005 });
		expect(notes[0]).toBe('it has 11 × 8 cells, more than a grid may have: it is read as means of 2 × 2 of them');
		expect(back.values[0]).toBeCloseTo((1 + 100 + 101) / 3, 4);
		expect(back.values[7]).toBeCloseTo((204 + 205 + 304 + 305) / 4, 4);
		expect((await readGeoTiff(file, 't.tif', 88)).notes).toEqual([]);
	});

	it('refuses what is none', async () => {
		await expect(readGeoTiff(new TextEncoder().encode('II*\0 but then nothing'), 't.tif')).rejects.toThrow('can not be read');
		await expect(readGeoTiff(new TextEncoder().encode('hole,x,y'), 'holes.csv')).rejects.toThrow('can not be read');
	});

	it('is sampled bilinearly, by the nearest value beside gaps and outside', () => {
		expect(sampleRaster(raster, 400010, 4990005)).toBeCloseTo(1.5, 6);
		expect(sampleRaster(raster, 300000, 4990005)).toBe(1);
		expect(Number.isFinite(sampleRaster(raster, 400014, 4990024))).toBe(true);
	});
});

describe('packs', () => {
	it('hold any tree of values and typed arrays', () => {
		fc.assert(
			fc.property(fc.array(fc.double({ noNaN: true })), fc.array(fc.integer({ min: 0, max: 65535 })), fc.string(), (a, b, text) => {
				const value = {
					text,
					list: [{ a: Float64Array.from(a) }, { b: Uint16Array.from(b) }],
					m: new Map([[3, Uint8Array.of(1, 2, 3)]]),
					none: null
				};
				expect(unpackValue(readPack(writePack(packValue(value))))).toEqual(value);
			})
		);
	});

	it('are read from bytes at any offset', () => {
		const bytes = writePack({ info: { x: 1 }, arrays: { a: Float64Array.of(1.5, NaN) } });
		const shifted = new Uint8Array(bytes.length + 3);
		shifted.set(bytes, 3);
		expect(readPack(shifted.subarray(3))).toEqual({ info: { x: 1 }, arrays: { a: Float64Array.of(1.5, NaN) } });
	});
});

describe('numbers', () => {
	it('have round ticks inside the range', () => {
		expect(ticks(-450, 450, 5)).toEqual([-400, -200, 0, 200, 400]);
		expect(ticks(0, 1, 4)).toEqual([0, 0.5, 1]);
		expect(ticks(5, 5, 4)).toEqual([]);
	});

	it('have thin spaces and a real minus', () => {
		expect(spaced(-1234567.891, 1)).toBe('−1\u2009234\u2009567.9');
		expect(spaced(-0.001, 1)).toBe('0.0');
	});
});
