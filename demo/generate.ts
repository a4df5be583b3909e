import { holePath, positionAt, type Path, type Station } from '#core/holes/path';
import type { Raster } from '#core/grids/raster';
import { writeCsv } from '#core/tables/delimited';
import { writeGeoTiff } from '#core/formats/geotiff';
import { describeUnit, gammaRows, magneticRows, wallRows } from './more-tables';
import { demoPhotographs } from './photographs';
import { seededRandom } from '#core/statistics/random';
import { COLUMN, EXTENT, LAYERS, sallowTrace, SLATE_PARTS, terrainAt, truthBedding, truthSlatePart, type Ground } from './truth';
import { plantFaults, type PlantedKey } from './planted';

/** The tables of the demo as rows of cells, header first. */
export interface DemoTables {
	collars: string[][];
	surveys: string[][];
	lithology: string[][];
	assays: string[][];
	orientations: string[][];
	levels: string[][];
	gamma: string[][];
	walls: string[][];
	magnetics: string[][];
	slate: string[][];
}

/** Which unit each spelling is. */
export const lumpingOf = (ground: Ground): Record<string, string> =>
	Object.fromEntries(Object.entries(ground.spellings).flatMap(([unit, codes]) => codes.map((c) => [c, unit])));

export interface DemoHole {
	name: string;
	path: Path;
	stations: Station[];
	logger: number;
}

const round = (v: number, digits: number) => v.toFixed(digits);

/** Units whose layering is that of the truth. */
const LAYERED = new Set(['tolven', 'tuff', 'fennick', 'dorrow', 'marrick']);

/** Holes on a jittered grid over the island; two in three are inclined and surveyed. */
export function demoHoles(count = 60, seed = 1810): DemoHole[] {
	const random = seededRandom(seed);
	const holes: DemoHole[] = [];
	const columns = 10;
	for (let i = 0; holes.length < count; i++) {
		const gx = i % columns;
		const gy = Math.floor(i / columns) % Math.ceil(count / columns);
		const x = Math.round((401250 + (gx + 0.5 + 0.62 * (random.uniform() - 0.5)) * 430) * 10) / 10;
		const y = Math.round((4990620 + (gy + 0.5 + 0.62 * (random.uniform() - 0.5)) * (3780 / Math.ceil(count / columns))) * 10) / 10;
		const z = Math.round(terrainAt(x, y) * 100) / 100;
		const depth = Math.round((190 + 230 * random.uniform()) * 2) / 2;
		const stations: Station[] = [];
		if (random.uniform() < 0.66) {
			let azimuth = 360 * random.uniform();
			let inclination = -90 + 28 * random.uniform();
			for (let d = 0; d < depth; d += 30) {
				stations.push({
					depth: d,
					azimuth: Math.round((((azimuth % 360) + 360) % 360) * 10) / 10,
					inclination: Math.round(Math.max(-90, inclination) * 10) / 10
				});
				azimuth += 1.6 * random.normal();
				inclination += 0.35 + 0.3 * random.normal();
			}
		}
		const name = `TW-${String(holes.length + 1).padStart(3, '0')}`;
		holes.push({ name, path: holePath([x, y, z], depth, stations), stations, logger: Math.floor(random.uniform() * 3) });
	}
	return holes;
}

/** Depths at which the unit changes along a hole, found by halving, with the units between them. */
export function truthLog(
	path: Path,
	unitOf: (x: number, y: number, z: number) => number = LAYERS.unitAt
): { from: number; to: number; unit: number }[] {
	const unitAtDepth = (d: number) => unitOf(...(positionAt(path, d) as [number, number, number]));
	const log: { from: number; to: number; unit: number }[] = [];
	let from = 0;
	let unit = unitAtDepth(0.01);
	for (let d = 0.5; d <= path.totalDepth; d += 0.5) {
		const next = unitAtDepth(d);
		if (next === unit) continue;
		let low = d - 0.5;
		let high = d;
		while (high - low > 1e-4) {
			const middle = (low + high) / 2;
			if (unitAtDepth(middle) === unit) low = middle;
			else high = middle;
		}
		const at = Math.round(high * 100) / 100;
		if (at > from) log.push({ from, to: at, unit });
		from = at;
		unit = next;
	}
	if (path.totalDepth > from) log.push({ from, to: path.totalDepth, unit });
	return log;
}

/** The slate in detail, in two of three holes. */
export function slateRows(holes: readonly DemoHole[], ground: Ground = LAYERS): string[][] {
	const partOf = (x: number, y: number, z: number) =>
		ground.column[ground.unitAt(x, y, z)]!.id === 'slate' ? truthSlatePart(x, y, z) : -1;
	return holes
		.filter((_, i) => i % 3 !== 2)
		.flatMap((h) =>
			truthLog(h.path, partOf).flatMap((r) =>
				r.unit < 0 ? [] : [[h.name, round(r.from, 2), round(r.to, 2), SLATE_PARTS[r.unit]!.name.slice(0, 2)]]
			)
		);
}

function assayRows(holes: readonly DemoHole[], random: ReturnType<typeof seededRandom>): string[][] {
	const rows: string[][] = [];
	let sample = 1000;
	for (const hole of holes)
		for (const run of truthLog(hole.path)) {
			if (COLUMN[run.unit]!.id !== 'marrick') continue;
			for (let d = run.from; d < run.to - 0.25; d += 2) {
				const to = Math.min(d + 2, run.to);
				const [x, y, z] = positionAt(hole.path, (d + to) / 2);
				const richness = 2.1 * Math.exp(-(((x - 402900) / 420) ** 2) - ((y - 4992300) / 650) ** 2) + 0.4 * Math.sin(z / 23);
				const wo3 = Math.exp(4.1 + 1.5 * richness + 0.45 * random.normal());
				const tin = Math.exp(3.0 + 1.1 * richness + 0.5 * random.normal());
				const arsenic = Math.exp(2.4 + 0.7 * richness + 0.6 * random.normal());
				rows.push([hole.name, round(d, 2), round(to, 2), `S${sample++}`, round(wo3, 0), round(tin, 0), round(arsenic, 1)]);
			}
		}
	return rows;
}

/** Stations on the ground where the layers crop out. */
export function orientationRows(random: ReturnType<typeof seededRandom>, count: number, ground: Ground = LAYERS): string[][] {
	const rows: string[][] = [];
	while (rows.length < count) {
		const x = Math.round(401300 + 4200 * random.uniform());
		const y = Math.round(4990700 + 3600 * random.uniform());
		const z = terrainAt(x, y);
		if (z < 3) continue;
		const unit = ground.column[ground.unitAt(x, y, z - 0.1)]!.id;
		if (!LAYERED.has(unit)) continue;
		const { dip, dipAzimuth } = truthBedding(x, y, z - 0.1);
		const measuredDip = Math.min(90, Math.max(0, dip + 1.5 * random.normal()));
		const measuredAzimuth = (dipAzimuth + (120 / (dip + 4)) * random.normal() * 0.5 + 360) % 360;
		rows.push([
			`ST${rows.length + 1}`,
			String(x),
			String(y),
			round(measuredDip, 0),
			round(measuredAzimuth, 0),
			ground.spellings[unit]![0]!
		]);
	}
	return rows;
}

/** Depth to water in 36 of the holes, four times in a year: a subdued copy of the terrain that rises in winter. */
function levelRows(holes: readonly DemoHole[], random: ReturnType<typeof seededRandom>): string[][] {
	const rows: string[][] = [];
	for (const hole of holes.filter((h) => h.path.collar[2] > 8).slice(0, 36))
		for (const [date, season] of [
			['2025-02-11', 1],
			['2025-05-13', 0.2],
			['2025-08-12', -1],
			['2025-11-18', 0.1]
		] as const) {
			const depth = 1.5 + 0.06 * hole.path.collar[2] - 0.8 * season + 0.1 * random.normal();
			rows.push([hole.name, date, round(Math.max(0.2, depth), 2), hole.logger === 0 ? 'KB' : 'MO']);
		}
	return rows;
}

export const collarRows = (holes: readonly DemoHole[]): string[][] => [
	['HoleID', 'Easting', 'Northing', 'Elevation', 'Depth'],
	...holes.map((h) => [
		h.name,
		round(h.path.collar[0], 1),
		round(h.path.collar[1], 1),
		round(h.path.collar[2], 2),
		round(h.path.totalDepth, 1)
	])
];

export const surveyRows = (holes: readonly DemoHole[]): string[][] => [
	['HoleID', 'Depth', 'Azimuth', 'Inclination'],
	...holes.flatMap((h) =>
		(h.stations.length ? h.stations : [{ depth: 0, azimuth: 0, inclination: -90 }]).map((s) => [
			h.name,
			round(s.depth, 1),
			round(s.azimuth, 1),
			round(s.inclination, 1)
		])
	)
];

export const LOGGERS = ['KB', 'MO', 'SR'] as const;

export const lithologyRows = (holes: readonly DemoHole[], ground: Ground = LAYERS): string[][] => [
	['HoleID', 'From', 'To', 'Lithology', 'Logger', 'Description'],
	...holes.flatMap((h) =>
		truthLog(h.path, ground.unitAt).map((r) => {
			const unit = ground.column[r.unit]!.id;
			const spellings = ground.spellings[unit]!;
			return [
				h.name,
				round(r.from, 2),
				round(r.to, 2),
				spellings[(h.logger + (r.unit % 2)) % spellings.length]!,
				LOGGERS[h.logger]!,
				describeUnit(unit, h.logger)
			];
		})
	)
];

/** All tables of the layers alone. */
export function demoTables(): DemoTables {
	const random = seededRandom(77);
	const holes = demoHoles();
	return {
		collars: collarRows(holes),
		surveys: surveyRows(holes),
		lithology: lithologyRows(holes),
		assays: [['HoleID', 'From', 'To', 'SampleID', 'WO3_ppm', 'Sn_ppm', 'As_ppm'], ...assayRows(holes, random)],
		orientations: [['Station', 'Easting', 'Northing', 'Dip', 'DipAzimuth', 'Unit'], ...orientationRows(random, 60)],
		levels: [['HoleID', 'Date', 'DepthToWater', 'By'], ...levelRows(holes, random)],
		gamma: [['HoleID', 'Depth', 'Gamma_API', 'Density_gcc'], ...gammaRows(holes, random)],
		walls: [['HoleID', 'Depth', 'Alpha', 'Beta', 'Feature'], ...wallRows(holes, random)],
		magnetics: [['Line', 'Station', 'Easting', 'Northing', 'TotalField_nT'], ...magneticRows(random)],
		slate: [['HoleID', 'From', 'To', 'Part'], ...slateRows(holes)]
	};
}

/** The terrain on a grid of the given cell size. */
export function demoTerrain(cell = 10): Raster {
	const nx = Math.round((EXTENT.maxX - EXTENT.minX) / cell);
	const ny = Math.round((EXTENT.maxY - EXTENT.minY) / cell);
	const values = new Float32Array(nx * ny);
	for (let j = 0; j < ny; j++)
		for (let i = 0; i < nx; i++) values[j * nx + i] = terrainAt(EXTENT.minX + (i + 0.5) * cell, EXTENT.minY + (j + 0.5) * cell);
	return { x0: EXTENT.minX + cell / 2, y0: EXTENT.minY + cell / 2, dx: cell, dy: cell, nx, ny, values };
}

/** The slate divided into its parts by the log of them; off, until somebody wants it. */
export const SLATE_DIVISION = {
	id: 'slate-parts',
	name: 'Parts of the slate',
	on: false,
	unit: 'slate',
	log: { table: 'Slate in detail', column: 'Part' },
	column: SLATE_PARTS,
	lumping: Object.fromEntries(SLATE_PARTS.map((u) => [u.name.slice(0, 2), u.id]))
};

/** The project file of the layers alone. */
export function demoProject(photographs: readonly Omit<ReturnType<typeof demoPhotographs>[number], 'bytes'>[] = []) {
	return {
		malachite: 1,
		name: 'Isle of Tarrow',
		author: 'Tarrow Survey',
		description: 'Made-up demo ground: 60 holes, the Sallow Fault, the Quill and Hask Groups over the Skerra Slate.',
		crs: 32628,
		lengthUnit: 'm',
		extent: EXTENT,
		spacing: 40,
		tables: [
			{
				file: 'collars.csv',
				name: 'Collars',
				kind: 'collars',
				columns: { HoleID: 'hole', Easting: 'easting', Northing: 'northing', Elevation: 'elevation', Depth: 'totalDepth' }
			},
			{
				file: 'surveys.csv',
				name: 'Deviation surveys',
				kind: 'surveys',
				columns: { HoleID: 'hole', Depth: 'depth', Azimuth: 'azimuth', Inclination: 'inclination' }
			},
			{
				file: 'lithology.csv',
				name: 'Lithology',
				kind: 'intervals',
				columns: { HoleID: 'hole', From: 'from', To: 'to', Lithology: 'code', Logger: 'keep', Description: 'description' }
			},
			{
				file: 'assays.csv',
				name: 'Assays',
				kind: 'assays',
				columns: { HoleID: 'hole', From: 'from', To: 'to', SampleID: 'sample', WO3_ppm: 'value', Sn_ppm: 'value', As_ppm: 'value' }
			},
			{
				file: 'orientations.csv',
				name: 'Orientations',
				kind: 'orientations',
				columns: { Easting: 'easting', Northing: 'northing', Dip: 'dip', DipAzimuth: 'dipAzimuth', Unit: 'code' }
			},
			{
				file: 'levels.csv',
				name: 'Water levels',
				kind: 'levels',
				columns: { HoleID: 'hole', Date: 'date', DepthToWater: 'waterDepth', By: 'keep' }
			},
			{
				file: 'gamma.csv',
				name: 'Gamma logs',
				kind: 'readings',
				columns: { HoleID: 'hole', Depth: 'depth', Gamma_API: 'value', Density_gcc: 'value' }
			},
			{
				file: 'walls.csv',
				name: 'Planes on hole walls',
				kind: 'holeOrientations',
				columns: { HoleID: 'hole', Depth: 'depth', Alpha: 'alpha', Beta: 'beta', Feature: 'feature' }
			},
			{ file: 'slate.csv', name: 'Slate in detail', kind: 'other', columns: { HoleID: 'hole', From: 'from', To: 'to', Part: 'keep' } },
			{
				file: 'magnetics.csv',
				name: 'Magnetics',
				kind: 'stations',
				columns: { Line: 'line', Station: 'station', Easting: 'easting', Northing: 'northing', TotalField_nT: 'value' }
			}
		],
		terrain: { file: 'terrain.tif' },
		...(photographs.length ? { photographs } : {}),
		column: COLUMN,
		lumping: lumpingOf(LAYERS),
		faults: [
			{ id: 'sallow', name: 'Sallow Fault', trace: sallowTrace(), dip: 65, dipAzimuth: 110, youngestCut: 'fennick', halfWidth: 5, on: true }
		],
		shaping: {
			divisions: [SLATE_DIVISION]
		},
		section: {
			trace: [
				[400700, 4992150],
				[405500, 4992900]
			],
			corridor: 250
		}
	};
}

/** Files of the layers alone: the clean project, and in `planted/` the copy with faults and its key. */
export async function layersFiles(): Promise<{ files: Map<string, Uint8Array>; key: PlantedKey }> {
	const files = new Map<string, Uint8Array>();
	const text = (s: string) => new TextEncoder().encode(s);
	const tables = demoTables();
	const put = (folder: string, t: DemoTables) => {
		for (const [name, [header, ...rows]] of Object.entries(t) as [string, string[][]][])
			files.set(`${folder}${name}.csv`, text(writeCsv(header!, rows)));
	};
	put('', tables);
	files.set('terrain.tif', await writeGeoTiff(demoTerrain(), 32628));
	// The hole that shows most changes in its upper part.
	const changes = (h: DemoHole) => truthLog(h.path).filter((r) => r.from < 72).length;
	const photographs = demoPhotographs(demoHoles().reduce((a, b) => (changes(b) > changes(a) ? b : a)));
	for (const p of photographs) files.set(p.file, p.bytes);
	files.set('project.json', text(JSON.stringify(demoProject(photographs.map(({ bytes: _, ...p }) => p)), null, '\t')));
	const { tables: planted, key } = plantFaults(tables);
	put('planted/', planted);
	files.set('planted/key.json', text(JSON.stringify(key, null, '\t')));
	return { files, key };
}
