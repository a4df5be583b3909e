import * as yup from 'yup';
import { samplePath, positionAt } from '../holes/path';
import { checkHoles } from '../project/pipeline';
import { recipe } from './recipe';

/** Metres or feet between the places that a path is drawn through. */
const STEP = 15;

/** Hole paths and what is logged along them, as the panes draw them. */
export const holePaths = recipe({
	id: 'holes',
	title: 'Hole paths',
	about: 'The holes in space, by minimum curvature, with the intervals that are logged along them.',
	version: 1,
	form: 'lines',
	roles: {},
	parameters: yup.object({}),
	step: {
		shared: true,
		inputs: ['rules'],
		fedBy: ['collars', 'surveys', 'intervals', 'terrain'],
		tables: ['collars', 'surveys', 'intervals'],
		depends: ({ lengthUnit, extent, tables }) => ({ lengthUnit, extent, tables })
	},
	run(_inputs, _parameters, { ground }) {
		const { holes, bent } = checkHoles(ground!.tables, ground!.options);
		const pathStart = new Uint32Array(holes.length + 1);
		const depths: number[] = [];
		const xyz: number[] = [];
		const codes = new Map<string, number>();
		const intervals = {
			hole: [] as number[],
			from: [] as number[],
			to: [] as number[],
			code: [] as number[],
			row: [] as number[],
			ends: [] as number[]
		};
		holes.forEach((h, i) => {
			const s = samplePath(h.path, STEP);
			for (const d of s.depths) depths.push(d);
			for (const v of s.xyz) xyz.push(v);
			pathStart[i + 1] = depths.length;
			for (const v of h.intervals) {
				let code = codes.get(v.code);
				if (code === undefined) codes.set(v.code, (code = codes.size));
				intervals.hole.push(i);
				intervals.from.push(v.from);
				intervals.to.push(v.to);
				intervals.code.push(code);
				intervals.row.push(v.row);
				intervals.ends.push(...positionAt(h.path, v.from), ...positionAt(h.path, v.to));
			}
		});
		return {
			pack: {
				info: {
					holes: holes.map((h) => ({ name: h.name, collar: h.path.collar, totalDepth: h.path.totalDepth, row: h.row })),
					codes: [...codes.keys()],
					bent
				},
				arrays: {
					pathStart,
					depths: Float64Array.from(depths),
					xyz: Float64Array.from(xyz),
					intervalHole: Uint32Array.from(intervals.hole),
					intervalFrom: Float64Array.from(intervals.from),
					intervalTo: Float64Array.from(intervals.to),
					intervalCode: Uint32Array.from(intervals.code),
					intervalRow: Uint32Array.from(intervals.row),
					intervalEnds: Float64Array.from(intervals.ends)
				}
			},
			report: {}
		};
	}
});
