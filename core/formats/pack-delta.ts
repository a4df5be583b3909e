import type { Pack, PackedArray } from './pack';

/** More of an array than this share is sent whole: a number and its place are longer than the number. */
const MOST_CHANGED = 0.2;

/** How an array is made of the one before: it is the same, or some of its entries are others and some stand behind. */
type Change = 'same' | { length: number };

/**
 * What makes one pack of another: of arrays that changed little only the entries that changed, of those that did not nothing.
 * @returns null when the packs have so little in common that the new one is as short
 */
export function packDelta(before: Pack, after: Pack): Pack | null {
	const arrays: Record<string, PackedArray> = {};
	const changes: Record<string, Change> = {};
	let spared = false;
	for (const [name, a] of Object.entries(after.arrays)) {
		const b = Object.hasOwn(before.arrays, name) ? before.arrays[name]! : null;
		const at = b && b.constructor === a.constructor && b.length <= a.length ? changedAt(b, a) : null;
		if (!at) {
			arrays[name] = a;
			continue;
		}
		spared = true;
		if (at.length === 0 && a.length === b!.length) {
			changes[name] = 'same';
			continue;
		}
		changes[name] = { length: a.length };
		arrays[`${name}.at`] = at;
		const values = a.slice(0, at.length);
		at.forEach((i, k) => (values[k] = a[i]!));
		arrays[`${name}.values`] = values;
		arrays[`${name}.behind`] = a.slice(b!.length);
	}
	return spared ? { info: { ...after.info, changes }, arrays } : null;
}

/** Places at which two arrays differ, as far as the shorter one goes; null when they are many. */
function changedAt(before: PackedArray, after: PackedArray): Uint32Array | null {
	const at: number[] = [];
	const most = MOST_CHANGED * after.length;
	if (after.length - before.length > most) return null;
	for (let i = 0; i < before.length; i++) {
		const [a, b] = [before[i]!, after[i]!];
		// Numbers that are none are the same.
		if (a === b || (a !== a && b !== b)) continue;
		at.push(i);
		if (at.length > most) return null;
	}
	return Uint32Array.from(at);
}

/** Whether a pack says only what changed. */
export const isDelta = (pack: Pack): boolean => typeof pack.info['changes'] === 'object';

/** The pack that a delta makes of the one before. @throws RangeError when it is not of that one */
export function withDelta(before: Pack, delta: Pack): Pack {
	const { changes, ...info } = delta.info;
	const arrays: Record<string, PackedArray> = {};
	for (const [name, change] of Object.entries(changes as Record<string, Change>)) {
		const own = before.arrays[name];
		if (!own) throw new RangeError(`the pack has no array ${name}`);
		if (change === 'same') {
			arrays[name] = own;
			continue;
		}
		const [at, values, behind] = ['at', 'values', 'behind'].map((part) => delta.arrays[`${name}.${part}`]!) as [
			Uint32Array,
			PackedArray,
			PackedArray
		];
		if (own.length + behind.length !== change.length) throw new RangeError(`${name} has not the length that it is changed from`);
		const next = new (own.constructor as new (length: number) => PackedArray)(change.length);
		next.set(own);
		at.forEach((i, k) => (next[i] = values[k]!));
		next.set(behind, own.length);
		arrays[name] = next;
	}
	for (const [name, a] of Object.entries(delta.arrays)) if (!/\.(at|values|behind)$/.test(name)) arrays[name] = a;
	return { info, arrays };
}
