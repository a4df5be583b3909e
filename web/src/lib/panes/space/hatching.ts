import * as THREE from 'three';
import { PATTERNS, type PatternName } from '#core/styles/patterns';

/** Tiles of the patterns as the share of ink, one texture each for the whole application. */
const textures = new Map<PatternName, THREE.Texture>();
const TILE_PIXELS = 64;

function textureOf(name: PatternName): THREE.Texture {
	let t = textures.get(name);
	if (!t) {
		const canvas = document.createElement('canvas');
		canvas.width = canvas.height = TILE_PIXELS;
		const c = canvas.getContext('2d')!;
		c.fillStyle = '#000';
		c.fillRect(0, 0, TILE_PIXELS, TILE_PIXELS);
		c.scale(TILE_PIXELS / 16, TILE_PIXELS / 16);
		c.strokeStyle = '#fff';
		c.lineCap = 'round';
		c.lineWidth = PATTERNS[name].width;
		c.stroke(new Path2D(PATTERNS[name].path));
		t = new THREE.CanvasTexture(canvas);
		t.wrapS = t.wrapT = THREE.RepeatWrapping;
		t.generateMipmaps = true;
		t.minFilter = THREE.LinearMipmapLinearFilter;
		textures.set(name, t);
	}
	return t;
}

/** What all hatched things of one view share. */
export interface HatchScale {
	/** Side of a tile, scene units; the upright one is not exaggerated. */
	tile: { value: number };
	exaggeration: { value: number };
	/** Half of the block each way: what lies on its sides is a cut. */
	half: { value: THREE.Vector3 };
}

export const hatchScale = (): HatchScale => ({
	tile: { value: 100 },
	exaggeration: { value: 1 },
	half: { value: new THREE.Vector3(1, 1, 1) }
});

/** How much of the ink shows: a cut is to be read by its colour first. */
const INK = 0.34;

/**
 * Draws the pattern of a unit faintly on cuts: on the sides of the block, or everywhere when the mesh itself is a cut. The pattern keeps
 * its size on the screen and stands upright.
 * @param cut direction along the cut, scene units; without it only the sides of the block are hatched
 */
export function hatch(
	material: THREE.MeshLambertMaterial | THREE.MeshBasicMaterial,
	name: PatternName,
	scale: HatchScale,
	cut: { along: THREE.Vector3; isLevel: boolean } | null = null
): void {
	const own = {
		hatchTile: scale.tile,
		hatchExaggeration: scale.exaggeration,
		hatchHalf: scale.half,
		hatchInk: { value: textureOf(name) },
		hatchAlong: { value: cut?.along ?? new THREE.Vector3() },
		hatchKind: { value: cut ? (cut.isLevel ? 2 : 1) : 0 }
	};
	material.onBeforeCompile = (shader) => {
		Object.assign(shader.uniforms, own);
		shader.vertexShader = shader.vertexShader
			.replace('#include <common>', '#include <common>\nvarying vec3 hatchPlace;')
			.replace('#include <begin_vertex>', '#include <begin_vertex>\nhatchPlace = position;');
		shader.fragmentShader = shader.fragmentShader
			.replace(
				'#include <common>',
				`#include <common>
varying vec3 hatchPlace;
uniform float hatchTile, hatchExaggeration;
uniform vec3 hatchHalf, hatchAlong;
uniform int hatchKind;
uniform sampler2D hatchInk;`
			)
			.replace(
				'#include <color_fragment>',
				`#include <color_fragment>
{
	vec3 off = abs(abs(hatchPlace) - hatchHalf) / max(hatchHalf.x, hatchHalf.y);
	bool onX = off.x < 1e-5, onY = off.y < 1e-5;
	vec2 at = hatchKind == 2 ? hatchPlace.xy
		: hatchKind == 1 ? vec2(dot(hatchPlace, hatchAlong), hatchPlace.z * hatchExaggeration)
		: vec2(onX ? hatchPlace.y : hatchPlace.x, hatchPlace.z * hatchExaggeration);
	float ink = texture2D(hatchInk, at / hatchTile).r;
	if (hatchKind > 0 || onX || onY) diffuseColor.rgb = mix(diffuseColor.rgb, vec3(0.013, 0.023, 0.02), ink * ${INK});
}`
			);
	};
	material.customProgramCacheKey = () => 'hatched';
}
