import { fromArrayBuffer, writeArrayBuffer } from 'geotiff';
import type { Raster } from '../grids/raster';
import { fail, ProblemError } from '../problem';
import type { Placement } from './picture';
import { writePng } from './png';

/** Most cells that are read. */
const MOST_CELLS = 50_000_000;

export interface ReadRaster {
	raster: Raster;
	/** EPSG code that the file names, if it does. */
	epsg: number | null;
}

/**
 * Reads the first band of a GeoTIFF as elevations. Pixels are areas or points as the file says; values stand at pixel centres.
 * @throws ProblemError `not-a-geotiff`, `no-position`, `raster-too-large`, `empty-raster`
 */
export async function readGeoTiff(bytes: Uint8Array, name: string): Promise<ReadRaster> {
	try {
		return await read(bytes, name);
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail('not-a-geotiff', `${name} can not be read as a GeoTIFF`, `Terrain is read from GeoTIFF files. The reader said: ${error instanceof Error ? error.message : String(error)}`, name);
	}
}

async function read(bytes: Uint8Array, name: string): Promise<ReadRaster> {
	const tiff = await fromArrayBuffer(bytes.slice().buffer);
	const image = await tiff.getImage();
	const [nx, ny] = [image.getWidth(), image.getHeight()];
	if (nx * ny > MOST_CELLS) fail('raster-too-large', `${name} has ${(nx * ny).toLocaleString('en')} cells; the most is ${MOST_CELLS.toLocaleString('en')}`, 'Clip or coarsen it first.', name);
	if (nx < 2 || ny < 2) fail('empty-raster', `${name} is ${nx} × ${ny} cells; at least 2 × 2 are needed`, undefined, name);
	let box: number[];
	try {
		box = image.getBoundingBox();
	} catch {
		return fail('no-position', `${name} does not say where it lies`, 'Write the file with its position (GeoTIFF tags).', name);
	}
	const [minX, minY, maxX, maxY] = box as [number, number, number, number];
	const keys: Record<string, unknown> = image.getGeoKeys() ?? {};
	const noData = image.getGDALNoData();
	const { scale, offset } = await scaling(image);
	const band = (await image.readRasters({ samples: [0], interleave: true })) as unknown as ArrayLike<number>;
	const dx = (maxX - minX) / nx;
	const dy = (maxY - minY) / ny;
	const values = new Float32Array(nx * ny);
	let filled = 0;
	for (let j = 0; j < ny; j++)
		for (let i = 0; i < nx; i++) {
			const v = band[(ny - 1 - j) * nx + i]!;
			const missing = !Number.isFinite(v) || (noData !== null && (v === noData || Math.fround(noData) === v));
			values[j * nx + i] = missing ? NaN : v * scale + offset;
			if (!missing) filled++;
		}
	if (filled === 0) fail('empty-raster', `${name} holds no values`, undefined, name);
	return { raster: { x0: minX + dx / 2, y0: minY + dy / 2, dx, dy, nx, ny, values }, epsg: epsgOfKeys(keys) };
}

/** Scale and offset of the first band, as GDAL writes them into the metadata. */
async function scaling(image: { getGDALMetadata(sample?: number | null): unknown }): Promise<{ scale: number; offset: number }> {
	const items = ((await image.getGDALMetadata(0)) ?? {}) as Record<string, unknown>;
	const of = (name: string, otherwise: number) => {
		const v = Number(items[name] ?? NaN);
		return Number.isFinite(v) ? v : otherwise;
	};
	return { scale: of('SCALE', 1), offset: of('OFFSET', 0) };
}

function epsgOfKeys(keys: Record<string, unknown>): number | null {
	const epsg = Number(keys['ProjectedCSTypeGeoKey'] ?? keys['GeographicTypeGeoKey']);
	return Number.isInteger(epsg) && epsg > 0 && epsg < 32767 ? epsg : null;
}

/** EPSG code that a GeoTIFF states, or null. */
export async function epsgOfGeoTiff(bytes: Uint8Array): Promise<number | null> {
	try {
		return epsgOfKeys((await (await fromArrayBuffer(bytes.slice().buffer)).getImage()).getGeoKeys() ?? {});
	} catch {
		return null;
	}
}

/** Whether a TIFF is a picture in colours and not a grid of one value: three bands or more of 8 bits. */
export async function isColorTiff(bytes: Uint8Array): Promise<boolean> {
	try {
		const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
		return image.getSamplesPerPixel() >= 3 && image.getBitsPerSample(0) === 8;
	} catch {
		return false;
	}
}

/**
 * Reads a georeferenced TIFF in colours as a PNG picture and the place of its pixels.
 * @throws ProblemError `not-a-geotiff`, `no-position`, `raster-too-large`
 */
export async function readColorTiff(bytes: Uint8Array, name: string): Promise<{ png: Uint8Array; width: number; height: number; placement: Placement; epsg: number | null }> {
	try {
		const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
		const [width, height] = [image.getWidth(), image.getHeight()];
		if (width * height > MOST_CELLS) fail('raster-too-large', `${name} has ${(width * height).toLocaleString('en')} pixels; the most is ${MOST_CELLS.toLocaleString('en')}`, 'Clip or coarsen it first.', name);
		const rgb = (await image.readRGB({ interleave: true })) as unknown as ArrayLike<number>;
		const [minX, minY, maxX, maxY] = image.getBoundingBox() as [number, number, number, number];
		const [dx, dy] = [(maxX - minX) / width, (maxY - minY) / height];
		return { png: writePng(width, height, Uint8Array.from(rgb)), width, height, placement: { a: dx, b: 0, c: minX + dx / 2, d: 0, e: -dy, f: maxY - dy / 2 }, epsg: epsgOfKeys(image.getGeoKeys() ?? {}) };
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail('not-a-geotiff', `${name} can not be read as a georeferenced picture`, `Write it with its position (GeoTIFF tags). The reader said: ${error instanceof Error ? error.message : String(error)}`, name);
	}
}

/** The least number of 32 bits: no measurement is that. */
const NO_DATA = -3.4028234663852886e38;

/** Writes a raster as a single-band GeoTIFF of 32-bit numbers. */
export async function writeGeoTiff(r: Raster, epsg: number): Promise<Uint8Array> {
	const values = new Float32Array(r.nx * r.ny);
	for (let j = 0; j < r.ny; j++)
		for (let i = 0; i < r.nx; i++) {
			const v = r.values[j * r.nx + i]!;
			values[(r.ny - 1 - j) * r.nx + i] = Number.isNaN(v) ? NO_DATA : v;
		}
	const buffer = await writeArrayBuffer(values as unknown as number[], {
		width: r.nx,
		height: r.ny,
		BitsPerSample: [32],
		SampleFormat: [3],
		ModelPixelScale: [r.dx, r.dy, 0],
		ModelTiepoint: [0, 0, 0, r.x0 - r.dx / 2, r.y0 + (r.ny - 0.5) * r.dy, 0],
		GTModelTypeGeoKey: 1,
		GTRasterTypeGeoKey: 1,
		ProjectedCSTypeGeoKey: epsg,
		GDAL_NODATA: String(NO_DATA)
	} as never);
	return new Uint8Array(buffer as ArrayBuffer);
}
