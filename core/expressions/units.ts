/** A unit of measure: its base dimensions with exponents, and the factor that brings it to them. */
export interface Unit {
	dimensions: Readonly<Record<string, number>>;
	factor: number;
	/** As it was written; of products it is made up. */
	parts: Readonly<Record<string, number>>;
}

export const dimensionless: Unit = { dimensions: {}, factor: 1, parts: {} };

/** Units by symbol: base dimensions and factor. Shares (%, ppm …) have no dimension. */
const SYMBOLS: Record<string, [Record<string, number>, number]> = {
	m: [{ L: 1 }, 1],
	km: [{ L: 1 }, 1000],
	cm: [{ L: 1 }, 0.01],
	mm: [{ L: 1 }, 0.001],
	ft: [{ L: 1 }, 0.3048],
	in: [{ L: 1 }, 0.0254],
	kg: [{ M: 1 }, 1],
	g: [{ M: 1 }, 0.001],
	t: [{ M: 1 }, 1000],
	mg: [{ M: 1 }, 1e-6],
	s: [{ T: 1 }, 1],
	min: [{ T: 1 }, 60],
	h: [{ T: 1 }, 3600],
	d: [{ T: 1 }, 86400],
	a: [{ T: 1 }, 31557600],
	'°': [{}, Math.PI / 180],
	deg: [{}, Math.PI / 180],
	rad: [{}, 1],
	'%': [{}, 0.01],
	pct: [{}, 0.01],
	ppm: [{}, 1e-6],
	ppb: [{}, 1e-9],
	Pa: [{ M: 1, L: -1, T: -2 }, 1],
	kPa: [{ M: 1, L: -1, T: -2 }, 1e3],
	MPa: [{ M: 1, L: -1, T: -2 }, 1e6],
	GPa: [{ M: 1, L: -1, T: -2 }, 1e9],
	N: [{ M: 1, L: 1, T: -2 }, 1],
	kN: [{ M: 1, L: 1, T: -2 }, 1e3]
};

/** A unit as people write it: `g/t`, `t/m3`, `kg/m³`, `MPa`. An unknown symbol is a dimension of its own; no text is null (any unit). */
export function parseUnit(text: string): Unit | null {
	const plain = text.trim().replace(/²/g, '2').replace(/³/g, '3');
	if (plain === '') return null;
	let unit = dimensionless;
	let sign = 1;
	for (const part of plain.split(/([/*·])/)) {
		if (part === '/') sign = -1;
		else if (part === '*' || part === '·') continue;
		else {
			const [, symbol, exponent] = /^\s*(.*?)\^?(-?\d)?\s*$/.exec(part) as unknown as [string, string, string | undefined];
			unit = combine(unit, symbolUnit(symbol), sign * (exponent ? Number(exponent) : 1));
		}
	}
	return unit;
}

function symbolUnit(symbol: string): Unit {
	if (symbol === '' || symbol === '1') return dimensionless;
	const known =
		Object.keys(SYMBOLS).find((s) => s === symbol) ?? Object.keys(SYMBOLS).find((s) => s.toLowerCase() === symbol.toLowerCase());
	const [dimensions, factor] = known ? SYMBOLS[known]! : [{ [symbol]: 1 }, 1];
	return { dimensions, factor, parts: { [known ?? symbol]: 1 } };
}

const merged = (a: Readonly<Record<string, number>>, b: Readonly<Record<string, number>>, n: number) =>
	Object.fromEntries(
		[...new Set([...Object.keys(a), ...Object.keys(b)])].map((k) => [k, (a[k] ?? 0) + n * (b[k] ?? 0)] as const).filter(([, v]) => v !== 0)
	);

/** a · bⁿ */
export const combine = (a: Unit, b: Unit, n: number): Unit => ({
	dimensions: merged(a.dimensions, b.dimensions, n),
	factor: a.factor * b.factor ** n,
	parts: merged(a.parts, b.parts, n)
});

export const power = (u: Unit, n: number): Unit => combine(dimensionless, u, n);

export const sameDimension = (a: Unit, b: Unit): boolean => Object.keys(merged(a.dimensions, b.dimensions, -1)).length === 0;

/** Factor from one unit to another of the same dimension. */
export const conversion = (from: Unit, to: Unit): number => from.factor / to.factor;

/** As it is written: `g/t`, `m²`. */
export function formatUnit(u: Unit): string {
	const show = (list: [string, number][]) =>
		list.map(([s, n]) => (n === 1 ? s : n === 2 ? `${s}²` : n === 3 ? `${s}³` : `${s}^${n}`)).join('·');
	const above = show(Object.entries(u.parts).filter(([, n]) => n > 0));
	const below = show(
		Object.entries(u.parts)
			.filter(([, n]) => n < 0)
			.map(([s, n]) => [s, -n])
	);
	return below ? `${above || '1'}/${below}` : above;
}
