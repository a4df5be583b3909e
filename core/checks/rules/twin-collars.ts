import { plainNumber, type Found, type Rule } from '../finding';
import { plainName } from './unknown-hole';

const AROUND = [-2, -1, 0, 1, 2];
const MOST_KNOWN = 8;

/** Two holes at one place, or two names that differ only in spelling. */
export const twinCollars: Rule = {
	id: 'twin-collars',
	title: 'Collars that look like one hole',
	severity: 'noted',
	reason: 'One hole under two names is counted twice, and its rows are torn apart.',
	scope: 'table',
	notOfHoles: true,
	bounds: { distance: { label: 'Distance below which two collars are one place', value: 0.5, unit: 'length', most: 1000 } },
	*check({ tables, rows, bound, lengthUnit }): Iterable<Found> {
		const near = bound('distance');
		const names = new Map<string, { name: string; line: number }>();
		const cells = new Map<string, { name: string; x: number; y: number }[]>();
		// Any two in one cell are one place, so that a heap of collars needs few of them to be known.
		const size = Math.max(near / Math.SQRT2, 1e-9);
		for (const table of tables) {
			const { easting, northing } = table.numbers;
			if (table.kind !== 'collars' || !easting || !northing) continue;
			for (const row of rows(table)) {
				const name = table.text['hole']![row]!;
				const say = { table, row, column: 'hole', hole: name };
				const key = plainName(name);
				const spelled = names.get(key);
				if (!spelled) names.set(key, { name, line: table.lines[row]! });
				else if (spelled.name !== name && key !== '')
					yield {
						...say,
						message: `${name} and ${spelled.name} (line ${spelled.line}) differ only in spelling`,
						hint: 'Rename one of them, or exclude it when both are one hole.'
					};
				const [x, y] = [easting[row]!, northing[row]!];
				if (!Number.isFinite(x) || !Number.isFinite(y)) continue;
				const [cx, cy] = [Math.floor(x / size), Math.floor(y / size)];
				const twin = AROUND.flatMap((i) => AROUND.flatMap((j) => cells.get(`${cx + i} ${cy + j}`) ?? [])).find(
					(c) => c.name !== name && Math.hypot(c.x - x, c.y - y) <= near
				);
				if (twin)
					yield {
						...say,
						message: `${name} stands ${plainNumber(Number(Math.hypot(twin.x - x, twin.y - y).toFixed(2)))} ${lengthUnit} from ${twin.name}`,
						hint: 'When both are one hole under two names, rename one. Holes that were drilled again, or go off in other directions, are left.'
					};
				const own = cells.get(`${cx} ${cy}`);
				if (own && own.length < MOST_KNOWN) own.push({ name, x, y });
				else if (own) continue;
				else cells.set(`${cx} ${cy}`, [{ name, x, y }]);
			}
		}
	}
};
