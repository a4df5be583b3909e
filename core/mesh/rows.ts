/** Short rows of whole numbers, made anew again and again: room is kept, and nothing is allocated once there is enough of it. */
export class Rows {
	/** Row r begins at `r * stride`. Both change when room is made. */
	data: Int32Array;
	lengths: Int32Array;
	stride = 16;
	count = 0;

	constructor(rows = 64) {
		this.lengths = new Int32Array(rows);
		this.data = new Int32Array(rows * this.stride);
	}

	clear(): void {
		this.count = 0;
	}

	/** An empty row at the end. @returns its number */
	add(): number {
		if (this.count === this.lengths.length) {
			const lengths = new Int32Array(2 * this.count);
			lengths.set(this.lengths);
			this.lengths = lengths;
			this.makeRoom(this.stride);
		}
		this.lengths[this.count] = 0;
		return this.count++;
	}

	push(row: number, value: number): void {
		this.insert(row, this.lengths[row]!, value);
	}

	/** Puts a number before the one at a place of a row. */
	insert(row: number, at: number, value: number): void {
		const length = this.lengths[row]!;
		if (length === this.stride) this.makeRoom(2 * this.stride);
		const { data } = this;
		const start = row * this.stride;
		for (let i = start + length; i > start + at; i--) data[i] = data[i - 1]!;
		data[start + at] = value;
		this.lengths[row] = length + 1;
	}

	/** Gives a row the first numbers of a list instead of its own. */
	replace(row: number, values: Int32Array, length: number): void {
		while (length > this.stride) this.makeRoom(2 * this.stride);
		const start = row * this.stride;
		for (let i = 0; i < length; i++) this.data[start + i] = values[i]!;
		this.lengths[row] = length;
	}

	private makeRoom(stride: number): void {
		const data = new Int32Array(this.lengths.length * stride);
		for (let row = 0; row < this.count; row++) {
			const start = row * this.stride;
			data.set(this.data.subarray(start, start + this.lengths[row]!), row * stride);
		}
		this.data = data;
		this.stride = stride;
	}
}
