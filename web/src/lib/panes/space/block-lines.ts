import type { HullLines } from '#core/mesh/hull-lines';
import type { TubeSegments } from '#core/scene/hole-index';

/** Colour and half width in pixels of the lines of the block. */
const LINES = { contacts: [0x38443f, 0.55], rims: [0x38443f, 0.6], faults: [0x8a2f2f, 1.15] } as const;

/** Lines of the block, or of its parts that stand apart, as thin strips. */
export function lineSegments(position: Float32Array, parts: readonly { lines: HullLines; lift: number }[]): TubeSegments {
	const kinds = ['rims', 'contacts', 'faults'] as const;
	const count = parts.reduce((sum, { lines }) => kinds.reduce((n, k) => n + lines[k].length / 2, sum), 0);
	const out = { count, ends: new Float32Array(6 * count), colors: new Uint8Array(3 * count), sizes: new Float32Array(count) };
	let i = 0;
	for (const { lines, lift } of parts)
		for (const kind of kinds) {
			const [color, size] = LINES[kind];
			for (let k = 0; k < lines[kind].length; k += 2, i++) {
				for (let c = 0; c < 3; c++) {
					out.ends[6 * i + c] = position[3 * lines[kind][k]! + c]! + (c === 2 ? lift : 0);
					out.ends[6 * i + 3 + c] = position[3 * lines[kind][k + 1]! + c]! + (c === 2 ? lift : 0);
					out.colors[3 * i + c] = (color >> (16 - 8 * c)) & 255;
				}
				out.sizes[i] = size;
			}
		}
	return out;
}
