import type { Box } from '../geometry/box';
import type { Evaluate } from './evaluate';
import type { FieldSource } from './walk';

/**
 * A field on a coarse grid, to tell for most places on which side of a level they are without evaluating it there: linear in each
 * direction between the nodes, with a tolerance from the second differences around the cell (the error of linear interpolation is at
 * most an eighth of them) and a safety of four, because the field bends most at its data.
 */
export class Screen {
	private readonly nx: number;
	private readonly ny: number;
	private readonly nz: number;
	private readonly x0: number;
	private readonly y0: number;
	private readonly z0: number;
	private readonly scaleX: number;
	private readonly scaleY: number;
	private readonly scaleZ: number;
	private readonly tolerance: Float64Array;

	private constructor(
		box: Box,
		n: readonly [number, number, number],
		private readonly values: Float64Array
	) {
		[this.nx, this.ny, this.nz] = n;
		[this.x0, this.y0, this.z0] = [box.minX, box.minY, box.minZ];
		this.scaleX = n[0] / (box.maxX - box.minX);
		this.scaleY = n[1] / (box.maxY - box.minY);
		this.scaleZ = n[2] / (box.maxZ - box.minZ);
		this.tolerance = tolerances(values, n);
	}

	/** @param cells cells along the longest side */
	static async of(source: FieldSource, box: Box, cells: number, evaluate: Evaluate): Promise<Screen> {
		const side = [box.maxX - box.minX, box.maxY - box.minY, box.maxZ - box.minZ] as const;
		const longest = Math.max(...side);
		const n = side.map((s) => Math.max(4, Math.ceil((cells * s) / longest))) as [number, number, number];
		const [sx, sy, sz] = n.map((c) => c + 1) as [number, number, number];
		const xyz = new Float64Array(3 * sx * sy * sz);
		let at = 0;
		for (let k = 0; k < sz; k++)
			for (let j = 0; j < sy; j++)
				for (let i = 0; i < sx; i++) {
					xyz[at++] = box.minX + (i / n[0]) * side[0];
					xyz[at++] = box.minY + (j / n[1]) * side[1];
					xyz[at++] = box.minZ + (k / n[2]) * side[2];
				}
		const values = await evaluate(source.field, source.block, xyz);
		return new Screen(box, n, values);
	}

	/**
	 * Value at a place and how far it may be off, into `out`; Infinity outside the box.
	 */
	at(x: number, y: number, z: number, out: Float64Array): void {
		const values = this.values;
		const nx = this.nx;
		const ny = this.ny;
		const u = (x - this.x0) * this.scaleX;
		const v = (y - this.y0) * this.scaleY;
		const w = (z - this.z0) * this.scaleZ;
		if (!(u >= 0 && u <= nx && v >= 0 && v <= ny && w >= 0 && w <= this.nz)) {
			out[1] = Infinity;
			return;
		}
		const i = Math.min(nx - 1, u | 0);
		const j = Math.min(ny - 1, v | 0);
		const k = Math.min(this.nz - 1, w | 0);
		const a = u - i;
		const b = v - j;
		const c = w - k;
		const sx = nx + 1;
		const sxy = sx * (ny + 1);
		const o = k * sxy + j * sx + i;
		const p = o + sxy;
		const e = values[o]! + (values[o + 1]! - values[o]!) * a;
		const f = values[o + sx]! + (values[o + sx + 1]! - values[o + sx]!) * a;
		const g = values[p]! + (values[p + 1]! - values[p]!) * a;
		const h = values[p + sx]! + (values[p + sx + 1]! - values[p + sx]!) * a;
		const low = e + (f - e) * b;
		out[0] = low + (g + (h - g) * b - low) * c;
		out[1] = this.tolerance[(k * ny + j) * nx + i]!;
	}
}

const SAFETY = 4;

/** By cell: the greatest sum of second differences at its corners, an eighth of it, times the safety. */
function tolerances(values: Float64Array, n: readonly [number, number, number]): Float64Array {
	const [nx, ny, nz] = n;
	const [sx, sy] = [nx + 1, ny + 1];
	const steps = [1, sx, sx * sy] as const;
	const bend = new Float64Array(values.length);
	for (let k = 0; k <= nz; k++)
		for (let j = 0; j <= ny; j++)
			for (let i = 0; i <= nx; i++) {
				const o = (k * sy + j) * sx + i;
				let sum = 0;
				for (const [c, at, last] of [
					[0, i, nx],
					[1, j, ny],
					[2, k, nz]
				] as const) {
					// At the sides the difference next to it stands in.
					const p = o + steps[c] * (at === 0 ? 1 : at === last ? -1 : 0);
					sum += Math.abs(values[p - steps[c]]! - 2 * values[p]! + values[p + steps[c]]!);
				}
				bend[o] = sum;
			}
	const out = new Float64Array(nx * ny * nz);
	for (let k = 0, cell = 0; k < nz; k++)
		for (let j = 0; j < ny; j++)
			for (let i = 0; i < nx; i++, cell++) {
				const o = (k * sy + j) * sx + i;
				let most = 0;
				for (const d of [0, 1, sx, sx + 1, sx * sy, sx * sy + 1, sx * sy + sx, sx * sy + sx + 1]) most = Math.max(most, bend[o + d]!);
				out[cell] = (SAFETY * most) / 8;
			}
	return out;
}
