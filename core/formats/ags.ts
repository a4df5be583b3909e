import Papa from 'papaparse';
import { fail } from '../problem';
import { decodeText } from '../tables/delimited';
import type { RawTable } from '../tables/raw-table';

/** One group of an AGS 4 file (Association of Geotechnical and Geoenvironmental Specialists, data format 4). */
interface AgsGroup {
	name: string;
	headings: string[];
	units: string[];
	types: string[];
	rows: string[][];
	lines: number[];
}

/** Something in the file that the format's rules do not allow. */
interface AgsNote {
	group: string;
	line: number;
	message: string;
}

/** Headings of the groups that are checked, key headings first. */
const DICTIONARY: Record<string, { keys: number; headings: string }> = {
	PROJ: { keys: 1, headings: 'PROJ_ID PROJ_NAME PROJ_LOC PROJ_CLNT PROJ_CONT PROJ_ENG PROJ_MEMO FILE_FSET' },
	LOCA: {
		keys: 1,
		headings:
			'LOCA_ID LOCA_TYPE LOCA_STAT LOCA_NATE LOCA_NATN LOCA_GREF LOCA_GL LOCA_REM LOCA_FDEP LOCA_STAR LOCA_PURP LOCA_TERM LOCA_ENDD LOCA_LETT LOCA_LOCX LOCA_LOCY LOCA_LOCZ LOCA_LREF LOCA_DATM LOCA_ETRV LOCA_NTRV LOCA_LTRV LOCA_XTRL LOCA_YTRL LOCA_ZTRL LOCA_LAT LOCA_LON LOCA_ELAT LOCA_ELON LOCA_LLZ LOCA_LOCM LOCA_LOCA LOCA_CLST LOCA_ALID LOCA_OFFS LOCA_CNGE LOCA_TRAN LOCA_NATD LOCA_ORID LOCA_ORJO LOCA_ORCO LOCA_CKDT LOCA_CKBY LOCA_APPA FILE_FSET'
	},
	GEOL: {
		keys: 2,
		headings: 'LOCA_ID GEOL_TOP GEOL_BASE GEOL_DESC GEOL_LEG GEOL_GEOL GEOL_GEO2 GEOL_STAT GEOL_BGS GEOL_FORM GEOL_REM FILE_FSET'
	},
	SAMP: {
		keys: 5,
		headings:
			'LOCA_ID SAMP_TOP SAMP_REF SAMP_TYPE SAMP_ID SAMP_BASE SAMP_DTIM SAMP_UBLO SAMP_CONT SAMP_PREP SAMP_SDIA SAMP_WDEP SAMP_RECV SAMP_TECH SAMP_MATX SAMP_TYPC SAMP_WHO SAMP_WHY SAMP_REM SAMP_DESC SAMP_DESD SAMP_LOG SAMP_COND SAMP_CLSS SAMP_BAR SAMP_TEMP SAMP_PRES SAMP_FLOW SAMP_ETIM SAMP_DURN SAMP_CAPT SAMP_LINK GEOL_STAT FILE_FSET SAMP_RECL'
	},
	ISPT: {
		keys: 2,
		headings:
			'LOCA_ID ISPT_TOP ISPT_SEAT ISPT_MAIN ISPT_NPEN ISPT_NVAL ISPT_REP ISPT_WAT ISPT_CAS ISPT_TYPE ISPT_HAM ISPT_ERAT ISPT_SWP ISPT_INC1 ISPT_INC2 ISPT_INC3 ISPT_INC4 ISPT_INC5 ISPT_INC6 ISPT_PEN1 ISPT_PEN2 ISPT_PEN3 ISPT_PEN4 ISPT_PEN5 ISPT_PEN6 ISPT_ROCK ISPT_REM ISPT_ENV ISPT_METH ISPT_CRED TEST_STAT FILE_FSET'
	},
	WETH: { keys: 2, headings: 'LOCA_ID WETH_TOP WETH_BASE WETH_SCH WETH_SYS WETH_WETH WETH_REM FILE_FSET' },
	CORE: { keys: 3, headings: 'LOCA_ID CORE_TOP CORE_BASE CORE_PREC CORE_SREC CORE_RQD CORE_DIAM CORE_DURN CORE_REM FILE_FSET' },
	MONG: {
		keys: 2,
		headings:
			'LOCA_ID MONG_ID PIPE_REF MONG_DATE MONG_TYPE MONG_DETL MONG_TRZ MONG_BRZ MONG_BRGA MONG_BRGB MONG_BRGC MONG_INCA MONG_INCB MONG_INCC MONG_RSCA MONG_RSCB MONG_RSCC MONG_CONT MONG_REM FILE_FSET MONG_DIS'
	},
	MOND: {
		keys: 3,
		headings:
			'LOCA_ID MONG_ID MOND_DTIM MONG_DIS MOND_TYPE MOND_REF MOND_INST MOND_RDNG MOND_UNIT MOND_METH MOND_LIM MOND_ULIM MOND_NAME MOND_CRED MOND_CONT MOND_REM FILE_FSET'
	}
};
const REQUIRED = ['PROJ', 'LOCA'];

export const isAgs = (text: string): boolean => /^\ufeff?\s*"GROUP"\s*,/.test(text.slice(0, 200));

/** Reads all groups. @throws ProblemError `not-ags`, `ags-broken` with the line */
export function readAgs(bytes: Uint8Array, name: string): { groups: AgsGroup[]; notes: AgsNote[] } {
	const text = decodeText(bytes);
	if (!isAgs(text)) return fail('not-ags', `${name} is no AGS 4 file`, 'It should begin with "GROUP".', name);
	const groups: AgsGroup[] = [];
	const notes: AgsNote[] = [];
	let group: AgsGroup | null = null;
	let line = 0;
	const broken = (message: string) =>
		fail(
			'ags-broken',
			`${name}, line ${line}: ${message}`,
			'Ask for a file that passes the checks of the format.',
			`${name}, line ${line}`
		);
	const wanted = (): AgsGroup => group ?? broken('there is no group yet');
	const begin = (name: string) => {
		group = { name, headings: [], units: [], types: [], rows: [], lines: [] };
		groups.push(group);
	};
	for (const cells of Papa.parse<string[]>(text, { delimiter: ',' }).data) {
		line++;
		if (cells.length === 1 && cells[0]!.trim() === '') continue;
		const [what, ...rest] = cells.map((c) => c.trim()) as [string, ...string[]];
		switch (what) {
			case 'GROUP':
				if (!rest[0]) broken('a group has no name');
				if (groups.some((g) => g.name === rest[0])) broken(`the group ${rest[0]} comes twice`);
				begin(rest[0]!);
				break;
			case 'HEADING':
				wanted().headings = rest;
				break;
			case 'UNIT':
				wanted().units = rest;
				break;
			case 'TYPE':
				wanted().types = rest;
				break;
			case 'DATA': {
				const g = wanted();
				if (g.headings.length === 0) broken(`data of ${g.name} stand before its headings`);
				if (rest.length !== g.headings.length)
					notes.push({ group: g.name, line, message: `${rest.length} values for ${g.headings.length} headings` });
				g.rows.push(g.headings.map((_, i) => rest[i] ?? ''));
				g.lines.push(line);
				break;
			}
			default:
				notes.push({ group: (group as AgsGroup | null)?.name ?? '', line, message: `"${what.slice(0, 20)}" is no line of the format` });
		}
	}
	for (const name of REQUIRED)
		if (!groups.some((g) => g.name === name)) notes.push({ group: name, line: 0, message: `the group ${name} is missing` });
	for (const g of groups) notes.push(...checkGroup(g));
	notes.push(...orphans(groups));
	const last = text.trimEnd().split('\n').at(-1)!;
	if (!last.endsWith('"') || last.split('"').length % 2 === 0)
		notes.push({ group: group ? (group as AgsGroup).name : '', line, message: 'the last line has no end: the file was cut off' });
	return { groups, notes };
}

/** Rows of groups whose hole stands in no row of LOCA. */
function orphans(groups: readonly AgsGroup[]): AgsNote[] {
	const ids = (g: AgsGroup) => g.rows.map((r) => r[g.headings.indexOf('LOCA_ID')] ?? '');
	const loca = groups.find((g) => g.name === 'LOCA');
	const known = new Set(loca ? ids(loca) : []);
	return groups.flatMap((g) => {
		if (g === loca || !g.headings.includes('LOCA_ID')) return [];
		const missing = new Set(ids(g).filter((id) => !known.has(id)));
		return missing.size
			? [
					{
						group: g.name,
						line: 0,
						message: `${missing.size} ${missing.size === 1 ? 'hole has' : 'holes have'} no row in LOCA: ${[...missing].slice(0, 5).join(', ')}`
					}
				]
			: [];
	});
}

/** Checks a group against the dictionary and its values against their types. */
function checkGroup(g: AgsGroup): AgsNote[] {
	const notes: AgsNote[] = [];
	const say = (line: number, message: string) => notes.length < 200 && notes.push({ group: g.name, line, message });
	if (g.units.length !== g.headings.length || g.types.length !== g.headings.length)
		say(0, 'headings, units and types do not have the same number');
	const known = DICTIONARY[g.name];
	if (known) {
		const headings = known.headings.split(' ');
		for (const key of headings.slice(0, known.keys)) if (!g.headings.includes(key)) say(0, `the key heading ${key} is missing`);
		for (const h of g.headings) if (!headings.includes(h)) say(0, `${h} is not in the dictionary of ${g.name}`);
		const keys = headings
			.slice(0, known.keys)
			.map((k) => g.headings.indexOf(k))
			.filter((i) => i >= 0);
		const seen = new Set<string>();
		g.rows.forEach((r, i) => {
			const key = keys.map((k) => r[k]).join('\t');
			if (seen.has(key)) say(g.lines[i]!, `the key ${keys.map((k) => r[k]).join(', ')} comes twice`);
			seen.add(key);
		});
	}
	g.types.forEach((type, c) => {
		const fits = typeTest(type);
		if (fits) g.rows.forEach((r, i) => r[c] && !fits(r[c]) && say(g.lines[i]!, `${g.headings[c]} "${r[c].slice(0, 30)}" is no ${type}`));
	});
	return notes;
}

function typeTest(type: string): ((cell: string) => boolean) | null {
	if (/^\d+DP$/.test(type) || /^\d+SF$/.test(type) || type === 'MC' || /^\d+SCI$/.test(type)) return (c) => Number.isFinite(Number(c));
	if (type === 'DT') return (c) => /^\d{4}(-\d{2}(-\d{2}(T\d{2}:\d{2}(:\d{2})?)?)?)?$/.test(c) || /^\d{2}:\d{2}(:\d{2})?$/.test(c);
	if (type === 'YN') return (c) => /^[YN]$/i.test(c);
	return null;
}

/** A group as a table. @throws ProblemError `no-such-group` */
export function tableOfGroup(groups: readonly AgsGroup[], name: string, part?: string, remarks: readonly AgsNote[] = []): RawTable {
	const g =
		groups.find((x) => x.name === part) ??
		(part === undefined ? (groups.find((x) => x.rows.length && x.name === 'LOCA') ?? groups.find((x) => x.rows.length)) : undefined);
	if (!g)
		return fail('no-such-group', `${name} has no group "${part ?? ''}"`, `Its groups are: ${groups.map((x) => x.name).join(', ')}.`, name);
	if (g.rows.length === 0 || g.headings.length < 2)
		return fail('empty-file', `the group ${g.name} of ${name} holds no rows`, 'Choose another group.', name);
	// What is missing from this table, or from the whole file; slips of single values are findings of their own.
	const notes = remarks
		.filter((n) => (n.group === g.name && n.line === 0 && /no row in LOCA|missing/.test(n.message)) || /cut off/.test(n.message))
		.map((n) => `${n.group}: ${n.message}`);
	return {
		...(notes.length ? { notes } : {}),
		header: g.headings,
		units: g.headings.map((_, i) => g.units[i] ?? ''),
		columns: g.headings.map((_, c) => g.rows.map((r) => r[c]!)),
		rowCount: g.rows.length,
		lines: Int32Array.from(g.lines),
		reading: { delimiter: ',', decimal: '.', thousands: '', headerLine: 0, unitsLine: false, comment: '', part: g.name }
	};
}
