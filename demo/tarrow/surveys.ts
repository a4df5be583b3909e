import { seededRandom } from '#core/statistics/random';
import { terrainAt } from '../truth';
import { bouguerAt, magneticAt } from './truth';

/** Drift of the earth's field during a day, nT, by the hour. */
export const driftAt = (hour: number): number => 9 * Math.sin(((hour - 6) * Math.PI) / 12) + 3 * Math.sin(hour * 1.7);
/** What the heading of a line adds: it is flown there and back. */
const HEADING_ERROR = 4;
const DAY = '2025-06-17';
const clock = (hour: number): string => {
	const seconds = Math.round(hour * 3600);
	const two = (v: number) => String(Math.floor(v)).padStart(2, '0');
	return `${DAY} ${two(seconds / 3600)}:${two((seconds / 60) % 60)}:${two(seconds % 60)}`;
};

/** Lines 400 m apart, and three tie lines across them, walked in one long day: field, noise, drift and heading error. */
export function magneticStations(): string[][] {
	const random = seededRandom(1313);
	const rows: string[][] = [];
	let hour = 5;
	const station = (line: string, k: number, x: number, y: number, heading: number) => {
		if (terrainAt(x, y) < 1) return;
		hour += 0.0085;
		const read = magneticAt(x, y) + driftAt(hour) + heading + 1.6 * random.normal();
		rows.push([line, String(k + 1), String(x), String(y), clock(hour), read.toFixed(1)]);
	};
	for (let y = 4990800, line = 10; y <= 4994400; y += 400, line += 10) {
		const back = line % 20 === 0;
		for (let k = 0; k <= 110; k++) {
			const s = back ? 110 - k : k;
			station(String(line), s, 401000 + 40 * s, y, back ? HEADING_ERROR : -HEADING_ERROR);
		}
	}
	for (const [i, x] of [401800, 403200, 404600].entries()) for (let k = 0; k <= 90; k++) station(`T${i + 1}`, k, x, 4990800 + 40 * k, 0);
	return rows;
}

/** The base station: it stands still and reads the drift every five minutes. */
export function baseReadings(): string[][] {
	const random = seededRandom(1414);
	const [x, y] = [403600, 4991200];
	return Array.from({ length: 150 }, (_, i) => {
		const hour = 5 + i / 12;
		return [
			'base',
			String(i + 1),
			String(x),
			String(y),
			clock(hour),
			(magneticAt(x, y) + driftAt(hour) + 0.3 * random.normal()).toFixed(1)
		];
	});
}

/** Gravity read at stations with their heights: the anomaly, the height, the latitude and the drift of the instrument are all in it, mGal. */
export function gravityStations(): string[][] {
	const random = seededRandom(1515);
	const rows: string[][] = [];
	let hour = 6;
	while (rows.length < 180) {
		const [x, y] = [Math.round(400900 + 4500 * random.uniform()), Math.round(4990700 + 3700 * random.uniform())];
		const h = terrainAt(x, y);
		if (h < 2) continue;
		hour = rows.length % 24 === 0 ? 6 : hour + 0.4;
		const height = h + 0.05 * random.normal();
		const read =
			2400 +
			bouguerAt(x, y) -
			(0.3086 - 0.0419 * 2.67) * h +
			0.00081 * Math.sin((2 * 45.06 * Math.PI) / 180) * ((y - 4992500) / 1000) +
			0.012 * (hour - 6) +
			0.015 * random.normal();
		rows.push([`G${rows.length + 1}`, String(x), String(y), height.toFixed(2), clock(hour), read.toFixed(3)]);
	}
	return rows;
}
