/** Units of measure that a column can be given, by what they measure; the factor brings a number to metres or degrees. */
export const MEASURES = {
	length: { m: 1, ft: 0.3048, 'US ft': 1200 / 3937, km: 1000, cm: 0.01, mm: 0.001, in: 0.0254 },
	angle: { '°': 1, gon: 0.9, rad: 180 / Math.PI }
} as const;

export type MeasureKind = keyof typeof MEASURES;

const NAMES: Record<string, string> = {
	metre: 'm',
	metres: 'm',
	meter: 'm',
	meters: 'm',
	feet: 'ft',
	foot: 'ft',
	deg: '°',
	degree: '°',
	degrees: '°',
	grad: 'gon',
	radians: 'rad',
	f: 'ft'
};

/** The unit that a text means, if it is one of a measure. */
export function unitNamed(text: string, kind: MeasureKind): string | null {
	const plain = text
		.replace(/[[\]()]/g, '')
		.trim()
		.toLowerCase();
	const name = NAMES[plain] ?? Object.keys(MEASURES[kind]).find((u) => u.toLowerCase() === plain) ?? '';
	return name in MEASURES[kind] ? name : null;
}

/** Factor from one unit of a measure to another. @throws RangeError for a unit that is not of the measure */
export function unitFactor(kind: MeasureKind, from: string, to: string): number {
	const table: Record<string, number> = MEASURES[kind];
	const [a, b] = [table[from], table[to]];
	if (a === undefined || b === undefined) throw new RangeError(`${a === undefined ? from : to} is no unit of ${kind}`);
	return a / b;
}
