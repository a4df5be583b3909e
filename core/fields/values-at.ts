import { evaluateField } from '../kernels/field-kernel';
import type { Field } from './field';

/** Values of a field at places, each seen from its own fault block. */
export function valuesAt(field: Field, places: readonly { x: number; y: number; z: number; block: number }[]): Float64Array {
	const byBlock = new Map<number, number[]>();
	places.forEach((p, i) => {
		const list = byBlock.get(p.block);
		if (list) list.push(i);
		else byBlock.set(p.block, [i]);
	});
	const out = new Float64Array(places.length);
	for (const [block, list] of byBlock) {
		const xyz = new Float64Array(3 * list.length);
		list.forEach((i, k) => xyz.set([places[i]!.x, places[i]!.y, places[i]!.z], 3 * k));
		evaluateField(field, block, xyz).forEach((v, k) => (out[list[k]!] = v));
	}
	return out;
}
