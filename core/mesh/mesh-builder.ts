import { sharedCopy } from '../kernels/shared';

interface Arrays {
	positions: Float64Array;
	keys: Float64Array;
	triangles: Uint32Array;
	front: Uint16Array;
	back: Uint16Array;
	surface: Int16Array;
}

const emptyArrays = (): Arrays => ({
	positions: new Float64Array(3 << 14),
	keys: new Float64Array(3 << 10),
	triangles: new Uint32Array(3 << 14),
	front: new Uint16Array(1 << 14),
	back: new Uint16Array(1 << 14),
	surface: new Int16Array(1 << 14)
});

/** Growing arrays of the vertices and triangles of a part of a model. */
export class MeshBuilder {
	/** Arrays of the builder that was finished last: fresh memory costs more than what is written into it. */
	private static spare: Arrays | null = null;

	private positions: Float64Array;
	private keys: Float64Array;
	private triangles: Uint32Array;
	private front: Uint16Array;
	private back: Uint16Array;
	private surface: Int16Array;
	private vertices = 0;
	private keyCount = 0;
	private count = 0;

	constructor() {
		const arrays = MeshBuilder.spare ?? emptyArrays();
		MeshBuilder.spare = null;
		({
			positions: this.positions,
			keys: this.keys,
			triangles: this.triangles,
			front: this.front,
			back: this.back,
			surface: this.surface
		} = arrays);
	}

	vertex(x: number, y: number, z: number): number {
		const o = 3 * this.vertices;
		if (o === this.positions.length) this.positions = grown(this.positions, new Float64Array(2 * o));
		this.positions[o] = x;
		this.positions[o + 1] = y;
		this.positions[o + 2] = z;
		return this.vertices++;
	}

	/** Tells which vertex it is in the whole. Vertices come in ascending order. */
	key(vertex: number, first: number, second: number): void {
		const o = 3 * this.keyCount++;
		if (o === this.keys.length) this.keys = grown(this.keys, new Float64Array(2 * o));
		this.keys[o] = vertex;
		this.keys[o + 1] = first;
		this.keys[o + 2] = second;
	}

	triangle(a: number, b: number, c: number, front: number, back: number, surface: number): void {
		const n = this.count;
		if (n === this.front.length) {
			this.triangles = grown(this.triangles, new Uint32Array(6 * n));
			this.front = grown(this.front, new Uint16Array(2 * n));
			this.back = grown(this.back, new Uint16Array(2 * n));
			this.surface = grown(this.surface, new Int16Array(2 * n));
		}
		this.triangles[3 * n] = a;
		this.triangles[3 * n + 1] = b;
		this.triangles[3 * n + 2] = c;
		this.front[n] = front;
		this.back[n] = back;
		this.surface[n] = surface;
		this.count++;
	}

	/** A triangle, or the same one seen from behind. */
	facing(turned: boolean, a: number, b: number, c: number, front: number, back: number, surface: number): void {
		this.triangle(a, turned ? c : b, turned ? b : c, front, back, surface);
	}

	/** Copies in room that threads share: they may have been made by one. Nothing can be added any more. */
	finish(): Arrays {
		const { positions, keys, triangles, front, back, surface } = this;
		MeshBuilder.spare = { positions, keys, triangles, front, back, surface };
		return {
			positions: sharedCopy(this.positions, 3 * this.vertices),
			keys: sharedCopy(this.keys, 3 * this.keyCount),
			triangles: sharedCopy(this.triangles, 3 * this.count),
			front: sharedCopy(this.front, this.count),
			back: sharedCopy(this.back, this.count),
			surface: sharedCopy(this.surface, this.count)
		};
	}
}

function grown<T extends Float64Array | Uint32Array | Uint16Array | Int16Array>(from: T, to: T): T {
	to.set(from);
	return to;
}
