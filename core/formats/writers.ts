import type { Feature } from 'geojson';
import type { Raster } from '../grids/raster';
import { writeCsv } from '../tables/delimited';
import { fail } from '../problem';
import { writeAsc } from './asc';
import { writeBlocks } from './blocks';
import { writeGeoPackage } from './geopackage';
import { FORMATS, endingsFor, formatFor, titleOfEnding, type Holds, type WrittenFor } from './known';
import { collection, mapPositions } from './layer';
import { layerDxf } from './layer-dxf';
import { fileName, writeGltf, writeObj, writePly, writeStl, writeVtp, type NamedMesh } from './meshes';
import type { Pack } from './pack';
import { writeShapefiles } from './shapefile';

/** What there is to be written, by what a file holds. Tables with their own rules (LAS, AGS, workbooks) are written where these are known. */
export interface Written {
	layer: { name: string; features: Feature[] };
	grid: Raster;
	surface: NamedMesh;
	solids: readonly NamedMesh[];
	blocks: Pack;
}

/** The system in which coordinates are, for the formats that say so. */
interface WrittenIn {
	/** EPSG code; 0 for a local system. */
	crs: number;
	/** As well-known text; empty for a local one. */
	wkt: string;
	/** From it to longitude and latitude, degrees; null when it has no place on the Earth. */
	toDegrees: ((x: number, y: number) => readonly [number, number]) | null;
}

type Bytes = string | Uint8Array;
type Writer<T> = (value: T, system: WrittenIn) => Bytes | Promise<Bytes>;
export type Kind = keyof Written & Holds;

/** GeoTIFF: user-defined. */
const LOCAL = 32767;

/** Origin for formats with 24-bit numbers: the lower south-west corner, rounded down. */
function originOf(meshes: readonly NamedMesh[]): [number, number, number] {
	let [x, y] = [Infinity, Infinity];
	for (const { mesh } of meshes)
		for (let i = 0; i < mesh.positions.length; i += 3) [x, y] = [Math.min(x, mesh.positions[i]!), Math.min(y, mesh.positions[i + 1]!)];
	return [Number.isFinite(x) ? Math.floor(x) : 0, Number.isFinite(y) ? Math.floor(y) : 0, 0];
}

/** How each format is written, for all that it can hold. */
const WRITERS: { readonly [H in Kind]: { readonly [F in WrittenFor<H>]: Writer<Written[H]> } } = {
	layer: {
		geopackage: ({ name, features }, { crs, wkt }) => writeGeoPackage(name, features, crs, wkt),
		// GeoJSON knows longitude and latitude only (RFC 7946).
		geojson: ({ features }, { crs, toDegrees }) =>
			JSON.stringify(
				collection(toDegrees ? mapPositions({ features, epsg: crs }, ([x, y, ...z]) => [...toDegrees(x!, y!), ...z]).features : features)
			),
		shapefile: ({ name, features }, { wkt }) => writeShapefiles(fileName(name), features, wkt),
		dxf: ({ name, features }) => layerDxf(name, features)
	},
	// Its library begins a worker as soon as it is loaded: it is loaded where a GeoTIFF is written.
	grid: {
		tif: async (raster, { crs }) => (await import('./geotiff')).writeGeoTiff(raster, crs || LOCAL),
		asc: (raster) => writeAsc(raster)
	},
	surface: {
		obj: (mesh) => writeObj([mesh]),
		stl: (mesh) => writeStl([mesh], originOf([mesh])),
		ply: ({ mesh }) => writePly(mesh),
		gltf: (mesh) => writeGltf([mesh], originOf([mesh])),
		vtk: (mesh) => writeVtp([mesh])
	},
	solids: {
		obj: (meshes) => writeObj(meshes),
		stl: (meshes) => writeStl(meshes, originOf(meshes)),
		gltf: (meshes) => writeGltf(meshes, originOf(meshes)),
		vtk: (meshes) => writeVtp(meshes)
	},
	blocks: { image: (pack) => writeBlocks(pack) }
};

/** Rows as CSV, with its media type. */
export const csvFile = (header: readonly string[], rows: readonly (readonly (string | number)[])[]): { bytes: string; media: string } => ({
	bytes: writeCsv(header, rows),
	media: FORMATS.delimited.media
});

/** A system without a place on the Earth. */
export const LOCAL_SYSTEM: WrittenIn = { crs: 0, wkt: '', toDegrees: null };

/**
 * Writes a file of the format of an ending.
 * @param named what it is, for the message
 * @throws ProblemError `not-found` when what it holds is not written so
 */
export async function writeAs<H extends Kind>(
	holds: H,
	ending: string,
	value: Written[H],
	system: WrittenIn,
	named = 'it'
): Promise<{ bytes: Bytes; media: string }> {
	const format = formatFor(holds, ending);
	if (!format) return refuseEnding(named, ending, endingsFor(holds));
	return { bytes: await WRITERS[holds][format](value, system), media: FORMATS[format].media };
}

/** @throws ProblemError `not-found`, with the endings that there are */
export const refuseEnding = (named: string, ending: string, endings: readonly string[]): never =>
	fail(
		'not-found',
		`${named} can not be saved as ${titleOfEnding(ending)}`,
		`It can be saved as ${endings.join(', ') || 'nothing'}.`,
		'format'
	);
