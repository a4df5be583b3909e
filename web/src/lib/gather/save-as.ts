/** The formats in which a source can be saved, by its kind; `placed` and those of layers give rows of a table where they lie in space. */
const SAVE_AS: Record<string, readonly string[]> = {
	table: ['csv', 'xlsx', 'las', 'ags', 'placed', 'gpkg', 'geojson', 'zip', 'dxf'],
	terrain: ['tif', 'asc'],
	grid: ['tif', 'asc'],
	layer: ['gpkg', 'geojson', 'zip', 'dxf'],
	surface: ['obj', 'stl', 'ply', 'glb']
};

const NAMES: Record<string, string> = {
	tif: 'GeoTIFF',
	asc: 'ASCII grid',
	gpkg: 'GeoPackage',
	geojson: 'GeoJSON',
	zip: 'shapefiles',
	glb: 'glTF',
	placed: 'CSV with places'
};

/** What a format is called. */
export const formatName = (format: string): string => NAMES[format] ?? format.toUpperCase();

/** The formats of one source: LAS holds readings along one hole, AGS collars and logs. */
export const formatsOf = (kind: string, tableKind: unknown): readonly string[] =>
	(SAVE_AS[kind] ?? []).filter((f) =>
		f === 'las' ? tableKind === 'readings' : f === 'ags' ? tableKind === 'collars' || tableKind === 'intervals' : true
	);
