import { withTriangles, type SolidMesh } from './cut-lattice';

/** In which order the triangles of a mesh are drawn, and the number that each of its vertices gets. */
interface DrawingOrder {
	/** Triangles in runs that have the same of each label. */
	triangles: Uint32Array;
	/** By vertex: its number in the order of first use; −1 for one that no triangle has. */
	vertices: Int32Array;
	/** Vertices that are used. */
	count: number;
}

/** @param labels what is told by triangle, the first sorted by first */
export function drawingOrder(mesh: Pick<SolidMesh, 'positions' | 'triangles'>, labels: readonly ArrayLike<number>[]): DrawingOrder {
	const triangles = Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, t) => t).sort((a, b) => {
		for (const l of labels) if (l[a] !== l[b]) return l[a]! - l[b]!;
		return a - b;
	});
	const vertices = new Int32Array(mesh.positions.length / 3).fill(-1);
	let count = 0;
	for (const t of triangles)
		for (let c = 0; c < 3; c++) {
			const v = mesh.triangles[3 * t + c]!;
			if (vertices[v]! < 0) vertices[v] = count++;
		}
	return { triangles, vertices, count };
}

/** The same mesh with its triangles and vertices in the order in which it is drawn, so that what is told by vertex fits what panes have of it. */
export function inDrawingOrder<M extends SolidMesh>(mesh: M, labels: readonly (keyof M)[]): M {
	const { triangles, vertices, count } = drawingOrder(
		mesh,
		labels.map((l) => mesh[l] as unknown as ArrayLike<number>)
	);
	const out = withTriangles(mesh, triangles);
	const positions = new Float64Array(3 * count);
	vertices.forEach((n, v) => n >= 0 && positions.set(mesh.positions.subarray(3 * v, 3 * v + 3), 3 * n));
	return { ...out, positions, triangles: out.triangles.map((v) => vertices[v]!) };
}
