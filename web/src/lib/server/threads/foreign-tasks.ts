import type { Rectangle } from '#core/grids/frame';
import { unzipSync } from 'fflate';
import { checkTables } from '#core/checks/check';
import { isColorTiff, readColorTiff } from '#core/formats/geotiff';
import { describeLayer, mapPositions } from '#core/formats/layer';
import { meshFormat, readMesh } from '#core/formats/mesh-readers';
import { writePack } from '#core/formats/pack';
import { isPicture, readPicture as readPlainPicture } from '#core/formats/picture';
import { headOf } from '#core/formats/reader';
import { partsOfFile, readTabular, workbookFormat } from '#core/formats/tabular';
import { readVectors, vectorFormat } from '#core/formats/vectors';
import { placing, placingBack, type Coordinates } from '#core/geometry/coordinates';
import { rasterRange } from '#core/grids/raster';
import { clipRaster, coarsen, warpError, warpRaster } from '#core/grids/warp';
import { fail, ProblemError } from '#core/problem';
import { appendTables } from '#core/tables/compare';
import type { TableKind } from '#core/tables/kinds';
import {
	guessEpsg,
	guessKind,
	guessMapping,
	guessUnits,
	missingRoles,
	validateMapping,
	type ColumnUnits,
	type Mapping
} from '#core/tables/mapping';
import { firstRows, readingAgain, rowOf, type OddRow, type RawTable, type Reading } from '#core/tables/raw-table';
import { readTable } from '#core/tables/table';
import { isTiff, rasterFormat, readRaster, systemOfRaster } from '#core/formats/rasters';
import { guessWritten, isAmbiguous, type Written } from '#core/tables/written';
import { encodeChunks, type TableState } from './stored-table';
import { answer } from './answer';

/** What a file can be said to be. */
export type ForeignKind = 'table' | 'terrain' | 'grid' | 'layer' | 'surface' | 'picture';

interface FileMessage {
	bytes: Uint8Array;
	fileName: string;
}

/**
 * What a file is taken to be, by its content first: a workbook with a picture in it is a workbook.
 * @param whole whether these are all bytes; of the first part of a text enough is seen
 */
async function recognise({ bytes, fileName }: FileMessage): Promise<Exclude<ForeignKind, 'grid'>> {
	if (isTiff(bytes)) return (await isColorTiff(bytes)) ? 'picture' : 'terrain';
	if (rasterFormat(bytes, fileName)) return 'terrain';
	if (/\.tiff?$/i.test(fileName))
		return fail(
			'not-a-geotiff',
			`${fileName} is called a TIFF, but is none`,
			'Choose the file again; a terrain is read from GeoTIFF, netCDF, an ASCII grid or lines of x, y and z.',
			fileName
		);
	if (meshFormat(bytes, fileName)) return 'surface';
	if (workbookFormat(headOf(bytes, fileName).entries)) return 'table';
	if (vectorFormat(bytes, fileName)) return 'layer';
	return isPicture(bytes, fileName) ? 'picture' : 'table';
}

/** What a file is, and what there is to know of it before it is brought in; of tables see `previewTable`. @param as what the user says it is */
export const previewThing = (m: FileMessage & { as?: ForeignKind }) =>
	answer(async () => {
		const as = m.as ?? (await recognise(m));
		switch (as) {
			case 'table':
				return { as };
			case 'picture': {
				const p = isTiff(m.bytes) ? await readColorTiff(m.bytes, m.fileName) : { ...readPlainPicture(m.bytes, m.fileName), epsg: null };
				return {
					as,
					epsg: p.epsg,
					says: `${p.width} × ${p.height} pixels`,
					picture: { width: p.width, height: p.height, placement: p.placement }
				};
			}
			case 'terrain':
			case 'grid': {
				const { raster, epsg, system, notes } = await readRaster(m.bytes, m.fileName, true);
				const { values: _values, ...shape } = raster;
				return { as, epsg, system, notes, terrain: { ...shape, epsg, ...rasterRange(raster) } };
			}
			case 'surface': {
				const mesh = await readMesh(m.bytes, m.fileName);
				return { as, epsg: null, says: `${mesh.triangles.length / 3} triangles` };
			}
			case 'layer': {
				const layer = await readVectors(m.bytes, m.fileName);
				const d = describeLayer(layer);
				return {
					as,
					epsg: layer.epsg,
					says: `${d.points} points, ${d.lines} lines, ${d.polygons} polygons`,
					properties: d.properties,
					notes: layer.notes ?? [],
					parts: layer.parts ?? []
				};
			}
		}
	});

export interface GridMessage extends FileMessage {
	coordinates: Coordinates;
	/** Only every so many cells, as their mean. */
	every?: number;
	/** Only the part within this box, in project coordinates. */
	clip?: [number, number, number, number];
}

/** Reads a raster into a pack, in the system of the project. */
export const readGrid = (m: GridMessage) =>
	answer(async () => {
		const { raster: read, epsg, notes } = await readRaster(m.bytes, m.fileName, true);
		let raster = coarsen(read, m.every ?? 1);
		const [forward, back] = [placing(m.coordinates), placingBack(m.coordinates)];
		if (forward && back) {
			const warped = warpRaster(raster, forward, back);
			const { worst, rms } = warpError(raster, warped, forward);
			notes.push(
				`brought into the system of the project; values moved by resampling by ${worst.toPrecision(2)} at most, ${rms.toPrecision(2)} on average`
			);
			raster = warped;
		}
		if (m.coordinates.verticalShift) raster = { ...raster, values: raster.values.map((v) => v + m.coordinates.verticalShift!) };
		if (m.clip)
			raster =
				clipRaster(raster, m.clip) ??
				fail(
					'outside',
					`${m.fileName} lies outside the box to which it is to be clipped`,
					'Check its coordinate system, or bring it in whole.',
					m.fileName
				);
		const { values, ...shape } = raster;
		return { pack: writePack({ info: { ...shape, epsg }, arrays: { values } }), shape, epsg, notes, ...rasterRange(raster) };
	});

/** A georeferenced TIFF in colours as a PNG picture, or a PNG or JPEG picture as it is. */
export const readPicture = (m: FileMessage) =>
	answer(async () => {
		if (!isTiff(m.bytes)) {
			const { bytes: _bytes, ...picture } = readPlainPicture(m.bytes, m.fileName);
			return { ...picture, png: null, epsg: null };
		}
		return { ...(await readColorTiff(m.bytes, m.fileName)), media: 'image/png' as const };
	});

/** EPSG code that a raster or layer states, or the name of a system that it describes without one. */
export const systemOf = (m: FileMessage & { as: 'raster' | 'layer'; part?: string }) =>
	answer(async () => {
		if (m.as === 'layer') return { epsg: (await readVectors(m.bytes, m.fileName, m.part)).epsg, system: null };
		return systemOfRaster(m.bytes, m.fileName);
	});

/** Reads points, lines and polygons into a pack, in the system of the project. @param m.part of a file with several layers, the one that is wanted */
export const readLayer = (m: FileMessage & { coordinates: Coordinates; part?: string }) =>
	answer(async () => {
		let layer = await readVectors(m.bytes, m.fileName, m.part);
		const map = placing(m.coordinates);
		const shift = m.coordinates.verticalShift ?? 0;
		if (map || shift)
			layer = mapPositions(layer, ([x, y, z]) => [...(map ? map(x!, y!) : [x!, y!]), ...(z === undefined ? [] : [z + shift])]);
		return {
			pack: writePack({ info: { features: layer.features }, arrays: {} }),
			epsg: layer.epsg,
			count: layer.features.length,
			notes: layer.notes ?? [],
			...describeLayer(layer)
		};
	});

/** Reads a triangulated surface into a pack, in the system of the project. */
export const readSurface = (m: FileMessage & { coordinates: Coordinates }) =>
	answer(async () => {
		const { positions, triangles } = await readMesh(m.bytes, m.fileName);
		const map = placing(m.coordinates);
		const shift = m.coordinates.verticalShift ?? 0;
		const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
		for (let i = 0; i < positions.length; i += 3) {
			if (map) positions.set(map(positions[i]!, positions[i + 1]!), i);
			positions[i + 2] = positions[i + 2]! + shift;
			for (let c = 0; c < 3; c++) {
				box[c] = Math.min(box[c]!, positions[i + c]!);
				box[3 + c] = Math.max(box[3 + c]!, positions[i + c]!);
			}
		}
		return {
			pack: writePack({ info: {}, arrays: { positions, triangles } }),
			vertices: positions.length / 3,
			triangles: triangles.length / 3,
			box
		};
	});

/** The file that was cut last: a card is turned over many times before it is brought in. */
let last: { key: string; raw: RawTable; parts: Awaited<ReturnType<typeof partsOfFile>> } | null = null;

export interface TablePreview extends FileMessage {
	/** Tells files apart, so that the same is not cut twice. */
	id: string;
	/** What the user has chosen. */
	asked: { kind?: TableKind; mapping?: Mapping; reading?: Partial<Reading>; units?: ColumnUnits; written?: Written };
	/** Names of holes that have a collar. */
	holes: string[];
	/** Where the project lies. */
	extent?: Rectangle | null;
	lengthUnit: string;
}

const MOST_GUESSED = 20_000;

/** What a table is taken to be, and its first rows as they are understood. */
export const previewTable = (m: TablePreview) =>
	answer(async () => {
		const key = `${m.id} ${m.bytes.length} ${JSON.stringify(m.asked.reading ?? {})}`;
		if (last?.key !== key)
			last = { key, parts: await partsOfFile(m.bytes, m.fileName), raw: await readTabular(m.bytes, m.fileName, m.asked.reading ?? {}) };
		const { raw, parts } = last;
		const sample = firstRows(raw, MOST_GUESSED);
		const known = { holes: new Set(m.holes), extent: m.extent ?? null };
		const kind = m.asked.kind ?? guessKind(sample, m.fileName, known);
		const mapping = m.asked.mapping ?? guessMapping(sample, kind, known);
		const units = m.asked.units ?? guessUnits(sample, kind, mapping, m.lengthUnit);
		const written = { ...guessWritten(raw, kind, mapping), ...m.asked.written };
		const first = firstRows(raw, 12);
		// Trouble is shown in place only where one row tells it: holes are not known here.
		let trouble: { row: number; column: string; message: string }[] = [];
		let problem: { message: string; hint?: string } | null = null;
		try {
			const table = readTable(m.fileName, kind, first, mapping, { units, lengthUnit: m.lengthUnit, written });
			trouble = checkTables([table], { lengthUnit: m.lengthUnit, settings: { 'unknown-hole': { silenced: true } } })
				.findings.filter(
					(x) => ['not-a-number', 'out-of-range', 'from-not-above-to', 'bad-date'].includes(x.rule) && x.column && table.headers[x.column]
				)
				.map((x) => ({ row: x.row, column: table.headers[x.column!]!, message: x.message }));
		} catch (error) {
			if (!(error instanceof ProblemError)) throw error;
			problem = error.problem;
		}
		return {
			format: parts.format,
			parts: parts.parts,
			notes: [...parts.notes, ...(raw.notes ?? []), ...oddNotes(raw)].slice(0, 100),
			kind,
			header: raw.header,
			stated: raw.units,
			reading: raw.reading,
			rows: Array.from({ length: first.rowCount }, (_, n) => rowOf(first, n)),
			mapping,
			units,
			written,
			epsg: guessEpsg(sample, mapping),
			/** Columns of dates that could be read in two ways. */
			ambiguous: raw.header.filter((h, i) => written[h] !== undefined && written[h] !== 'iso' && isAmbiguous(raw.columns[i]!)),
			missing: missingRoles(kind, mapping),
			trouble,
			problem
		};
	});

const MOST_NAMED = 20;

/** What there is to say of lines that do not fit the table. */
function oddNotes({ odd = [], lines }: RawTable): string[] {
	const say: Record<OddRow['kind'], (o: OddRow) => string> = {
		quote: (o) =>
			`line ${lines[o.row]}: a quotation mark is never closed; ${o.count} further ${o.count === 1 ? 'line' : 'lines'} would stand in its cell, so it was taken as it is`,
		long: (o) =>
			`line ${lines[o.row]}: ${o.count} cells, more than the header; these were cut: ${o.lost!.slice(0, 5).join(', ').slice(0, 100)}`,
		short: (o) => `line ${lines[o.row]}: only ${o.count} cells, fewer than the header`
	};
	const first = odd.slice(0, MOST_NAMED).map((o) => say[o.kind](o));
	return odd.length > MOST_NAMED ? [...first, `and ${odd.length - MOST_NAMED} more lines that do not fit the header`] : first;
}

/** Odd rows that are kept with a table: the first of them, and of the others how many there are. */
const MOST_ODD = 2000;

export interface ReadTableMessage extends FileMessage {
	kind: TableKind;
	/** Guessed when it is not said. */
	mapping?: Mapping;
	lengthUnit?: string;
	reading: Partial<Reading>;
	/** Lines of the file that are left out. */
	excludedLines: number[];
	/** Files whose rows stand behind those of this one, read in the same way. */
	appended?: FileMessage[];
	/** Fails where a column is needed that is not there; false to take what there is. */
	validate: boolean;
}

/** Reads a table of a file into the chunks that are stored. */
export const readTableFile = (m: ReadTableMessage) =>
	answer(async () => {
		let raw = await readTabular(m.bytes, m.fileName, m.reading);
		for (const f of m.appended ?? []) raw = appendTables(raw, await readTabular(f.bytes, f.fileName, readingAgain(raw.reading)));
		const sample = firstRows(raw, MOST_GUESSED);
		const mapping = m.mapping ?? guessMapping(sample, m.kind);
		if (m.validate) validateMapping(m.kind, raw.header, mapping);
		const lines = new Set(m.excludedLines);
		const excluded: number[] = [];
		if (lines.size) raw.lines.forEach((line, n) => lines.has(line) && excluded.push(n));
		const state: Pick<TableState, 'header' | 'stated' | 'reading' | 'rowCount' | 'odd' | 'notes'> = {
			header: raw.header,
			stated: raw.units,
			reading: raw.reading,
			rowCount: raw.rowCount,
			...(raw.odd ? { odd: raw.odd.slice(0, MOST_ODD) } : {}),
			...(raw.notes?.length ? { notes: raw.notes.slice(0, 50) } : {})
		};
		return {
			state,
			chunks: encodeChunks(raw),
			excluded,
			mapping,
			units: guessUnits(sample, m.kind, mapping, m.lengthUnit ?? 'm'),
			written: guessWritten(raw, m.kind, mapping)
		};
	});

const LARGEST_UNPACKED = 768 * 1024 * 1024;
const MOST_ENTRIES = 6000;

/** The files of an archive. Sizes are checked before anything is unpacked; names that leave the archive are never written anywhere. */
export const unpackArchive = (m: FileMessage) =>
	answer(() => {
		let total = 0;
		let entries = 0;
		return unzipSync(m.bytes, {
			filter: (f) => {
				total += f.originalSize;
				if (++entries > MOST_ENTRIES || total > LARGEST_UNPACKED)
					fail(
						'archive-too-large',
						`the archive unpacks to more than ${LARGEST_UNPACKED / 1048576} MiB or ${MOST_ENTRIES} files`,
						'It was not read.'
					);
				return !f.name.endsWith('/');
			}
		}) as Record<string, Uint8Array>;
	});
