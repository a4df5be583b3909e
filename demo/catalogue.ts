import { contours } from 'd3-contour';
import { zipSync } from 'fflate';
import type { Feature } from 'geojson';
import { writeGeoTiff } from '#core/formats/geotiff';
import { writePng } from '#core/formats/png';
import type { Raster } from '#core/grids/raster';
import { clipRaster, coarsen } from '#core/grids/warp';
import { seededRandom } from '#core/statistics/random';
import { EPSG, toGeographic } from './geographic';
import { TARROW_COLUMN, tarrowUnit } from './tarrow/truth';
import { terrainAt } from './truth';

/** What the regional catalogue offers: made from the same truth as the demo, over a wider area. */
export interface CatalogueRecord {
	id: string;
	title: string;
	description: string;
	kind: 'coverage' | 'features' | 'picture';
	/** How Malachite and others can take it in. */
	as: 'terrain' | 'grid' | 'layer' | 'picture';
	/** Metres, for coverages and pictures. */
	resolution: number | null;
	date: string;
	licence: string;
}

const LICENCE = 'Made-up data of the Isle of Tarrow; free to use, no warranty.';
export const RECORDS: readonly CatalogueRecord[] = [
	{
		id: 'terrain-30',
		title: 'Terrain, 30 m',
		description: 'Elevation of land and sea floor',
		kind: 'coverage',
		as: 'terrain',
		resolution: 30,
		date: '2021-06-01',
		licence: LICENCE
	},
	{
		id: 'terrain-90',
		title: 'Terrain, 90 m',
		description: 'Elevation of land and sea floor, generalised',
		kind: 'coverage',
		as: 'terrain',
		resolution: 90,
		date: '2015-03-01',
		licence: LICENCE
	},
	{
		id: 'magnetics',
		title: 'Magnetics, total field',
		description: 'Residual of the total magnetic field, nT, from an airborne survey',
		kind: 'coverage',
		as: 'grid',
		resolution: 50,
		date: '2018-09-12',
		licence: LICENCE
	},
	{
		id: 'geology',
		title: 'Geological map 1 : 50 000',
		description: 'Units at the surface',
		kind: 'features',
		as: 'layer',
		resolution: null,
		date: '2009-01-01',
		licence: LICENCE
	},
	{
		id: 'gravity',
		title: 'Gravity stations',
		description: 'Bouguer anomaly, mGal',
		kind: 'features',
		as: 'layer',
		resolution: null,
		date: '1997-05-20',
		licence: LICENCE
	},
	{
		id: 'air-photo',
		title: 'Air photograph',
		description: 'Ortho-image rendered from the ground',
		kind: 'picture',
		as: 'picture',
		resolution: 20,
		date: '2023-07-15',
		licence: LICENCE
	}
];

export const CATALOGUE_BOX = [399000, 4989000, 407000, 4996000] as const;
type Box = readonly [number, number, number, number];

function sampled(cell: number, at: (x: number, y: number) => number): Raster {
	const [minX, minY, maxX, maxY] = CATALOGUE_BOX;
	const nx = Math.round((maxX - minX) / cell);
	const ny = Math.round((maxY - minY) / cell);
	const values = new Float32Array(nx * ny);
	for (let j = 0; j < ny; j++) for (let i = 0; i < nx; i++) values[j * nx + i] = at(minX + (i + 0.5) * cell, minY + (j + 0.5) * cell);
	return { x0: minX + cell / 2, y0: minY + cell / 2, dx: cell, dy: cell, nx, ny, values };
}

/** Magnetite in the tuff, a deep body in the north, and the fault as an edge. */
const magnetic = (x: number, y: number): number =>
	120 * Math.exp(-(((x - 403800) / 900) ** 2) - ((y - 4993400) / 700) ** 2) -
	60 * Math.exp(-(((x - 404300) / 800) ** 2) - ((y - 4994000) / 700) ** 2) +
	(TARROW_COLUMN[tarrowUnit(x, y, terrainAt(x, y) - 30)]!.id === 'tuff' ? 35 : 0) +
	12 * Math.sin(x / 700) * Math.cos(y / 900);

const MAKERS: Record<string, () => Raster> = {
	'terrain-30': () => sampled(30, terrainAt),
	'terrain-90': () => sampled(90, terrainAt),
	magnetics: () => sampled(50, magnetic),
	'air-photo': () => sampled(20, (x, y) => tarrowUnit(x, y, terrainAt(x, y) - 0.5))
};
const made = new Map<string, Raster>();
function rasterOf(id: string): Raster {
	let r = made.get(id);
	if (!r) made.set(id, (r = MAKERS[id]!()));
	return r;
}

/** Bytes of a coverage or picture within a box (projected). Null when the box lies outside. @param every coarser by this factor */
export async function coverage(record: CatalogueRecord, box: Box, every: number): Promise<{ bytes: Uint8Array; media: string } | null> {
	const part = clipRaster(rasterOf(record.id), box);
	if (!part) return null;
	const r = coarsen(part, every);
	if (record.kind === 'picture') {
		const world = [r.dx, 0, 0, -r.dy, r.x0, r.y0 + (r.ny - 1) * r.dy].join('\n');
		return {
			bytes: zipSync({ 'photo.png': png(r, photoColor(r)), 'photo.pgw': new TextEncoder().encode(world) }),
			media: 'application/zip'
		};
	}
	return { bytes: await writeGeoTiff(r, EPSG), media: 'image/tiff; application=geotiff' };
}

/** Features within a box, in longitude and latitude. */
export function features(record: CatalogueRecord, box: Box): Feature[] {
	const inside = (x: number, y: number) => x >= box[0] && x <= box[2] && y >= box[1] && y <= box[3];
	if (record.id === 'gravity') {
		const random = seededRandom(4);
		return Array.from({ length: 220 }, (_, i): Feature => {
			const [x, y] = [CATALOGUE_BOX[0] + 8000 * random.uniform(), CATALOGUE_BOX[1] + 7000 * random.uniform()];
			const anomaly = 14 - 5.2 * Math.exp(-(((x - 402200) / 1500) ** 2) - ((y - 4992600) / 1500) ** 2) + 0.05 * random.normal();
			return {
				type: 'Feature',
				properties: { station: `G${i + 1}`, bouguer_mgal: Number(anomaly.toFixed(2)), x, y },
				geometry: { type: 'Point', coordinates: toGeographic(x, y) }
			};
		})
			.filter((f) => inside(f.properties!['x'] as number, f.properties!['y'] as number))
			.map((f) => ({ ...f, properties: { station: f.properties!['station'], bouguer_mgal: f.properties!['bouguer_mgal'] } }));
	}
	const units = clipRaster(
		sampled(50, (x, y) => tarrowUnit(x, y, terrainAt(x, y) - 0.5)),
		box
	);
	if (!units) return [];
	return TARROW_COLUMN.flatMap((unit, u): Feature[] => {
		const [shape] = contours().size([units.nx, units.ny]).thresholds([0.5])(Array.from(units.values, (v) => (v === u ? 1 : 0)));
		if (!shape || shape.coordinates.length === 0) return [];
		const coordinates = shape.coordinates.map((polygon) =>
			polygon.map((ring) => ring.map(([i, j]) => toGeographic(units.x0 + (i! - 0.5) * units.dx, units.y0 + (j! - 0.5) * units.dy)))
		);
		return [{ type: 'Feature', properties: { unit: unit.name }, geometry: { type: 'MultiPolygon', coordinates } }];
	});
}

/** A small picture of a record. */
export function thumbnail(record: CatalogueRecord): Uint8Array {
	const source = record.id in MAKERS ? rasterOf(record.id) : record.id === 'geology' ? rasterOf('air-photo') : sampled(100, magnetic);
	const r = coarsen(source, Math.max(1, Math.round(source.nx / 120)));
	return png(r, record.kind === 'picture' || record.id === 'geology' ? photoColor(r) : greyColor(r));
}

type Color = (v: number, i: number, j: number) => [number, number, number];

function photoColor(r: Raster): Color {
	const colors = TARROW_COLUMN.map((u) => [1, 3, 5].map((k) => parseInt(u.color.slice(k, k + 2), 16)) as [number, number, number]);
	return (v, i, j) => {
		const [x, y] = [r.x0 + i * r.dx, r.y0 + j * r.dy];
		if (terrainAt(x, y) < 0) return [64, 98, 116];
		const shade = 0.8 + 0.004 * (terrainAt(x - 20, y + 20) - terrainAt(x + 20, y - 20));
		const c = colors[Math.round(v)] ?? [120, 120, 110];
		return [0, 1, 2].map((k) => Math.max(0, Math.min(255, (0.5 * c[k]! + 0.5 * [96, 118, 74][k]!) * shade))) as [number, number, number];
	};
}

function greyColor(r: Raster): Color {
	let low = Infinity;
	let high = -Infinity;
	for (const v of r.values) {
		low = Math.min(low, v);
		high = Math.max(high, v);
	}
	return (v) => {
		const t = (v - low) / (high - low || 1);
		return [40 + 200 * t, 60 + 175 * t, 80 + 130 * t];
	};
}

/** A raster as a picture, north up. */
function png(r: Raster, color: Color): Uint8Array {
	const rgb = new Uint8Array(3 * r.nx * r.ny);
	for (let row = 0; row < r.ny; row++)
		for (let i = 0; i < r.nx; i++) {
			const j = r.ny - 1 - row;
			rgb.set(color(r.values[j * r.nx + i]!, i, j), 3 * (row * r.nx + i));
		}
	return writePng(r.nx, r.ny, rgb);
}
