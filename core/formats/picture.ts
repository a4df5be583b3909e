import { unzipSync } from 'fflate';
import { fail } from '../problem';
import { isZip, zipEntries } from './xlsx';

/** Where a picture lies: easting = a·column + b·row + c, northing = d·column + e·row + f, for the centre of a pixel. */
export interface Placement {
	a: number;
	b: number;
	c: number;
	d: number;
	e: number;
	f: number;
}

/** A picture that hangs on a section: the trace, and its edges along it and in elevation. */
export interface HungPicture {
	trace: [number, number][];
	left: number;
	right: number;
	top: number;
	bottom: number;
}

/** A photograph of core: its hole, and the measured depths of its upper and lower end. */
export interface CorePlace {
	hole: string;
	from: number;
	to: number;
}

/** What a file name tells of a photograph of core: the name of a hole, then two depths, as in `TW-012 24.0-28.5.jpg`. */
export function coreOfName(fileName: string, holes: Iterable<string>): CorePlace | null {
	const plain = fileName.replace(/\.[a-z0-9]+$/i, '').toLowerCase();
	let best: { hole: string; end: number } | null = null;
	for (const hole of holes) {
		const at = plain.indexOf(hole.toLowerCase());
		// The longest name wins: KT-1 is not meant where KT-12 is written.
		if (at >= 0 && hole && (!best || hole.length > best.hole.length)) best = { hole, end: at + hole.length };
	}
	if (!best) return null;
	const [from, to] = (plain.slice(best.end).match(/\d+(?:[.,]\d+)?/g) ?? []).map((t) => Number(t.replace(',', '.')));
	return from !== undefined && to !== undefined && to > from ? { hole: best.hole, from, to } : null;
}

export interface Picture {
	media: 'image/png' | 'image/jpeg';
	width: number;
	height: number;
	bytes: Uint8Array;
	/** From a world file; null when there is none. */
	placement: Placement | null;
}

/** Whether bytes are a PNG or JPEG picture, or a ZIP archive that holds one. */
export function isPicture(bytes: Uint8Array, name: string): boolean {
	if (mediaOf(bytes)) return true;
	if (!isZip(bytes)) return false;
	try {
		return [...zipEntries(bytes, name).keys()].some((n) => /\.(png|jpe?g)$/i.test(n));
	} catch {
		return false;
	}
}

const mediaOf = (b: Uint8Array): Picture['media'] | null =>
	b[0] === 0x89 && b[1] === 0x50 && b[2] === 0x4e && b[3] === 0x47
		? 'image/png'
		: b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff
			? 'image/jpeg'
			: null;

/** Reads size and placement of a picture. @throws ProblemError `damaged-file`, `bad-world-file` */
export function readPicture(bytes: Uint8Array, name: string): Picture {
	let picture = bytes;
	let world: string | null = null;
	if (isZip(bytes)) {
		zipEntries(bytes, name);
		const files = unzipSync(bytes, { filter: (f) => /\.(png|jpe?g|[a-z]{2,4}w|wld)$/i.test(f.name) });
		picture = Object.entries(files).find(([n]) => /\.(png|jpe?g)$/i.test(n))?.[1] ?? picture;
		const beside = Object.entries(files).find(([n]) => /(w|wld)$/i.test(n) && !/\.(png|jpe?g)$/i.test(n));
		world = beside ? new TextDecoder().decode(beside[1]) : null;
	}
	const media = mediaOf(picture);
	const size = media === 'image/png' ? pngSize(picture) : media === 'image/jpeg' ? jpegSize(picture) : null;
	if (!media || !size) return fail('damaged-file', `${name} is no PNG or JPEG picture that can be read`, 'Save it again as PNG.', name);
	return { media, ...size, bytes: picture, placement: world === null ? null : parseWorldFile(world, name) };
}

/** The six numbers of a world file. @throws ProblemError `bad-world-file` */
export function parseWorldFile(text: string, name: string): Placement {
	const n = text
		.trim()
		.split(/\s+/)
		.map((v) => Number(v.replace(',', '.')));
	if (n.length < 6 || !n.slice(0, 6).every(Number.isFinite) || n[0]! * n[3]! - n[1]! * n[2]! === 0)
		return fail(
			'bad-world-file',
			`the world file of ${name} does not hold six numbers that place a picture`,
			'It holds pixel width, two rotations, negative pixel height, and easting and northing of the first pixel.',
			name
		);
	return { a: n[0]!, d: n[1]!, b: n[2]!, e: n[3]!, c: n[4]!, f: n[5]! };
}

/** Placement by two or more control points: column, row, easting, northing. Two give a similarity, three or more an affine fit. */
export function placeByPoints(points: readonly (readonly [number, number, number, number])[]): Placement {
	if (points.length < 2)
		return fail(
			'control-points',
			'a picture needs at least two control points',
			'Give column, row, easting and northing of each.',
			'points'
		);
	const n = points.length;
	const mean = (k: 0 | 1 | 2 | 3) => points.reduce((s, p) => s + p[k], 0) / n;
	const m = [mean(0), mean(1), mean(2), mean(3)] as const;
	const sum = (i: 0 | 1 | 2 | 3, j: 0 | 1 | 2 | 3) => points.reduce((s, p) => s + (p[i] - m[i]) * (p[j] - m[j]), 0);
	const [uu, uv, vv] = [sum(0, 0), sum(0, 1), sum(1, 1)];
	const det = uu * vv - uv * uv;
	let t: [number, number, number, number];
	if (n >= 3 && det > 1e-9 * uu * vv) {
		const solve = (k: 2 | 3): [number, number] => [(sum(0, k) * vv - sum(1, k) * uv) / det, (sum(1, k) * uu - sum(0, k) * uv) / det];
		t = [...solve(2), ...solve(3)];
	} else {
		// Rows run down: a similarity that turns the picture over.
		const size = uu + vv;
		if (!(size > 0)) return fail('control-points', 'the control points are all at one pixel', 'Choose points far apart.', 'points');
		const a = (sum(0, 2) - sum(1, 3)) / size;
		const b = (sum(1, 2) + sum(0, 3)) / size;
		t = [a, b, b, -a];
	}
	const [a, b, d, e] = t;
	return { a, b, c: m[2] - a * m[0] - b * m[1], d, e, f: m[3] - d * m[0] - e * m[1] };
}

function pngSize(b: Uint8Array): { width: number; height: number } | null {
	if (b.length < 24) return null;
	const v = new DataView(b.buffer, b.byteOffset, b.byteLength);
	return { width: v.getUint32(16), height: v.getUint32(20) };
}

function jpegSize(b: Uint8Array): { width: number; height: number } | null {
	const v = new DataView(b.buffer, b.byteOffset, b.byteLength);
	for (let at = 2; at + 9 < b.length;) {
		if (b[at] !== 0xff) return null;
		const marker = b[at + 1]!;
		if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker))
			return { height: v.getUint16(at + 5), width: v.getUint16(at + 7) };
		at += 2 + v.getUint16(at + 2);
	}
	return null;
}
