import { describe, expect, it } from 'vitest';
import { readDelimited } from './delimited';
import { guessEpsg, guessKind, guessMapping, guessUnits, missingRoles } from './mapping';
import type { TableKind } from './kinds';

const raw = (text: string) => readDelimited(new TextEncoder().encode(text), 'x.csv');
const guess = (kind: TableKind, text: string, known = {}) => guessMapping(raw(text), kind, known);
const units = (kind: TableKind, text: string, lengthUnit = 'm') => {
	const r = raw(text);
	return guessUnits(r, kind, guessMapping(r, kind), lengthUnit);
};

describe('what the columns of a table are', () => {
	it.each<[string, TableKind, string, Record<string, string>]>([
		[
			'collars as most write them',
			'collars',
			'HoleID,Easting,Northing,Elevation,Depth\nA,402000,4992000,12,100\n',
			{ HoleID: 'hole', Easting: 'easting', Northing: 'northing', Elevation: 'elevation', Depth: 'totalDepth' }
		],
		[
			'collars in short',
			'collars',
			'BHID,X,Y,Z,EOH\nA,402000,4992000,12,100\n',
			{ BHID: 'hole', X: 'easting', Y: 'northing', Z: 'elevation', EOH: 'totalDepth' }
		],
		[
			'intervals with words between',
			'intervals',
			'Hole,From_m,To_m,Lithology,Remarks\nA,0,10,SST,wet\n',
			{ Hole: 'hole', From_m: 'from', To_m: 'to', Lithology: 'code' }
		],
		[
			'collars as site investigations write them',
			'collars',
			'BH;East;North;Level;Depth;Azi;Incl\nKB-1;402000,5;4992000,1;12;100;90;-65\n',
			{ BH: 'hole', East: 'easting', North: 'northing', Level: 'elevation', Depth: 'totalDepth', Azi: 'azimuth', Incl: 'inclination' }
		],
		[
			'logs by words of another language, with the codes under the word for rock',
			'intervals',
			'Bohrung;von;bis;Gestein;Bemerkung\nK-1;0,0;2,5;Ton;nass\n',
			{ Bohrung: 'hole', von: 'from', bis: 'to', Gestein: 'code' }
		],
		['surveys', 'surveys', 'hole,depth,azimuth,dip\nA,0,90,-60\n', { hole: 'hole', depth: 'depth', azimuth: 'azimuth', dip: 'inclination' }]
	])('%s', (_, kind, text, expected) => expect(guess(kind, text)).toMatchObject(expected));

	it.each<[TableKind, string]>([
		['collars', 'Bohrung;Rechts;Hoch;Höhe;Tiefe\nK-1;402000,5;4992000,1;12,5;100\nK-2;402100,5;4992100,1;13,5;80\n'],
		['collars', 'Bohrung;Ostwert;Nordwert;Hoehe;Teufe\nK-1;402000,5;4992000,1;12,5;100\nK-2;402100,5;4992100,1;13,5;80\n'],
		['collars', 'Sondeo,Este,Norte,Cota,Profundidad\nS-1,402000,4992000,12,100\nS-2,402100,4992100,13,80\n'],
		['collars', 'Forage;X;Y;Altitude;Profondeur\nF-1;402000,5;4992000,1;12,5;100\nF-2;402100,5;4992100,1;13,5;80\n'],
		['intervals', 'Bohrung;von;bis;Schicht\nK-1;0,0;2,5;Ton\nK-1;2,5;9,0;Sand\n'],
		['intervals', 'Sondeo,Desde,Hasta,Litologia\nS-1,0,2.5,ARC\nS-1,2.5,9,GRA\n'],
		['intervals', 'Forage;Toit;Mur;Lithologie\nF-1;0,0;2,5;argile\nF-1;2,5;9,0;sable\n'],
		['surveys', 'Bohrung;Tiefe;Azimut;Neigung\nK-1;0;90;-60\nK-1;50;91;-61\n'],
		['orientations', 'Rechts;Hoch;Höhe;Einfallrichtung;Einfallen\n402000;4992000;12;90;30\n402100;4992100;13;95;32\n']
	])('tells %s by headers in other languages', (kind, text) => {
		expect(guessKind(raw(text), 'data.csv')).toBe(kind);
		expect(missingRoles(kind, guess(kind, text))).toEqual([]);
	});

	it('follows the cells where a header says too much', () => {
		// A column called depth that holds words is no depth.
		const m = guess('collars', 'hole,x,y,z,depth\nA,402000,4992000,12,deep\nB,402100,4992100,12,shallow\n');
		expect(m['depth']).not.toBe('totalDepth');
	});

	it('knows the holes by their names where no header helps', () => {
		const text = 'No,Ref,from,to,code\n1,TW-1,0,5,SST\n2,TW-1,5,9,CLY\n3,TW-2,0,4,SST\n';
		expect(guess('intervals', text, { holes: new Set(['TW-1', 'TW-2', 'TW-3']) })['Ref']).toBe('hole');
		expect(guess('intervals', text, { holes: new Set(['KT-1']) })['Ref']).not.toBe('hole');
	});

	it('knows coordinates by their size, easting before northing', () => {
		const m = guess('collars', 'hole,a,b,c\nA,402000,4992000,12\nB,402100,4992100,14\n');
		expect([m['a'], m['b']]).toEqual(['easting', 'northing']);
		// Three large numbers tell nothing.
		const three = guess('collars', 'hole,a,b,c\nA,402000,4992000,50000\nB,402100,4992100,60000\n');
		expect([three['a'], three['b'], three['c']]).not.toContain('easting');
	});

	it('takes a thickness beside both depths for a thing of its own', () => {
		expect(guess('intervals', 'hole,from,to,thickness,code\nA,0,5,5,SST\n')['thickness']).not.toBe('thickness');
		expect(guess('intervals', 'hole,thickness,code\nA,5,SST\n')['thickness']).toBe('thickness');
	});

	it('gives no role twice, and leaves out what is empty', () => {
		const m = guess('collars', 'hole,hole id,easting,x,northing,elevation,note\nA,A,402000,402000,4992000,12,\n');
		const roles = Object.values(m).filter((r) => ['hole', 'easting', 'northing'].includes(r));
		expect(new Set(roles).size).toBe(roles.length);
		expect(m['note']).toBe(guess('collars', 'hole,easting,northing,elevation,empty\nA,402000,4992000,12,\n')['empty']);
	});

	it('numbers beside the roles of a table of assays are measured values, row numbers are not', () => {
		const m = guess('assays', 'objectid,hole,from,to,Cu_ppm\n1,A,0,5,120\n2,A,5,9,80\n');
		expect(m['Cu_ppm']).toBe('value');
		expect(m['objectid']).not.toBe('value');
	});

	it('survives headers that every object has', () => {
		const m = guess('collars', 'hole,easting,northing,elevation,constructor,__proto__\nA,402000,4992000,12,x,y\n');
		expect(m['hole']).toBe('hole');
		expect(({} as Record<string, unknown>)['x']).toBeUndefined();
	});
});

describe('in what units columns are', () => {
	it('is told by the header, where it differs from the project', () => {
		expect(units('intervals', 'hole,From (ft),To (ft),code\nA,0,10,SST\n')).toEqual({ 'From (ft)': 'ft', 'To (ft)': 'ft' });
		expect(units('intervals', 'hole,From (m),To [m],code\nA,0,10,SST\n')).toEqual({});
		expect(units('intervals', 'hole,From (m),To (m),code\nA,0,10,SST\n', 'ft')).toEqual({ 'From (m)': 'm', 'To (m)': 'm' });
	});
	it('may stand after the name, and is left alone where it is no unit of a length', () => {
		expect(units('intervals', 'hole,from_ft,to_ft,code\nA,0,10,SST\n')).toEqual({ from_ft: 'ft', to_ft: 'ft' });
		expect(units('intervals', 'hole,from (dry),to,code\nA,0,10,SST\n')).toEqual({});
	});
});

describe('the system of coordinates', () => {
	it.each<[string, string, number | null]>([
		['is degrees where headers and values say so', 'hole,lat,lon,z,depth\nA,44.5123,-15.3321,12,100\nB,44.5125,-15.3300,12,90\n', 4326],
		['also with long names', 'hole,Latitude (WGS84),Longitude (WGS84),z,depth\nA,44.5,-15.3,12,100\n', 4326],
		['is not known where the values are metres all the same', 'hole,lat,lon,z,depth\nA,4992000,402000,12,100\n', null],
		['is not known where headers say nothing of the kind', 'hole,x,y,z,depth\nA,44.5,-15.3,12,100\n', null],
		['is not known without values', 'hole,lat,lon,z,depth\nA,,,12,100\n', null]
	])('%s', (_, text, epsg) => {
		const r = raw(text);
		expect(guessEpsg(r, guessMapping(r, 'collars'))).toBe(epsg);
	});
});

describe('columns without a header', () => {
	const extent = { minX: 401_000, maxX: 405_000, minY: 4_990_000, maxY: 4_994_000 };
	const rows = (of: (i: number) => (string | number)[]) => Array.from({ length: 12 }, (_, i) => of(i).join(',')).join('\n') + '\n';
	const [e, n] = [(i: number) => 401_500 + 250 * i, (i: number) => 4_990_400 + ((i * 7) % 12) * 260];
	const any = rows((i) => [`W${i}`, (2 + i * 1.3).toFixed(2), n(i), e(i), `2023-${String(i + 1).padStart(2, '0')}-15`]);

	it('are told by where the project lies, in any order; a day is a day, and what names all rows is their name', () => {
		const found = { 'column 1': 'sample', 'column 2': 'value', 'column 3': 'northing', 'column 4': 'easting', 'column 5': 'date' };
		expect(guess('places', any, { extent })).toEqual(found);
		// Without an extent the one in the millions is the northing.
		expect(guess('places', any)).toEqual(found);
	});

	it('of a local grid are told from depths and values by how much of the extent they fill', () => {
		const local = { minX: 0, maxX: 5000, minY: 0, maxY: 3000 };
		const text = rows((i) => [i * 2.5, 200 + 200 * ((i * 5) % 12), 0.1 * i, 300 + 400 * i]);
		expect(guess('places', text, { extent: local })).toMatchObject({ 'column 2': 'northing', 'column 4': 'easting', 'column 1': 'value' });
	});

	it('stay in their order where nothing tells them apart, and are left alone where nothing is a coordinate', () => {
		expect(
			guess(
				'places',
				rows((i) => [401_000 + i, 402_000 - i, i])
			)
		).toMatchObject({ 'column 1': 'easting', 'column 2': 'northing' });
		const none = guess(
			'places',
			rows((i) => [i, 2 * i, 3 * i]),
			{ extent }
		);
		expect(Object.values(none)).not.toContain('easting');
		expect(
			Object.values(
				guess(
					'places',
					rows(() => [401_000, 4_990_000, 1]),
					{ extent }
				)
			)
		).not.toContain('northing');
	});

	it('of collars are the name, and the place', () => {
		expect(
			guess(
				'collars',
				rows((i) => [e(i), n(i), `H-${i}`]),
				{ extent }
			)
		).toMatchObject({
			'column 1': 'easting',
			'column 2': 'northing',
			'column 3': 'hole'
		});
	});

	it('are told apart from formats that have names of their own, and no line for them', () => {
		const named = raw('NAME,WHEN,VALUE\na,2023-01-01,1\nb,2023-02-01,2\n');
		const without = { ...named, reading: { ...named.reading, headerLine: 0 } };
		expect(guessMapping(without, 'places')).toEqual(guessMapping(named, 'places'));
	});
});
