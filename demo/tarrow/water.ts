import { formatDate } from '#core/tables/dates';
import { seededRandom } from '#core/statistics/random';
import type { DemoHole } from '../generate';
import { terrainAt } from '../truth';
import { waterTableAt } from './truth';

/** 15 January 2024, days from 1970. */
const FIRST_DAY = 19_737;
export const MONTHS = 24;
/** Readings that were written down wrongly: a decimal point lost, and one read off another well. */
export const WATER_SLIPS = [
	{ well: 'MW-11', month: 7 },
	{ well: 'MW-28', month: 16 }
] as const;

/** Depth to water in each well, once a month for two years. */
export function monthlyLevels(wells: readonly DemoHole[]): string[][] {
	const random = seededRandom(771);
	return wells.flatMap((w, i) =>
		Array.from({ length: MONTHS }, (_, month) => {
			const day = Math.round(FIRST_DAY + month * 30.44 + 2 * random.uniform());
			const [x, y, z] = w.path.collar;
			const right = Math.max(0.2, z - waterTableAt(x, y, day) + 0.04 * random.normal());
			const slip = WATER_SLIPS.find((s) => s.well === w.name && s.month === month);
			const read = !slip ? right : slip.well === 'MW-11' ? right * 10 : right + 6.4;
			return [w.name, formatDate(day), read.toFixed(2), i % 2 ? 'KB' : 'MO'];
		})
	);
}

/** The Pell river down its valley to the shore, and the tributaries that join it. */
export function rivers(): { name: string; line: [number, number][] }[] {
	const middle = (y: number) => 404350 + 260 * Math.sin(y / 620);
	const pell: [number, number][] = [];
	for (let y = 4994050; y > 4990400 && terrainAt(middle(y), y) > 0.2; y -= 75) pell.push([Math.round(middle(y)), y]);
	const down = (x0: number, y0: number): [number, number][] => {
		const line: [number, number][] = [[x0, y0]];
		let [x, y] = [x0, y0];
		// A step against the slope, drawn towards the river, so that a hollow does not keep it.
		for (let i = 0; i < 90; i++) {
			const e = 20;
			const sx = terrainAt(x + e, y) - terrainAt(x - e, y);
			const sy = terrainAt(x, y + e) - terrainAt(x, y - e);
			const steep = Math.hypot(sx, sy) || 1;
			const [dx, dy] = [-sx / steep + 1.1 * Math.sign(middle(y) - x), -sy / steep - 0.25];
			const size = Math.hypot(dx, dy);
			[x, y] = [x + (50 * dx) / size, y + (50 * dy) / size];
			const joins = Math.abs(x - middle(y)) < 60;
			line.push(joins ? [Math.round(middle(y)), Math.round(y)] : [Math.round(x), Math.round(y)]);
			if (joins || terrainAt(x, y) < 0.2) break;
		}
		return line;
	};
	return [
		{ name: 'Pell', line: pell },
		{ name: 'Carrow Burn', line: down(402900, 4992900) },
		{ name: 'Skerra Burn', line: down(402700, 4991600) },
		{ name: 'Wick Water', line: down(405300, 4993100) }
	];
}
