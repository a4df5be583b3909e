import { FAULT, SIDE, type SolidMesh } from './cut-lattice';

/** Edges as pairs of vertices of the mesh, flat. */
export interface HullLines {
	/** Where two units meet on what is seen. */
	contacts: Uint32Array;
	/** Where a fault meets it. */
	faults: Uint32Array;
	/** Where it has an edge: at the rim of the terrain, between two sides, between two surfaces that are laid bare. */
	rims: Uint32Array;
}

/**
 * The lines that a block diagram is drawn with: on the faces of the units that are seen, where another unit, another face or a
 * fault begins. Every edge of the mesh once.
 * @param seen by unit; what is not seen is as empty as what lies outside
 * @param faulted by fault, whether its line is wanted
 */
export function hullLines(mesh: SolidMesh, seen: readonly boolean[], faulted: readonly boolean[] = []): HullLines {
	const { triangles, front, back, surface } = mesh;
	const vertices = mesh.positions.length / 3;
	const key = (a: number, b: number) => (a < b ? a * vertices + b : b * vertices + a);
	const edge = (t: number, c: number) => key(triangles[3 * t + c]!, triangles[3 * t + ((c + 1) % 3)]!);
	const isSeen = (u: number) => u >= 0 && seen[u] === true;
	const onFault = new Set<number>();
	for (let t = 0; t < surface.length; t++) {
		const s = surface[t]!;
		if (s < FAULT || s >= SIDE || faulted[s - FAULT] === false) continue;
		for (let c = 0; c < 3; c++) onFault.add(edge(t, c));
	}
	const kinds = { contacts: [] as number[], faults: [] as number[], rims: [] as number[] };
	/** Unit and surface on the first side of each edge. */
	const first = new Map<number, number>();
	const drawn = new Set<number>();
	for (let t = 0; t < surface.length; t++) {
		const [f, b] = [isSeen(front[t]!), isSeen(back[t]!)];
		if (f === b) continue;
		const own = (f ? front[t]! : back[t]!) * 65_536 + (surface[t]! + 32_768);
		for (let c = 0; c < 3; c++) {
			const e = edge(t, c);
			const other = first.get(e);
			if (other === undefined) {
				first.set(e, own);
				continue;
			}
			if (drawn.has(e)) continue;
			const list = onFault.has(e)
				? kinds.faults
				: Math.floor(other / 65_536) !== Math.floor(own / 65_536)
					? kinds.contacts
					: other !== own
						? kinds.rims
						: null;
			if (!list) continue;
			drawn.add(e);
			list.push(Math.floor(e / vertices), e % vertices);
		}
	}
	return { contacts: Uint32Array.from(kinds.contacts), faults: Uint32Array.from(kinds.faults), rims: Uint32Array.from(kinds.rims) };
}
