import { spaced } from '#core/formats/ticks';

export { spaced };

/** A volume in cubic length units, with a readable power. */
export const volume = (v: number, unit: string): string =>
	Math.abs(v) >= 1e7 ? `${spaced(v / 1e6, 1)} × 10⁶ ${unit}³` : `${spaced(v)} ${unit}³`;

export const length = (v: number, unit: string, digits = 2): string => `${spaced(v, digits)} ${unit}`;

export const bytes = (b: number): string =>
	b >= 1e9
		? `${(b / 1e9).toFixed(1)} GB`
		: b >= 1e7
			? `${Math.round(b / 1e6)} MB`
			: b >= 1e5
				? `${(b / 1e6).toFixed(1)} MB`
				: `${Math.max(1, Math.round(b / 1e3))} kB`;

/** Where in its hole something is, behind the name of the hole; nothing where it has no depth: on a drawn line, say. */
export const atDepth = (depth: number | null, unit = ''): string =>
	depth === null ? '' : ` at ${spaced(depth, 1)}${unit ? ` ${unit}` : ''}`;
