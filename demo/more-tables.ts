import { planeNormal, RADIANS } from '#core/geometry/angles';
import { cross, dot, normalize, type Vec3 } from '#core/geometry/vector';
import { directionAt, positionAt, type Path } from '#core/holes/path';
import type { seededRandom } from '#core/statistics/random';
import { LAYERS, terrainAt, truthBedding, type Ground } from './truth';

/** Natural gamma (API) and density (g/cm³) of the units, as a log of them would read on average. */
const GAMMA: Record<string, [number, number]> = {
	cover: [70, 1.95],
	dyke: [38, 2.92],
	skarn: [46, 3.35],
	granite: [172, 2.63],
	tolven: [88, 2.45],
	tuff: [118, 2.28],
	fennick: [42, 2.36],
	dorrow: [126, 2.52],
	marrick: [24, 2.68],
	conglomerate: [66, 2.55],
	slate: [138, 2.74]
};
const round = (v: number, digits: number) => v.toFixed(digits);

/** What loggers say of the units, from short to long. */
const WORDS: Record<string, string[]> = {
	cover: ['till', 'Till, brown, firm, gravelly clay with cobbles of slate and limestone; sand and silt of the river near the valley'],
	dyke: ['dolerite', 'Dolerite, dark green, medium grained, chilled at the margins, columnar joints square to the walls; very strong'],
	skarn: [
		'skarn, sulphides',
		'Skarn, garnet and pyroxene, dark green and brown, scheelite seen under the lamp, arsenopyrite in veins; strong'
	],
	granite: ['granite', 'Granite, pale pink, coarse grained, biotite, with tourmaline on joints; strong to very strong, joints at 1 to 2 m'],
	tolven: [
		'grey siltstone, laminated',
		'Siltstone, grey to olive, thinly laminated, with partings of fine sand; weak, breaks along the bedding'
	],
	tuff: ['pink tuff', 'Tuff, pale pink, fine grained, with lapilli to 8 mm; slightly weathered, weak to medium strong, few joints'],
	fennick: [
		'yellow sandstone',
		'Sandstone, yellow, medium grained, cross-bedded, well cemented; rusty on joints, water lost while drilling'
	],
	dorrow: ['dark mudstone', 'Mudstone, dark grey, massive, fossil fragments; slakes in air, polished surfaces near the base'],
	marrick: ['limestone', 'Limestone, light grey, crystalline, bedded at 0.3 to 0.6 m; stylolites, calcite veins to 5 mm, small cavities'],
	conglomerate: ['conglomerate', 'Conglomerate, rounded pebbles of slate and quartz to 60 mm in a sandy matrix; strong, poorly sorted'],
	slate: ['slate', 'Slate, blue-grey, cleaved at a steep angle to the core, quartz veins folded with the cleavage; strong when fresh']
};

export const describeUnit = (unit: string, logger: number): string => WORDS[unit]![logger === 2 ? 1 : 0]!;

interface Hole {
	name: string;
	path: Path;
}
type Random = ReturnType<typeof seededRandom>;

/** Readings every metre down every third hole. */
export function gammaRows(holes: readonly Hole[], random: Random, ground: Ground = LAYERS): string[][] {
	const rows: string[][] = [];
	for (const hole of holes.filter((_, i) => i % 3 === 0)) {
		let drift = 0;
		for (let d = 1; d < hole.path.totalDepth; d += 1) {
			const unit = ground.column[ground.unitAt(...(positionAt(hole.path, d) as [number, number, number]))]!.id;
			const [gamma, density] = GAMMA[unit]!;
			drift = 0.8 * drift + random.normal();
			rows.push([
				hole.name,
				round(d, 1),
				round(gamma * Math.exp(0.06 * drift + 0.08 * Math.sin(d / 3.1)), 1),
				round(density + 0.015 * drift + 0.02 * random.normal(), 3)
			]);
		}
	}
	return rows;
}

/** Units without layers. */
const MASSIVE = new Set(['cover', 'dyke', 'granite', 'skarn', 'soil']);

/** Planes seen on the walls of inclined holes: bedding as alpha and beta, in the slate cleavage. */
export function wallRows(holes: readonly Hole[], random: Random, ground: Ground = LAYERS): string[][] {
	const rows: string[][] = [];
	for (const hole of holes) {
		const direction = directionAt(hole.path, hole.path.totalDepth / 2);
		if (direction[2] < -0.985) continue;
		for (let d = 12 + 9 * random.uniform(); d < hole.path.totalDepth - 2; d += 14 + 12 * random.uniform()) {
			const [x, y, z] = positionAt(hole.path, d);
			const unit = ground.column[ground.unitAt(x, y, z)]!.id;
			if (MASSIVE.has(unit)) continue;
			const slate = unit === 'slate';
			const plane = slate ? { dip: 68, dipAzimuth: 292 } : truthBedding(x, y, z);
			const dip = Math.min(89, Math.max(0, plane.dip + 2.5 * random.normal()));
			const azimuth = (plane.dipAzimuth + (slate ? 9 : 90 / (plane.dip + 4)) * random.normal() + 360) % 360;
			const { alpha, beta } = alphaBeta(planeNormal(dip, azimuth), directionAt(hole.path, d));
			if (Number.isFinite(beta)) rows.push([hole.name, round(d, 2), round(alpha, 0), round(beta, 0), slate ? 'cleavage' : 'bedding']);
		}
	}
	return rows;
}

/** Angles that a plane has in a core: to its axis, and from the bottom line to the lower end of the ellipse. */
function alphaBeta(normal: Vec3, along: Vec3): { alpha: number; beta: number } {
	const n = dot(normal, along) < 0 ? ([-normal[0], -normal[1], -normal[2]] as const) : normal;
	const alpha = 90 - Math.acos(Math.min(1, Math.abs(dot(n, along)))) / RADIANS;
	const right = normalize(cross(along, [0, 0, 1]));
	const bottom = normalize(cross(along, right));
	const low = bottom[2] <= 0 ? bottom : ([-bottom[0], -bottom[1], -bottom[2]] as const);
	const side = cross(along, low);
	// The long axis of the ellipse points down the hole, away from the normal.
	const across: Vec3 = [-(n[0] - dot(n, along) * along[0]), -(n[1] - dot(n, along) * along[1]), -(n[2] - dot(n, along) * along[2])];
	return { alpha, beta: (Math.atan2(dot(across, side), dot(across, low)) / RADIANS + 360) % 360 };
}

/** Total field along lines 400 m apart: a steep body below the ridge, the fault, a regional slope, noise, and a heading error that changes with each line. */
export function magneticRows(random: Random): string[][] {
	const rows: string[][] = [];
	let line = 10;
	for (let y = 4990800; y <= 4994400; y += 400, line += 10) {
		const heading = line % 20 === 0 ? 4 : -4;
		for (let x = 401000; x <= 405400; x += 40) {
			if (terrainAt(x, y) < 1) continue;
			const r2 = ((x - 402150) / 420) ** 2 + ((y - 4992500) / 620) ** 2;
			const fault = 18 / (1 + ((x - 403300 - 0.36 * (y - 4992500)) / 130) ** 2);
			rows.push([
				String(line),
				String(Math.round((x - 401000) / 40) + 1),
				String(x),
				String(y),
				round(
					48760 +
						0.07 * (x - 401000) +
						0.03 * (y - 4990800) +
						240 * (1 - 0.6 * r2) * Math.exp(-r2) -
						fault +
						heading +
						2.2 * random.normal(),
					1
				)
			]);
		}
	}
	return rows;
}
