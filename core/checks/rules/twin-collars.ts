import { plainNumber, type Found, type Rule } from '../finding';
import { plainName } from './unknown-hole';

const AROUND = [-2, -1, 0, 1, 2];
const MOST_KNOWN = 8;
interface Place {
	name: string;
	x: number;
	y: number;
}
/** Places by the column, and then by the row, of a square cell. */
type Cells = Map<number, Map<number, Place[]>>;

/** The first place of another name that lies no farther off. */
function twinOf(cells: Cells, cx: number, cy: number, { name, x, y }: Place, near: number): Place | null {
	for (const i of AROUND) {
		const column = cells.get(cx + i);
		if (!column) continue;
		for (const j of AROUND) for (const c of column.get(cy + j) ?? []) if (c.name !== name && Math.hypot(c.x - x, c.y - y) <= near) return c;
	}
	return null;
}

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
		const cells: Cells = new Map();
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
				const twin = twinOf(cells, cx, cy, { name, x, y }, near);
				if (twin)
					yield {
						...say,
						message: `${name} stands ${plainNumber(Number(Math.hypot(twin.x - x, twin.y - y).toFixed(2)))} ${lengthUnit} from ${twin.name}`,
						hint: 'When both are one hole under two names, rename one. Holes that were drilled again, or go off in other directions, are left.'
					};
				let column = cells.get(cx);
				if (!column) cells.set(cx, (column = new Map()));
				const own = column.get(cy);
				if (!own) column.set(cy, [{ name, x, y }]);
				else if (own.length < MOST_KNOWN) own.push({ name, x, y });
			}
		}
	}
};
