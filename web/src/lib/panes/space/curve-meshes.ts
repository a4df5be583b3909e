import * as THREE from 'three';
import type { DataSet, NumberColumn } from '#core/datasets/dataset';
import type { HolePaths } from '#core/datasets/hole-paths';
import { curveShape } from '#core/scene/hole-curves';
import type { HoleCurve } from '$lib/workbench/state';

/** Numbers along holes that are drawn beside them. */
export interface CurveOfHoles {
	curve: HoleCurve;
	set: DataSet;
	column: NumberColumn;
	/** Where a value stands between the hole, 0, and the reach of the curve, 1. */
	at: (v: number) => number;
}

/** All curves as one object of lines and, where any is filled, one of faces. */
export function curveMeshes(
	curves: readonly CurveOfHoles[],
	paths: HolePaths,
	{ origin, resolution, wanted, clip }: Pick<Parameters<typeof curveShape>[3], 'origin' | 'resolution' | 'wanted'> & { clip: THREE.Plane[] }
): THREE.Object3D[] {
	const ends: number[] = [];
	const endColors: number[] = [];
	const fills: number[] = [];
	const fillColors: number[] = [];
	for (const { curve, set, column, at } of curves) {
		const { side, reach, threshold, fill, shape: form = 'line' } = curve;
		const shape = curveShape(set, column, paths, { origin, side, reach, at, threshold, fill, shape: form, resolution, wanted });
		const c = new THREE.Color(curve.color).toArray();
		for (const v of shape.lines) ends.push(v);
		for (let i = 0; i < shape.lines.length / 3; i++) endColors.push(...c);
		for (const v of shape.fill) fills.push(v);
		for (let i = 0; i < shape.fill.length / 3; i++) fillColors.push(...c);
	}
	const make = (positions: number[], colors: number[]) => {
		const g = new THREE.BufferGeometry();
		g.setAttribute('position', new THREE.Float32BufferAttribute(positions, 3));
		g.setAttribute('color', new THREE.Float32BufferAttribute(colors, 3));
		return g;
	};
	const lines = new THREE.LineSegments(make(ends, endColors), new THREE.LineBasicMaterial({ vertexColors: true, clippingPlanes: clip }));
	lines.renderOrder = 4.2;
	if (fills.length === 0) return [lines];
	const faces = new THREE.MeshBasicMaterial({
		vertexColors: true,
		side: THREE.DoubleSide,
		transparent: true,
		opacity: 0.75,
		clippingPlanes: clip
	});
	return [lines, new THREE.Mesh(make(fills, fillColors), faces)];
}
