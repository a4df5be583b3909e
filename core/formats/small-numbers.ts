import { fail } from '../problem';

/** Whole numbers as bytes of seven bits, the sign in the lowest bit: small differences take one. */
export class Numbers {
	private bytes = new Uint8Array(1 << 16);
	private length = 0;

	push(value: number): void {
		let v = value < 0 ? -2 * value - 1 : 2 * value;
		if (this.length + 8 > this.bytes.length) {
			const wider = new Uint8Array(2 * this.bytes.length);
			wider.set(this.bytes);
			this.bytes = wider;
		}
		while (v >= 128) {
			this.bytes[this.length++] = (v % 128) | 128;
			v = Math.floor(v / 128);
		}
		this.bytes[this.length++] = v;
	}

	get done(): Uint8Array {
		return this.bytes.slice(0, this.length);
	}
}

/** @throws ProblemError `damaged-data` when they end before their time */
export function numberReader(bytes: Uint8Array): () => number {
	let at = 0;
	return () => {
		let v = 0;
		let scale = 1;
		for (;;) {
			if (at >= bytes.length || scale > 2 ** 49) damaged();
			const b = bytes[at++]!;
			v += (b & 127) * scale;
			if (b < 128) break;
			scale *= 128;
		}
		return v % 2 ? -(v + 1) / 2 : v / 2;
	};
}

export const damaged = (): never => fail('damaged-data', 'the data did not arrive whole', 'Load the page again.');
