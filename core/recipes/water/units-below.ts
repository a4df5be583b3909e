import * as yup from 'yup';
import { frameBox, requireOverlap } from '../../grids/frame';
import { solidOf } from '../../mesh/extract';
import { thicknessGrid } from '../../mesh/grid-over';
import { fail } from '../../problem';
import { frameOver, gridOf, productOfReadings, solidsOf, unitsByNumber } from '../opened';
import { recipe, theOne } from '../recipe';
import { GRID, MODEL } from '../roles';

/** What of each unit of a model lies below a grid: what of it is wet, where the grid is the water table. */
export const unitsBelow = recipe({
	id: 'units-below',
	title: 'Units below a grid',
	about: 'A table: how much of each unit of a model lies below a grid and above it; of a water table, what of each unit is wet.',
	version: 1,
	form: 'table',
	atOnce: true,
	roles: { model: MODEL, grid: { ...GRID, title: 'Grid (elevation)' } },
	parameters: yup.object({}).noUnknown(),
	run(inputs, _p, { project: { lengthUnit } }) {
		const [given, over] = [theOne(inputs, 'model'), theOne(inputs, 'grid')];
		const mesh = solidsOf(given);
		const level = gridOf(over);
		requireOverlap(frameBox(level), frameBox(frameOver(mesh)), [over.name, given.name], 'grid');
		const box = frameBox(level);
		const [dx, dy] = [Math.abs(level.dx), Math.abs(level.dy)];
		// Vertical lines are looked for from the south-west on.
		const frame = { x0: box.minX + dx / 2, y0: box.minY + dy / 2, dx, dy, nx: level.nx, ny: level.ny };
		const values = turned(level.values, level);
		const area = dx * dy;
		const rows = unitsByNumber(given).flatMap((unit, i) => {
			const solid = solidOf(mesh, i);
			if (solid.triangles.length === 0) return [];
			const whole = thicknessGrid(solid, frame).values;
			const wet = thicknessGrid(solid, frame, values).values;
			let [below, above, beside, wetCells, through] = [0, 0, 0, 0, 0];
			for (let k = 0; k < whole.length; k++) {
				const t = whole[k]!;
				if (!(t > 0)) continue;
				const w = wet[k]!;
				if (Number.isNaN(w)) {
					beside += t;
					continue;
				}
				below += w;
				above += t - w;
				if (w > 1e-6) wetCells++;
				if (w > 1e-6 && t - w > 1e-6) through++;
			}
			return [{ unit: unit.name, below, above, beside, wetCells, through, mean: wetCells ? below / wetCells : NaN }];
		});
		if (!rows.some((r) => r.below + r.above > 0))
			fail('no-overlap', `${over.name} has no value over ${given.name}`, 'Take a grid that covers the model.', 'grid');
		const number = (key: string, label: string, unit: string, of: (r: (typeof rows)[number]) => number) => ({
			key,
			label,
			type: 'number' as const,
			unit,
			values: Float64Array.from(rows, of)
		});
		const none = () => new Float64Array(rows.length).fill(NaN);
		const sum = (of: (r: (typeof rows)[number]) => number) => rows.reduce((s, r) => s + of(r), 0);
		return productOfReadings(
			{
				rowCount: rows.length,
				row: Uint32Array.from(rows, (_, i) => i),
				x: none(),
				y: none(),
				z: none(),
				columns: [
					{ key: 'unit', label: 'Unit', type: 'text', values: rows.map((r) => r.unit) },
					number('below', 'Volume below', `${lengthUnit}³`, (r) => r.below * area),
					number('above', 'Volume above', `${lengthUnit}³`, (r) => r.above * area),
					number('share', 'Share below', '', (r) => (r.below + r.above > 0 ? r.below / (r.below + r.above) : NaN)),
					number('area', 'Area where any lies below', `${lengthUnit}²`, (r) => r.wetCells * area),
					number('thickness', 'Mean thickness there', lengthUnit, (r) => r.mean),
					number('met', 'Area where the grid lies in it', `${lengthUnit}²`, (r) => r.through * area),
					number('beside', 'Volume beside the grid', `${lengthUnit}³`, (r) => r.beside * area)
				]
			},
			{
				below: sum((r) => r.below) * area,
				above: sum((r) => r.above) * area,
				...(sum((r) => r.beside) > 0 ? { beside: sum((r) => r.beside) * area } : {}),
				words: `Units of ${given.name} below ${over.name}, on ${frame.nx} × ${frame.ny} vertical lines.`
			}
		);
	}
});

/** The values of a grid, rows from the south and columns from the west. */
function turned(values: Float32Array, { nx, ny, dx, dy }: { nx: number; ny: number; dx: number; dy: number }): Float32Array {
	if (dx > 0 && dy > 0) return values;
	return Float32Array.from(values, (_, k) => {
		const [i, j] = [k % nx, Math.floor(k / nx)];
		return values[(dy > 0 ? j : ny - 1 - j) * nx + (dx > 0 ? i : nx - 1 - i)]!;
	});
}
