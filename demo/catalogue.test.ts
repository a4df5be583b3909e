import { unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { readGeoTiff } from '#core/formats/geotiff';
import { readPicture } from '#core/formats/picture';
import { sampleRaster } from '#core/grids/raster';
import { CATALOGUE_BOX, coverage, features, RECORDS, thumbnail } from './catalogue';
import { EPSG, toGeographic, toProjected } from './geographic';
import { terrainAt } from './truth';

const record = (id: string) => RECORDS.find((r) => r.id === id)!;
const BOX = [401000, 4991000, 404000, 4994000] as const;

describe('the regional catalogue', () => {
	it('has terrain that is the terrain of the truth, clipped to the area and as coarse as it is asked for', async () => {
		const { raster, epsg } = await readGeoTiff((await coverage(record('terrain-30'), BOX, 1))!.bytes, 't.tif');
		expect(epsg).toBe(EPSG);
		expect([raster.x0 >= BOX[0] - 30, raster.x0 + raster.nx * 30 <= BOX[2] + 60]).toEqual([true, true]);
		for (let k = 0; k < 50; k++) {
			const [x, y] = [401100 + 57 * k, 4991100 + 53 * k];
			expect(Math.abs(sampleRaster(raster, x, y) - terrainAt(x, y))).toBeLessThan(2);
		}
		const coarse = await readGeoTiff((await coverage(record('terrain-30'), BOX, 4))!.bytes, 't.tif');
		expect(coarse.raster.dx).toBeCloseTo(120, 6);
	});

	it('says when an area lies outside', async () => {
		expect(await coverage(record('magnetics'), [0, 0, 10, 10], 1)).toBeNull();
		expect(features(record('gravity'), [0, 0, 10, 10])).toEqual([]);
	});

	it('has features only within the area, in degrees', () => {
		const gravity = features(record('gravity'), BOX);
		expect(gravity.length).toBeGreaterThan(10);
		for (const f of gravity) {
			const [x, y] = toProjected(...(f.geometry as unknown as { coordinates: [number, number] }).coordinates);
			expect(x >= BOX[0] && x <= BOX[2] && y >= BOX[1] && y <= BOX[3]).toBe(true);
		}
		expect(new Set(features(record('geology'), CATALOGUE_BOX).map((f) => f.properties!['unit'])).size).toBeGreaterThan(4);
	});

	it('has an air photograph with its world file', async () => {
		const zip = (await coverage(record('air-photo'), BOX, 2))!.bytes;
		expect(Object.keys(unzipSync(zip))).toEqual(['photo.png', 'photo.pgw']);
		const p = readPicture(zip, 'photo.zip');
		expect(p.placement).toMatchObject({ a: 40, e: -40 });
		expect(p.placement!.f - 40 * (p.height - 1)).toBeGreaterThan(BOX[1] - 60);
	});

	it('has a picture of every record, and is the same each time', async () => {
		for (const r of RECORDS) expect(readPicture(thumbnail(r), r.id).width).toBeGreaterThan(20);
		expect(await coverage(record('magnetics'), BOX, 3)).toEqual(await coverage(record('magnetics'), BOX, 3));
		expect(features(record('gravity'), BOX)).toEqual(features(record('gravity'), BOX));
	});

	it('turns degrees into metres and back', () => {
		const [x, y] = toProjected(...toGeographic(402345.6, 4992345.6));
		expect(Math.hypot(x - 402345.6, y - 4992345.6)).toBeLessThan(1e-3);
	});
});
