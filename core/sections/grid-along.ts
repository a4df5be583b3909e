import { valueAt } from '../grids/resample';
import type { Raster } from '../grids/raster';
import { pointOnTrace, traceLength, type Trace } from './section';

const MOST_STEPS = 2000;

/**
 * A grid of elevations along a trace.
 * @returns lines of distance and elevation, flat; one ends where the grid has no value
 */
export function gridAlong(r: Raster, trace: Trace): number[][] {
	const length = traceLength(trace);
	const steps = Math.min(MOST_STEPS, Math.max(1, Math.ceil(length / Math.min(Math.abs(r.dx), Math.abs(r.dy)))));
	const out: number[][] = [];
	let line: number[] = [];
	for (let k = 0; k <= steps; k++) {
		const along = (length * k) / steps;
		const z = valueAt(r, ...pointOnTrace(trace, along));
		if (Number.isFinite(z)) line.push(along, z);
		else if (line.length) {
			out.push(line);
			line = [];
		}
	}
	if (line.length > 2) out.push(line);
	return out.filter((l) => l.length > 2);
}
