import { fromArrayBuffer, writeArrayBuffer, type GeoTIFF, type GeoTIFFImage } from 'geotiff';
import type { Raster } from '../grids/raster';
import { fail, ProblemError } from '../problem';
import { warpRaster } from '../grids/warp';
import { placeByPoints, type Placement } from './picture';
import { writePng } from './png';

/** Most cells that are read. */
const MOST_CELLS = 50_000_000;

export interface ReadRaster {
	raster: Raster;
	/** EPSG code that the file names, if it does. */
	epsg: number | null;
	/** Name of a coordinate system without a code, if the file describes one; it may be another than the project's. */
	system: string | null;
	/** What is worth knowing of how it was read. */
	notes: string[];
}

/**
 * Reads the first band of a GeoTIFF (OGC 19-008r4) as elevations: values stand at pixel centres, whether the file gives its position at
 * corners or at centres; rows may run from south to north; a turned or sheared raster is brought onto rows and columns; what its
 * mask or its no-data value leaves out has no value. Of one with more cells than wanted, means of 2 × 2, 3 × 3, … cells are read.
 * @param wanted cells at most
 * @throws ProblemError `not-a-geotiff`, `no-position`, `raster-too-large`, `empty-raster`
 */
export async function readGeoTiff(bytes: Uint8Array, name: string, wanted = MOST_CELLS): Promise<ReadRaster> {
	try {
		return await read(bytes, name, wanted);
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail(
			'not-a-geotiff',
			`${name} can not be read as a GeoTIFF`,
			`Terrain is read from GeoTIFF files. The reader said: ${error instanceof Error ? error.message : String(error)}`,
			name
		);
	}
}

/** Place of the centre of a pixel: x = a·column + b·row + c, y = d·column + e·row + f. */
type Affine = Placement;

/** Where pixels lie, from the tags of an image. @throws ProblemError `no-position` */
function affineOf(image: GeoTIFFImage, name: string): Affine {
	const tag = (t: 'ModelTransformation' | 'ModelPixelScale' | 'ModelTiepoint') => image.fileDirectory.getValue(t) as number[] | undefined;
	const transformation = tag('ModelTransformation');
	const scale = tag('ModelPixelScale');
	const tie = tag('ModelTiepoint');
	let m: Affine;
	if (transformation && transformation.length >= 8) {
		const [a, b, , c, d, e, , f] = transformation as [number, number, number, number, number, number, number, number];
		m = { a, b, c, d, e, f };
	} else if (scale && tie && tie.length >= 6) {
		const [sx, sy] = scale as [number, number];
		const [i, j, , x, y] = tie as [number, number, number, number, number];
		m = { a: sx, b: 0, c: x - i * sx, d: 0, e: -sy, f: y + j * sy };
	} else if (tie && tie.length >= 18)
		m = placeByPoints(Array.from({ length: tie.length / 6 }, (_, k) => [tie[6 * k]!, tie[6 * k + 1]!, tie[6 * k + 3]!, tie[6 * k + 4]!]));
	else return fail('no-position', `${name} does not say where it lies`, 'Write the file with its position (GeoTIFF tags).', name);
	if (!Object.values(m).every(Number.isFinite) || Math.abs(m.a * m.e - m.b * m.d) < 1e-300)
		return fail('no-position', `${name} says a position that is none`, 'Write the file again with its position (GeoTIFF tags).', name);
	// Tags speak of the corner of a pixel, unless pixels are points.
	const corner = (image.getGeoKeys() as Record<string, unknown> | null)?.['GTRasterTypeGeoKey'] !== 2;
	return corner ? { ...m, c: m.c + (m.a + m.b) / 2, f: m.f + (m.d + m.e) / 2 } : m;
}

/** The mask inside a file, which says what has no value; null without one. */
async function maskOf(tiff: GeoTIFF, nx: number, ny: number): Promise<GeoTIFFImage | null> {
	for (let i = 1; i < (await tiff.getImageCount()); i++) {
		const image = await tiff.getImage(i);
		if ((Number(image.fileDirectory.getValue('NewSubfileType') ?? 0) & 4) !== 0 && image.getWidth() === nx && image.getHeight() === ny)
			return image;
	}
	return null;
}

/** Most cells of a file, whatever it is read as. */
const MOST_IN_FILE = 1_000_000_000;

async function read(bytes: Uint8Array, name: string, wanted: number): Promise<ReadRaster> {
	const tiff = await fromArrayBuffer(bytes.slice().buffer);
	const image = await tiff.getImage();
	const [width, height] = [image.getWidth(), image.getHeight()];
	if (width < 2 || height < 2) fail('empty-raster', `${name} is ${width} × ${height} cells; at least 2 × 2 are needed`, undefined, name);
	const fine = affineOf(image, name);
	const upright = fine.b === 0 && fine.d === 0;
	const most = upright ? MOST_IN_FILE : wanted;
	if (width * height > most)
		fail(
			'raster-too-large',
			`${name} has ${(width * height).toLocaleString('en')} cells; the most is ${most.toLocaleString('en')}`,
			'Clip or coarsen it first.',
			name
		);
	// What is larger than a grid may be comes in as means of 2 × 2, 3 × 3, … cells.
	const every = Math.ceil(Math.sqrt((width * height) / wanted));
	const [nx, ny] = [Math.floor(width / every), Math.floor(height / every)];
	const middle = (every - 1) / 2;
	const place = { ...fine, a: fine.a * every, e: fine.e * every, c: fine.c + middle * fine.a, f: fine.f + middle * fine.e };
	const keys: Record<string, unknown> = image.getGeoKeys() ?? {};
	const noData = image.getGDALNoData();
	const { scale, offset } = await scaling(image);
	const mask = await maskOf(tiff, width, height);
	const flipX = place.a < 0;
	const flipY = place.e < 0;
	const values = new Float32Array(nx * ny);
	let filled = 0;
	// Some rows at a time, so that a large file is never unpacked as a whole.
	const rows = Math.max(1, Math.floor(4_000_000 / (width * every)));
	for (let first = 0; first < ny; first += rows) {
		const last = Math.min(ny, first + rows);
		const window = [0, first * every, width, last * every];
		const of = async (from: GeoTIFFImage) =>
			(await from.readRasters({ samples: [0], interleave: true, window })) as unknown as ArrayLike<number>;
		const band = await of(image);
		const there = mask && (await of(mask));
		for (let row = first; row < last; row++)
			for (let column = 0; column < nx; column++) {
				let [sum, count] = [0, 0];
				for (let b = 0; b < every; b++)
					for (let a = 0, k = ((row - first) * every + b) * width + column * every; a < every; a++, k++) {
						const v = band[k]!;
						if (!Number.isFinite(v) || (there && there[k] === 0) || (noData !== null && (v === noData || Math.fround(noData) === v)))
							continue;
						[sum, count] = [sum + v, count + 1];
					}
				const [i, j] = upright ? [flipX ? nx - 1 - column : column, flipY ? ny - 1 - row : row] : [column, row];
				values[j * nx + i] = count ? (sum / count) * scale + offset : NaN;
				if (count) filled++;
			}
	}
	if (filled === 0) fail('empty-raster', `${name} holds no values`, undefined, name);
	const notes: string[] = [];
	if (image.getSamplesPerPixel() > 1) notes.push(`it has ${image.getSamplesPerPixel()} bands; the first is read`);
	if (every > 1)
		notes.push(
			`it has ${width.toLocaleString('en')} × ${height.toLocaleString('en')} cells, more than a grid may have: it is read as means of ${every} × ${every} of them`
		);
	if (mask) notes.push('its mask says where it has no values');
	let raster: Raster;
	if (upright) {
		const [dx, dy] = [Math.abs(place.a), Math.abs(place.e)];
		raster = {
			x0: flipX ? place.c + (nx - 1) * place.a : place.c,
			y0: flipY ? place.f + (ny - 1) * place.e : place.f,
			dx,
			dy,
			nx,
			ny,
			values
		};
	} else {
		notes.push('its rows are turned against north: it was brought onto rows and columns by bilinear values');
		raster = turnedUpright(place, { x0: 0, y0: 0, dx: 1, dy: 1, nx, ny, values });
	}
	const epsg = epsgOfKeys(keys);
	return { raster, epsg, system: epsg === null ? nameOfSystem(keys) : null, notes };
}

/** A raster in columns and rows of pixels, brought into the plane of its place. */
function turnedUpright(m: Affine, pixels: Raster): Raster {
	const det = m.a * m.e - m.b * m.d;
	return warpRaster(
		pixels,
		(i, j) => [m.a * i + m.b * j + m.c, m.d * i + m.e * j + m.f],
		(x, y) => [(m.e * (x - m.c) - m.b * (y - m.f)) / det, (m.a * (y - m.f) - m.d * (x - m.c)) / det]
	);
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

/** What a file calls a coordinate system that it describes without a code. */
function nameOfSystem(keys: Record<string, unknown>): string | null {
	const own = [keys['ProjectedCSTypeGeoKey'], keys['GeographicTypeGeoKey'], keys['GeodeticCRSGeoKey']].includes(32767);
	const cited = String(keys['PCSCitationGeoKey'] ?? keys['GTCitationGeoKey'] ?? keys['GeogCitationGeoKey'] ?? '')
		.replace(/\|.*$/s, '')
		.trim();
	return own ? cited || 'a system of its own' : null;
}

/** EPSG code that a GeoTIFF states, or the name of a system without one. */
export async function systemOfGeoTiff(bytes: Uint8Array): Promise<{ epsg: number | null; system: string | null }> {
	try {
		const keys: Record<string, unknown> = (await (await fromArrayBuffer(bytes.slice().buffer)).getImage()).getGeoKeys() ?? {};
		const epsg = epsgOfKeys(keys);
		return { epsg, system: epsg === null ? nameOfSystem(keys) : null };
	} catch {
		return { epsg: null, system: null };
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
export async function readColorTiff(
	bytes: Uint8Array,
	name: string
): Promise<{ png: Uint8Array; width: number; height: number; placement: Placement; epsg: number | null }> {
	try {
		const image = await (await fromArrayBuffer(bytes.slice().buffer)).getImage();
		const [width, height] = [image.getWidth(), image.getHeight()];
		if (width * height > MOST_CELLS)
			fail(
				'raster-too-large',
				`${name} has ${(width * height).toLocaleString('en')} pixels; the most is ${MOST_CELLS.toLocaleString('en')}`,
				'Clip or coarsen it first.',
				name
			);
		const rgb = (await image.readRGB({ interleave: true })) as unknown as ArrayLike<number>;
		return {
			png: writePng(width, height, Uint8Array.from(rgb)),
			width,
			height,
			placement: affineOf(image, name),
			epsg: epsgOfKeys(image.getGeoKeys() ?? {})
		};
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail(
			'not-a-geotiff',
			`${name} can not be read as a georeferenced picture`,
			`Write it with its position (GeoTIFF tags). The reader said: ${error instanceof Error ? error.message : String(error)}`,
			name
		);
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
	const buffer = await writeArrayBuffer(
		values as unknown as number[],
		{
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
		} as never
	);
	return new Uint8Array(buffer as ArrayBuffer);
}
