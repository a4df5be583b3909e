import * as THREE from 'three';
import type { Feature, Position } from 'geojson';
import type { HungPicture, Placement } from '#core/formats/picture';
import { sampleRaster, type Raster } from '#core/grids/raster';
import { pointOnTrace, traceLength } from '#core/sections/section';
import type { Workspace } from '$lib/workspace.svelte';
import { bendsBetween, clearGroup, gridIndex } from './shapes';
import type { Stage } from './stage';

/** What was brought in beside holes and tables, in space: surfaces, grids, lines and pictures. */
export class BroughtIn {
	private readonly surfaces = new THREE.Group();
	private readonly lines = new THREE.Group();
	private readonly pictures = new THREE.Group();

	/** @param heights the terrain, on which lie what has no elevation of its own */
	constructor(
		private readonly stage: Stage,
		private readonly heights: () => Raster | null
	) {
		stage.root.add(this.surfaces, this.lines, this.pictures);
	}

	/** Surfaces that were brought in. */
	setSurfaces(surfaces: readonly { positions: Float64Array; triangles: Uint32Array; opacity: number }[]): void {
		clearGroup(this.surfaces);
		for (const s of surfaces) {
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(s.positions), 3));
			geometry.setIndex(new THREE.BufferAttribute(s.triangles, 1));
			geometry.computeVertexNormals();
			this.surfaces.add(
				new THREE.Mesh(
					geometry,
					new THREE.MeshLambertMaterial({
						color: 0x2b5fa8,
						side: THREE.DoubleSide,
						transparent: s.opacity < 1,
						opacity: s.opacity,
						depthWrite: s.opacity >= 0.95,
						clippingPlanes: this.stage.clip
					})
				)
			);
		}
		this.stage.draw();
	}

	/** Grids on their own values as elevations, or flat at an elevation. */
	setGrids(
		grids: readonly { raster: Raster; color: (v: number) => string; at: 'height' | 'terrain' | 'floor'; opacity: number }[],
		group = this.lines
	): void {
		for (const g of grids)
			group.add(this.rasterMesh(g.at === 'height' ? g.raster : g.at === 'terrain' ? this.heights() : null, g.raster, g.color, g.opacity));
		this.stage.draw();
	}

	private rasterMesh(heights: Raster | null, r: Raster, color: (v: number) => string, opacity: number): THREE.Mesh {
		const step = Math.max(1, Math.ceil(Math.max(r.nx, r.ny) / 220));
		const nx = Math.floor((r.nx - 1) / step) + 1;
		const ny = Math.floor((r.ny - 1) / step) + 1;
		const positions = new Float64Array(3 * nx * ny);
		const colors = new Float32Array(3 * nx * ny);
		const none = new Uint8Array(nx * ny);
		const c = new THREE.Color();
		const flat = this.stage.center.z - this.stage.half.z;
		for (let j = 0; j < ny; j++)
			for (let i = 0; i < nx; i++) {
				const k = j * nx + i;
				const [x, y] = [r.x0 + i * step * r.dx, r.y0 + j * step * r.dy];
				const v = r.values[j * step * r.nx + i * step]!;
				const z = heights ? sampleRaster(heights, x, y) : flat;
				if (Number.isNaN(v) || Number.isNaN(z)) none[k] = 1;
				else c.set(color(v)).toArray(colors, 3 * k);
				positions.set([x, y, Number.isNaN(z) ? flat : z], 3 * k);
			}
		const geometry = new THREE.BufferGeometry();
		geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(positions), 3));
		geometry.setAttribute('color', new THREE.BufferAttribute(colors, 3));
		geometry.setIndex(gridIndex(nx, ny, (k) => none[k] === 1));
		const mesh = new THREE.Mesh(
			geometry,
			new THREE.MeshBasicMaterial({
				vertexColors: true,
				side: THREE.DoubleSide,
				transparent: opacity < 1,
				opacity,
				clippingPlanes: this.stage.clip,
				polygonOffset: true,
				polygonOffsetFactor: -1,
				polygonOffsetUnits: -1
			})
		);
		mesh.renderOrder = 3.2;
		return mesh;
	}

	/** Points, lines and outlines that were brought in; those without elevation lie on the terrain. */
	setLines(features: readonly { features: readonly Feature[]; opacity: number }[]): void {
		clearGroup(this.lines);
		const { center, half } = this.stage;
		const terrain = this.heights();
		const height = (p: Position) => {
			const z = p[2] ?? (terrain ? sampleRaster(terrain, p[0]!, p[1]!) : NaN);
			return Number.isNaN(z) ? center.z + half.z : z;
		};
		const ends: number[] = [];
		const points: number[] = [];
		const line = (list: Position[]) => {
			for (let i = 0; i + 1 < list.length; i++)
				ends.push(list[i]![0]!, list[i]![1]!, height(list[i]!), list[i + 1]![0]!, list[i + 1]![1]!, height(list[i + 1]!));
		};
		let opacity = 1;
		for (const f of features) {
			opacity = Math.min(opacity, f.opacity);
			for (const { geometry: g } of f.features) {
				if (g.type === 'Point') points.push(g.coordinates[0]!, g.coordinates[1]!, height(g.coordinates));
				else if (g.type === 'MultiPoint') for (const p of g.coordinates) points.push(p[0]!, p[1]!, height(p));
				else if (g.type === 'LineString') line(g.coordinates);
				else if (g.type === 'MultiLineString' || g.type === 'Polygon') g.coordinates.forEach(line);
				else if (g.type === 'MultiPolygon') g.coordinates.flat().forEach(line);
			}
		}
		if (ends.length) {
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(ends), 3));
			this.lines.add(
				new THREE.LineSegments(
					geometry,
					new THREE.LineBasicMaterial({ color: 0x2b5fa8, transparent: opacity < 1, opacity, clippingPlanes: this.stage.clip })
				)
			);
		}
		if (points.length) {
			const geometry = new THREE.BufferGeometry();
			geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(points), 3));
			this.lines.add(
				new THREE.Points(
					geometry,
					new THREE.PointsMaterial({ color: 0x2b5fa8, size: 6, sizeAttenuation: false, clippingPlanes: this.stage.clip })
				)
			);
		}
		this.stage.draw();
	}

	/** Pictures: those hung on a section stand in their place, those placed on the map lie on the terrain. */
	setPictures(
		pictures: readonly {
			url: string;
			width: number;
			height: number;
			placement: Placement | null;
			hung: HungPicture | null;
			opacity: number;
		}[]
	): void {
		clearGroup(this.pictures);
		for (const p of pictures) {
			const geometry = p.hung ? this.hungGeometry(p.hung) : p.placement ? this.drapedGeometry(p.placement, p.width, p.height) : null;
			if (!geometry) continue;
			const map = new THREE.TextureLoader().load(p.url, () => this.stage.draw());
			map.colorSpace = THREE.SRGBColorSpace;
			const mesh = new THREE.Mesh(
				geometry,
				new THREE.MeshBasicMaterial({
					map,
					side: THREE.DoubleSide,
					transparent: true,
					opacity: p.opacity,
					polygonOffset: true,
					polygonOffsetFactor: -2,
					polygonOffsetUnits: -2
				})
			);
			mesh.renderOrder = 3.4;
			this.pictures.add(mesh);
		}
		this.stage.draw();
	}

	private hungGeometry(h: HungPicture): THREE.BufferGeometry {
		const length = traceLength(h.trace);
		const stops = [h.left, ...bendsBetween(h.trace, Math.min(h.left, h.right), Math.max(h.left, h.right)), h.right].sort((a, b) =>
			h.left <= h.right ? a - b : b - a
		);
		const positions: number[] = [];
		const uv: number[] = [];
		for (const s of stops) {
			const [x, y] = pointOnTrace(h.trace, Math.min(length, Math.max(0, s)));
			const u = (s - h.left) / (h.right - h.left);
			positions.push(x, y, h.top, x, y, h.bottom);
			uv.push(u, 1, u, 0);
		}
		const index: number[] = [];
		for (let i = 0; i + 1 < stops.length; i++) index.push(2 * i, 2 * i + 1, 2 * i + 2, 2 * i + 1, 2 * i + 3, 2 * i + 2);
		return this.textured(positions, uv, index);
	}

	private drapedGeometry(p: Placement, width: number, height: number): THREE.BufferGeometry {
		const n = 120;
		const terrain = this.heights();
		const positions: number[] = [];
		const uv: number[] = [];
		const none: boolean[] = [];
		const { a, b, c, d, e, f } = p;
		for (let j = 0; j < n; j++)
			for (let i = 0; i < n; i++) {
				const [col, row] = [(i / (n - 1)) * width - 0.5, (j / (n - 1)) * height - 0.5];
				const [x, y] = [a * col + b * row + c, d * col + e * row + f];
				const z = terrain ? sampleRaster(terrain, x, y) : this.stage.center.z + this.stage.half.z;
				none.push(Number.isNaN(z));
				positions.push(x, y, Number.isNaN(z) ? this.stage.center.z : z);
				uv.push(i / (n - 1), 1 - j / (n - 1));
			}
		return this.textured(
			positions,
			uv,
			gridIndex(n, n, (k) => none[k]!)
		);
	}

	private textured(positions: number[], uv: number[], index: number[]): THREE.BufferGeometry {
		const geometry = new THREE.BufferGeometry();
		geometry.setAttribute('position', new THREE.BufferAttribute(this.stage.local(positions), 3));
		geometry.setAttribute('uv', new THREE.Float32BufferAttribute(uv, 2));
		geometry.setIndex(index);
		return geometry;
	}
}

/** Draws what the legend shows of it. */
export function showBroughtIn(to: BroughtIn, workspace: Workspace): void {
	const shown = workspace.things
		.filter((t) => workspace.shown(`thing:${t.id}`))
		.map((t) => ({ ...t, opacity: workspace.opacityOf(`thing:${t.id}`) }));
	to.setSurfaces(shown.flatMap((t) => (t.kind === 'surface' ? [t] : [])));
	to.setLines(shown.flatMap((t) => (t.kind === 'layer' ? [t] : [])));
	to.setGrids(
		shown.flatMap((t) =>
			t.kind === 'grid'
				? [
						{
							raster: t.raster,
							color: workspace.sets.painter(t.set).scale!.color,
							at: workspace.raised(t.id) ? ('height' as const) : workspace.terrain ? ('terrain' as const) : ('floor' as const),
							opacity: t.opacity
						}
					]
				: []
		)
	);
	to.setPictures(shown.flatMap((t) => (t.kind === 'picture' ? [t] : [])));
}
