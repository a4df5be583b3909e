import * as THREE from 'three';
import { sampleRaster, type Raster } from '#core/grids/raster';
import { styleMesh } from './model-meshes';
import { gridIndex } from './shapes';
import type { Stage } from './stage';

/** The terrain in space, with its contours. */
export class TerrainSurface {
	/** Null where there is none. */
	mesh: THREE.Mesh | null = null;
	heights: Raster | null = null;

	constructor(private readonly stage: Stage) {}

	/** Whether one sees it, and not through it. */
	get hides(): boolean {
		return this.mesh !== null && this.mesh.visible && (this.mesh.material as THREE.Material).opacity > 0.5;
	}

	set(r: Raster | null): void {
		this.heights = r;
		if (this.mesh) {
			this.stage.root.remove(this.mesh);
			this.mesh.geometry.dispose();
			this.mesh = null;
		}
		if (!r) return this.stage.draw();
		const step = Math.max(1, Math.ceil(Math.max(r.nx, r.ny) / 220));
		const nx = Math.floor((r.nx - 1) / step) + 1;
		const ny = Math.floor((r.ny - 1) / step) + 1;
		const positions = new Float64Array(3 * nx * ny);
		for (let j = 0; j < ny; j++)
			for (let i = 0; i < nx; i++) {
				const [x, y] = [r.x0 + i * step * r.dx, r.y0 + j * step * r.dy];
				positions.set([x, y, sampleRaster(r, x, y)], 3 * (j * nx + i));
			}
		const geometry = new THREE.BufferGeometry();
		geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(positions), 3));
		geometry.setIndex(gridIndex(nx, ny, (k) => Number.isNaN(positions[3 * k + 2]!)));
		geometry.computeVertexNormals();
		this.mesh = new THREE.Mesh(
			geometry,
			new THREE.MeshLambertMaterial({
				color: 0xd8d2bf,
				side: THREE.DoubleSide,
				transparent: true,
				depthWrite: false,
				clippingPlanes: this.stage.clip
			})
		);
		this.mesh.renderOrder = 3;
		this.mesh.position.z = this.stage.size * 0.0004;
		this.stage.root.add(this.mesh);
		this.stage.draw();
	}

	style(visible: boolean, opacity: number): void {
		if (this.mesh) styleMesh(this.mesh, visible, opacity);
		this.stage.draw();
	}

	/** Contours in their height. */
	setContours(contours: readonly { value: number; lines: [number, number][][] }[]): void {
		const old = this.stage.root.getObjectByName('contours');
		if (old) this.stage.root.remove(old);
		const ends: number[] = [];
		const lift = this.stage.size * 0.0006;
		for (const c of contours)
			for (const l of c.lines) for (let i = 0; i + 1 < l.length; i++) ends.push(...l[i]!, c.value + lift, ...l[i + 1]!, c.value + lift);
		if (ends.length) {
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(ends), 3));
			const lines = new THREE.LineSegments(
				geometry,
				new THREE.LineBasicMaterial({ color: 0x9a7b4f, transparent: true, opacity: 0.8, clippingPlanes: this.stage.clip })
			);
			lines.name = 'contours';
			lines.renderOrder = 3.6;
			this.stage.root.add(lines);
		}
		this.stage.draw();
	}
}
