import Papa from 'papaparse';
import { RADIANS } from '#core/geometry/angles';
import { seededRandom } from '#core/statistics/random';
import { truthLog, type DemoHole } from '../generate';
import { describeUnit } from '../more-tables';
import { placeAt, tunnelAt } from './holes';
import { TARROW, TARROW_COLUMN, tarrowUnit, weatheringAt } from './truth';

/** Strength of fresh rock, MPa, and metres between its joints, by unit. */
const ROCK: Record<string, readonly [number, number]> = {
	cover: [0.4, 0.05],
	tolven: [14, 0.2],
	tuff: [32, 0.35],
	dyke: [190, 0.5],
	granite: [150, 1.1],
	skarn: [120, 0.7],
	fennick: [64, 0.6],
	dorrow: [18, 0.25],
	marrick: [88, 0.8],
	conglomerate: [96, 0.9],
	slate: [72, 0.28]
};
/** What weathering leaves of strength, and of the distance between joints, by grade. */
const LEFT = [0.02, 0.25, 0.6, 1] as const;

/** Rock quality designation of a place, %: from the distance between joints as Priest and Hudson (1976) have it, λ joints a metre: 100 e^(−0.1λ) (0.1λ + 1). */
function qualityAt(x: number, y: number, z: number): number {
	const grade = weatheringAt(x, y, z);
	const perMetre = 1 / (ROCK[TARROW_COLUMN[tarrowUnit(x, y, z)]!.id]![1] * Math.max(0.15, LEFT[grade]!));
	return 100 * Math.exp(-0.1 * perMetre) * (0.1 * perMetre + 1);
}

/** Uniaxial compressive strength of a place, MPa. */
const strengthAt = (x: number, y: number, z: number): number =>
	ROCK[TARROW_COLUMN[tarrowUnit(x, y, z)]!.id]![0] * LEFT[weatheringAt(x, y, z)]!;

type Column = [heading: string, unit: string, type: string];

/** The ground investigation of the tunnel as AGS 4: holes, geology, weathering, core runs with their quality, strength of samples. */
export function tunnelAgs(holes: readonly DemoHole[]): string {
	const random = seededRandom(6006);
	const lines: string[][] = [];
	const group = (name: string, columns: readonly Column[], rows: readonly string[][]) => {
		if (lines.length) lines.push([]);
		lines.push(
			['GROUP', name],
			['HEADING', ...columns.map((c) => c[0])],
			['UNIT', ...columns.map((c) => c[1])],
			['TYPE', ...columns.map((c) => c[2])]
		);
		for (const r of rows) lines.push(['DATA', ...r]);
	};
	const part = (top: string, base: string): Column[] => [
		['LOCA_ID', '', 'ID'],
		[top, 'm', '2DP'],
		[base, 'm', '2DP']
	];
	group(
		'PROJ',
		[
			['PROJ_ID', '', 'ID'],
			['PROJ_NAME', '', 'X'],
			['PROJ_LOC', '', 'X']
		],
		[['TRT', 'Tarrow road tunnel', 'Isle of Tarrow']]
	);
	group(
		'TRAN',
		[
			['TRAN_ISNO', '', 'X'],
			['TRAN_DATE', 'yyyy-mm-dd', 'DT'],
			['TRAN_AGS', '', 'X'],
			['TRAN_DLIM', '', 'X'],
			['TRAN_RCON', '', 'X']
		],
		[['1', '2025-09-30', '4.1', '|', '+']]
	);
	group(
		'LOCA',
		[
			['LOCA_ID', '', 'ID'],
			['LOCA_TYPE', '', 'PA'],
			['LOCA_NATE', 'm', '2DP'],
			['LOCA_NATN', 'm', '2DP'],
			['LOCA_GL', 'm', '2DP'],
			['LOCA_FDEP', 'm', '2DP'],
			['LOCA_STAR', 'yyyy-mm-dd', 'DT']
		],
		holes.map((h, i) => [
			h.name,
			'RC',
			...h.path.collar.map((v) => v.toFixed(2)),
			h.path.totalDepth.toFixed(2),
			`2025-0${5 + (i % 4)}-${10 + i}`
		])
	);
	const runs = holes.flatMap((h) => truthLog(h.path, TARROW.unitAt).map((r) => ({ h, ...r, id: TARROW_COLUMN[r.unit]!.id })));
	group(
		'GEOL',
		[...part('GEOL_TOP', 'GEOL_BASE'), ['GEOL_DESC', '', 'X'], ['GEOL_LEG', '', 'PA']],
		runs.map((r) => [r.h.name, r.from.toFixed(2), r.to.toFixed(2), describeUnit(r.id, 2), TARROW.spellings[r.id]![0]!])
	);
	group(
		'WETH',
		[...part('WETH_TOP', 'WETH_BASE'), ['WETH_WETH', '', 'PA']],
		holes.flatMap((h) =>
			truthLog(h.path, weatheringAt).map((r) => [h.name, r.from.toFixed(2), r.to.toFixed(2), ['VI', 'V', 'III', 'I'][r.unit]!])
		)
	);
	const cored = holes.flatMap((h) => {
		const rows: string[][] = [];
		for (let d = 0; d < h.path.totalDepth; d += 3) {
			const to = Math.min(d + 3, h.path.totalDepth);
			const of = Array.from({ length: 6 }, (_, k) => qualityAt(...placeAt(h, d + ((k + 0.5) / 6) * (to - d))));
			const quality = Math.min(100, Math.max(0, of.reduce((a, b) => a + b, 0) / 6 + 5 * random.normal()));
			const recovered = Math.min(100, Math.max(quality, 88 + 9 * random.uniform()));
			rows.push([
				h.name,
				d.toFixed(2),
				to.toFixed(2),
				recovered.toFixed(0),
				Math.max(quality, recovered - 8).toFixed(0),
				quality.toFixed(0),
				'76'
			]);
		}
		return rows;
	});
	group(
		'CORE',
		[
			...part('CORE_TOP', 'CORE_BASE'),
			['CORE_PREC', '%', '0DP'],
			['CORE_SREC', '%', '0DP'],
			['CORE_RQD', '%', '0DP'],
			['CORE_DIAM', 'mm', '0DP']
		],
		cored
	);
	const tested: string[][] = [];
	for (const h of holes)
		for (let d = 8 + 4 * random.uniform(); d < h.path.totalDepth - 1; d += 9 + 6 * random.uniform()) {
			const strength = strengthAt(...placeAt(h, d)) * Math.exp(0.22 * random.normal());
			if (strength > 1) tested.push([h.name, d.toFixed(2), `${h.name}/${tested.length + 1}`, strength.toFixed(1)]);
		}
	group(
		'RUCS',
		[
			['LOCA_ID', '', 'ID'],
			['SPEC_DPTH', 'm', '2DP'],
			['SPEC_REF', '', 'X'],
			['RUCS_UCS', 'MPa', '1DP']
		],
		tested
	);
	const codes = [...new Set(runs.map((r) => r.id))];
	group(
		'ABBR',
		[
			['ABBR_HDNG', '', 'X'],
			['ABBR_CODE', '', 'X'],
			['ABBR_DESC', '', 'X']
		],
		[
			...codes.map((id) => ['GEOL_LEG', TARROW.spellings[id]![0]!, TARROW_COLUMN.find((u) => u.id === id)!.name]),
			['LOCA_TYPE', 'RC', 'Rotary cored'],
			['WETH_WETH', 'I', 'Fresh'],
			['WETH_WETH', 'III', 'Moderately weathered'],
			['WETH_WETH', 'V', 'Highly to completely weathered'],
			['WETH_WETH', 'VI', 'Residual soil']
		]
	);
	group(
		'TYPE',
		[
			['TYPE_TYPE', '', 'X'],
			['TYPE_DESC', '', 'X']
		],
		[
			['ID', 'Unique identifier'],
			['X', 'Text'],
			['PA', 'Text of the abbreviations'],
			['DT', 'Date'],
			['0DP', 'Whole number'],
			['1DP', 'One decimal place'],
			['2DP', 'Two decimal places']
		]
	);
	group(
		'UNIT',
		[
			['UNIT_UNIT', '', 'X'],
			['UNIT_DESC', '', 'X']
		],
		[
			['m', 'metre'],
			['mm', 'millimetre'],
			['%', 'per cent'],
			['MPa', 'megapascal'],
			['yyyy-mm-dd', 'year month day']
		]
	);
	return `${lines.map((l) => (l.length ? Papa.unparse([l], { quotes: true }) : '')).join('\r\n')}\r\n`;
}

/** The alignment by chainage, every 20 m: place, invert, bearing. */
export function alignmentRows(): string[][] {
	const { length } = tunnelAt(0);
	return Array.from({ length: Math.floor(length / 20) + 1 }, (_, i) => {
		const [a, b] = [tunnelAt(i * 20), tunnelAt(Math.min(length, i * 20 + 1))];
		const bearing = (Math.atan2(b.x - a.x, b.y - a.y) / RADIANS + 360) % 360;
		return ['tunnel', String(i * 20), a.x.toFixed(2), a.y.toFixed(2), a.invert.toFixed(2), bearing.toFixed(2), '11.4'];
	});
}
