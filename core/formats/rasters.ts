import { fail, ProblemError } from '../problem';
import { isAsc, readAsc } from './asc';
import { readGeoTiff, systemOfGeoTiff, type ReadRaster } from './geotiff';
import { isNetCdf, readNetCdf } from './netcdf';
import { readXyz } from './xyz';

const TIFFS = [0x49492a00, 0x4d4d002a, 0x49492b00, 0x4d4d002b];

/** Whether a file begins as TIFF does. */
export const isTiff = (b: Uint8Array): boolean => b.length >= 4 && TIFFS.includes(new DataView(b.buffer, b.byteOffset, 4).getUint32(0));

type RasterFormat = 'tif' | 'asc' | 'netcdf' | 'xyz';

const headOf = (bytes: Uint8Array) => new TextDecoder('latin1').decode(bytes.subarray(0, 200));

/** What a raster is, from its first bytes, and for lines of x, y and z from its name; null when it is none. */
export function rasterFormat(bytes: Uint8Array, name: string): RasterFormat | null {
	if (isTiff(bytes)) return 'tif';
	if (isNetCdf(bytes)) return 'netcdf';
	if (isAsc(headOf(bytes))) return 'asc';
	return /\.xyz$/i.test(name) ? 'xyz' : null;
}

/** Reads any raster; what is not known is read as lines of x, y and z when `name` says so or `asText`. @throws ProblemError that says what is wrong with it */
export async function readRaster(bytes: Uint8Array, name: string, asText = false): Promise<ReadRaster> {
	const format = rasterFormat(bytes, name) ?? (asText ? 'xyz' : 'tif');
	try {
		if (format === 'tif') return await readGeoTiff(bytes, name);
		if (format === 'netcdf') return readNetCdf(bytes, name);
		return { epsg: null, system: null, ...(format === 'asc' ? { raster: readAsc(bytes, name), notes: [] } : readXyz(bytes, name)) };
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail(
			'damaged-file',
			`${name} can not be read as a grid`,
			`The file is damaged. The reader said: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`,
			name
		);
	}
}

/** EPSG code that a raster states, or the name of a system that it describes without one. */
export async function systemOfRaster(bytes: Uint8Array, name: string): Promise<{ epsg: number | null; system: string | null }> {
	if (isTiff(bytes)) return systemOfGeoTiff(bytes);
	if (!isNetCdf(bytes)) return { epsg: null, system: null };
	const { epsg, system } = await readRaster(bytes, name);
	return { epsg, system };
}
