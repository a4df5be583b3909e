import { seededRandom } from '#core/statistics/random';
import { truthLog, type DemoHole } from '../generate';
import { aboveMarrick, restored } from '../truth';
import { placeAt } from './holes';
import { TARROW_COLUMN, tarrowUnit } from './truth';

/** The scheme of the region: rank, unit, its parent, and the ages of its top and base with their error, million years. */
export const SCHEME: readonly (readonly [rank: string, unit: string, parent: string, top: number, base: number, error: number])[] = [
	['group', 'Hask Group', '', 9.5, 16.2, 0.4],
	['formation', 'Tolven Siltstone', 'Hask Group', 9.5, 13.6, 0.4],
	['formation', 'Hask Tuff', 'Hask Group', 13.6, 16.2, 0.2],
	['group', 'Quill Group', '', 58, 89.5, 1],
	['formation', 'Fennick Sandstone', 'Quill Group', 58, 66, 0.8],
	['member', 'Upper Fennick', 'Fennick Sandstone', 58, 61.5, 0.8],
	['member', 'Lower Fennick', 'Fennick Sandstone', 61.5, 66, 0.8],
	['formation', 'Dorrow Mudstone', 'Quill Group', 66, 77, 0.6],
	['member', 'Upper Dorrow', 'Dorrow Mudstone', 66, 71, 0.6],
	['member', 'Lower Dorrow', 'Dorrow Mudstone', 71, 77, 0.6],
	['formation', 'Marrick Limestone', 'Quill Group', 77, 86, 0.5],
	['member', 'Upper Marrick', 'Marrick Limestone', 77, 81, 0.5],
	['member', 'Lower Marrick', 'Marrick Limestone', 81, 86, 0.5],
	['formation', 'Quill Conglomerate', 'Quill Group', 86, 89.5, 1.5],
	['group', 'Skerra Slate', '', 390, 425, 5]
];
/** Height above the base of the Marrick at which a member ends, by the index of its line in `SCHEME`. */
const MEMBERS: readonly (readonly [from: number, member: string])[] = [
	[310, 'Upper Fennick'],
	[230, 'Lower Fennick'],
	[150, 'Upper Dorrow'],
	[90, 'Lower Dorrow'],
	[40, 'Upper Marrick'],
	[0, 'Lower Marrick']
];

const memberAt = (x: number, y: number, z: number): number => {
	const [rx, ry, rz] = restored(x, y, z);
	const above = aboveMarrick(rx, ry, rz);
	return MEMBERS.findIndex(([from]) => above >= from);
};
/** Formation, and member where there is one, as one number, for logs. */
const formationAndMember = (x: number, y: number, z: number): number => {
	const unit = tarrowUnit(x, y, z);
	const ranked = ['fennick', 'dorrow', 'marrick'].includes(TARROW_COLUMN[unit]!.id);
	return unit * 10 + (ranked ? memberAt(x, y, z) + 1 : 0);
};

/** Tops of the regional wells by rank, with the age of the top where it is known: at the upper end of what an unconformity left, nobody knows it. */
export function topRows(wells: readonly DemoHole[]): string[][] {
	const random = seededRandom(8080);
	return wells.flatMap((w) =>
		truthLog(w.path, formationAndMember).map((r, i, all) => {
			const formation = TARROW_COLUMN[Math.floor(r.unit / 10)]!.name;
			const member = r.unit % 10 ? MEMBERS[(r.unit % 10) - 1]![1] : '';
			const own = SCHEME.find((s) => s[1] === (member || formation));
			const group = SCHEME.find((s) => s[1] === formation)?.[2] || (formation === 'Skerra Slate' ? 'Skerra Slate' : '');
			const above = all[i - 1];
			const whole = above && Math.floor(above.unit / 10) > 2 && own && random.uniform() < 0.7;
			return [
				w.name,
				r.from.toFixed(1),
				r.to.toFixed(1),
				group,
				formation,
				member,
				whole ? (own[3] + 0.5 * own[5] * random.normal()).toFixed(1) : '',
				whole ? own[5].toFixed(1) : ''
			];
		})
	);
}

/** Fossil zones in three of the wells: a range of ages at a depth. */
export function zoneRows(wells: readonly DemoHole[]): string[][] {
	const rows: string[][] = [];
	for (const w of wells.filter((_, i) => i % 3 === 1))
		for (let d = 40; d < w.path.totalDepth; d += 60) {
			const m = memberAt(...placeAt(w, d));
			const id = TARROW_COLUMN[tarrowUnit(...placeAt(w, d))]!.id;
			const own = ['fennick', 'dorrow', 'marrick'].includes(id) && m >= 0 ? SCHEME.find((s) => s[1] === MEMBERS[m]![1]) : undefined;
			if (own) rows.push([w.name, d.toFixed(1), `Z${String(m + 1).padStart(2, '0')}`, own[3].toFixed(1), own[4].toFixed(1)]);
		}
	return rows;
}
