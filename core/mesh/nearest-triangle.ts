import { BufferAttribute, BufferGeometry, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { TriangleMesh } from './extract';

/** Finds the triangle of a mesh that is nearest to a place, by a tree of boxes. */
export class NearestTriangle {
	private readonly tree: MeshBVH | null;
	private readonly origin: readonly [number, number, number];
	private readonly place = new Vector3();
	private readonly hit = { point: new Vector3(), distance: 0, faceIndex: -1 };

	constructor(mesh: TriangleMesh) {
		const p = mesh.positions;
		// The boxes have short numbers: they stand about the middle of the mesh, whatever its coordinates.
		const low = [Infinity, Infinity, Infinity];
		const high = [-Infinity, -Infinity, -Infinity];
		for (let i = 0; i < p.length; i += 3)
			for (let c = 0; c < 3; c++) {
				if (p[i + c]! < low[c]!) low[c] = p[i + c]!;
				if (p[i + c]! > high[c]!) high[c] = p[i + c]!;
			}
		const origin = [0, 1, 2].map((c) => (low[c]! + high[c]!) / 2) as [number, number, number];
		this.origin = origin;
		if (mesh.triangles.length === 0) {
			this.tree = null;
			return;
		}
		const local = new Float64Array(p.length);
		for (let i = 0; i < p.length; i += 3) for (let c = 0; c < 3; c++) local[i + c] = p[i + c]! - origin[c]!;
		const geometry = new BufferGeometry();
		geometry.setAttribute('position', new BufferAttribute(local, 3));
		geometry.setIndex(new BufferAttribute(mesh.triangles, 1));
		this.tree = new MeshBVH(geometry, { indirect: true });
	}

	/**
	 * @param most distance beyond which nothing is looked for
	 * @returns the distance and the place of the triangle's first corner among the corners; −1 and `most` when there is none
	 */
	nearest(x: number, y: number, z: number, most = Infinity): { distance: number; corner: number } {
		this.place.set(x - this.origin[0], y - this.origin[1], z - this.origin[2]);
		const found = this.tree?.closestPointToPoint(this.place, this.hit, 0, most);
		return found && found.distance <= most ? { distance: found.distance, corner: 3 * found.faceIndex } : { distance: most, corner: -1 };
	}

	distance(x: number, y: number, z: number): number {
		return this.nearest(x, y, z).distance;
	}
}
