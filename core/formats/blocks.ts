import { writeImageData } from './image-data';
import type { Pack } from './pack';

/** Probability of each unit and entropy by cell, as a result of form blocks holds them, as VTK XML image data. */
export function writeBlocks({ info, arrays }: Pack): Uint8Array {
	const { size, origin, cell, units } = info as {
		size: [number, number, number];
		origin: [number, number, number];
		cell: [number, number, number];
		units: string[];
	};
	const cells = size[0] * size[1] * size[2];
	const probability = arrays['probability'] as Float32Array;
	return writeImageData(size, origin, cell, [
		{ name: 'entropy', values: arrays['entropy'] as Float32Array },
		...units.map((u, i) => ({ name: u, values: probability.subarray(i * cells, (i + 1) * cells) }))
	]);
}
