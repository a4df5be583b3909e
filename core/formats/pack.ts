import { fail } from '../problem';

/** Typed arrays that can stand in a pack. */
export type PackedArray = Float64Array | Float32Array | Int32Array | Uint32Array | Int16Array | Uint16Array | Uint8Array;

const TYPES = {
	f64: Float64Array,
	f32: Float32Array,
	i32: Int32Array,
	u32: Uint32Array,
	i16: Int16Array,
	u16: Uint16Array,
	u8: Uint8Array
} as const;
type TypeName = keyof typeof TYPES;

/** A JSON document and named typed arrays in one block of bytes. */
export interface Pack {
	info: Record<string, unknown>;
	arrays: Record<string, PackedArray>;
}

const typeOf = (a: PackedArray): TypeName => (Object.keys(TYPES) as TypeName[]).find((t) => a instanceof TYPES[t])!;

/**
 * Layout: 4 bytes length of the head, little endian; the head as JSON (info, and for each array name, type, offset and length);
 * then the arrays, each at a multiple of 8 bytes.
 */
export function writePack(pack: Pack): Uint8Array {
	let offset = 0;
	const list = Object.entries(pack.arrays).map(([name, a]) => {
		const entry = { name, type: typeOf(a), offset, length: a.length };
		offset += Math.ceil(a.byteLength / 8) * 8;
		return entry;
	});
	const head = new TextEncoder().encode(JSON.stringify({ info: pack.info, arrays: list }));
	const start = Math.ceil((4 + head.length) / 8) * 8;
	const bytes = new Uint8Array(start + offset);
	new DataView(bytes.buffer).setUint32(0, head.length, true);
	bytes.set(head, 4);
	for (const entry of list) {
		const a = pack.arrays[entry.name]!;
		bytes.set(new Uint8Array(a.buffer, a.byteOffset, a.byteLength), start + entry.offset);
	}
	return bytes;
}

/** The JSON of a pack, without its arrays. */
export function packInfo(bytes: Uint8Array): Record<string, unknown> {
	const length = new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0, true);
	// What threads share must be copied before it is decoded.
	return (JSON.parse(new TextDecoder().decode(bytes.slice(4, 4 + length))) as { info: Record<string, unknown> }).info;
}

/** Reads a pack; the arrays are views into a copy of the bytes when they are not aligned. */
export function readPack(bytes: Uint8Array): Pack {
	const aligned = bytes.byteOffset % 8 === 0 ? bytes : bytes.slice();
	const view = new DataView(aligned.buffer, aligned.byteOffset, aligned.byteLength);
	const headLength = view.getUint32(0, true);
	const head = JSON.parse(new TextDecoder().decode(Uint8Array.from(aligned.subarray(4, 4 + headLength)))) as {
		info: Record<string, unknown>;
		arrays: { name: string; type: TypeName; offset: number; length: number }[];
	};
	const start = Math.ceil((4 + headLength) / 8) * 8;
	const arrays: Record<string, PackedArray> = {};
	for (const e of head.arrays)
		arrays[e.name] = new TYPES[e.type](aligned.buffer as ArrayBuffer, aligned.byteOffset + start + e.offset, e.length);
	return { info: head.info, arrays };
}

/** A pack with some of its arrays only. @throws ProblemError `unknown-array` for one that it has not */
export function onlyArrays(bytes: Uint8Array, wanted: readonly string[]): Uint8Array {
	const { info, arrays } = readPack(bytes);
	const unknown = wanted.find((name) => !Object.hasOwn(arrays, name));
	if (unknown !== undefined)
		fail('unknown-array', `it holds no array "${unknown}"`, `It holds ${Object.keys(arrays).join(', ') || 'none'}.`, 'arrays');
	return writePack({ info, arrays: Object.fromEntries(wanted.map((name) => [name, arrays[name]!])) });
}

/** Any tree of plain values and typed arrays as a pack: arrays are lifted out and leave their number behind. */
export function packValue(value: unknown, extra: Record<string, unknown> = {}): Pack {
	const arrays: Record<string, PackedArray> = {};
	let n = 0;
	const lift = (v: unknown): unknown => {
		if (ArrayBuffer.isView(v)) {
			const name = `a${n++}`;
			arrays[name] = v as PackedArray;
			return { $array: name };
		}
		if (v instanceof Map) return { $map: [...v].map(([k, x]) => [k, lift(x)]) };
		if (Array.isArray(v)) return v.map(lift);
		if (v && typeof v === 'object') return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, lift(x)]));
		return v;
	};
	return { info: { ...extra, value: lift(value) }, arrays };
}

/** The tree that was packed. The caller says what it is; what was packed by `packValue` comes back as it was. */
export function unpackValue<T>(pack: Pack): T {
	const lower = (v: unknown): unknown => {
		if (Array.isArray(v)) return v.map(lower);
		if (v && typeof v === 'object') {
			const o = v as Record<string, unknown>;
			if (typeof o['$array'] === 'string') return pack.arrays[o['$array']];
			if (Array.isArray(o['$map'])) return new Map((o['$map'] as [unknown, unknown][]).map(([k, x]) => [k, lower(x)]));
			return Object.fromEntries(Object.entries(o).map(([k, x]) => [k, lower(x)]));
		}
		return v;
	};
	return lower(pack.info['value']) as T;
}
