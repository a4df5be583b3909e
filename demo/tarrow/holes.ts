import { lineDirection, RADIANS } from '#core/geometry/angles';
import { holePath, positionAt, type Station } from '#core/holes/path';
import { seededRandom } from '#core/statistics/random';
import { demoHoles, truthLog, type DemoHole } from '../generate';
import { terrainAt } from '../truth';
import { DYKE, GRANITE, TARROW_COLUMN, tarrowUnit, waterTableAt } from './truth';

/** All holes of Tarrow: `TW` over the island, `CS` at the ore, `PD` across the dyke, `TT` along the tunnel, `MW` for water, `RW` deep wells of the region. */

const toTenth = (v: number) => Math.round(v * 10) / 10;
const onGround = (x: number, y: number): [number, number, number] => [
	toTenth(x),
	toTenth(y),
	Math.round(terrainAt(toTenth(x), toTenth(y)) * 100) / 100
];
const vertical = (name: string, x: number, y: number, depth: number, logger = 0): DemoHole => ({
	name,
	path: holePath(onGround(x, y), depth, []),
	stations: [],
	logger
});
const numbered = (prefix: string, i: number) => `${prefix}-${String(i + 1).padStart(2, '0')}`;

export const islandHoles = (): DemoHole[] => demoHoles();

/** Twenty-four holes from outside the granite inwards, through the skarn on its eastern contact, and six that look for its other sides. */
export function oreHoles(): DemoHole[] {
	const random = seededRandom(2207);
	return Array.from({ length: 30 }, (_, i) => {
		const scout = i >= 24;
		const angle = scout ? 1.5 + (3.3 * (i - 24)) / 5 : -0.95 + (1.9 * (i % 8)) / 7 + 0.03 * random.normal();
		const away = scout ? 560 : [500, 550, 600][Math.floor(i / 8)]!;
		const [x, y] = [GRANITE.x + away * Math.cos(angle), GRANITE.y + away * Math.sin(angle)];
		const inwards = (((270 - angle / RADIANS) % 360) + 360) % 360;
		const depth = scout ? 430 : Math.round(290 + 70 * random.uniform());
		const stations: Station[] = [];
		let [azimuth, inclination] = [inwards, -70 + 2 * random.normal()];
		for (let d = 0; d < depth; d += 30) {
			stations.push({ depth: d, azimuth: toTenth((azimuth + 360) % 360), inclination: toTenth(inclination) });
			azimuth += 0.7 * random.normal();
			inclination += 0.4 + 0.2 * random.normal();
		}
		return { name: numbered('CS', i), path: holePath(onGround(x, y), depth, stations), stations, logger: i % 3 };
	});
}

/** Holes drilled across the Pell Dyke in five fences, from the side to which it dips: in each one that meets it near the ground and one that meets it deep. */
export function dykeHoles(): DemoHole[] {
	const [along, across] = [lineDirection(DYKE.strike, 0), lineDirection(DYKE.dipAzimuth, 0)];
	const azimuth = (DYKE.dipAzimuth + 180) % 360;
	const dyke = TARROW_COLUMN.findIndex((u) => u.id === 'dyke');
	const holes: DemoHole[] = [];
	for (const s of [-1150, -450, 350, 1550, 2250])
		for (const [wanted, depth] of [
			[70, 150],
			[240, 330]
		] as const) {
			const name = numbered('PD', holes.length);
			const stations: Station[] = [0, 60, 120].map((d) => ({ depth: d, azimuth, inclination: -55 + d / 60 }));
			// Farther and farther off, until the hole meets the dyke as deep as it should.
			for (let off = 0; off < 420; off += 4) {
				const path = holePath(
					onGround(DYKE.through[0] + s * along[0] + off * across[0], DYKE.through[1] + s * along[1] + off * across[1]),
					depth,
					stations
				);
				const met = truthLog(path, tarrowUnit).find((r) => r.unit === dyke);
				if (!met || met.from < wanted) continue;
				holes.push({ name, path, stations, logger: holes.length % 3 });
				break;
			}
		}
	return holes;
}

/** The tunnel: two portals and a bend, by chainage; its invert rises to the middle so that water runs out. */
export const TUNNEL_LINE: readonly (readonly [number, number])[] = [
	[401190, 4992480],
	[401760, 4992650],
	[402330, 4992590]
];
export function tunnelAt(chainage: number): { x: number; y: number; invert: number; length: number } {
	let left = chainage;
	const legs = TUNNEL_LINE.slice(1).map((p, i) => Math.hypot(p[0] - TUNNEL_LINE[i]![0], p[1] - TUNNEL_LINE[i]![1]));
	const length = legs.reduce((a, b) => a + b, 0);
	let leg = 0;
	while (leg < legs.length - 1 && left > legs[leg]!) left -= legs[leg++]!;
	const [a, b] = [TUNNEL_LINE[leg]!, TUNNEL_LINE[leg + 1]!];
	const t = left / legs[leg]!;
	const [x, y] = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
	const west = terrainAt(...TUNNEL_LINE[0]!) - 14;
	const east = terrainAt(...TUNNEL_LINE[2]!) - 14;
	const along = chainage / length;
	return { x, y, invert: west + (east - west) * along + 6 * Math.sin(Math.PI * along), length };
}

/** Fourteen holes of the ground investigation along the tunnel, to below its invert. */
export function tunnelHoles(): DemoHole[] {
	const random = seededRandom(5150);
	const { length } = tunnelAt(0);
	return Array.from({ length: 14 }, (_, i) => {
		const p = tunnelAt(((i + 0.5) / 14) * length);
		const [x, y] = [p.x + 14 * random.normal(), p.y + 14 * random.normal()];
		return vertical(numbered('TT', i), x, y, Math.round(terrainAt(x, y) - p.invert + 15 + 8 * random.uniform()), 2);
	});
}

/** Thirty-six monitoring wells, to below the lowest water of the year. */
export function waterWells(): DemoHole[] {
	const random = seededRandom(3636);
	const wells: DemoHole[] = [];
	while (wells.length < 36) {
		const [x, y] = [401500 + 3700 * random.uniform(), 4991000 + 3000 * random.uniform()];
		const z = terrainAt(x, y);
		if (z < 5 || z > 260 || wells.some((w) => Math.hypot(w.path.collar[0] - x, w.path.collar[1] - y) < 300)) continue;
		const depth = Math.round(Math.max(12, z - waterTableAt(x, y, 20_000) + 10 + 14 * random.uniform()));
		wells.push(vertical(numbered('MW', wells.length), x, y, depth, wells.length % 2));
	}
	return wells;
}

/** Eight deep wells on a line of 14 km, most of them off the shore; two lie on the island. */
export function regionalWells(): DemoHole[] {
	const depths = [620, 780, 700, 840, 900, 1020, 1150, 1240];
	return depths.map((depth, i) => vertical(numbered('RW', i), 397200 + i * 1960, 4989700 + i * 400, depth, i % 3));
}

/** Six holes of the island that a second person logged, too. */
export const relogged = (holes: readonly DemoHole[]): DemoHole[] => holes.filter((_, i) => i % 10 === 4);

/** Place of a depth along a hole. */
export const placeAt = (hole: Pick<DemoHole, 'path'>, depth: number): [number, number, number] => {
	const [x, y, z] = positionAt(hole.path, depth);
	return [x, y, z];
};
