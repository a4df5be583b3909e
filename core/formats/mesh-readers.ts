import { WebIO } from '@gltf-transform/core';
import { fail, ProblemError } from '../problem';
import type { TriangleMesh } from '../mesh/extract';
import { titlesRead } from './known';
import { formatAmong, type Readers } from './reader';

const MOST_TRIANGLES = 20_000_000;

/** How triangulated surfaces are told and read. */
const SURFACE_READERS: Readers<'surface', TriangleMesh> = {
	ply: { is: ({ text }) => text.startsWith('ply'), read: readPly },
	gltf: {
		is: ({ text, name }) => text.startsWith('glTF') || (/\.gltf$/i.test(name) && /^\s*\{/.test(text) && text.includes('"asset"')),
		read: readGltf
	},
	vtk: { is: ({ text }) => /<VTKFile[^>]*type\s*=\s*"PolyData"/.test(text), read: readVtp },
	stl: { is: ({ text, name, bytes }) => /\.stl$/i.test(name) && (/^\s*solid/.test(text) || bytes.length >= 84), read: readStl },
	obj: { is: ({ text, name }) => /\.obj$/i.test(name) && /^\s*(v|#|g|o|mtllib)\s/m.test(text), read: readObj }
};

/** What a surface file is, from its first bytes and its name; null when it is none. */
export const meshFormat = (bytes: Uint8Array, name: string): keyof typeof SURFACE_READERS | null =>
	formatAmong(SURFACE_READERS, bytes, name);

/** Reads any surface file. Coordinates keep all digits that the format has. @throws ProblemError that says what is wrong with it */
export async function readMesh(bytes: Uint8Array, name: string): Promise<TriangleMesh> {
	const format = meshFormat(bytes, name);
	if (!format) return fail('not-a-surface', `${name} is no surface that can be read`, `${titlesRead('surface')} are read.`, name);
	let mesh: TriangleMesh;
	try {
		mesh = await SURFACE_READERS[format].read(bytes, name);
	} catch (error) {
		if (error instanceof ProblemError) throw error;
		return fail(
			'damaged-file',
			`${name} can not be read as ${format.toUpperCase()}`,
			`The file is damaged. The reader said: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`,
			name
		);
	}
	const n = mesh.positions.length / 3;
	if (mesh.triangles.length === 0) return fail('empty-file', `${name} holds no triangles`, 'Choose another file.', name);
	if (mesh.triangles.length > 3 * MOST_TRIANGLES)
		return fail('too-many-triangles', `${name} holds more than ${MOST_TRIANGLES} triangles`, 'Coarsen it first.', name);
	if (mesh.triangles.some((v) => v >= n) || mesh.positions.some((v) => !Number.isFinite(v)))
		return fail(
			'damaged-file',
			`${name} names vertices that it does not have, or holds something that is no number`,
			'Write the file again.',
			name
		);
	return mesh;
}

function readObj(bytes: Uint8Array): TriangleMesh {
	const positions: number[] = [];
	const triangles: number[] = [];
	for (const line of new TextDecoder().decode(bytes).split('\n')) {
		const c = line.trim().split(/\s+/);
		if (c[0] === 'v') positions.push(Number(c[1]), Number(c[2]), Number(c[3]));
		else if (c[0] === 'f') {
			const n = positions.length / 3;
			const v = c.slice(1).map((x) => {
				const i = parseInt(x, 10);
				return i < 0 ? n + i : i - 1;
			});
			for (let i = 2; i < v.length; i++) triangles.push(v[0]!, v[i - 1]!, v[i]!);
		}
	}
	return { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
}

/** Vertices with the same coordinates become one. */
function joined(corners: Float64Array): TriangleMesh {
	const index = new Map<string, number>();
	const positions: number[] = [];
	const triangles = new Uint32Array(corners.length / 3);
	for (let i = 0; i < triangles.length; i++) {
		const key = `${corners[3 * i]} ${corners[3 * i + 1]} ${corners[3 * i + 2]}`;
		let v = index.get(key);
		if (v === undefined) {
			index.set(key, (v = positions.length / 3));
			positions.push(corners[3 * i]!, corners[3 * i + 1]!, corners[3 * i + 2]!);
		}
		triangles[i] = v;
	}
	return { positions: Float64Array.from(positions), triangles };
}

function readStl(bytes: Uint8Array): TriangleMesh {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	const count = bytes.length >= 84 ? view.getUint32(80, true) : -1;
	if (bytes.length === 84 + 50 * count) {
		// Malachite keeps the origin in the header, because the numbers of the format are short.
		const origin = /^origin ([-+.\de]+) ([-+.\de]+) ([-+.\de]+)/i
			.exec(new TextDecoder('latin1').decode(bytes.subarray(0, 80)))
			?.slice(1)
			.map(Number) ?? [0, 0, 0];
		const corners = new Float64Array(9 * count);
		for (let t = 0; t < count; t++)
			for (let k = 0; k < 9; k++) corners[9 * t + k] = view.getFloat32(84 + 50 * t + 12 + 4 * k, true) + origin[k % 3]!;
		return joined(corners);
	}
	const numbers = [...new TextDecoder().decode(bytes).matchAll(/vertex\s+(\S+)\s+(\S+)\s+(\S+)/g)].flatMap((m) => [
		Number(m[1]),
		Number(m[2]),
		Number(m[3])
	]);
	return joined(Float64Array.from(numbers.slice(0, numbers.length - (numbers.length % 9))));
}

const PLY_TYPES: Record<string, [number, (v: DataView, at: number, little: boolean) => number]> = {
	char: [1, (v, a) => v.getInt8(a)],
	uchar: [1, (v, a) => v.getUint8(a)],
	short: [2, (v, a, l) => v.getInt16(a, l)],
	ushort: [2, (v, a, l) => v.getUint16(a, l)],
	int: [4, (v, a, l) => v.getInt32(a, l)],
	uint: [4, (v, a, l) => v.getUint32(a, l)],
	float: [4, (v, a, l) => v.getFloat32(a, l)],
	double: [8, (v, a, l) => v.getFloat64(a, l)]
};
const PLY_NAMES: Record<string, string> = {
	int8: 'char',
	uint8: 'uchar',
	int16: 'short',
	uint16: 'ushort',
	int32: 'int',
	uint32: 'uint',
	float32: 'float',
	float64: 'double'
};

/** The Stanford polygon format, ASCII or binary. */
function readPly(bytes: Uint8Array): TriangleMesh {
	const text = new TextDecoder('latin1').decode(bytes.subarray(0, 65536));
	const end = /end_header\r?\n/.exec(text);
	if (!end) throw new Error('the header has no end');
	const head = text
		.slice(0, end.index)
		.split(/\r?\n/)
		.map((l) => l.trim().split(/\s+/));
	const format = head.find((l) => l[0] === 'format')?.[1] ?? 'ascii';
	const elements: { name: string; count: number; properties: { name: string; type: string; list: string | null }[] }[] = [];
	for (const l of head) {
		if (l[0] === 'element') elements.push({ name: l[1]!, count: Number(l[2]), properties: [] });
		else if (l[0] === 'property')
			elements[elements.length - 1]!.properties.push(
				l[1] === 'list'
					? { name: l[4]!, type: PLY_NAMES[l[3]!] ?? l[3]!, list: PLY_NAMES[l[2]!] ?? l[2]! }
					: { name: l[2]!, type: PLY_NAMES[l[1]!] ?? l[1]!, list: null }
			);
	}
	let at = end.index + end[0].length;
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
	const words =
		format === 'ascii'
			? new TextDecoder('latin1')
					.decode(bytes.subarray(at))
					.split(/\s+/)
					.filter((w) => w !== '')
			: [];
	let word = 0;
	const read = (type: string): number => {
		if (format === 'ascii') return Number(words[word++]);
		const [size, get] = PLY_TYPES[type] ?? [0, () => NaN];
		if (!size) throw new Error(`unknown type ${type}`);
		at += size;
		return get(view, at - size, format === 'binary_little_endian');
	};
	const positions: number[] = [];
	const triangles: number[] = [];
	for (const e of elements) {
		if (!(e.count >= 0 && e.count <= bytes.length)) throw new Error(`${e.count} elements`);
		for (let i = 0; i < e.count; i++)
			for (const p of e.properties) {
				if (p.list === null) {
					const v = read(p.type);
					if (e.name === 'vertex' && (p.name === 'x' || p.name === 'y' || p.name === 'z')) positions.push(v);
					continue;
				}
				const n = read(p.list);
				if (!(n >= 0 && n <= 100_000)) throw new Error(`a face of ${n} corners`);
				const corners = Array.from({ length: n }, () => read(p.type));
				if (e.name === 'face') for (let k = 2; k < n; k++) triangles.push(corners[0]!, corners[k - 1]!, corners[k]!);
			}
	}
	return { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
}

/** glTF has y up: (x, −z, y) is easting, northing, elevation. In files of earlier versions the origin stands in the extras of the scene. */
async function readGltf(bytes: Uint8Array): Promise<TriangleMesh> {
	const io = new WebIO();
	const document =
		bytes[0] === 0x67
			? await io.readBinary(bytes)
			: await io.readJSON({ json: JSON.parse(new TextDecoder().decode(bytes)), resources: {} });
	const scene = document.getRoot().getDefaultScene() ?? document.getRoot().listScenes()[0];
	const origin = (scene?.getExtras()['origin'] as number[] | undefined) ?? [0, 0, 0];
	const positions: number[] = [];
	const triangles: number[] = [];
	scene?.traverse((node) => {
		const m = node.getWorldMatrix();
		for (const primitive of node.getMesh()?.listPrimitives() ?? []) {
			const position = primitive.getAttribute('POSITION');
			if (!position || primitive.getMode() !== 4) continue;
			const base = positions.length / 3;
			const p: [number, number, number] = [0, 0, 0];
			for (let i = 0; i < position.getCount(); i++) {
				position.getElement(i, p);
				const [x, y, z] = [0, 1, 2].map((r) => m[r]! * p[0] + m[4 + r]! * p[1] + m[8 + r]! * p[2] + m[12 + r]!) as [number, number, number];
				positions.push(x + origin[0]!, -z + origin[1]!, y + origin[2]!);
			}
			const indices = primitive.getIndices();
			const n = indices?.getCount() ?? position.getCount();
			for (let i = 0; i < n; i++) triangles.push(base + (indices ? indices.getScalar(i) : i));
		}
	});
	return { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
}

/** VTK XML polygonal data: points and polygons of all pieces, written as text. */
function readVtp(bytes: Uint8Array): TriangleMesh {
	const text = new TextDecoder().decode(bytes);
	const positions: number[] = [];
	const triangles: number[] = [];
	const arrayIn = (part: string, name?: string): string => {
		for (const m of part.matchAll(/<DataArray([^>]*)>([\s\S]*?)<\/DataArray>/g)) {
			if (name && !new RegExp(`Name\\s*=\\s*"${name}"`).test(m[1]!)) continue;
			if (!/format\s*=\s*"ascii"/.test(m[1]!))
				fail('not-read', 'VTK data that are packed are not read', 'Write the file with its data as text (ASCII), or as PLY or OBJ.');
			return m[2]!.trim();
		}
		return '';
	};
	const numbersOf = (list: string) => (list === '' ? [] : list.split(/\s+/).map(Number));
	for (const [, piece] of text.matchAll(/<Piece[^>]*>([\s\S]*?)<\/Piece>/g)) {
		const base = positions.length / 3;
		for (const v of numbersOf(arrayIn(/<Points>([\s\S]*?)<\/Points>/.exec(piece!)?.[1] ?? ''))) positions.push(v);
		const polygons = /<Polys>([\s\S]*?)<\/Polys>/.exec(piece!)?.[1] ?? '';
		const corners = numbersOf(arrayIn(polygons, 'connectivity'));
		let start = 0;
		for (const end of numbersOf(arrayIn(polygons, 'offsets'))) {
			for (let i = start + 2; i < end; i++) triangles.push(base + corners[start]!, base + corners[i - 1]!, base + corners[i]!);
			start = end;
		}
	}
	return { positions: Float64Array.from(positions), triangles: Uint32Array.from(triangles) };
}
