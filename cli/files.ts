import type { Feature } from 'geojson';
import { readFileSync, statSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { readRaster } from '#core/formats/rasters';
import { describeLayer, mapPositions } from '#core/formats/layer';
import { readMesh } from '#core/formats/mesh-readers';
import { readVectors } from '#core/formats/vectors';
import type { Things } from '#core/project/shape-ground';
import { readTabular } from '#core/formats/tabular';
import { placing, placingBack } from '#core/geometry/coordinates';
import { clipRaster, coarsen, warpRaster } from '#core/grids/warp';
import { parseProjectFile, type ProjectFile } from '#core/project/project-file';
import { fail } from '#core/problem';
import { appendTables } from '#core/tables/compare';
import { placeMarks } from '#core/tables/marks';
import { asVersion, overlay, versionHeader, versionMapping } from '#core/tables/version';
import { readingAgain, type RawTable } from '#core/tables/raw-table';
import { guessMapping, guessUnits, LEAVE, type ColumnUnits, type Mapping } from '#core/tables/mapping';
import { readTable, type Table } from '#core/tables/table';
import type { CheckOptions } from '#core/checks/check';
import type { Box } from '#core/geometry/box';
import type { Raster } from '#core/grids/raster';

const LARGEST_FILE = 256 * 1024 * 1024;

/** A project file with everything it names, read. */
export interface LoadedProject {
	project: ProjectFile;
	tables: Table[];
	terrain: Raster | null;
	/** Layers, grids and surfaces that the shaping can name. */
	things: Things;
	/** What the checks go by. */
	options: CheckOptions;
}

function readBytes(path: string, what: string): Uint8Array {
	try {
		if (statSync(path).size > LARGEST_FILE) fail('file-too-large', `${path} is larger than 256 MiB`, 'Split it into several tables.', path);
		return readFileSync(path);
	} catch (error) {
		if (error instanceof Error && 'code' in error && error.code === 'ENOENT')
			return fail('missing-file', `${what} ${path} does not exist`, 'Check the name; it is looked for beside the project file.', path);
		throw error;
	}
}

/** How a file came into the system of the project, and what was taken of it. */
type Placed = Partial<Pick<NonNullable<ProjectFile['terrain']>, 'coordinates' | 'how'>>;

async function readTerrain(bytes: Uint8Array, name: string, { coordinates = {}, how }: Placed): Promise<Raster> {
	let raster = coarsen((await readRaster(bytes, name)).raster, how?.every ?? 1);
	const [forward, back] = [placing(coordinates), placingBack(coordinates)];
	if (forward && back) raster = warpRaster(raster, forward, back);
	if (coordinates.verticalShift) raster = { ...raster, values: raster.values.map((v) => v + coordinates.verticalShift!) };
	return how?.clip
		? (clipRaster(raster, how.clip as [number, number, number, number]) ??
				fail('outside', `${name} lies outside the box to which it is to be clipped`, undefined, name))
		: raster;
}

async function readSurface(bytes: Uint8Array, name: string, { coordinates = {} }: Placed) {
	const mesh = await readMesh(bytes, name);
	const map = placing(coordinates);
	for (let i = 0; i < mesh.positions.length; i += 3) {
		if (map) mesh.positions.set(map(mesh.positions[i]!, mesh.positions[i + 1]!), i);
		mesh.positions[i + 2] = mesh.positions[i + 2]! + (coordinates.verticalShift ?? 0);
	}
	return mesh;
}

/** Features of a layer, which must be in the system of the project. @throws ProblemError `other-system` */
async function readLayer(bytes: Uint8Array, name: string, crs: number, { coordinates = {}, how }: Placed): Promise<Feature[]> {
	let layer = await readVectors(bytes, name, how?.part);
	const map = placing(coordinates);
	const shift = coordinates.verticalShift ?? 0;
	if (map || shift)
		layer = mapPositions(layer, ([x, y, z]) => [...(map ? map(x!, y!) : [x!, y!]), ...(z === undefined ? [] : [z + shift])]);
	if (map) return layer.features;
	const { box } = describeLayer(layer);
	// GeoJSON that says nothing counts as degrees; places that are no degrees are taken as they are.
	const degrees =
		layer.epsg === 4326 &&
		box !== null &&
		Math.max(Math.abs(box[0]), Math.abs(box[2])) <= 180 &&
		Math.max(Math.abs(box[1]), Math.abs(box[3])) <= 90;
	if (crs && layer.epsg && layer.epsg !== crs && (layer.epsg !== 4326 || degrees))
		fail(
			'other-system',
			`${name} is in EPSG:${layer.epsg}, the project in EPSG:${crs}`,
			'Save the layer in the system of the project, or import it in the web application.',
			name
		);
	return layer.features;
}

/** A project that has an extent, as building needs it. @throws ProblemError `no-extent` */
export function withExtent(project: ProjectFile): ProjectFile & { extent: Box } {
	const extent =
		project.extent ??
		fail('no-extent', `${project.name} has no extent yet`, 'Give it in the project file: minX, minY, minZ, maxX, maxY, maxZ.', 'extent');
	return { ...project, extent };
}

interface ReadFrom {
	raw: RawTable;
	excluded: Uint8Array;
	mapping: Mapping;
	units: ColumnUnits;
}

/** A version of a log, laid over what it goes out from. @throws ProblemError `unknown-log` */
function readVersion(spec: NonNullable<ProjectFile['logs']>[number], read: Map<string, ReadFrom>, lengthUnit: string, path: string): Table {
	const from =
		read.get(spec.of) ??
		fail(
			'unknown-log',
			`"${spec.name}" goes out from "${spec.of}", which is no table or log before it`,
			`There are: ${[...read.keys()].join(', ')}.`,
			`${path}: logs`
		);
	const header = versionHeader(from.raw.header);
	const mapping = versionMapping(from.mapping, from.raw.header, spec.column);
	const code = header.findIndex((h) => mapping[h] === 'code');
	if (code < 0)
		fail('unknown-log', `"${spec.of}" has no column of codes for "${spec.name}"`, 'Say which of its columns is the log.', `${path}: logs`);
	const { raw, excluded, ...parts } = overlay(from.raw, from.excluded, header, code, {
		recode: spec.recode ?? {},
		added: spec.added ?? [],
		edits: (spec.marks?.edits ?? []).map((e) => ({ n: e.row, position: header.indexOf(e.column), value: e.value, original: e.original })),
		excluded: (spec.marks?.excluded ?? []).map((e) => e.row)
	});
	read.set(spec.name, { raw, excluded, mapping, units: from.units });
	const table = readTable(spec.name, 'intervals', raw, mapping, { excluded, units: from.units, lengthUnit });
	return asVersion(table, { of: spec.of, unplaced: spec.unplaced ?? [], ...parts });
}

/** @throws ProblemError that names the file and what to do */
export async function loadProject(path: string): Promise<LoadedProject> {
	let json: unknown;
	const text = new TextDecoder().decode(readBytes(path, 'the project file'));
	try {
		json = JSON.parse(text);
	} catch (error) {
		return fail('bad-project-file', `${path} is not JSON: ${(error as Error).message}`, undefined, path);
	}
	return loadParsed(parseProjectFile(json, path), path);
}

/** All that a project file names. @param path of the file: names are looked for beside it */
export async function loadParsed(project: ProjectFile, path: string): Promise<LoadedProject> {
	const beside = (file: string) => resolve(dirname(path), file);
	const tables: Table[] = [];
	/** What each table was read from, for versions of logs. */
	const read = new Map<string, ReadFrom>();
	for (const spec of project.tables) {
		let raw = await readTabular(readBytes(beside(spec.file), 'the table'), spec.file, spec.reading ?? {});
		for (const more of spec.appended ?? [])
			raw = appendTables(raw, await readTabular(readBytes(beside(more), 'the rows to be added'), more, readingAgain(raw.reading)));
		const guessed = guessMapping(raw, spec.kind);
		const mapping = spec.columns ? Object.fromEntries(raw.header.map((h) => [h, spec.columns![h] ?? LEAVE])) : guessed;
		for (const column of Object.keys(spec.columns ?? {}))
			if (!raw.header.includes(column))
				fail('unknown-column', `${spec.file} has no column "${column}"`, `Its columns are: ${raw.header.join(', ')}.`, `${path}: tables`);
		const excluded = new Uint8Array(raw.rowCount);
		const lines = new Set(spec.excluded ?? []);
		raw.lines.forEach((line, row) => lines.has(line) && (excluded[row] = 1));
		if (spec.marks) {
			const own = placeMarks(raw, spec.marks);
			for (const e of own.edits) raw.columns[e.position]![e.n] = e.value;
			for (const e of own.excluded) excluded[e.n] = 1;
		}
		const units = spec.units ?? guessUnits(raw, spec.kind, mapping, project.lengthUnit);
		read.set(spec.name ?? spec.file, { raw, excluded, mapping, units });
		tables.push(
			readTable(spec.name ?? spec.file, spec.kind, raw, mapping, {
				excluded,
				units,
				...(spec.values ? { values: spec.values } : {}),
				...(spec.written ? { written: spec.written } : {}),
				...(spec.coordinates ? { coordinates: spec.coordinates } : {}),
				...(spec.calculated ? { calculated: spec.calculated } : {}),
				lengthUnit: project.lengthUnit
			})
		);
	}
	for (const spec of project.logs ?? []) tables.push(readVersion(spec, read, project.lengthUnit, path));
	const names = new Set<string>();
	for (const t of tables) {
		if (names.has(t.name))
			fail('doubled-name', `two tables are called "${t.name}"`, 'Give each table a name of its own.', `${path}: tables`);
		names.add(t.name);
	}
	const terrain = project.terrain
		? await readTerrain(readBytes(beside(project.terrain.file), 'the terrain'), project.terrain.file, project.terrain)
		: null;
	const options: CheckOptions = {
		lengthUnit: project.lengthUnit,
		settings: project.rules ?? {},
		around: {
			terrain,
			extent: project.extent ?? null,
			column: project.column,
			lumping: project.lumping,
			schemes: project.schemes ?? [],
			today: Math.floor(Date.now() / 86_400_000)
		}
	};
	const things: Things = {
		grids: new Map(
			await Promise.all(
				(project.grids ?? []).map(
					async (g) => [g.name ?? g.file, await readTerrain(readBytes(beside(g.file), 'the grid'), g.file, g)] as const
				)
			)
		),
		surfaces: new Map(
			await Promise.all(
				(project.surfaces ?? []).map(
					async (s) => [s.name ?? s.file, await readSurface(readBytes(beside(s.file), 'the surface'), s.file, s)] as const
				)
			)
		),
		layers: new Map(
			await Promise.all(
				(project.layers ?? []).map(
					async (l) => [l.name ?? l.file, await readLayer(readBytes(beside(l.file), 'the layer'), l.file, project.crs, l)] as const
				)
			)
		)
	};
	return { project, tables, terrain, things, options };
}
