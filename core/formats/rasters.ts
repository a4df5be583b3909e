import type { Raster } from '../grids/raster';
import { fail, ProblemError } from '../problem';
import { isAsc, readAsc } from './asc';
import { readGeoTiff, systemOfGeoTiff, type ReadRaster } from './geotiff';
import { isNetCdf, readNetCdf } from './netcdf';
import { formatAmong, type Readers } from './reader';
import { readXyz } from './xyz';

const TIFFS = [0x49492a00, 0x4d4d002a, 0x49492b00, 0x4d4d002b];

/** Whether a file begins as TIFF does. */
export const isTiff = (b: Uint8Array): boolean => b.length >= 4 && TIFFS.includes(new DataView(b.buffer, b.byteOffset, 4).getUint32(0));

const plain = (read: { raster: Raster; notes: string[] }): ReadRaster => ({ epsg: null, system: null, ...read });

/** How grids are told and read; lines of x, y and z by the name of their file. */
const GRID_READERS: Readers<'grid', ReadRaster> = {
	tif: { is: ({ bytes }) => isTiff(bytes), read: (bytes, name) => readGeoTiff(bytes, name) },
	netcdf: { is: ({ bytes }) => isNetCdf(bytes), read: readNetCdf },
	asc: { is: ({ text }) => isAsc(text), read: (bytes, name) => plain({ raster: readAsc(bytes, name), notes: [] }) },
	xyz: { is: ({ name }) => /\.xyz$/i.test(name), read: (bytes, name) => plain(readXyz(bytes, name)) }
};

/** What a raster is, from its first bytes, and for lines of x, y and z from its name; null when it is none. */
export const rasterFormat = (bytes: Uint8Array, name: string): keyof typeof GRID_READERS | null => formatAmong(GRID_READERS, bytes, name);

/** Reads any raster; what is not known is read as lines of x, y and z when `name` says so or `asText`. @throws ProblemError that says what is wrong with it */
export async function readRaster(bytes: Uint8Array, name: string, asText = false): Promise<ReadRaster> {
	try {
		return await GRID_READERS[rasterFormat(bytes, name) ?? (asText ? 'xyz' : 'tif')].read(bytes, name);
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
