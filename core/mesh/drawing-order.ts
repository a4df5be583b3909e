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

/** @param labels what is told by triangle, whole numbers, the first sorted by first */
export function drawingOrder(mesh: Pick<SolidMesh, 'positions' | 'triangles'>, labels: readonly ArrayLike<number>[]): DrawingOrder {
	let triangles = Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, t) => t);
	// Sorted by the last first: each of these keeps the order of what is the same.
	for (const label of [...labels].reverse()) triangles = sortedBy(triangles, label);
	const vertices = new Int32Array(mesh.positions.length / 3).fill(-1);
	let count = 0;
	for (const t of triangles)
		for (let c = 0; c < 3; c++) {
			const v = mesh.triangles[3 * t + c]!;
			if (vertices[v]! < 0) vertices[v] = count++;
		}
	return { triangles, vertices, count };
}

/** Triangles by their label, those with the same one in the order in which they were (counting sort). */
function sortedBy(triangles: Uint32Array<ArrayBuffer>, label: ArrayLike<number>): Uint32Array<ArrayBuffer> {
	let least = Infinity;
	let greatest = -Infinity;
	for (let t = 0; t < triangles.length; t++) {
		if (label[t]! < least) least = label[t]!;
		if (label[t]! > greatest) greatest = label[t]!;
	}
	if (!(greatest > least)) return triangles;
	const starts = new Uint32Array(greatest - least + 2);
	for (let t = 0; t < triangles.length; t++) starts[label[t]! - least + 1]!++;
	for (let k = 1; k < starts.length; k++) starts[k]! += starts[k - 1]!;
	const out = new Uint32Array(triangles.length);
	for (let n = 0; n < triangles.length; n++) out[starts[label[triangles[n]!]! - least]!++] = triangles[n]!;
	return out;
}

/** The same mesh with its triangles and vertices in the order in which it is drawn, so that what is told by vertex fits what panes have of it. */
export function inDrawingOrder<M extends SolidMesh>(mesh: M, labels: readonly (keyof M)[]): M {
	const { triangles, vertices, count } = drawingOrder(
		mesh,
		labels.map((l) => mesh[l] as unknown as ArrayLike<number>)
	);
	const out = withTriangles(mesh, triangles);
	const positions = new Float64Array(3 * count);
	for (let v = 0; v < vertices.length; v++) {
		const n = vertices[v]!;
		if (n >= 0) for (let c = 0; c < 3; c++) positions[3 * n + c] = mesh.positions[3 * v + c]!;
	}
	const corners = new Uint32Array(out.triangles.length);
	for (let c = 0; c < corners.length; c++) corners[c] = vertices[out.triangles[c]!]!;
	return { ...out, positions, triangles: corners };
}
