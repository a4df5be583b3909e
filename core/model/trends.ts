import { metricOf } from '../fields/frame';
import type { FitOptions } from '../fields/fit';
import { fromBlocks, inBlock, valueAt } from '../fields/field';
import { sampleRaster, type Raster } from '../grids/raster';
import { fail } from '../problem';
import type { Sequence } from '../units/column';
import { blockAt, type FittedFault } from './faults';
import { contactOf, type FittedSequence } from './fit-sequence';
import type { GroundInput } from './ground';

/** What a trend does to the fit of a field. */
export type Shape = Pick<FitOptions, 'metric' | 'follow'>;

/** Nodes of the grid on which a surface is followed, along the longer side; places looked at down each of them. */
const NODES = 96;
const DOWN = 64;

/** Trends of the sequences of a ground, and the order in which they can be fitted: what is followed comes first. */
export class Trends {
	readonly order: number[] = [];
	private readonly of: (NonNullable<GroundInput['trends']>[number] | undefined)[];
	private readonly followed: number[];
	private readonly made: (NonNullable<GroundInput['made']>[number] | undefined)[];
	private readonly madeAfter: number[];

	/** @throws ProblemError `trend-unit`, `trend-circle`, `bad-trend`, `no-terrain` */
	constructor(
		private readonly input: GroundInput,
		sequences: readonly Sequence[],
		private readonly faults: readonly FittedFault[]
	) {
		const { column, trends = [] } = input;
		const sequenceOf = (id: string) => sequences.findIndex((s) => s.units.some((u) => column[u]!.id === id));
		for (const t of trends) {
			if (sequenceOf(t.unit) < 0)
				fail(
					'trend-unit',
					`a trend names "${t.unit}", which is no unit of the column`,
					'Choose one of its units, or take the trend away.',
					'trends'
				);
			if (t.anisotropy && !(t.anisotropy.ratios.every((r) => r > 0) && t.anisotropy.dip >= 0 && t.anisotropy.dip <= 90))
				fail('bad-trend', `the trend of ${t.unit} needs ratios above 0 and a dip from 0 to 90°`, undefined, 'trends');
			if (t.follows === 'terrain' && !input.terrain)
				fail(
					'no-terrain',
					`the trend of ${t.unit} follows the terrain, and there is none`,
					'Import a terrain, or let it follow a unit.',
					'trends'
				);
		}
		this.of = sequences.map((s) => trends.find((t) => s.units.some((u) => column[u]!.id === t.unit)));
		this.followed = this.of.map((t, i) => {
			if (!t?.follows || t.follows === 'terrain') return -1;
			const j = sequenceOf(t.follows);
			if (j < 0)
				fail(
					'trend-unit',
					`the trend of ${t.unit} follows "${t.follows}", which is no unit of the column`,
					'Choose one of its units.',
					'trends'
				);
			if (j === i)
				fail(
					'trend-circle',
					`the trend of ${t.unit} follows a unit of its own sequence`,
					'Choose a unit of another sequence: within one all layers follow each other.',
					'trends'
				);
			return j;
		});
		for (const m of input.made ?? []) {
			const s =
				sequences[sequenceOf(m.unit)] ??
				fail('made-unit', `the base of "${m.unit}" is to be made, and it is no unit of the column`, 'Choose one of its units.', 'made');
			if (s.kind !== 'strata' || s.base < 0 || column[s.base]!.id !== m.unit)
				fail(
					'made-inside',
					`the base of ${m.unit} is to be made, but it is not the base of a sequence`,
					'Make its contact erosional or onlapping.',
					'made'
				);
		}
		this.made = sequences.map((s) => (input.made ?? []).find((m) => s.base >= 0 && column[s.base]!.id === m.unit));
		this.madeAfter = this.made.map((m, i) => {
			if (!m?.follows) return -1;
			const j = sequenceOf(m.follows);
			if (j < 0 || j === i)
				fail(
					'made-unit',
					`the base of ${m.unit} follows "${m.follows}", which is no unit of another sequence`,
					'Choose a unit of another sequence.',
					'made'
				);
			return j;
		});
		const visit = (i: number, above: readonly number[]) => {
			if (above.includes(i)) fail('trend-circle', 'trends follow each other in a circle', 'Take one of them away.', 'trends');
			if (this.order.includes(i)) return;
			for (const j of [this.followed[i]!, this.madeAfter[i]!]) if (j >= 0) visit(j, [...above, i]);
			this.order.push(i);
		};
		sequences.forEach((_, i) => visit(i, []));
	}

	/** The sequences in groups: those of a group follow only what is in the groups before it. */
	groups(): number[][] {
		const groupOf: number[] = [];
		const out: number[][] = [];
		for (const i of this.order) {
			const g = (groupOf[i] = Math.max(-1, ...[this.followed[i]!, this.madeAfter[i]!].map((j) => (j < 0 ? -1 : groupOf[j]!))) + 1);
			(out[g] ??= []).push(i);
		}
		return out;
	}

	/** @param fitted sequences that are there already, by number */
	shapeOf(i: number, fitted: readonly FittedSequence[]): Shape {
		const t = this.of[i];
		if (!t) return {};
		const metric = t.anisotropy ? metricOf(t.anisotropy) : null;
		const follow = t.follows === 'terrain' ? this.input.terrain : t.follows ? this.heightsOf(t.follows, fitted[this.followed[i]!]!) : null;
		return { metric, follow };
	}

	/** Elevations of the base of a sequence that is given; null when it is to be interpolated. */
	baseOf(i: number, fitted: readonly FittedSequence[]): Raster | null {
		const m = this.made[i];
		if (!m) return null;
		const raster = m.raster ?? (m.follows ? this.heightsOf(m.follows, fitted[this.madeAfter[i]!]!) : null);
		if (!raster) return null;
		const { thickness } = m;
		const values = raster.values.map((v, n) => {
			const [x, y] = [raster.x0 + (n % raster.nx) * raster.dx, raster.y0 + Math.floor(n / raster.nx) * raster.dy];
			const less = thickness ? sampleRaster(thickness, x, y) : 0;
			return v + m.by - (Number.isFinite(less) ? less : 0);
		});
		return { ...raster, values };
	}

	/** Elevations of the base of a unit over the extent, by looking down each node of a grid; NaN where it is not met. */
	private heightsOf(id: string, s: FittedSequence): Raster | null {
		const { extent: e, column } = this.input;
		const unit = column.findIndex((u) => u.id === id);
		const isBase = unit === s.base;
		const own = isBase ? s.baseField && { field: s.baseField, level: s.baseField.levels[0]! } : contactOf(s, unit);
		if (!own || !Number.isFinite(own.level)) return null;
		const { field, level } = own;
		const [w, h] = [e.maxX - e.minX, e.maxY - e.minY];
		const step = Math.max(w, h) / NODES;
		const [nx, ny] = [Math.max(2, Math.round(w / step) + 1), Math.max(2, Math.round(h / step) + 1)];
		const raster: Raster = {
			x0: e.minX,
			y0: e.minY,
			dx: w / (nx - 1),
			dy: h / (ny - 1),
			nx,
			ny,
			values: new Float32Array(nx * ny).fill(NaN)
		};
		const blocks = this.faults.map((f) => inBlock(f.field, 0));
		const cuts = (k: number) => this.faults[k]!.youngestCut <= s.units[s.units.length - 1]!;
		const seen = fromBlocks(field);
		const at = (x: number, y: number, z: number): number => {
			const block = blockAt(this.faults, blocks, cuts, x, y, z);
			return valueAt(seen(block), x, y, z) - level;
		};
		// A little beyond the box: what lies outside is followed, too.
		const high = e.maxZ - e.minZ;
		for (let j = 0; j < ny; j++)
			for (let i = 0; i < nx; i++) {
				const [x, y] = [raster.x0 + i * raster.dx, raster.y0 + j * raster.dy];
				let top = at(x, y, e.maxZ + high / 2);
				for (let k = 1; k <= DOWN; k++) {
					const z = e.maxZ + high / 2 - (2 * high * k) / DOWN;
					const v = at(x, y, z);
					if (top >= 0 && v < 0) {
						raster.values[j * nx + i] = z + ((2 * high) / DOWN) * (-v / (top - v));
						break;
					}
					top = v;
				}
			}
		return raster.values.some((v) => !Number.isNaN(v)) ? raster : null;
	}
}
