/** Height of a row, pixels; and the tallest that browsers draw. */
export const ROW = 24;
const TALLEST = 24_000_000;

/** The rows of a long table that are seen: of one that is too tall to be drawn the scroll bar moves faster than the rows. */
export class RowWindow {
	constructor(
		readonly total: number,
		/** Height of what is seen, pixels. */
		readonly viewport: number
	) {}

	private get full(): number {
		return this.total * ROW;
	}

	private get last(): number {
		return Math.max(0, this.total - Math.floor(this.viewport / ROW) + 1);
	}

	/** Height to scroll over, pixels. */
	get height(): number {
		return Math.min(this.full, TALLEST);
	}

	/** Row at the top, where it is scrolled to. */
	first(top: number): number {
		return this.full <= TALLEST ? Math.floor(top / ROW) : Math.round((top / Math.max(1, this.height - this.viewport)) * this.last);
	}

	/** Where the first row stands, pixels from the upper end of what is scrolled over. */
	placeOf(first: number, top: number): number {
		return this.full <= TALLEST ? first * ROW : top;
	}

	/** Rows that there is room for. */
	get count(): number {
		return Math.ceil(this.viewport / ROW) + 1;
	}

	/** Where it must be scrolled to, so that a row is seen; where it is when it is seen already. */
	seen(row: number, top: number): number {
		if (this.full <= TALLEST) {
			if (row * ROW < top) return row * ROW;
			return (row + 2) * ROW > top + this.viewport ? (row + 2) * ROW - this.viewport : top;
		}
		const first = this.first(top);
		return row < first || row >= first + this.count - 2 ? (row / Math.max(1, this.last)) * (this.height - this.viewport) : top;
	}

	/** Where it is scrolled to when somebody goes to a row: it stands near the top. */
	near(row: number): number {
		return this.full <= TALLEST ? Math.max(0, (row - 3) * ROW) : (row / Math.max(1, this.total)) * this.height;
	}
}
