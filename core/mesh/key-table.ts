/**
 * Whole numbers below 2⁵³ to whole numbers below 2³¹: open addressing with linear probing. Faster than a `Map` for the millions
 * of vertex keys of a lattice, with the same answers.
 */
export class KeyTable {
	private keys = new Float64Array(1 << 16).fill(-1);
	private values = new Int32Array(1 << 16);
	private mask = (1 << 16) - 1;
	private used = 0;

	/** The value of a key, or −1. */
	get(key: number): number {
		let at = hash(key) & this.mask;
		for (;;) {
			const k = this.keys[at]!;
			if (k === key) return this.values[at]!;
			if (k < 0) return -1;
			at = (at + 1) & this.mask;
		}
	}

	/** Adds a key that is not there yet. */
	add(key: number, value: number): void {
		if (2 * ++this.used > this.mask) this.grow();
		let at = hash(key) & this.mask;
		while (this.keys[at]! >= 0) at = (at + 1) & this.mask;
		this.keys[at] = key;
		this.values[at] = value;
	}

	private grow(): void {
		const { keys, values } = this;
		this.keys = new Float64Array(2 * keys.length).fill(-1);
		this.values = new Int32Array(2 * keys.length);
		this.mask = this.keys.length - 1;
		for (let i = 0; i < keys.length; i++) {
			if (keys[i]! < 0) continue;
			let at = hash(keys[i]!) & this.mask;
			while (this.keys[at]! >= 0) at = (at + 1) & this.mask;
			this.keys[at] = keys[i]!;
			this.values[at] = values[i]!;
		}
	}
}

/** Pairs of whole numbers below 2⁵³ to vertex numbers. */
export class VertexTable {
	private readonly heads = new KeyTable();
	private readonly seconds: number[] = [];
	private readonly vertices: number[] = [];
	private readonly next: number[] = [];

	/** The vertex of a pair, or −1. */
	get(first: number, second: number): number {
		for (let at = this.heads.get(first); at >= 0; at = this.next[at]!) if (this.seconds[at] === second) return this.vertices[at]!;
		return -1;
	}

	/** Adds a pair that is not there yet. */
	add(first: number, second: number, vertex: number): void {
		const head = this.heads.get(first);
		const at = this.seconds.length;
		this.seconds.push(second);
		this.vertices.push(vertex);
		// A new pair comes second in its list, so that the head stays.
		this.next.push(head < 0 ? -1 : this.next[head]!);
		if (head < 0) this.heads.add(first, at);
		else this.next[head] = at;
	}
}

function hash(key: number): number {
	const high = Math.floor(key / 4294967296);
	let h = Math.imul(key - high * 4294967296, 0x9e3779b1) ^ Math.imul(high, 0x85ebca6b);
	h ^= h >>> 15;
	h = Math.imul(h, 0x2c1b3c6d);
	return h ^ (h >>> 13);
}
