import * as THREE from 'three';
import type { Trace } from '#core/sections/section';

/** Takes all out of a group and gives back what the renderer keeps of it. */
export function clearGroup(group: THREE.Group): void {
	for (const o of [...group.children]) {
		group.remove(o);
		const m = o as THREE.Mesh;
		m.geometry?.dispose();
		for (const material of [m.material ?? []].flat()) {
			(material as THREE.MeshBasicMaterial).map?.dispose();
			material.dispose();
		}
	}
}

/** Corners of the triangles of a grid of nodes, without the cells that touch a node that has none. */
export function gridIndex(nx: number, ny: number, none: (k: number) => boolean): number[] {
	const index: number[] = [];
	for (let j = 0; j + 1 < ny; j++)
		for (let i = 0; i + 1 < nx; i++) {
			const a = j * nx + i;
			if (none(a) || none(a + 1) || none(a + nx) || none(a + nx + 1)) continue;
			index.push(a, a + 1, a + nx + 1, a, a + nx + 1, a + nx);
		}
	return index;
}

/** Distances along a trace at which it bends, between two. */
export function bendsBetween(trace: Trace, low: number, high: number): number[] {
	const out: number[] = [];
	let along = 0;
	for (let i = 1; i + 1 < trace.length; i++) {
		along += Math.hypot(trace[i]![0] - trace[i - 1]![0], trace[i]![1] - trace[i - 1]![1]);
		if (along > low && along < high) out.push(along);
	}
	return out;
}

/** Rings filled even-odd as shapes with holes: a ring inside an odd number of others is a hole of the smallest of them. */
export function shapesOf(outlines: readonly Float64Array[]): THREE.Shape[] {
	const list = outlines.map((r) => {
		const points: THREE.Vector2[] = [];
		for (let i = 0; i + 1 < r.length; i += 2) points.push(new THREE.Vector2(r[i]!, r[i + 1]!));
		return { points, area: Math.abs(THREE.ShapeUtils.area(points)) };
	});
	list.sort((a, b) => b.area - a.area);
	const shapes: { shape: THREE.Shape; points: THREE.Vector2[] }[] = [];
	const rings: THREE.Vector2[][] = [];
	for (const { points, area } of list) {
		if (points.length < 3 || area === 0) continue;
		// Holes count, too: what lies in a hole is a shape again.
		const depth = rings.filter((r) => inside(points[0]!, r)).length;
		rings.push(points);
		const owner = depth % 2 === 1 ? shapes.filter((s) => inside(points[0]!, s.points)).at(-1) : undefined;
		if (owner) owner.shape.holes.push(new THREE.Path(points));
		else shapes.push({ shape: new THREE.Shape(points), points });
	}
	return shapes.map((s) => s.shape);
}

function inside(p: THREE.Vector2, ring: readonly THREE.Vector2[]): boolean {
	let odd = false;
	for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
		const [a, b] = [ring[i]!, ring[j]!];
		if (a.y > p.y !== b.y > p.y && p.x < ((b.x - a.x) * (p.y - a.y)) / (b.y - a.y) + a.x) odd = !odd;
	}
	return odd;
}
