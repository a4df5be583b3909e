import { interpolatePuOr } from 'd3-scale-chromatic';
import type { Pack } from '#core/formats/pack';
import { quantileSorted, sortedValues } from '#core/statistics/spread';
import { plainScale, readyScale, type ReadyScale } from '#core/styles/scale';
import { hexOf, NO_VALUE_COLOR, rgbOf } from '#core/styles/style';
import type { ModelScene, Paint } from '$lib/workspace.svelte';

/** Of places without a number. */
const NONE = rgbOf(NO_VALUE_COLOR);

const STEPS = 256;

/** Colours of a scale in even steps along it, as one number each. */
function colorsOf(scale: ReadyScale): (v: number) => number {
	const table = Array.from({ length: STEPS + 1 }, (_, i) => rgbOf(hexOf(scale.color(scale.low + ((scale.high - scale.low) * i) / STEPS))));
	return (v) => table[Math.round(STEPS * Math.min(1, Math.max(0, (v - scale.low) / (scale.high - scale.low || 1))))]!;
}

/** Colours of a paint by vertex, 3 each. */
export function rgbOfPaint(p: Paint): Float32Array {
	const color = colorsOf(p.scale);
	const out = new Float32Array(3 * p.values.length);
	for (let i = 0; i < p.values.length; i++) {
		const v = p.values[i]!;
		const rgb = Number.isNaN(v) ? NONE : color(v);
		out[3 * i] = (rgb >> 16) / 255;
		out[3 * i + 1] = ((rgb >> 8) & 255) / 255;
		out[3 * i + 2] = (rgb & 255) / 255;
	}
	return out;
}

/** A scale that is white at nothing: what went up is one colour, what went down the other. */
export function movementScale(values: Float32Array): ReadyScale {
	const sorted = sortedValues(values.map(Math.abs));
	const most = Math.max(quantileSorted(sorted, 0.98) || 0, 1e-6);
	const at = (v: number) => Math.min(1, Math.max(0, 0.5 + v / (2 * most)));
	return { at, color: (v) => interpolatePuOr(1 - at(v)), low: -most, high: most, limits: [] };
}

/** How far the surfaces of a model moved since a kept one. */
export const movementPaint = (model: ModelScene, values: Float32Array, since: string, unit: string): Paint => ({
	what: 'movement',
	label: `Moved since ${since}, ${unit} (up is positive)`,
	key: model.key,
	values,
	scale: movementScale(values),
	surfacesOnly: true,
	at: null
});

/** How much an ensemble of models doubts what is where: the entropy of its cells. */
export function doubtPaint(model: ModelScene, pack: Pack): Paint {
	const { size, origin, cell } = pack.info as unknown as Record<'size' | 'origin' | 'cell', [number, number, number]>;
	const entropy = pack.arrays['entropy'] as Float32Array;
	const at = (x: number, y: number, z: number): number => {
		const [i, j, k] = [x, y, z].map((v, c) => Math.min(size[c]! - 1, Math.max(0, Math.floor((v - origin[c]!) / cell[c]!)))) as [
			number,
			number,
			number
		];
		// A cell that the terrain cuts may count as air: the one below it tells for the ground in it.
		for (let d = 0; d < 3 && d <= k; d++) {
			const v = entropy[((k - d) * size[1] + j) * size[0] + i]!;
			if (!Number.isNaN(v)) return v;
		}
		return NaN;
	};
	const p = model.mesh.positions;
	const values = new Float32Array(p.length / 3);
	for (let v = 0; v < values.length; v++) values[v] = at(p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!);
	return {
		what: 'spread',
		label: 'Doubt: 0 sure, 1 anything',
		key: model.key,
		values,
		scale: readyScale({ ...plainScale(), ramp: 'magma', reversed: true, clip: [0, 1] }, sortedValues(values)),
		surfacesOnly: false,
		at
	};
}

/** Numbers on a section as a picture, so many dots wide and high. @param at value at a distance along the section and an elevation */
export function sectionPicture(
	scale: ReadyScale,
	at: (along: number, z: number) => number,
	length: number,
	[low, high]: readonly [number, number],
	size: readonly [number, number] = [320, 160]
): string {
	const canvas = document.createElement('canvas');
	[canvas.width, canvas.height] = size;
	const context = canvas.getContext('2d')!;
	const image = context.createImageData(...size);
	const color = colorsOf(scale);
	for (let j = 0; j < size[1]; j++)
		for (let i = 0; i < size[0]; i++) {
			const v = at(((i + 0.5) / size[0]) * length, high - ((j + 0.5) / size[1]) * (high - low));
			const o = 4 * (j * size[0] + i);
			if (Number.isNaN(v)) continue;
			const rgb = color(v);
			image.data.set([rgb >> 16, (rgb >> 8) & 255, rgb & 255, 255], o);
		}
	context.putImageData(image, 0, 0);
	return canvas.toDataURL();
}
