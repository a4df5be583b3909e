import { readScheme } from '#core/units/scheme';
import { writeGeoTiff } from '#core/formats/geotiff';
import { writeLas } from '#core/formats/las';
import { seededRandom } from '#core/statistics/random';
import { writeCsv } from '#core/tables/delimited';
import {
	collarRows,
	demoTerrain,
	lithologyRows,
	LOGGERS,
	lumpingOf,
	orientationRows,
	SLATE_DIVISION,
	slateRows,
	surveyRows,
	truthLog,
	type DemoHole
} from '../generate';
import { EPSG, LONLAT, UTM } from '../geographic';
import { gammaRows, wallRows } from '../more-tables';
import { demoPhotographs } from '../photographs';
import { EXTENT, SALLOW, sallowTrace } from '../truth';
import { dykeHoles, islandHoles, oreHoles, regionalWells, relogged, TUNNEL_LINE, tunnelHoles, waterWells } from './holes';
import { ASSAY_HEADER, assayRows, controlLines } from './laboratory';
import {
	airPhotograph,
	fieldMap,
	mapLines,
	plannedHoles,
	publishedMap,
	riverLines,
	scannedSection,
	strikeRows,
	targets,
	works
} from './maps';
import { SCHEME, topRows, zoneRows } from './region';
import { baseReadings, gravityStations, magneticStations } from './surveys';
import { alignmentRows, tunnelAgs } from './tunnel';
import { TARROW, TARROW_COLUMN, WEATHERING_COLUMN, weatheringAt, WICK, wickTrace } from './truth';
import { monthlyLevels } from './water';

/** How the loggers write the grades of weathering. */
const GRADES: Record<string, readonly string[]> = {
	soil: ['soil'],
	high: ['HW', 'highly'],
	moderate: ['MW', 'moderately'],
	fresh: ['SW-F', 'fresh']
};
const SCHEME_HEADER = ['Rank', 'Unit', 'Parent', 'AgeTop_Ma', 'AgeBase_Ma', 'AgeError_Ma'];
/** The scheme of the region, its formations in the colours of the column. */
function regionalScheme() {
	const { scheme } = readScheme(
		'region',
		'Region of Tarrow',
		SCHEME_HEADER,
		SCHEME.map((r) => r.map(String))
	);
	for (const u of scheme.units) u.color = TARROW_COLUMN.find((t) => t.name === u.name)?.color ?? '';
	return scheme;
}
const HOLE = { HoleID: 'hole' };
const INTERVAL = { ...HOLE, From: 'from', To: 'to' };
const DEGREES = { fromEpsg: 4326, toEpsg: EPSG, from: LONLAT, to: UTM };
const SECTION: [number, number][] = [
	[400700, 4992150],
	[405500, 4992900]
];

/** Logs of geophysics of six of the ore holes as LAS 2.0: natural gamma, density, magnetic susceptibility. */
function lasOf(hole: DemoHole, seed: number): string {
	const random = seededRandom(seed);
	const susceptibility: Record<string, number> = { granite: 0.7, skarn: 6, dyke: 9, tuff: 4 };
	const rows = gammaRows([hole], random, TARROW).map(([, depth, gamma, density]) => {
		const log = truthLog(hole.path, TARROW.unitAt).find((r) => Number(depth) < r.to);
		const k = (susceptibility[TARROW_COLUMN[log?.unit ?? 0]!.id] ?? 0.8) * Math.exp(0.3 * random.normal());
		return [depth!, gamma!, density!, k.toFixed(2)];
	});
	const item = (mnemonic: string, unit: string, value: string, description: string) => ({ mnemonic, unit, value, description });
	return writeLas({
		well: [
			item('STRT', 'M', rows[0]![0]!, 'First depth'),
			item('STOP', 'M', rows.at(-1)![0]!, 'Last depth'),
			item('STEP', 'M', '1.0', 'Step'),
			item('NULL', '', '-999.25', 'Null value'),
			item('WELL', '', hole.name, 'Well')
		],
		curves: [
			item('DEPT', 'M', '', 'Depth'),
			item('GR', 'API', '', 'Natural gamma'),
			item('RHOB', 'G/CC', '', 'Density'),
			item('MSUS', 'MSI', '', 'Magnetic susceptibility, 0.001 SI')
		],
		parameters: [],
		columns: [0, 1, 2, 3].map((c) => rows.map((r) => r[c]!))
	});
}

/** The same holes as another person logged them: boundaries half a metre off, thin beds not seen, two units not told apart. */
function secondLog(holes: readonly DemoHole[]): string[][] {
	const random = seededRandom(6);
	return holes.flatMap((h) => {
		const seen = truthLog(h.path, TARROW.unitAt).filter((r) => r.to - r.from > 4);
		const ends = seen.map((r, i) => (i === seen.length - 1 ? h.path.totalDepth : Math.round((r.to + 0.5 * random.normal()) * 10) / 10));
		return seen.map((r, i) => {
			const id = TARROW_COLUMN[r.unit]!.id;
			const code = id === 'conglomerate' ? 'LST' : TARROW.spellings[id]![0]!;
			return [h.name, (i ? ends[i - 1]! : 0).toFixed(1), ends[i]!.toFixed(1), code, LOGGERS[(h.logger + 1) % 3]!];
		});
	});
}

const weatheringRows = (holes: readonly DemoHole[]): string[][] =>
	holes.flatMap((h) =>
		truthLog(h.path, weatheringAt).map((r) => {
			const words = GRADES[WEATHERING_COLUMN[r.unit]!.id]!;
			return [h.name, r.from.toFixed(2), r.to.toFixed(2), words[h.logger % words.length]!, LOGGERS[h.logger]!];
		})
	);

/** Every file of the project of Tarrow, with its project file. */
export async function tarrowFiles(): Promise<Map<string, Uint8Array>> {
	const files = new Map<string, Uint8Array>();
	const text = (name: string, s: string) => {
		files.set(name, new TextEncoder().encode(s));
		return { file: name };
	};
	const random = seededRandom(77);
	const [island, ore, tunnel, wells, region] = [islandHoles(), oreHoles(), tunnelHoles(), waterWells(), regionalWells()];
	const dyke = dykeHoles();
	const holes = [...island, ...ore, ...dyke, ...wells, ...region];
	const surveyed = [...island, ...ore, ...dyke];
	const assays = assayRows(surveyed);
	const tables: Record<string, unknown>[] = [];
	const table = (
		name: string,
		kind: string,
		file: string,
		[header, ...rows]: string[][],
		columns: Record<string, string>,
		more: Record<string, unknown> = {}
	) => tables.push({ ...text(file, writeCsv(header!, rows)), name, kind, columns, ...more });

	table('Collars', 'collars', 'collars.csv', collarRows(holes), {
		...HOLE,
		Easting: 'easting',
		Northing: 'northing',
		Elevation: 'elevation',
		Depth: 'totalDepth'
	});
	table('Deviation surveys', 'surveys', 'surveys.csv', surveyRows([...holes, ...tunnel]), {
		...HOLE,
		Depth: 'depth',
		Azimuth: 'azimuth',
		Inclination: 'inclination'
	});
	table('Lithology', 'intervals', 'lithology.csv', lithologyRows(holes, TARROW), {
		...INTERVAL,
		Lithology: 'code',
		Logger: 'keep',
		Description: 'description'
	});
	table('Weathering', 'other', 'weathering.csv', [['HoleID', 'From', 'To', 'Grade', 'Logger'], ...weatheringRows(surveyed)], {
		...INTERVAL,
		Grade: 'keep',
		Logger: 'keep'
	});
	table(
		'Lithology, second logger',
		'other',
		'lithology-second.csv',
		[['HoleID', 'From', 'To', 'Lithology', 'Logger'], ...secondLog(relogged(island))],
		{
			...INTERVAL,
			Lithology: 'keep',
			Logger: 'keep'
		}
	);
	table('Slate in detail', 'other', 'slate.csv', [['HoleID', 'From', 'To', 'Part'], ...slateRows(island, TARROW)], {
		...INTERVAL,
		Part: 'keep'
	});
	table(
		'Assays',
		'assays',
		'assays.csv',
		[ASSAY_HEADER, ...assays],
		{ ...INTERVAL, SampleID: 'sample', WO3_ppm: 'value', Sn_ppm: 'value', As_ppm: 'value', Batch: 'keep', SampleType: 'keep' },
		{ excluded: controlLines(assays), values: { As_ppm: { acts: { below: { act: 'share', share: 0.5 } }, reviewed: ['below'] } } }
	);
	table(
		'Orientations',
		'orientations',
		'orientations.csv',
		[['Station', 'Easting', 'Northing', 'Dip', 'DipAzimuth', 'Unit'], ...orientationRows(random, 60, TARROW)],
		{
			Easting: 'easting',
			Northing: 'northing',
			Dip: 'dip',
			DipAzimuth: 'dipAzimuth',
			Unit: 'code'
		}
	);
	table(
		'Orientations by strike',
		'orientations',
		'orientations-strike.csv',
		[['Point', 'Easting', 'Northing', 'Strike', 'Dip', 'Unit'], ...strikeRows()],
		{
			Easting: 'easting',
			Northing: 'northing',
			Strike: 'strike',
			Dip: 'dip',
			Unit: 'code'
		}
	);
	table(
		'Planes on hole walls',
		'holeOrientations',
		'walls.csv',
		[['HoleID', 'Depth', 'Alpha', 'Beta', 'Feature'], ...wallRows(surveyed, random, TARROW)],
		{
			...HOLE,
			Depth: 'depth',
			Alpha: 'alpha',
			Beta: 'beta',
			Feature: 'feature'
		}
	);
	table('Gamma logs', 'readings', 'gamma.csv', [['HoleID', 'Depth', 'Gamma_API', 'Density_gcc'], ...gammaRows(island, random, TARROW)], {
		...HOLE,
		Depth: 'depth',
		Gamma_API: 'value',
		Density_gcc: 'value'
	});
	const logged = ore.filter((_, i) => i < 24 && i % 4 === 0).map((h, i) => text(`${h.name}.las`, lasOf(h, 500 + i)).file);
	tables.push({
		file: logged[0],
		appended: logged.slice(1),
		name: 'Geophysical logs',
		kind: 'readings',
		columns: { WELL: 'hole', DEPT: 'depth', GR: 'value', RHOB: 'value', MSUS: 'value' }
	});
	const ags = text('tunnel.ags', tunnelAgs(tunnel)).file;
	const group = (part: string, name: string, kind: string, columns: Record<string, string>) =>
		tables.push({ file: ags, name, kind, reading: { part }, columns: { LOCA_ID: 'hole', ...columns } });
	group('LOCA', 'Tunnel holes', 'collars', {
		LOCA_NATE: 'easting',
		LOCA_NATN: 'northing',
		LOCA_GL: 'elevation',
		LOCA_FDEP: 'totalDepth',
		LOCA_STAR: 'date'
	});
	group('GEOL', 'Tunnel geology', 'intervals', { GEOL_TOP: 'from', GEOL_BASE: 'to', GEOL_LEG: 'code', GEOL_DESC: 'description' });
	group('WETH', 'Tunnel weathering', 'other', { WETH_TOP: 'from', WETH_BASE: 'to', WETH_WETH: 'keep' });
	group('CORE', 'Core quality', 'assays', { CORE_TOP: 'from', CORE_BASE: 'to', CORE_PREC: 'value', CORE_SREC: 'value', CORE_RQD: 'value' });
	group('RUCS', 'Strength tests', 'readings', { SPEC_DPTH: 'depth', SPEC_REF: 'sample', RUCS_UCS: 'value' });
	table(
		'Tunnel alignment',
		'stations',
		'alignment.csv',
		[['Works', 'Chainage', 'Easting', 'Northing', 'Invert', 'Bearing', 'Width_m'], ...alignmentRows()],
		{
			Works: 'line',
			Chainage: 'station',
			Easting: 'easting',
			Northing: 'northing',
			Invert: 'elevation',
			Bearing: 'value',
			Width_m: 'value'
		}
	);
	table('Water levels', 'levels', 'levels.csv', [['HoleID', 'Date', 'DepthToWater', 'By'], ...monthlyLevels(wells)], {
		...HOLE,
		Date: 'date',
		DepthToWater: 'waterDepth',
		By: 'keep'
	});
	table(
		'Regional tops',
		'other',
		'tops.csv',
		[['Well', 'Top', 'Base', 'Group', 'Formation', 'Member', 'AgeTop_Ma', 'AgeError_Ma'], ...topRows(region)],
		{
			Well: 'hole',
			Top: 'from',
			Base: 'to',
			Group: 'keep',
			Formation: 'keep',
			Member: 'keep',
			AgeTop_Ma: 'value',
			AgeError_Ma: 'value'
		}
	);
	table('Fossil zones', 'other', 'zones.csv', [['Well', 'Depth', 'Zone', 'AgeFrom_Ma', 'AgeTo_Ma'], ...zoneRows(region)], {
		Well: 'hole',
		Depth: 'depth',
		Zone: 'keep',
		AgeFrom_Ma: 'value',
		AgeTo_Ma: 'value'
	});
	const station = { Line: 'line', Station: 'station', Easting: 'easting', Northing: 'northing', Time: 'date', TotalField_nT: 'value' };
	const field = ['Line', 'Station', 'Easting', 'Northing', 'Time', 'TotalField_nT'];
	table('Magnetics', 'stations', 'magnetics.csv', [field, ...magneticStations()], station);
	table('Magnetics, base station', 'stations', 'magnetics-base.csv', [field, ...baseReadings()], station);
	table('Gravity', 'places', 'gravity.csv', [['Station', 'Easting', 'Northing', 'Height', 'Time', 'Reading_mGal'], ...gravityStations()], {
		Station: 'sample',
		Easting: 'easting',
		Northing: 'northing',
		Height: 'elevation',
		Time: 'date',
		Reading_mGal: 'value'
	});
	// The scheme as a file, for whoever wants to read it anew.
	text(
		'scheme.csv',
		writeCsv(
			SCHEME_HEADER,
			SCHEME.map((r) => r.map(String))
		)
	);

	files.set('terrain.tif', await writeGeoTiff(demoTerrain(), EPSG));
	const layers = Object.entries({
		'Geological map, published': ['map-published.geojson', publishedMap()],
		'Geological map, field': ['map-field.geojson', fieldMap()],
		'Lines of the map': ['map-lines.geojson', mapLines()],
		Rivers: ['rivers.geojson', riverLines()],
		Targets: ['targets.geojson', targets()],
		'Planned holes': ['planned-holes.geojson', plannedHoles()],
		Works: ['works.geojson', works()]
	} as const).map(([name, [file, value]]) => ({ ...text(file, JSON.stringify(value)), name, coordinates: DEGREES }));

	const photo = airPhotograph();
	files.set('air-photograph.png', photo.bytes);
	const hung = { trace: SECTION, left: 0, top: 450, right: 4858, bottom: -450 };
	files.set('old-section.png', scannedSection(SECTION, hung.top, hung.bottom));
	// The ore hole that shows most changes where the photographs are.
	const changes = (h: DemoHole) => truthLog(h.path, TARROW.unitAt).filter((r) => r.from < 72).length;
	const photographs = demoPhotographs(
		island.reduce((a, b) => (changes(b) > changes(a) ? b : a)),
		TARROW
	);
	for (const p of photographs) files.set(p.file, p.bytes);

	const { id, name, dip, dipAzimuth } = { id: 'sallow', name: 'Sallow Fault', ...SALLOW };
	const project = {
		malachite: 1,
		name: 'Isle of Tarrow',
		author: 'Tarrow Survey',
		description:
			'Made-up demo ground: layers over folded slate, two faults, a stock with tungsten skarn at its contact, a dyke; with a tunnel, water wells, deep wells of the region and surveys.',
		crs: EPSG,
		lengthUnit: 'm',
		extent: EXTENT,
		spacing: 60,
		finer: { surfaces: [{ unit: 'skarn', spacing: 30 }], units: [], dense: false },
		tables,
		terrain: { file: 'terrain.tif' },
		layers,
		pictures: [
			{ file: 'air-photograph.png', name: 'Air photograph', state: { placement: photo.placement } },
			{ file: 'old-section.png', name: 'Old section', state: { hung } }
		],
		photographs: photographs.map(({ bytes: _, ...p }) => p),
		model: 'Tarrow geology',
		schemes: [regionalScheme()],
		column: TARROW_COLUMN,
		lumping: lumpingOf(TARROW),
		faults: [
			{ id, name, trace: sallowTrace(), dip, dipAzimuth, youngestCut: 'dyke', halfWidth: 5, on: true },
			{
				id: 'wick',
				name: 'Wick Fault',
				trace: wickTrace(),
				dip: WICK.dip,
				dipAzimuth: WICK.dipAzimuth,
				youngestCut: 'dyke',
				halfWidth: 5,
				on: true,
				endsOn: 'sallow',
				tips: { elevation: WICK.through[2], halfLength: WICK.half, halfHeight: 600, reach: WICK.reach }
			}
		],
		shaping: {
			trends: [
				{ unit: 'cover', follows: 'terrain' },
				// The skarn hangs on the eastern contact of the granite: longest along it.
				{ unit: 'skarn', anisotropy: { dip: 73, dipAzimuth: 90, pitch: 0, ratios: [2, 1, 1] } }
			],
			divisions: [SLATE_DIVISION]
		},
		models: [
			{
				name: 'Weathering',
				spacing: 80,
				column: WEATHERING_COLUMN,
				lumping: Object.fromEntries(Object.entries(GRADES).flatMap(([unit, words]) => words.map((w) => [w, unit]))),
				faults: [],
				shaping: {
					log: { table: 'Weathering', column: 'Grade' },
					trends: WEATHERING_COLUMN.slice(0, 3).map((u) => ({ unit: u.id, follows: 'terrain' }))
				}
			}
		],
		recipes: [
			{
				name: 'Thickness of the cover',
				recipe: 'thickness',
				inputs: { model: ['Tarrow geology'] },
				parameters: { unit: 'cover', measured: 'vertical', cell: 50 }
			},
			{
				name: 'Depth to the limestone',
				recipe: 'depth-to-unit',
				inputs: { model: ['Tarrow geology'], terrain: ['Terrain'] },
				parameters: { unit: 'marrick', side: 'top', cell: 50 }
			}
		],
		section: {
			trace: SECTION,
			corridor: 250,
			lines: [{ name: 'Tunnel', trace: TUNNEL_LINE.map(([x, y]) => [x, y]), corridor: 60, exaggeration: 1, set: 'Road tunnel' }]
		}
	};
	// The first look: the map of the model, not also the drawn ones.
	const quiet = [
		'Geological map, published',
		'Geological map, field',
		'Lines of the map',
		'Planned holes',
		'Old section',
		'Air photograph'
	];
	const ids = Object.fromEntries(quiet.map((name, i) => [name, `quiet-${i}`]));
	const hidden = Object.fromEntries(Object.values(ids).map((k) => [`thing:${k}`, true]));
	text(
		'surroundings.json',
		JSON.stringify({ workbench: { exaggeration: 2, hidden: { contours: true, graticule: true, holeNames: true, ...hidden } }, ids })
	);
	text('project.json', JSON.stringify(project, null, '\t'));
	return files;
}
