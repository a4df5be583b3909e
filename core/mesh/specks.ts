import { AIR, FAULT, OUTSIDE, withTriangles, type CutMesh } from './cut-lattice';

/**
 * A mesh without small loose parts of units: a connected part of less than a volume becomes part of what it touches along the greatest
 * area. Volumes move along, so that they still add up. Parts that touch only the air or the outside stay.
 * @param least volume, cubic length units; 0 keeps all
 * @returns the mesh, how many parts were dropped, and their volume
 */
export function dropSpecks(mesh: CutMesh, least: number): { mesh: CutMesh; dropped: number; volume: number } {
	if (!(least > 0)) return { mesh, dropped: 0, volume: 0 };
	const { positions: p, triangles } = mesh;
	const front = mesh.front.slice();
	const back = mesh.back.slice();
	const [frontLeaf, backLeaf] = [mesh.frontLeaf.slice(), mesh.backLeaf.slice()];
	const volumes = new Map(mesh.volumes);
	let dropped = 0;
	let moved = 0;
	for (const unit of [...volumes.keys()].filter((u) => u >= 0).sort((a, b) => a - b)) {
		for (const part of partsOfUnit(mesh, front, back, unit)) {
			const touched = new Map<number, number>();
			let volume = 0;
			const [ox, oy, oz] = [p[3 * triangles[3 * part[0]!]!]!, p[3 * triangles[3 * part[0]!]! + 1]!, p[3 * triangles[3 * part[0]!]! + 2]!];
			for (const t of part) {
				const [a, b, c] = [0, 1, 2].map((k) => {
					const v = 3 * triangles[3 * t + k]!;
					return [p[v]! - ox, p[v + 1]! - oy, p[v + 2]! - oz] as const;
				});
				const cross = [b![1] * c![2] - b![2] * c![1], b![2] * c![0] - b![0] * c![2], b![0] * c![1] - b![1] * c![0]] as const;
				volume += ((back[t] === unit ? 1 : -1) * (a![0] * cross[0] + a![1] * cross[1] + a![2] * cross[2])) / 6;
				const other = back[t] === unit ? front[t]! : back[t]!;
				const [e, f] = [[b![0] - a![0], b![1] - a![1], b![2] - a![2]] as const, [c![0] - a![0], c![1] - a![1], c![2] - a![2]] as const];
				const area = Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]) / 2;
				if (other !== AIR && other !== OUTSIDE) touched.set(other, (touched.get(other) ?? 0) + area);
			}
			// A part of negative volume is the wall of a cavity; what fills it is a part of its own.
			if (!(volume > 0 && volume < least) || touched.size === 0) continue;
			const [into] = [...touched].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]!;
			const beside = part.find((t) => front[t] === into || back[t] === into)!;
			const leaf = front[beside] === into ? frontLeaf[beside]! : backLeaf[beside]!;
			for (const t of part) {
				if (front[t] === unit) [front[t], frontLeaf[t]] = [into, leaf];
				if (back[t] === unit) [back[t], backLeaf[t]] = [into, leaf];
			}
			volumes.set(unit, volumes.get(unit)! - volume);
			volumes.set(into, (volumes.get(into) ?? 0) + volume);
			dropped++;
			moved += volume;
		}
	}
	if (dropped === 0) return { mesh, dropped, volume: 0 };
	// What has one unit on both sides now is no boundary any more, unless it is a fault.
	const kept = Array.from(front, (_, t) => t).filter((t) => front[t] !== back[t] || mesh.surface[t]! >= FAULT);
	return { mesh: withTriangles({ ...mesh, front, back, frontLeaf, backLeaf, volumes }, kept), dropped, volume: moved };
}

/** Triangles of each connected part of a unit, in the order of their first triangle. */
function partsOfUnit(mesh: CutMesh, front: Int16Array, back: Int16Array, unit: number): number[][] {
	const own: number[] = [];
	for (let t = 0; t < front.length; t++) if ((front[t] === unit) !== (back[t] === unit)) own.push(t);
	const parent = new Map<number, number>();
	const root = (v: number): number => {
		let r = v;
		while (parent.get(r)! !== r) r = parent.get(r)!;
		while (parent.get(v)! !== r) {
			const next = parent.get(v)!;
			parent.set(v, r);
			v = next;
		}
		return r;
	};
	for (const t of own)
		for (let k = 0; k < 3; k++)
			if (!parent.has(mesh.triangles[3 * t + k]!)) parent.set(mesh.triangles[3 * t + k]!, mesh.triangles[3 * t + k]!);
	for (const t of own) {
		const a = root(mesh.triangles[3 * t]!);
		parent.set(root(mesh.triangles[3 * t + 1]!), a);
		parent.set(root(mesh.triangles[3 * t + 2]!), a);
	}
	const parts = new Map<number, number[]>();
	for (const t of own) {
		const r = root(mesh.triangles[3 * t]!);
		const list = parts.get(r);
		if (list) list.push(t);
		else parts.set(r, [t]);
	}
	return [...parts.values()];
}
