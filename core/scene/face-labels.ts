import polylabel from 'polylabel';

/** A name in the middle of a face of a drawing, pixels. */
interface FaceLabel {
	x: number;
	y: number;
	text: string;
}

/** Pixels between vertices that count, and of the place of a name. */
const COARSE = 4;
const PRECISION = 2;

type Ring = [number, number][];

/** The part of a ring inside an upright rectangle (Sutherland & Hodgman 1974). */
function clipped(ring: Ring, [x0, y0, x1, y1]: readonly [number, number, number, number]): Ring {
	let list = ring;
	for (const [axis, bound, sign] of [
		[0, x0, 1],
		[0, x1, -1],
		[1, y0, 1],
		[1, y1, -1]
	] as const) {
		const out: Ring = [];
		const inside = (p: readonly [number, number]) => sign * (p[axis] - bound) >= 0;
		list.forEach((p, i) => {
			const q = list[(i + 1) % list.length]!;
			if (inside(p)) out.push(p);
			if (inside(p) !== inside(q)) {
				const t = (bound - p[axis]) / (q[axis] - p[axis]);
				out.push([p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])]);
			}
		});
		list = out;
	}
	return list;
}

/** A ring without vertices that lie nearer than this to the one before: names need no finer outline. */
function thinned(r: ArrayLike<number>): Ring {
	const out: Ring = [];
	for (let i = 0; i + 1 < r.length; i += 2) {
		const last = out.at(-1);
		if (!last || Math.abs(r[i]! - last[0]) + Math.abs(r[i + 1]! - last[1]) >= COARSE) out.push([r[i]!, r[i + 1]!]);
	}
	return out;
}

const area = (r: Ring): number =>
	Math.abs(
		r.reduce((sum, p, i) => {
			const q = r[(i + 1) % r.length]!;
			return sum + p[0] * q[1] - q[0] * p[1];
		}, 0)
	) / 2;

function holds(ring: Ring, [x, y]: readonly [number, number]): boolean {
	let odd = false;
	for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
		const [a, b] = [ring[i]!, ring[j]!];
		if (a[1] > y !== b[1] > y && x < ((b[0] - a[0]) * (y - a[1])) / (b[1] - a[1]) + a[0]) odd = !odd;
	}
	return odd;
}

/**
 * Names that stand inside the faces of a drawing, where the name has most room: the pole of inaccessibility (Garcia-Castellanos &
 * Lombardo 2007) of the face, squeezed by the shape of the text so that its circle is an ellipse round the name. A face without
 * room for its name has none.
 * @param faces rings of one name, filled even-odd, flat xy in pixels
 * @param seen x0, y0, x1, y1 of what is seen of the drawing
 * @param height of the text, pixels
 */
export function faceLabels(
	faces: readonly { text: string; width: number; rings: readonly ArrayLike<number>[] }[],
	seen: readonly [number, number, number, number],
	height = 12
): FaceLabel[] {
	const out: FaceLabel[] = [];
	for (const { text, width, rings } of faces) {
		const squeeze = height / Math.max(width, 1);
		const parts = rings
			.map((r) => clipped(thinned(r), seen).map(([x, y]): [number, number] => [x * squeeze, y]))
			.filter((r) => r.length > 2);
		for (const ring of parts) {
			if (area(ring) < 1.5 * height * height) continue;
			if (parts.filter((o) => o !== ring && holds(o, ring[0]!)).length % 2 === 1) continue;
			const pole = polylabel([ring, ...parts.filter((o) => o !== ring && holds(ring, o[0]!))], PRECISION);
			// Half of the diagonal of the squeezed text is 0.71 of its height.
			if (pole.distance >= 0.75 * height) out.push({ x: pole[0]! / squeeze, y: pole[1]!, text });
		}
	}
	return out;
}
