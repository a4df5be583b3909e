import {
	KEEP,
	azimuth,
	code,
	date,
	depth,
	dip,
	dipAzimuth,
	easting,
	elevation,
	feature,
	from,
	hole,
	inclination,
	names,
	northing,
	number,
	plunge,
	polarity,
	sample,
	strike,
	text,
	to,
	trend,
	value,
	type Role
} from './roles';

/** The kinds of table that are read. */
export type TableKind =
	| 'collars'
	| 'surveys'
	| 'intervals'
	| 'assays'
	| 'readings'
	| 'holeOrientations'
	| 'orientations'
	| 'contactPoints'
	| 'levels'
	| 'places'
	| 'stations'
	| 'other';

export interface KindOfTable {
	kind: TableKind;
	label: string;
	/** One line that says what a row is. */
	help: string;
	/** Words of a file name that suggest this kind. */
	files: readonly string[];
	roles: readonly Role[];
	/** Where its rows stand: at the start of holes, on their paths, along them, at depths of them, in holes as a whole, or on the map. */
	at: 'start' | 'path' | 'along' | 'depth' | 'hole' | 'map';
	/** Its rows are planes or lines in space. */
	directions?: true;
	/** Its rows shape the model. */
	shapes?: true;
	/** It stands so densely that it is shown only when it is asked for. */
	dense?: true;
	/** Its numbers are looked at one after the other: as profiles, in charts. */
	series?: true;
	/** Sets of roles of which at least one must be given whole. */
	oneOf?: readonly (readonly string[])[];
	/** Each row may give another of these sets; otherwise the columns decide for all rows. */
	rowChooses?: true;
}

export const TABLE_KINDS: readonly KindOfTable[] = [
	{
		kind: 'collars',
		at: 'start',
		label: 'Collars',
		help: 'A row is the start of a hole',
		files: names('collar holes location loca'),
		roles: [
			hole,
			easting(true),
			northing(true),
			elevation,
			number(
				'totalDepth',
				'Total depth',
				'Length of the hole',
				'totaldepth depth td eoh maxdepth finaldepth length depthm enddepth locafdep endteufe profondeur profundidad tiefe teufe bohrtiefe gesamttiefe endtiefe proftotale profondeurtotale profundidadtotal profundidade',
				true,
				'length'
			),
			{ ...azimuth(false), help: 'Direction of a hole without survey' },
			{ ...inclination(false), help: 'Inclination of a hole without survey' },
			{ ...date(false), help: 'When it was drilled' }
		]
	},
	{
		kind: 'surveys',
		at: 'path',
		label: 'Deviation surveys',
		help: 'A row is a station along a hole',
		files: names('survey deviation deviat'),
		roles: [
			hole,
			{ ...depth(false), label: 'Measured depth' },
			azimuth(false),
			inclination(false),
			{ ...easting(false), help: 'Path coordinate' },
			{ ...northing(false), help: 'Path coordinate' },
			{ ...elevation, help: 'Path coordinate' }
		],
		oneOf: [
			['depth', 'azimuth', 'inclination'],
			['easting', 'northing', 'elevation']
		]
	},
	{
		kind: 'intervals',
		at: 'along',
		shapes: true,
		label: 'Logged intervals',
		help: 'A row is a part of a hole with a code',
		files: names('lith geology log interval strat geol weth'),
		roles: [
			hole,
			from,
			to,
			number('thickness', 'Thickness', 'Length of the interval, when there are no depths', 'thickness thick length', false, 'length'),
			code(true),
			text('description', 'Description', 'What the logger said of it', 'description desc comment comments remark remarks geoldesc text')
		],
		oneOf: [['from', 'to'], ['to'], ['thickness']]
	},
	{
		kind: 'assays',
		at: 'along',
		series: true,
		label: 'Assays',
		help: 'A row is a part of a hole with measured values',
		files: names('assay sample chem grade core rqd'),
		roles: [hole, from, to, sample, value(true)],
		oneOf: [['from', 'to']]
	},
	{
		kind: 'readings',
		at: 'depth',
		series: true,
		label: 'Readings along holes',
		help: 'A row is a depth in a hole with measured values',
		files: names('reading geophys gamma logs point ispt spt strength las'),
		roles: [hole, depth(true), sample, value(true)]
	},
	{
		kind: 'holeOrientations',
		at: 'depth',
		directions: true,
		shapes: true,
		dense: true,
		label: 'Orientations in holes',
		help: 'A row is a plane or a line measured at a depth of a hole',
		files: names('orient structur alpha core televiewer'),
		roles: [
			hole,
			depth(true),
			dip(false),
			dipAzimuth,
			strike,
			number('alpha', 'Alpha', 'Angle between the plane and the axis of the core, 0–90', 'alpha alphaangle', false, 'angle'),
			number(
				'beta',
				'Beta',
				'From the bottom line of the core clockwise, looking down the hole, to the lower end of the ellipse',
				'beta betaangle',
				false,
				'angle'
			),
			plunge,
			trend,
			{ ...code(false), help: 'Unit the plane was measured in' },
			feature,
			polarity
		],
		oneOf: [
			['dip', 'dipAzimuth'],
			['dip', 'strike'],
			['alpha', 'beta'],
			['plunge', 'trend']
		],
		rowChooses: true
	},
	{
		kind: 'orientations',
		at: 'map',
		directions: true,
		shapes: true,
		label: 'Orientations',
		help: 'A row is a plane or a line measured at a place',
		files: names('orient structur dips bedding attitude measurement'),
		roles: [
			easting(true),
			northing(true),
			elevation,
			dip(false),
			dipAzimuth,
			strike,
			plunge,
			trend,
			{ ...code(false), help: 'Unit the plane was measured in' },
			feature,
			polarity
		],
		oneOf: [
			['dip', 'dipAzimuth'],
			['dip', 'strike'],
			['plunge', 'trend']
		],
		rowChooses: true
	},
	{
		kind: 'contactPoints',
		at: 'map',
		shapes: true,
		label: 'Contacts at places',
		help: 'A row is a place on a contact, or one that is known to lie in, above or below a unit',
		files: names('contact contacts outcrop horizon marker pick picks'),
		roles: [
			easting(true),
			northing(true),
			elevation,
			code(true),
			text(
				'tells',
				'Tells',
				'Of the unit: base, top, inside, above or below; of a sheet: hanging, foot or middle. Base when nothing is given',
				'tells side where position relation contact contacttype'
			),
			number(
				'thickness',
				'Thickness',
				'True thickness of a sheet where its middle is told',
				'thickness truethickness truewidth width',
				false,
				'length'
			),
			number(
				'error',
				'Error',
				'Standard error of its place; without it the point is honoured',
				'error accuracy uncertainty sigma precision',
				false,
				'length'
			)
		]
	},
	{
		kind: 'levels',
		at: 'hole',
		series: true,
		label: 'Water levels',
		help: 'A row is the depth to water in a hole on a date',
		files: names('water level gauge mond mong piezo'),
		roles: [
			hole,
			date(true),
			number(
				'waterDepth',
				'Depth to water',
				'Below the collar',
				'waterdepth depthtowater dtw depth waterlevel level reading mondrdng',
				false,
				'length'
			),
			{ ...elevation, label: 'Water elevation', help: 'Elevation of the water' }
		],
		oneOf: [['waterDepth'], ['elevation']]
	},
	{
		kind: 'places',
		at: 'map',
		dense: true,
		series: true,
		label: 'Measurements at places',
		help: 'A row is a place with measured values: soil and rock samples, stations of gravity',
		files: names('soil rock gravity geochem place'),
		roles: [easting(true), northing(true), elevation, sample, date(false), value(false)]
	},
	{
		kind: 'stations',
		at: 'map',
		dense: true,
		series: true,
		label: 'Stations along lines',
		help: 'A row is a station of a survey line with measured values',
		files: names('magnet line stations profile survey mag'),
		roles: [
			text('line', 'Line', 'Number of the line', 'line lineno linenumber profile fline', true),
			text('station', 'Station', 'Number along the line', 'station stn fid fiducial stationno'),
			easting(true),
			northing(true),
			elevation,
			{ ...date(false), label: 'Time' },
			value(true)
		]
	},
	{
		kind: 'other',
		at: 'along',
		label: 'Other table of holes',
		help: 'A row belongs to a hole; its columns are kept',
		files: [],
		roles: [hole, { ...from, required: false }, { ...to, required: false }, depth(false), date(false), value(false)]
	}
];

const BY_KIND = new Map(TABLE_KINDS.map((k) => [k.kind, k]));
export const tableKind = (kind: TableKind): KindOfTable => BY_KIND.get(kind)!;

/** A role of a kind of table by its key, `keep` included. */
export const roleOf = (kind: TableKind, key: string): Role | undefined =>
	key === KEEP.key ? KEEP : tableKind(kind).roles.find((r) => r.key === key);

export const isTableKind = (kind: unknown): kind is TableKind => TABLE_KINDS.some((k) => k.kind === kind);
/** Kinds whose rows belong to holes. */
export const isOfHoles = (kind: TableKind): boolean => kind !== 'collars' && tableKind(kind).roles.some((r) => r.key === 'hole');
