import { unitFactor, unitNamed, type MeasureKind } from './measures';

const DEGREES =
	/^([+-]?)(\d{1,3})\s*[°ºd]\s*(?:(\d{1,2}(?:[.,]\d+)?)\s*['′’m]\s*)?(?:(\d{1,2}(?:[.,]\d+)?)\s*(?:["″”s]|'')\s*)?([NSEW])?$/i;
const BEHIND = /^(.*?\d[.,]?)\s*([a-z°'′]+(?:\s[a-z]+)?)\.?$/i;

/**
 * A number with its unit behind it in the cell ("12.5 m", "41 ft"), or an angle in degrees, minutes and seconds, in a unit of the
 * project; NaN for anything else. What the cell says counts more than what is said of its column.
 */
export function readMarked(cell: string, plain: (cell: string) => number, measure: MeasureKind, own: string): number {
	if (measure === 'angle') {
		const m = DEGREES.exec(cell.trim());
		if (m) {
			const [minutes, seconds] = [m[3] ?? '0', m[4] ?? '0'].map((t) => Number(t.replace(',', '.'))) as [number, number];
			if (minutes >= 60 || seconds >= 60) return NaN;
			const value = Number(m[2]) + minutes / 60 + seconds / 3600;
			return m[1] === '-' || /[SW]/i.test(m[5] ?? '') ? -value : value;
		}
	}
	const m = BEHIND.exec(cell.trim());
	if (!m) return NaN;
	const unit = m[2] === "'" || m[2] === '′' ? 'ft' : unitNamed(m[2]!, measure);
	if (!unit || (unit === 'ft' && measure !== 'length')) return NaN;
	return plain(m[1]!.trim()) * unitFactor(measure, unit, own);
}
