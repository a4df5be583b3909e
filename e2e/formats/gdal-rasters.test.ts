import { writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { readAsc, writeAsc } from '#core/formats/asc';
import { isColorTiff, readColorTiff, readGeoTiff, writeGeoTiff } from '#core/formats/geotiff';
import { readPicture } from '#core/formats/picture';
import { readRaster } from '#core/formats/rasters';
import type { Raster } from '#core/grids/raster';
import { at, bytesOf, gdal } from './gdal';

const raster: Raster = {
	x0: 402_005,
	y0: 4_990_005,
	dx: 10,
	dy: 10,
	nx: 37,
	ny: 23,
	values: Float32Array.from({ length: 37 * 23 }, (_, i) => (i % 50 === 7 ? NaN : Math.fround(Math.sin(i / 9) * 300 + i / 7)))
};
const sameRaster = (r: Raster, tolerance = 0) => {
	expect([r.nx, r.ny]).toEqual([raster.nx, raster.ny]);
	for (const [a, b] of [
		[r.x0, raster.x0],
		[r.y0, raster.y0],
		[r.dx, raster.dx],
		[r.dy, raster.dy]
	] as const)
		expect(a).toBeCloseTo(b, 6);
	r.values.forEach((v, i) =>
		Number.isNaN(raster.values[i]!) ? expect(v).toBeNaN() : expect(Math.abs(v - raster.values[i]!)).toBeLessThanOrEqual(tolerance)
	);
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
		gdal(
			'gdal_translate',
			'-q',
			'-ot',
			'Int16',
			'-a_nodata',
			'-32768',
			'-scale',
			'-400',
			'600',
			'-32000',
			'32000',
			'-a_scale',
			'0.015625',
			'-a_offset',
			'100',
			at('own.tif'),
			at('scaled.tif')
		);
		// What the whole numbers stand for, as another reader has it.
		const other = gdal(
			'gdal_translate',
			'-q',
			'-of',
			'AAIGrid',
			'-unscale',
			'-ot',
			'Float64',
			'-co',
			'SIGNIFICANT_DIGITS=12',
			at('scaled.tif'),
			'/vsistdout/'
		);
		const r = (await readGeoTiff(bytesOf('scaled.tif'), 'scaled.tif')).raster;
		const theirs = readAsc(new TextEncoder().encode(other), 'x.asc');
		let compared = 0;
		r.values.forEach((v, i) => {
			if (Number.isNaN(raster.values[i]!)) return;
			expect(Math.abs(v - theirs.values[i]!)).toBeLessThan(1e-3);
			expect(Math.abs(v - raster.values[i]!)).toBeLessThan(0.02);
			compared++;
		});
		expect(compared).toBeGreaterThan(800);
	});

	/** The value that GDAL has at a place, NaN for none. */
	const valueAt = (file: string, x: number, y: number): number => {
		const said = gdal('gdallocationinfo', '-valonly', '-geoloc', at(file), String(x), String(y)).trim();
		return said === '' || said === '-9999' ? NaN : Number(said);
	};
	const sameAs = (r: Raster, file: string, tolerance = 1e-4) => {
		let compared = 0;
		for (const [i, j] of [
			[3, 4],
			[20, 11],
			[30, 2],
			[10, 18],
			[35, 21],
			[0, 0],
			[36, 22]
		] as const) {
			if (i >= r.nx || j >= r.ny) continue;
			const theirs = valueAt(file, r.x0 + i * r.dx, r.y0 + j * r.dy);
			const ours = r.values[j * r.nx + i]!;
			if (Number.isNaN(theirs)) expect(ours).toBeNaN();
			else expect(Math.abs(ours - theirs)).toBeLessThan(tolerance);
			compared++;
		}
		expect(compared).toBeGreaterThan(4);
	};
	it('GeoTIFF whose pixels are points, not areas', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal('gdal_translate', '-q', '-mo', 'AREA_OR_POINT=Point', at('own.tif'), at('point.tif'));
		const read = await readGeoTiff(bytesOf('point.tif'), 'point.tif');
		sameRaster(read.raster);
		sameAs(read.raster, 'point.tif');
	});
	it('GeoTIFF whose rows run from south to north', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		const [left, low, right, high] = [402_000, 4_990_000, 402_370, 4_990_230];
		gdal(
			'gdal_translate',
			'-q',
			'-of',
			'GTiff',
			'-a_ullr',
			String(left),
			String(low),
			String(right),
			String(high),
			at('own.tif'),
			at('south.tif')
		);
		const read = await readGeoTiff(bytesOf('south.tif'), 'south.tif');
		expect(read.raster).toMatchObject({ x0: raster.x0, y0: raster.y0, dx: 10, dy: 10 });
		sameAs(read.raster, 'south.tif');
		// The first row of the file lies in the south now.
		expect(read.raster.values[5]).toBe(raster.values[22 * 37 + 5]);
	});
	it('GeoTIFF that is turned: each value where it belongs', async () => {
		const tilted = { ...raster, values: Float32Array.from({ length: 37 * 23 }, (_, i) => 100 + 2 * (i % 37) + 3 * Math.floor(i / 37)) };
		writeFileSync(at('own.tif'), await writeGeoTiff(tilted, 32628));
		const [c, s] = [Math.cos(0.4), Math.sin(0.4)];
		const gt = [402_000, 10 * c, 10 * s, 4_990_230, 10 * s, -10 * c];
		writeFileSync(
			at('turn.vrt'),
			`<VRTDataset rasterXSize="37" rasterYSize="23"><SRS>EPSG:32628</SRS><GeoTransform>${gt.join(', ')}</GeoTransform><VRTRasterBand dataType="Float32" band="1"><SimpleSource><SourceFilename>${at('own.tif')}</SourceFilename><SourceBand>1</SourceBand></SimpleSource></VRTRasterBand></VRTDataset>`
		);
		gdal('gdal_translate', '-q', at('turn.vrt'), at('turned.tif'));
		const read = await readGeoTiff(bytesOf('turned.tif'), 'turned.tif');
		expect(read.notes.join()).toContain('turned');
		let compared = 0;
		const r = read.raster;
		for (let j = 1; j < r.ny; j += 3)
			for (let i = 1; i < r.nx; i += 3) {
				const v = r.values[j * r.nx + i]!;
				if (Number.isNaN(v)) continue;
				const [x, y] = [r.x0 + i * r.dx - gt[0]!, r.y0 + j * r.dy - gt[3]!];
				const det = gt[1]! * gt[5]! - gt[2]! * gt[4]!;
				const [column, row] = [(gt[5]! * x - gt[2]! * y) / det - 0.5, (gt[1]! * y - gt[4]! * x) / det - 0.5];
				// The values are a plane, so that bilinear ones are exact.
				expect(Math.abs(v - (100 + 2 * column + 3 * (22 - row)))).toBeLessThan(1e-3);
				compared++;
			}
		expect(compared).toBeGreaterThan(60);
	});
	it('GeoTIFF with a mask inside: what it leaves out has no value', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff({ ...raster, values: raster.values.map((v) => (Number.isNaN(v) ? 0 : v)) }, 32628));
		writeFileSync(
			at('mask.vrt'),
			`<VRTDataset rasterXSize="37" rasterYSize="23"><SRS>EPSG:32628</SRS><GeoTransform>402000, 10, 0, 4990230, 0, -10</GeoTransform><VRTRasterBand dataType="Float32" band="1"><SimpleSource><SourceFilename>${at('own.tif')}</SourceFilename><SourceBand>1</SourceBand></SimpleSource></VRTRasterBand><MaskBand><VRTRasterBand dataType="Byte"><SimpleSource><SourceFilename>${at('half.tif')}</SourceFilename><SourceBand>1</SourceBand></SimpleSource></VRTRasterBand></MaskBand></VRTDataset>`
		);
		const half = { ...raster, values: Float32Array.from({ length: 37 * 23 }, (_, i) => (i % 37 < 18 ? 255 : 0)) };
		writeFileSync(at('half.tif'), await writeGeoTiff(half, 32628));
		gdal('gdal_translate', '-q', '--config', 'GDAL_TIFF_INTERNAL_MASK', 'YES', at('mask.vrt'), at('masked.tif'));
		const { raster: r } = await readGeoTiff(bytesOf('masked.tif'), 'masked.tif');
		for (let i = 0; i < r.values.length; i++) expect([i, Number.isNaN(r.values[i]!)]).toEqual([i, i % 37 >= 18]);
	});
	it('GeoTIFF in a system without a code names it, and is not taken for any', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal(
			'gdal_translate',
			'-q',
			'-a_srs',
			'+proj=tmerc +lat_0=44.5 +lon_0=-15.3 +k=0.9998 +x_0=200000 +y_0=100000 +ellps=intl +units=m',
			at('own.tif'),
			at('own-system.tif')
		);
		const read = await readGeoTiff(bytesOf('own-system.tif'), 'own-system.tif');
		expect(read.epsg).toBeNull();
		expect(read.system).toBeTruthy();
		expect((await readGeoTiff(bytesOf('own.tif'), 'own.tif')).system).toBeNull();
	});

	it('a GeoTIFF in colours as a picture with its place', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal(
			'gdal_translate',
			'-q',
			'-ot',
			'Byte',
			'-scale',
			'-500',
			'500',
			'0',
			'255',
			'-b',
			'1',
			'-b',
			'1',
			'-b',
			'1',
			'-co',
			'PHOTOMETRIC=RGB',
			at('own.tif'),
			at('color.tif')
		);
		expect(await isColorTiff(bytesOf('own.tif'))).toBe(false);
		expect(await isColorTiff(bytesOf('color.tif'))).toBe(true);
		const p = await readColorTiff(bytesOf('color.tif'), 'color.tif');
		expect(p).toMatchObject({
			width: 37,
			height: 23,
			epsg: 32628,
			placement: { a: 10, b: 0, d: 0, e: -10, c: raster.x0, f: raster.y0 + 220 }
		});
		expect(readPicture(p.png, 'x.png')).toMatchObject({ width: 37, height: 23 });
		writeFileSync(at('own.png'), p.png);
		writeFileSync(at('own.pgw'), [p.placement.a, p.placement.d, p.placement.b, p.placement.e, p.placement.c, p.placement.f].join('\n'));
		const grey = (name: string) =>
			gdal('gdal_translate', '-q', '-of', 'AAIGrid', '-b', '2', at(name), '/vsistdout/')
				.split(/\s+/)
				.filter((t) => /^\d+$/.test(t))
				.slice(-700);
		expect(grey('own.png')).toEqual(grey('color.tif'));
	});

	it('netCDF as another program writes it, and lines of x, y and z', async () => {
		writeFileSync(at('own.tif'), await writeGeoTiff(raster, 32628));
		gdal('gdal_translate', '-q', '-of', 'netCDF', '-co', 'FORMAT=NC', at('own.tif'), at('other.nc'));
		const read = await readRaster(bytesOf('other.nc'), 'other.nc');
		expect(read.epsg).toBe(32628);
		sameRaster(read.raster, 1e-4);
		gdal('gdal_translate', '-q', '-of', 'netCDF', '-co', 'FORMAT=NC4', at('own.tif'), at('newer.nc'));
		await expect(readRaster(bytesOf('newer.nc'), 'newer.nc')).rejects.toMatchObject({ problem: { kind: 'not-read' } });
		gdal('gdal_translate', '-q', '-of', 'XYZ', '-a_nodata', 'nan', at('own.tif'), at('other.xyz'));
		sameRaster((await readRaster(bytesOf('other.xyz'), 'other.xyz')).raster, 1e-3);
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
