import { contours } from 'd3-contour';
import type { Feature, FeatureCollection, Position } from 'geojson';
import { lineDirection, RADIANS } from '#core/geometry/angles';
import { writePng } from '#core/formats/png';
import { pointOnTrace, traceLength, type Trace } from '#core/sections/section';
import { seededRandom } from '#core/statistics/random';
import { toGeographic } from '../geographic';
import { EXTENT, sallowTrace, terrainAt, truthBedding } from '../truth';
import { TUNNEL_LINE } from './holes';
import { DYKE, GRANITE, TARROW, TARROW_COLUMN, tarrowUnit, wickTrace } from './truth';
import { rivers } from './water';

const collection = (features: Feature[]): FeatureCollection => ({ type: 'FeatureCollection', features });
const line = (properties: Record<string, unknown>, places: readonly (readonly [number, number])[]): Feature => ({
	type: 'Feature',
	properties,
	geometry: { type: 'LineString', coordinates: places.map(([x, y]) => toGeographic(x, y)) }
});
const point = (properties: Record<string, unknown>, x: number, y: number): Feature => ({
	type: 'Feature',
	properties,
	geometry: { type: 'Point', coordinates: toGeographic(x, y) }
});

/** The unit at the ground as the published map has it: it lets the granite reach 120 m farther to the northeast, has no dyke, and till over the Carrow slope. */
function published(x: number, y: number): number {
	const id = (u: number) => TARROW_COLUMN[u]!.id;
	const at = (u: string) => TARROW_COLUMN.findIndex((c) => c.id === u);
	const z = terrainAt(x, y) - 0.5;
	if (
		Math.hypot(x - (GRANITE.x + 85), y - (GRANITE.y + 85)) < GRANITE.radius &&
		x + y > GRANITE.x + GRANITE.y &&
		id(tarrowUnit(x, y, z)) !== 'cover'
	)
		return at('granite');
	if (Math.hypot((x - 403050) / 260, (y - 4991750) / 180) < 1) return at('cover');
	const u = tarrowUnit(x, y, z);
	return id(u) === 'dyke' ? tarrowUnit(x + 30, y - 50, terrainAt(x + 30, y - 50) - 0.5) : u;
}

/** Polygons of the units at the ground, from cells of a size: a coarse one generalises. */
function unitPolygons(cell: number, at: (x: number, y: number) => number): FeatureCollection {
	const [x0, y0] = [400900, 4990200];
	const [nx, ny] = [Math.round(4700 / cell), Math.round(4500 / cell)];
	const values = Float64Array.from({ length: nx * ny }, (_, i) => {
		const [x, y] = [x0 + ((i % nx) + 0.5) * cell, y0 + (Math.floor(i / nx) + 0.5) * cell];
		return terrainAt(x, y) < 0 ? -1 : at(x, y);
	});
	return collection(
		TARROW_COLUMN.flatMap((unit, u): Feature[] => {
			const [shape] = contours().size([nx, ny]).thresholds([0.5])(Array.from(values, (v) => (v === u ? 1 : 0)));
			if (!shape || shape.coordinates.length === 0) return [];
			const coordinates = shape.coordinates.map((polygon) =>
				polygon.map((ring) => ring.map(([i, j]): Position => toGeographic(x0 + i! * cell, y0 + j! * cell).map((v) => Number(v.toFixed(6)))))
			);
			return [
				{
					type: 'Feature',
					properties: { unit: unit.name, code: TARROW.spellings[unit.id]![0] },
					geometry: { type: 'MultiPolygon', coordinates }
				}
			];
		})
	);
}

export const publishedMap = (): FeatureCollection => unitPolygons(60, published);
export const fieldMap = (): FeatureCollection => unitPolygons(25, (x, y) => tarrowUnit(x, y, terrainAt(x, y) - 0.5));

/** Where the dyke was seen at the ground, in the outcrops of the ridge: the middle between its walls. */
function dykeTrace(): [number, number][] {
	const [along, across] = [lineDirection(DYKE.strike, 0), lineDirection(DYKE.dipAzimuth, 0)];
	return Array.from({ length: 15 }, (_, k): [number, number] => {
		const at = (off: number): [number, number] => [
			DYKE.through[0] + (100 * k - 900) * along[0] + off * across[0],
			DYKE.through[1] + (100 * k - 900) * along[1] + off * across[1]
		];
		let off = 0;
		for (let i = 0; i < 10; i++) off = -terrainAt(...at(off)) / Math.tan(DYKE.dip * RADIANS);
		return at(off);
	});
}

export const mapLines = (): FeatureCollection =>
	collection([
		line({ name: 'Sallow Fault', kind: 'fault', certainty: 'seen' }, sallowTrace()),
		line({ name: 'Wick Fault', kind: 'fault', certainty: 'inferred' }, wickTrace()),
		line({ name: 'Pell Dyke', kind: 'dyke', certainty: 'seen' }, dykeTrace())
	]);

export const riverLines = (): FeatureCollection => collection(rivers().map((r) => line({ name: r.name }, r.line)));

/** Three targets and the nine holes that are planned at them. */
export function targets(): FeatureCollection {
	return collection([
		point({ name: 'Target A', reason: 'skarn at depth, below CS-04 and CS-12', priority: 1 }, 403120, 4992380),
		point({ name: 'Target B', reason: 'southern end of the skarn', priority: 2 }, 402960, 4991990),
		point({ name: 'Target C', reason: 'magnetic rim north of the stock', priority: 3 }, 402560, 4992870)
	]);
}
export function plannedHoles(): FeatureCollection {
	const holes = [
		[403120, 4992380],
		[402960, 4991990],
		[402560, 4992870]
	] as const;
	return collection(
		holes.flatMap(([x, y], t) =>
			Array.from({ length: 3 }, (_, k): Feature => {
				const azimuth = [262, 300, 180][t]! + 12 * (k - 1);
				const reach = 190 * Math.cos((62 * Math.PI) / 180);
				const from = [x + 130, y + 60 * (k - 1)] as const;
				const to = [from[0] + reach * Math.sin((azimuth * Math.PI) / 180), from[1] + reach * Math.cos((azimuth * Math.PI) / 180)] as const;
				return line({ name: `PL-${t * 3 + k + 1}`, target: `Target ${'ABC'[t]}`, azimuth, inclination: -62, length: 190 }, [from, to]);
			})
		)
	);
}

/** The embankment that is planned across the Pell valley, and the tunnel's line. */
export const works = (): FeatureCollection =>
	collection([
		line({ name: 'Tarrow road tunnel', kind: 'tunnel' }, TUNNEL_LINE),
		line({ name: 'Pell embankment', kind: 'embankment', crest_m: 34, width_m: 14 }, [
			[404020, 4992120],
			[404300, 4992100],
			[404640, 4992130]
		])
	]);

/** Stations of a second mapper, who writes strikes by the right-hand rule. */
export function strikeRows(): string[][] {
	const random = seededRandom(4242);
	const rows: string[][] = [];
	while (rows.length < 40) {
		const [x, y] = [Math.round(401400 + 3900 * random.uniform()), Math.round(4990900 + 3200 * random.uniform())];
		const z = terrainAt(x, y);
		const id = TARROW_COLUMN[tarrowUnit(x, y, z - 0.5)]!.id;
		if (z < 5 || !['tolven', 'tuff', 'fennick', 'dorrow', 'marrick'].includes(id)) continue;
		const { dip, dipAzimuth } = truthBedding(x, y, z - 0.5);
		const measured = Math.max(0, dip + 1.5 * random.normal());
		const strike = (dipAzimuth - 90 + (60 / (dip + 4)) * random.normal() + 720) % 360;
		rows.push([`P${rows.length + 1}`, String(x), String(y), strike.toFixed(0), measured.toFixed(0), TARROW.spellings[id]![0]!]);
	}
	return rows;
}

const rgbOf = (color: string) => [1, 3, 5].map((k) => parseInt(color.slice(k, k + 2), 16));

/** The air photograph, 10 m a pixel, with the numbers that place it. */
export function airPhotograph(): { bytes: Uint8Array; placement: Record<'a' | 'b' | 'c' | 'd' | 'e' | 'f', number> } {
	const random = seededRandom(2468);
	const cell = 10;
	const [nx, ny] = [(EXTENT.maxX - EXTENT.minX) / cell, (EXTENT.maxY - EXTENT.minY) / cell];
	const rgb = new Uint8Array(3 * nx * ny);
	const water = rivers();
	const wet = new Set<number>();
	for (const { line: l } of water)
		for (let i = 1; i < l.length; i++)
			for (let t = 0; t <= 1; t += 0.05) {
				const [x, y] = [l[i - 1]![0] + t * (l[i]![0] - l[i - 1]![0]), l[i - 1]![1] + t * (l[i]![1] - l[i - 1]![1])];
				wet.add(Math.floor((EXTENT.maxY - y) / cell) * nx + Math.floor((x - EXTENT.minX) / cell));
			}
	for (let row = 0; row < ny; row++)
		for (let i = 0; i < nx; i++) {
			const [x, y] = [EXTENT.minX + (i + 0.5) * cell, EXTENT.maxY - (row + 0.5) * cell];
			const z = terrainAt(x, y);
			const at = 3 * (row * nx + i);
			if (z < 0 || wet.has(row * nx + i)) {
				const deep = Math.min(1, Math.max(0, -z / 30));
				[58 - 26 * deep, 104 - 34 * deep, 118 - 22 * deep].forEach((v, c) => (rgb[at + c] = v));
				continue;
			}
			const rock = rgbOf(TARROW_COLUMN[tarrowUnit(x, y, z - 0.5)]!.color);
			const high = Math.min(1, z / 330);
			const shade = 0.82 + 0.0045 * (terrainAt(x - 12, y + 12) - terrainAt(x + 12, y - 12)) + 0.05 * random.normal();
			[86, 112, 66].forEach((green, c) => {
				const bare = 0.18 + 0.5 * high;
				rgb[at + c] = Math.max(0, Math.min(255, (bare * rock[c]! + (1 - bare) * (green + 40 * high)) * shade));
			});
		}
	return {
		bytes: writePng(nx, ny, rgb),
		placement: { a: cell, b: 0, c: 0, d: -cell, e: EXTENT.minX + cell / 2, f: EXTENT.maxY - cell / 2 }
	};
}

/** An old section as if it had been scanned: paper, ink between the units, a fold of the sheet. */
export function scannedSection(trace: Trace, top: number, bottom: number): Uint8Array {
	const random = seededRandom(1357);
	const length = traceLength(trace);
	const cell = 6;
	const [nx, ny] = [Math.round(length / cell), Math.round((top - bottom) / cell)];
	const unit = new Int8Array(nx * ny);
	for (let row = 0; row < ny; row++)
		for (let i = 0; i < nx; i++) {
			const [x, y] = pointOnTrace(trace, (i + 0.5) * cell);
			const z = top - (row + 0.5) * cell;
			unit[row * nx + i] = z > terrainAt(x, y) ? -1 : tarrowUnit(x, y, z);
		}
	const rgb = new Uint8Array(3 * nx * ny);
	for (let row = 0; row < ny; row++)
		for (let i = 0; i < nx; i++) {
			const k = row * nx + i;
			const ink = (i > 0 && unit[k - 1] !== unit[k]) || (row > 0 && unit[k - nx] !== unit[k]);
			const paper = [232, 222, 198];
			const fold = Math.abs(i - nx / 2) < 2 ? 0.88 : 1;
			const wash = unit[k]! < 0 ? paper : rgbOf(TARROW_COLUMN[unit[k]!]!.color).map((v, c) => 0.45 * v + 0.55 * paper[c]!);
			for (let c = 0; c < 3; c++) rgb[3 * k + c] = Math.max(0, Math.min(255, (ink ? 52 : wash[c]!) * fold + 5 * random.normal()));
		}
	return writePng(nx, ny, rgb);
}
