import * as THREE from 'three';
import type { TubeSegments } from '#core/scene/hole-index';

/**
 * Tubes drawn as strips that face the viewer, four vertices a segment, all in one draw call. (Instances would need less memory, but
 * renderers without a graphics card draw each of them on its own.) The radius is in project units or in pixels; a tube never gets
 * thinner than a pixel.
 */
export class Tubes {
	readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.ShaderMaterial>;
	/** The same where something stands before them: finely dashed, so that one sees where they run inside of solids. */
	readonly hidden: THREE.Mesh<THREE.BufferGeometry, THREE.ShaderMaterial>;

	count = 0;
	private capacity = 0;
	private buffers: { ends: THREE.InterleavedBuffer; tints: THREE.InterleavedBuffer; sizes: THREE.BufferAttribute } | null = null;

	constructor(clip: THREE.Plane[]) {
		const geometry = new THREE.BufferGeometry();
		geometry.setDrawRange(0, 0);
		const material = new THREE.ShaderMaterial({
			clipping: true,
			clippingPlanes: clip,
			transparent: false,
			uniforms: {
				radius: { value: 3 },
				inPixels: { value: true },
				pixel: { value: 0.001 },
				perspective: { value: true },
				opacity: { value: 1 },
				dashed: { value: false }
			},
			vertexShader: /* glsl */ `
				#include <common>
				#include <clipping_planes_pars_vertex>
				attribute vec3 upper;
				attribute vec3 lower;
				attribute vec3 tint;
				attribute float size;
				attribute vec2 corner;
				uniform float radius;
				uniform bool inPixels;
				uniform float pixel;
				uniform bool perspective;
				varying vec3 vTint;
				varying float vAcross;
				void main() {
					vec3 a = (modelViewMatrix * vec4(upper, 1.0)).xyz;
					vec3 b = (modelViewMatrix * vec4(lower, 1.0)).xyz;
					vec3 p = mix(a, b, corner.y);
					vec3 toEye = perspective ? normalize(-p) : vec3(0.0, 0.0, 1.0);
					vec3 axis = b - a;
					float far = length(axis);
					axis = far > 1e-9 ? axis / far : vec3(0.0, 1.0, 0.0);
					vec3 across = cross(axis, toEye);
					float seen = length(across);
					across = seen > 1e-4 ? across / seen : vec3(1.0, 0.0, 0.0);
					float onePixel = pixel * (perspective ? -p.z : 1.0);
					float r = max(size * radius * (inPixels ? onePixel : 1.0), 0.75 * onePixel);
					// Seen along its axis a tube is a dot: the strip gets caps as far as it is turned to the viewer.
					vec3 cap = seen > 1e-4 ? normalize(axis - toEye * dot(axis, toEye)) : vec3(0.0, 1.0, 0.0);
					p += across * corner.x * r + cap * (corner.y * 2.0 - 1.0) * r * (1.0 - seen);
					vec4 mvPosition = vec4(p, 1.0);
					#include <clipping_planes_vertex>
					gl_Position = projectionMatrix * mvPosition;
					vTint = tint;
					vAcross = corner.x;
				}`,
			fragmentShader: /* glsl */ `
				#include <common>
				#include <clipping_planes_pars_fragment>
				uniform float opacity;
				uniform bool dashed;
				varying vec3 vTint;
				varying float vAcross;
				void main() {
					#include <clipping_planes_fragment>
					if (dashed && (abs(vAcross) > 0.5 || mod(gl_FragCoord.y - 0.5 * gl_FragCoord.x, 5.0) < 2.5)) discard;
					if (dashed) {
						gl_FragColor = vec4(vTint * 0.35, 0.62);
						return;
					}
					float shade = 0.66 + 0.34 * sqrt(max(0.0, 1.0 - vAcross * vAcross));
					gl_FragColor = vec4(vTint * shade, opacity);
				}`
		});
		this.mesh = new THREE.Mesh(geometry, material);
		this.mesh.frustumCulled = false;
		this.mesh.renderOrder = 4;
		const behind = material.clone();
		Object.assign(behind, { depthFunc: THREE.GreaterDepth, depthWrite: false, transparent: true, clippingPlanes: clip });
		behind.uniforms['dashed']!.value = true;
		this.hidden = new THREE.Mesh(geometry, behind);
		this.hidden.frustumCulled = false;
		this.hidden.renderOrder = 2.5;
	}

	private uniform(name: string, value: unknown): void {
		for (const m of [this.mesh, this.hidden]) m.material.uniforms[name]!.value = value;
	}

	set visible(on: boolean) {
		this.mesh.visible = this.hidden.visible = on;
	}

	get visible(): boolean {
		return this.mesh.visible;
	}

	/** Colours are in sRGB and stay so: the shader writes them as they are. */
	set(s: TubeSegments): void {
		const n = s.count;
		// Where there is nothing yet, and nothing is to be drawn, there is nothing to write.
		if (n > this.capacity) this.grow(n);
		if (!this.buffers) return;
		const { ends, tints, sizes } = this.buffers;
		for (let i = 0; i < n; i++)
			for (let k = 0; k < 4; k++) {
				const v = 4 * i + k;
				for (let c = 0; c < 6; c++) ends.array[6 * v + c] = s.ends[6 * i + c]!;
				for (let c = 0; c < 3; c++) tints.array[4 * v + c] = s.colors[3 * i + c]!;
				sizes.array[v] = s.sizes[i]!;
			}
		for (const [buffer, each] of [
			[ends, 24],
			[tints, 16],
			[sizes, 4]
		] as const) {
			buffer.clearUpdateRanges();
			buffer.addUpdateRange(0, each * n);
			buffer.needsUpdate = true;
		}
		this.mesh.geometry.setDrawRange(0, 6 * n);
		this.count = n;
	}

	/** Buffers only get larger: making them anew would wait for the renderer. Corners and triangles are the same for any segments. */
	private grow(n: number): void {
		this.capacity = Math.ceil(n * 1.3);
		const corners = new Float32Array(8 * this.capacity);
		const index = new Uint32Array(6 * this.capacity);
		for (let i = 0; i < this.capacity; i++) {
			corners.set([-1, 0, 1, 0, 1, 1, -1, 1], 8 * i);
			index.set([4 * i, 4 * i + 1, 4 * i + 2, 4 * i, 4 * i + 2, 4 * i + 3], 6 * i);
		}
		const ends = new THREE.InterleavedBuffer(new Float32Array(24 * this.capacity), 6);
		const tints = new THREE.InterleavedBuffer(new Uint8Array(16 * this.capacity), 4);
		const sizes = new THREE.BufferAttribute(new Float32Array(4 * this.capacity), 1);
		this.buffers = { ends, tints, sizes };
		const g = this.mesh.geometry;
		if (this.count) g.dispose();
		g.setAttribute('corner', new THREE.BufferAttribute(corners, 2));
		g.setIndex(new THREE.BufferAttribute(index, 1));
		g.setAttribute('upper', new THREE.InterleavedBufferAttribute(ends, 3, 0));
		g.setAttribute('lower', new THREE.InterleavedBufferAttribute(ends, 3, 3));
		g.setAttribute('tint', new THREE.InterleavedBufferAttribute(tints, 3, 0, true));
		g.setAttribute('size', sizes);
	}

	style(radius: number, inPixels: boolean, opacity: number): void {
		this.uniform('radius', radius);
		this.uniform('inPixels', inPixels);
		this.uniform('opacity', opacity);
		this.mesh.material.transparent = opacity < 1;
		this.mesh.material.depthWrite = opacity >= 0.95;
	}

	/** @param pixel size of a pixel at distance 1 (perspective) or everywhere (parallel), scene units */
	view(pixel: number, perspective: boolean): void {
		this.uniform('pixel', pixel);
		this.uniform('perspective', perspective);
	}
}
