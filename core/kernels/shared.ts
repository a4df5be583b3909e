type Numbers = Float64Array | Float32Array | Int32Array | Uint32Array | Int16Array | Uint16Array | Uint8Array;

/** Room for numbers that threads can look at without a copy, where the host allows it. */
export const sharedDoubles = (n: number): Float64Array => new Float64Array(room(8 * n) as ArrayBuffer);

const room = (bytes: number): ArrayBufferLike =>
	typeof SharedArrayBuffer === 'undefined' ? new ArrayBuffer(bytes) : new SharedArrayBuffer(bytes);

/** The first numbers of an array in room that threads share. */
export function sharedCopy<T extends Numbers>(from: T, length = from.length): T {
	const out = new (from.constructor as new (buffer: ArrayBufferLike) => T)(room(length * from.BYTES_PER_ELEMENT));
	out.set(from.subarray(0, length) as never);
	return out;
}

/** A plain object, all the way down, with its arrays of numbers in room that threads share: it can be sent to them at no cost. */
export function sharedDeep<T>(value: T): T {
	if (typeof value !== 'object' || value === null) return value;
	if (ArrayBuffer.isView(value)) return sharedCopy(value as unknown as Numbers) as unknown as T;
	if (Array.isArray(value)) return value.map(sharedDeep) as T;
	return Object.fromEntries(Object.entries(value).map(([key, v]) => [key, sharedDeep(v)])) as T;
}
