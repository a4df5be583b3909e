/** Round numbers from low to high, about `count` of them (1, 2 or 5 times a power of ten apart). */
export function ticks(low: number, high: number, count: number): number[] {
	if (!(high > low) || count < 1) return [];
	const raw = (high - low) / count;
	const power = 10 ** Math.floor(Math.log10(raw));
	const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= raw * 0.999)!;
	const out: number[] = [];
	for (let v = Math.ceil(low / step) * step; v <= high + step * 1e-9; v += step) out.push(Number(v.toPrecision(12)));
	return out;
}

/** Number with thin spaces for thousands. */
export const spaced = (value: number, digits = 0): string => {
	const [whole, rest] = Math.abs(value).toFixed(digits).split('.') as [string, string?];
	return `${value < 0 && Number(value.toFixed(digits)) !== 0 ? '−' : ''}${whole.replace(/\B(?=(\d{3})+(?!\d))/g, '\u2009')}${rest ? `.${rest}` : ''}`;
};
