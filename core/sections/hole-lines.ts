import type { SectionHole } from './section-drawing';
import { projectOnTrace, traceLength, type Trace } from './section';

/** Hole paths and intervals as typed arrays, as they are stored and sent to the panes. */
export interface HoleScene {
	holes: { name: string; collar: readonly [number, number, number]; totalDepth: number; row: number }[];
	/** Text of each code number. */
	codes: string[];
	/** First path vertex of each hole; one more entry than holes. */
	pathStart: Uint32Array;
	/** Measured depth and position of path vertices. */
	depths: Float64Array;
	xyz: Float64Array;
	intervalHole: Uint32Array;
	intervalFrom: Float64Array;
	intervalTo: Float64Array;
	intervalCode: Uint32Array;
	intervalRow: Uint32Array;
	/** Upper and lower end of each interval, 6 numbers each. */
	intervalEnds: Float64Array;
}

/** A hole as a line with a unit below each vertex. */
interface HoleLine {
	depths: number[];
	xyz: [number, number, number][];
	/** −1 where nothing is known. */
	units: number[];
}

/** Path vertices and ends of intervals of each hole, by depth. */
export function holeLines(scene: HoleScene, unitOfCode: (code: string) => number): HoleLine[] {
	const vertices: { depth: number; at: [number, number, number]; unit: number | null }[][] = scene.holes.map((_, h) => {
		const list = [];
		for (let v = scene.pathStart[h]!; v < scene.pathStart[h + 1]!; v++)
			list.push({
				depth: scene.depths[v]!,
				at: [scene.xyz[3 * v]!, scene.xyz[3 * v + 1]!, scene.xyz[3 * v + 2]!] as [number, number, number],
				unit: null
			});
		return list;
	});
	const units = scene.codes.map(unitOfCode);
	for (let i = 0; i < scene.intervalHole.length; i++) {
		const e = scene.intervalEnds.subarray(6 * i, 6 * i + 6);
		const list = vertices[scene.intervalHole[i]!]!;
		list.push({ depth: scene.intervalFrom[i]!, at: [e[0]!, e[1]!, e[2]!], unit: units[scene.intervalCode[i]!]! });
		list.push({ depth: scene.intervalTo[i]!, at: [e[3]!, e[4]!, e[5]!], unit: -1 });
	}
	return vertices.map((list) => {
		// At one depth the end of the interval above comes first, then a path vertex, then the start of the next.
		const order = (u: number | null) => (u === -1 ? 0 : u === null ? 1 : 2);
		list.sort((a, b) => a.depth - b.depth || order(a.unit) - order(b.unit));
		const line: HoleLine = { depths: [], xyz: [], units: [] };
		let unit = -1;
		for (const v of list) {
			if (v.unit !== null) unit = v.unit;
			const last = line.depths.length - 1;
			if (last >= 0 && v.depth - line.depths[last]! < 1e-9) line.units[last] = unit;
			else {
				line.depths.push(v.depth);
				line.xyz.push(v.at);
				line.units.push(unit);
			}
		}
		return line;
	});
}

/** Holes whose collar lies within the corridor of a section, projected onto it. */
export function holesOnSection(scene: HoleScene, lines: readonly HoleLine[], trace: Trace, corridor: number): SectionHole[] {
	const length = traceLength(trace);
	return scene.holes.flatMap((h, i): SectionHole[] => {
		const at = projectOnTrace(trace, h.collar[0], h.collar[1]);
		if (at.off > corridor || at.along <= 0 || at.along >= length) return [];
		const line = lines[i]!;
		const points = new Float64Array(2 * line.depths.length);
		line.xyz.forEach(([x, y, z], k) => {
			points[2 * k] = projectOnTrace(trace, x, y).along;
			points[2 * k + 1] = z;
		});
		return [{ name: h.name, points, units: Int16Array.from(line.units), off: at.off }];
	});
}
