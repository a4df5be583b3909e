import type { TriangleMesh } from './extract';
import type { Raster } from '../grids/raster';

/** Where grids made from meshes have their nodes: the middle of cells over a box on the map. */
export function gridOver(box: { minX: number; minY: number; maxX: number; maxY: number }, cell: number): Omit<Raster, 'values'> {
	const nx = Math.max(1, Math.round((box.maxX - box.minX) / cell));
	const ny = Math.max(1, Math.round((box.maxY - box.minY) / cell));
	const [dx, dy] = [(box.maxX - box.minX) / nx, (box.maxY - box.minY) / ny];
	return { x0: box.minX + dx / 2, y0: box.minY + dy / 2, dx, dy, nx, ny };
}

/**
 * Calls back for each node that lies below or above a triangle, seen on the map. A node on an edge counts for one of the two
 * triangles at it only, so that sums over a closed mesh are exact.
 */
function eachCrossing(
	mesh: TriangleMesh,
	grid: Omit<Raster, 'values'>,
	found: (node: number, z: number, triangle: number, up: number) => void
): void {
	const { positions: p, triangles } = mesh;
	for (let t = 0; t < triangles.length; t += 3) {
		const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
		// In units of the grid: nodes are whole numbers. A small shift that no one sees keeps nodes off edges and corners.
		const at = (v: number, k: 0 | 1) =>
			(p[v + k]! - (k === 0 ? grid.x0 : grid.y0)) / (k === 0 ? grid.dx : grid.dy) + (k === 0 ? 1.234e-7 : 2.718e-7);
		const [ax, ay, bx, by, cx, cy] = [at(a, 0), at(a, 1), at(b, 0), at(b, 1), at(c, 0), at(c, 1)];
		const twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
		if (twice === 0) continue;
		const [i0, i1] = [Math.max(0, Math.ceil(Math.min(ax, bx, cx))), Math.min(grid.nx - 1, Math.floor(Math.max(ax, bx, cx)))];
		const [j0, j1] = [Math.max(0, Math.ceil(Math.min(ay, by, cy))), Math.min(grid.ny - 1, Math.floor(Math.max(ay, by, cy)))];
		for (let j = j0; j <= j1; j++)
			for (let i = i0; i <= i1; i++) {
				const u = ((bx - i) * (cy - j) - (by - j) * (cx - i)) / twice;
				const v = ((cx - i) * (ay - j) - (cy - j) * (ax - i)) / twice;
				const w = 1 - u - v;
				if (u < 0 || v < 0 || w < 0) continue;
				found(j * grid.nx + i, u * p[a + 2]! + v * p[b + 2]! + w * p[c + 2]!, t / 3, twice > 0 ? 1 : -1);
			}
	}
}

/**
 * Vertical thickness of a closed solid with its normals outward: what of each vertical line lies inside. NaN where it is not met.
 * @param below elevations of the nodes: only what lies below them counts, and where there is none nothing is known
 */
export function thicknessGrid(solid: TriangleMesh, grid: Omit<Raster, 'values'>, below?: ArrayLike<number>): Raster {
	const values = new Float32Array(grid.nx * grid.ny);
	const sums = new Float64Array(values.length);
	const met = new Uint8Array(values.length);
	eachCrossing(solid, grid, (node, z, _t, up) => {
		sums[node] = sums[node]! + up * (below ? Math.min(z, below[node]!) : z);
		met[node] = 1;
	});
	for (let i = 0; i < values.length; i++) values[i] = met[i] ? sums[i]! : NaN;
	return { ...grid, values };
}

/**
 * Thickness across the layering: the vertical thickness times the cosine of the dip of the upper side of the solid, weighted where a
 * line enters it more than once. NaN where it is not met.
 */
export function trueThicknessGrid(solid: TriangleMesh, grid: Omit<Raster, 'values'>): Raster {
	const vertical = thicknessGrid(solid, grid);
	const cosines = new Float64Array(vertical.values.length);
	const tops = new Float64Array(vertical.values.length);
	const { positions: p, triangles } = solid;
	eachCrossing(solid, grid, (node, _z, t, up) => {
		if (up < 0) return;
		const [a, b, c] = [3 * triangles[3 * t]!, 3 * triangles[3 * t + 1]!, 3 * triangles[3 * t + 2]!];
		const u = [0, 1, 2].map((k) => p[b + k]! - p[a + k]!) as [number, number, number];
		const v = [0, 1, 2].map((k) => p[c + k]! - p[a + k]!) as [number, number, number];
		const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]] as const;
		cosines[node] = cosines[node]! + Math.abs(n[2]) / Math.hypot(...n);
		tops[node] = tops[node]! + 1;
	});
	return { ...grid, values: vertical.values.map((t, i) => (tops[i]! > 0 ? t * (cosines[i]! / tops[i]!) : NaN)) };
}

/** Highest elevation of a surface over each node; NaN where there is none. */
export function elevationGrid(surface: TriangleMesh, grid: Omit<Raster, 'values'>): Raster {
	const values = new Float32Array(grid.nx * grid.ny).fill(NaN);
	eachCrossing(surface, grid, (node, z) => {
		if (!(values[node]! >= z)) values[node] = z;
	});
	return { ...grid, values };
}

/** Highest elevation of a solid over each node, or the lowest; NaN where there is none. */
export function sideGrid(solid: TriangleMesh, grid: Omit<Raster, 'values'>, side: 'top' | 'base'): Raster {
	if (side === 'top') return elevationGrid(solid, grid);
	const values = new Float32Array(grid.nx * grid.ny).fill(NaN);
	eachCrossing(solid, grid, (node, z) => {
		if (!(values[node]! <= z)) values[node] = z;
	});
	return { ...grid, values };
}
