import type { MeasureKind } from './measures';

/** What a column of a table can be. */
export interface Role {
	key: string;
	label: string;
	type: 'text' | 'number' | 'date';
	required: boolean;
	/** One line that says what the column holds. */
	help: string;
	/** Header names, lower case without separators, that suggest this role. */
	names: readonly string[];
	/** What the numbers measure: they are brought to the unit of the project; anything else stays as it is. */
	unit?: MeasureKind;
	/** Any number of columns may take it; each keeps its own name. */
	many?: boolean;
}

export const names = (text: string) => text.split(' ');
const HOLE =
	'hole holeid bhid borehole boreholeid well wellid wellname drillhole drillholeid id name locaid pointid sondage bohrung holenumber holeno sondeo forage bore boreno location locationid locid drillholeno pozo bh bhno bhnr bhname bhnumber boreholeno boreholenr boreholename boreholenumber drillholename holename holenr wellno wellnumber borename borenumber boringno boringid boring sondagem sondageno bohrungnr bohrungsnr bohrloch bohrlochname bohrungsname bohrpunkt aufschluss nomforage forageid nombresondeo';
export const text = (key: string, label: string, help: string, list: string, required = false): Role => ({
	key,
	label,
	type: 'text',
	required,
	help,
	names: names(list)
});
export const number = (key: string, label: string, help: string, list: string, required = false, unit?: MeasureKind): Role => ({
	key,
	label,
	type: 'number',
	required,
	help,
	names: names(list),
	...(unit ? { unit } : {})
});

export const hole = text('hole', 'Hole', 'Name of the hole, the same as in the collars', HOLE, true);
export const easting = (required: boolean) =>
	number(
		'easting',
		'Easting',
		'East coordinate',
		'easting east x xcoord e utme eastm xm locanate eastings rechtswert rechts ost ostwert este coordx abscisse lon long longitude',
		required,
		'length'
	);
export const northing = (required: boolean) =>
	number(
		'northing',
		'Northing',
		'North coordinate',
		'northing north y ycoord n utmn northm ym locanatn northings hochwert hoch nord nordwert norte coordy ordonnee lat latitude',
		required,
		'length'
	);
export const elevation = number(
	'elevation',
	'Elevation',
	'Height, positive up; taken from the terrain when there is none',
	'elevation elev z rl height level altitude zcoord zm locagl reducedlevel hohe cote altitud hoehe gelandehohe gelaendehoehe ansatzhohe ansatzhoehe gok hohenn cota elevacion elevacao quota',
	false,
	'length'
);
export const from = number(
	'from',
	'From',
	'Depth of the upper end along the hole',
	'from depthfrom top start fromm depthtop topdepth geoltop begin coretop wethtop samptop fromdepth mfrom depthfromm von vonm tiefevon teufevon oberkante desde toit profondeurtoit',
	false,
	'length'
);
export const to = number(
	'to',
	'To',
	'Depth of the lower end along the hole',
	'to depthto base bottom end tom depthbase basedepth geolbase corebase wethbase sampbase todepth mto depthtom bis bism tiefebis teufebis unterkante hasta mur profondeurmur',
	false,
	'length'
);
export const depth = (required: boolean) =>
	number(
		'depth',
		'Depth',
		'Measured depth along the hole',
		'depth md measureddepth at distance surveydepth depthm dept ispttop tiefe teufe messtiefe profondeur profundidad profundidade',
		required,
		'length'
	);
export const azimuth = (required: boolean) =>
	number(
		'azimuth',
		'Azimuth',
		'Clockwise from north, 0–360',
		'azimuth azi az bearing brg direction azim azimut acimut richtung',
		required,
		'angle'
	);
export const inclination = (required: boolean) =>
	number(
		'inclination',
		'Inclination',
		'From horizontal, −90 is straight down',
		'inclination incl inc dip plunge inclfromvertical inclinationfromvertical anglefromvertical fromvertical zenith zenithangle neigung inclinacion inclinaison',
		required,
		'angle'
	);
export const code = (required: boolean) =>
	text(
		'code',
		'Code',
		'What the logger wrote',
		'code lith litho lithology rock rocktype unit geology lithcode geolcode geolgeol formation wethweth strat stratigraphy geolleg lithcode1 gestein gesteinsart petrographie schicht stratigraphie lithologie litologia litologie boden bodenart roche roca formacion einheit kurzzeichen',
		required
	);
export const date = (required: boolean): Role => ({
	key: 'date',
	label: 'Date',
	type: 'date',
	required,
	help: 'Day, with or without the time',
	names: names(
		'date datetime day time timestamp measured dateofmeasurement sampledate monddtim datum fecha datemeasured measureddate readingdate dateofreading bohrdatum messdatum'
	)
});
export const value = (required: boolean): Role => ({
	key: 'value',
	label: 'Value',
	type: 'number',
	required,
	help: 'A measured value; it keeps the name of its column',
	names: [],
	many: true
});
export const sample = text(
	'sample',
	'Sample',
	'Number of the sample',
	'sample sampleid sampleno samplenumber samp sampid samplenr probe probennr probennummer muestra echantillon'
);
export const dip = (required: boolean) =>
	number(
		'dip',
		'Dip',
		'Down from horizontal, 0–90',
		'dip dipangle inclination truedip einfallen fallen fallwinkel pendage buzamiento',
		required,
		'angle'
	);
export const dipAzimuth = number(
	'dipAzimuth',
	'Dip azimuth',
	'Direction the plane goes down, 0–360',
	'dipazimuth dipdirection dipdir dipaz azimuth ddr ddn dipdirn einfallrichtung fallrichtung',
	false,
	'angle'
);
export const strike = number(
	'strike',
	'Strike',
	'By the right-hand rule: the plane dips to the right of it',
	'strike strikerhr str strikeazimuth streichen streichrichtung rumbo',
	false,
	'angle'
);
export const plunge = number('plunge', 'Plunge', 'Of a line, down from horizontal, 0–90', 'plunge plungeangle', false, 'angle');
export const trend = number(
	'trend',
	'Trend',
	'Direction a line goes down, 0–360',
	'trend trendazimuth plungeazimuth plungedirection',
	false,
	'angle'
);
export const polarity = number('polarity', 'Polarity', '1 right way up, −1 overturned', 'polarity pol facing wayup younging');
export const feature = text(
	'feature',
	'Feature',
	'What was measured: bedding, joint, cleavage …',
	'feature type structure structuretype kind planetype'
);
/** Any column can be kept as text under its own name. */
export const KEEP: Role = {
	key: 'keep',
	label: 'Keep as it is',
	type: 'text',
	required: false,
	help: 'Kept and shown, but not used in calculations',
	names: [],
	many: true
};
