import * as THREE from 'three';

/** Round dots with a size each, in pixels or project units, in one draw call. */
export function dots(
	positions: Float32Array,
	colors: Float32Array,
	sizes: Float32Array,
	radius: number,
	inPixels: boolean,
	opacity: number,
	clip: THREE.Plane[]
): THREE.Points {
	const geometry = new THREE.BufferGeometry();
	geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
	geometry.setAttribute('tint', new THREE.BufferAttribute(colors, 3));
	geometry.setAttribute('size', new THREE.BufferAttribute(sizes, 1));
	const material = new THREE.ShaderMaterial({
		clipping: true,
		clippingPlanes: clip,
		transparent: true,
		uniforms: {
			radius: { value: radius },
			inPixels: { value: inPixels },
			pixel: { value: 0.001 },
			perspective: { value: true },
			opacity: { value: opacity },
			ratio: { value: Math.min(2, devicePixelRatio) }
		},
		vertexShader: /* glsl */ `
			#include <common>
			#include <clipping_planes_pars_vertex>
			attribute vec3 tint;
			attribute float size;
			uniform float radius;
			uniform bool inPixels;
			uniform float pixel;
			uniform bool perspective;
			uniform float ratio;
			varying vec3 vTint;
			void main() {
				vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
				#include <clipping_planes_vertex>
				gl_Position = projectionMatrix * mvPosition;
				float onePixel = pixel * (perspective ? -mvPosition.z : 1.0);
				gl_PointSize = ratio * max(2.0, size * radius * 2.0 / (inPixels ? 2.0 : onePixel));
				// Drawn as if it stood before what it lies on: a dot is never half sunk in a face.
				float lift = 2.0 * gl_PointSize * onePixel;
				vec4 nearer = projectionMatrix * (perspective ? vec4(mvPosition.xyz * max(0.5, 1.0 - lift / max(1e-6, -mvPosition.z)), 1.0) : mvPosition + vec4(0.0, 0.0, lift, 0.0));
				gl_Position.z = nearer.z / nearer.w * gl_Position.w;
				vTint = tint;
			}`,
		fragmentShader: /* glsl */ `
			#include <common>
			#include <clipping_planes_pars_fragment>
			uniform float opacity;
			varying vec3 vTint;
			void main() {
				#include <clipping_planes_fragment>
				float d = length(gl_PointCoord - 0.5);
				if (d > 0.5) discard;
				gl_FragColor = vec4(d > 0.4 ? vTint * 0.25 : vTint, opacity);
			}`
	});
	const points = new THREE.Points(geometry, material);
	points.frustumCulled = false;
	points.renderOrder = 5;
	return points;
}
