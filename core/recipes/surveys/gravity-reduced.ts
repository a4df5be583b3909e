import * as yup from 'yup';
import proj4 from 'proj4';
import { freeKey, type ReadingColumn } from '../../datasets/readings';
import { valueAt } from '../../grids/resample';
import type { Raster } from '../../grids/raster';
import { freeAir, normalGravity, prismGravity, slabGravity } from '../../potential/prism';
import { fail } from '../../problem';
import { likelyColumn, refuseColumn } from '../grids/gridded';
import { gridOf, numbersIn, productOfReadings, readingsIn } from '../opened';
import { columnOf, columnPerhaps, numberFrom, perhaps } from '../parameters';
import { playing, recipe, theOne } from '../recipe';
import { GRID, perhapsOf, READINGS } from '../roles';

interface Reduction {
	column: string;
	height: string;
	latitude: number | null;
	base: number;
	density: number;
	radius: number;
}

/** From gravity as it was read to the Bouguer anomaly, with the terrain. */
export const gravityReduced = recipe<Reduction>({
	id: 'gravity-reduced',
	title: 'Gravity: Bouguer anomaly',
	about:
		'The stations with the steps of the reduction as columns: normal gravity of the latitude, free air, slab, terrain by blocks, and the anomalies.',
	version: 1,
	form: 'places',
	roles: { readings: { ...READINGS, title: 'Stations', prefers: ['places', 'stations'] }, terrain: perhapsOf(GRID, 'Terrain') },
	parameters: yup
		.object({
			column: columnOf('readings', 'Reading, mGal'),
			height: columnPerhaps('readings', 'Height', ['number'], { help: 'Left empty: the elevation of the stations.' }),
			base: numberFrom('Added to readings, mGal', 0, -1e7, 1e7, {
				help: 'Gravity at the base less what was read there; 0 leaves the anomaly relative.'
			}),
			latitude: perhaps('Latitude', -90, 90, {
				unit: 'degrees',
				help: 'Left empty: worked out from the coordinate system of the project.'
			}),
			density: numberFrom('Density, kg/m³', 2670, 0, 10_000),
			radius: numberFrom('Terrain within', 5000, 0, 200_000, { unit: 'length', whenRole: { role: 'terrain', played: true } })
		})
		.noUnknown() as never,
	suggest(inputs) {
		const rows = theOne(inputs, 'readings').rows;
		return { column: likelyColumn(rows), height: rows?.columns.some((c) => c.key === 'elevation') ? 'elevation' : '' };
	},
	refuse(inputs, p) {
		refuseColumn(theOne(inputs, 'readings'), p.column, ['number']);
	},
	run(inputs, p, { project, progress }) {
		const given = theOne(inputs, 'readings');
		const r = readingsIn(given);
		const read = numbersIn(given, r, p.column);
		const heights = p.height ? numbersIn(given, r, p.height) : r.z;
		const metres = project.lengthUnit === 'ft' ? 0.3048 : 1;
		const back = p.latitude === null && project.definition ? proj4(project.definition, 'WGS84') : null;
		if (p.latitude === null && !back)
			fail(
				'no-latitude',
				'the project has no coordinate system that tells the latitude',
				'Type the latitude, or say which system the project is in.',
				'latitude'
			);
		const terrain = playing(inputs, 'terrain')[0];
		const ground = terrain ? coarser(gridOf(terrain)) : null;
		const n = r.rowCount;
		const [normal, free, slab, relief, anomaly, complete] = Array.from({ length: 6 }, () => new Float64Array(n).fill(NaN)) as [
			Float64Array,
			Float64Array,
			Float64Array,
			Float64Array,
			Float64Array,
			Float64Array
		];
		let [without, beside] = [0, 0];
		for (let i = 0; i < n; i++) {
			if (i % 20 === 0) progress('reducing', i / n);
			const h = heights[i]! * metres;
			if (![read[i]!, h, r.x[i]!, r.y[i]!].every(Number.isFinite)) {
				without++;
				continue;
			}
			const latitude = p.latitude ?? back!.forward([r.x[i]!, r.y[i]!])[1]!;
			normal[i] = normalGravity(latitude);
			free[i] = freeAir(latitude, h);
			slab[i] = slabGravity(h, p.density);
			anomaly[i] = read[i]! + p.base - normal[i]! + free[i]! - slab[i]!;
			if (ground) {
				const t = terrainEffect(ground, r.x[i]!, r.y[i]!, heights[i]!, p.radius, p.density, metres);
				if (Number.isNaN(t)) beside++;
				else {
					relief[i] = t;
					complete[i] = anomaly[i]! + t;
				}
			}
		}
		if (without === n)
			fail('no-readings', `no station of ${given.name} has a reading, a height and a place`, 'Choose other columns.', 'column');
		const columns = [...r.columns];
		const add = (key: string, label: string, values: Float64Array) =>
			columns.push({ key: freeKey(key, columns), label, type: 'number', unit: 'mGal', values } satisfies ReadingColumn);
		add('normal', 'Normal gravity', normal);
		add('freeAir', 'Free air', free);
		add('slab', 'Slab', slab);
		if (ground) add('terrainEffect', 'Terrain', relief);
		add('bouguer', 'Bouguer anomaly', anomaly);
		if (ground) add('completeBouguer', 'Bouguer anomaly with terrain', complete);
		return productOfReadings(
			{ ...r, columns },
			{
				stations: n - without,
				...(without ? { without } : {}),
				...(beside ? { besideTerrain: beside } : {}),
				words: `Bouguer anomaly of "${p.column}" of ${given.name}: normal gravity of GRS80, free air to second order, slab of ${p.density} kg/m³${terrain ? `, terrain (${terrain.name}) by blocks within ${p.radius} ${project.lengthUnit}` : ''}.`
			}
		);
	}
});

/** A terrain with at most so many cells across: blocks far away need not be fine. */
const MOST_ACROSS = 400;
function coarser(r: Raster): Raster {
	const by = Math.ceil(Math.max(r.nx, r.ny) / MOST_ACROSS);
	if (by <= 1) return r;
	const [nx, ny] = [Math.floor(r.nx / by), Math.floor(r.ny / by)];
	const values = new Float32Array(nx * ny);
	for (let j = 0; j < ny; j++)
		for (let i = 0; i < nx; i++) {
			let [s, n] = [0, 0];
			for (let b = 0; b < by; b++)
				for (let a = 0; a < by; a++) {
					const v = r.values[(j * by + b) * r.nx + i * by + a]!;
					if (v === v) [s, n] = [s + v, n + 1];
				}
			values[j * nx + i] = n ? s / n : NaN;
		}
	return { x0: r.x0 + ((by - 1) * r.dx) / 2, y0: r.y0 + ((by - 1) * r.dy) / 2, dx: r.dx * by, dy: r.dy * by, nx, ny, values };
}

/** What hills above and valleys below a station take off its gravity: blocks from its height to the ground. NaN beside the terrain. */
function terrainEffect(r: Raster, x: number, y: number, height: number, radius: number, density: number, metres: number): number {
	if (Number.isNaN(valueAt(r, x, y))) return NaN;
	const reach = (d: number) => Math.ceil(radius / Math.abs(d));
	const [ci, cj] = [Math.round((x - r.x0) / r.dx), Math.round((y - r.y0) / r.dy)];
	let sum = 0;
	for (let j = Math.max(0, cj - reach(r.dy)); j <= Math.min(r.ny - 1, cj + reach(r.dy)); j++)
		for (let i = Math.max(0, ci - reach(r.dx)); i <= Math.min(r.nx - 1, ci + reach(r.dx)); i++) {
			// The station stands on its own cell.
			if (i === ci && j === cj) continue;
			const z = r.values[j * r.nx + i]!;
			if (Number.isNaN(z) || z === height) continue;
			const [px, py] = [r.x0 + i * r.dx - x, r.y0 + j * r.dy - y];
			const distance = Math.hypot(px, py);
			if (distance > radius) continue;
			const difference = (z - height) * metres;
			const area = Math.abs(r.dx * r.dy) * metres * metres;
			const d = distance * metres;
			// Far away a block is as good as a line of mass.
			if (distance > 8 * Math.abs(r.dx)) {
				sum += 6.6743e-11 * density * area * (1 / d - 1 / Math.hypot(d, difference)) * 1e5;
				continue;
			}
			const half = (Math.abs(r.dx) / 2) * metres;
			const block = {
				x1: px * metres - half,
				x2: px * metres + half,
				y1: py * metres - half,
				y2: py * metres + half,
				z1: Math.min(0, difference),
				z2: Math.max(0, difference)
			};
			// A hill pulls up, a hollow lacks what the slab took for granted: both lessen gravity.
			sum += Math.abs(prismGravity(block, density, 0, 0, 0));
		}
	return sum;
}
