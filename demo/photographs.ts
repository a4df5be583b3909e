import { writePng } from '#core/formats/png';
import { positionAt, type Path } from '#core/holes/path';
import { seededRandom } from '#core/statistics/random';
import { LAYERS, type Ground } from './truth';

/** Rock as a camera sees it: red, green and blue, how strong its banding is, and how long a band is, m. */
const ROCKS: Record<string, [number, number, number, number, number]> = {
	cover: [138, 118, 88, 0.2, 0.12],
	dyke: [62, 72, 66, 0.04, 0.4],
	skarn: [92, 96, 66, 0.22, 0.07],
	granite: [196, 172, 164, 0.1, 0.02],
	tolven: [126, 128, 112, 0.16, 0.05],
	tuff: [186, 158, 146, 0.05, 0.4],
	fennick: [190, 166, 112, 0.1, 0.22],
	dorrow: [82, 82, 84, 0.05, 0.3],
	marrick: [176, 174, 164, 0.07, 0.5],
	conglomerate: [134, 120, 104, 0.22, 0.09],
	slate: [84, 92, 104, 0.12, 0.03]
};
const LENGTH = 6;
const COUNT = 12;
const [WIDTH, HEIGHT] = [40, 360];

/** A strip of core, photographed: a lit cylinder with bands, breaks and the bed of the tray beside it. */
function strip(from: number, unitAt: (depth: number) => string, seed: number): Uint8Array {
	const random = seededRandom(seed);
	const rgb = new Uint8Array(3 * WIDTH * HEIGHT);
	const slope = 0.1 + 0.25 * random.uniform();
	let nextBreak = random.uniform();
	for (let j = 0; j < HEIGHT; j++) {
		const depth = from + ((j + 0.5) / HEIGHT) * LENGTH;
		const broken = depth > from + nextBreak && depth < from + nextBreak + 0.03;
		if (depth > from + nextBreak + 0.03) nextBreak += 0.25 + 0.9 * random.uniform();
		for (let i = 0; i < WIDTH; i++) {
			const across = (2 * (i + 0.5)) / WIDTH - 1;
			const [r, g, b, banding, band] = ROCKS[unitAt(depth + slope * across * 0.3)]!;
			const inside = Math.abs(across) < 0.86 && !broken;
			const light = inside
				? (0.45 + 0.6 * Math.sqrt(Math.max(0, 1 - (across / 0.86) ** 2))) *
					(1 + banding * Math.sin((2 * Math.PI * (depth + slope * across * 0.3)) / band + 3 * Math.sin(depth * 7)) + 0.05 * random.normal())
				: 0.55;
			const rock = inside ? [r, g, b] : [94, 78, 58];
			for (let c = 0; c < 3; c++) rgb[3 * (j * WIDTH + i) + c] = Math.max(0, Math.min(255, rock[c]! * light));
		}
	}
	return writePng(WIDTH, HEIGHT, rgb);
}

/** Photographs of the upper part of one hole, for the project file, with their bytes. */
export function demoPhotographs(
	{ name: hole, path }: { name: string; path: Path },
	ground: Ground = LAYERS
): { file: string; name: string; hole: string; from: number; to: number; bytes: Uint8Array }[] {
	return Array.from({ length: COUNT }, (_, k) => {
		const [from, to] = [k * LENGTH, (k + 1) * LENGTH];
		const name = `${hole} ${from}-${to}`;
		return {
			file: `${name}.png`,
			name,
			hole,
			from,
			to,
			bytes: strip(from, (d) => ground.column[ground.unitAt(...(positionAt(path, d) as [number, number, number]))]!.id, 300 + k)
		};
	});
}
