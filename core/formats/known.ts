/** What a file can hold: rows of a table; points, lines and polygons; a grid of values; one triangulated surface; closed solids; blocks of values. */
export type Holds = 'table' | 'layer' | 'grid' | 'surface' | 'solids' | 'blocks';

interface Format {
	title: string;
	/** Of the name of a file that is written. */
	ending: string;
	media: string;
	reads: readonly Holds[];
	writes: readonly Holds[];
}

/**
 * All formats of files. How each is told and read stands with what it holds (`tabular.ts`, `vectors.ts`, `rasters.ts`, `mesh-readers.ts`), how it is
 * written in `writers.ts`; the types of these lists follow from this one, so that none can be forgotten.
 */
export const FORMATS = {
	delimited: { title: 'CSV', ending: 'csv', media: 'text/csv; charset=utf-8', reads: ['table'], writes: ['table'] },
	xlsx: {
		title: 'XLSX',
		ending: 'xlsx',
		media: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
		reads: ['table'],
		writes: ['table']
	},
	ods: { title: 'ODS', ending: 'ods', media: 'application/vnd.oasis.opendocument.spreadsheet', reads: ['table'], writes: [] },
	las: { title: 'LAS', ending: 'las', media: 'text/plain', reads: ['table'], writes: ['table'] },
	ags: { title: 'AGS', ending: 'ags', media: 'text/plain; charset=utf-8', reads: ['table'], writes: ['table'] },
	geopackage: { title: 'GeoPackage', ending: 'gpkg', media: 'application/geopackage+sqlite3', reads: ['layer'], writes: ['layer'] },
	geojson: { title: 'GeoJSON', ending: 'geojson', media: 'application/geo+json', reads: ['layer'], writes: ['layer'] },
	shapefile: { title: 'shapefiles', ending: 'zip', media: 'application/zip', reads: ['layer'], writes: ['layer'] },
	dxf: { title: 'DXF', ending: 'dxf', media: 'image/vnd.dxf', reads: ['layer'], writes: ['layer'] },
	kml: { title: 'KML', ending: 'kml', media: 'application/vnd.google-earth.kml+xml', reads: ['layer'], writes: [] },
	kmz: { title: 'KMZ', ending: 'kmz', media: 'application/vnd.google-earth.kmz', reads: ['layer'], writes: [] },
	gpx: { title: 'GPX', ending: 'gpx', media: 'application/gpx+xml', reads: ['layer'], writes: [] },
	gml: { title: 'GML', ending: 'gml', media: 'application/gml+xml', reads: ['layer'], writes: [] },
	tif: { title: 'GeoTIFF', ending: 'tif', media: 'image/tiff', reads: ['grid'], writes: ['grid'] },
	asc: { title: 'ASCII grid', ending: 'asc', media: 'text/plain', reads: ['grid'], writes: ['grid'] },
	netcdf: { title: 'netCDF', ending: 'nc', media: 'application/x-netcdf', reads: ['grid'], writes: [] },
	xyz: { title: 'lines of x, y and z', ending: 'xyz', media: 'text/plain', reads: ['grid'], writes: [] },
	obj: { title: 'OBJ', ending: 'obj', media: 'model/obj', reads: ['surface'], writes: ['surface', 'solids'] },
	stl: { title: 'STL', ending: 'stl', media: 'model/stl', reads: ['surface'], writes: ['surface', 'solids'] },
	ply: { title: 'PLY', ending: 'ply', media: 'application/octet-stream', reads: ['surface'], writes: ['surface'] },
	gltf: { title: 'glTF', ending: 'glb', media: 'model/gltf-binary', reads: ['surface'], writes: ['surface', 'solids'] },
	vtk: { title: 'VTK XML', ending: 'vtp', media: 'application/xml', reads: ['surface'], writes: ['surface', 'solids'] },
	image: { title: 'VTK XML image', ending: 'vti', media: 'application/xml', reads: [], writes: ['blocks'] }
} as const satisfies Record<string, Format>;

type FormatId = keyof typeof FORMATS;
/** The formats that are read, or written, for what they hold. */
export type ReadFor<H extends Holds> = { [F in FormatId]: H extends (typeof FORMATS)[F]['reads'][number] ? F : never }[FormatId];
export type WrittenFor<H extends Holds> = { [F in FormatId]: H extends (typeof FORMATS)[F]['writes'][number] ? F : never }[FormatId];

const all: [FormatId, Format][] = Object.entries(FORMATS) as [FormatId, Format][];

/** Endings of the formats in which something is written. */
export const endingsFor = (holds: Holds): string[] => all.filter(([, f]) => f.writes.includes(holds)).map(([, f]) => f.ending);

/** Titles of the formats from which something is read, as a list in words. */
export function titlesRead(holds: Holds): string {
	const titles = all.filter(([, f]) => f.reads.includes(holds)).map(([, f]) => f.title);
	return `${titles.slice(0, -1).join(', ')} and ${titles[titles.length - 1]}`;
}

/** The format in which something is written by the ending of the file; undefined when there is none. */
export const formatFor = <H extends Holds>(holds: H, ending: string): WrittenFor<H> | undefined =>
	all.find(([, f]) => f.ending === ending && f.writes.includes(holds))?.[0] as WrittenFor<H> | undefined;

/** What the format of an ending is called. */
export const titleOfEnding = (ending: string): string => all.find(([, f]) => f.ending === ending)?.[1].title ?? ending.toUpperCase();
