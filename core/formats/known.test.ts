import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { FORMS } from '../recipes/recipe';
import { endingsOfForm } from '../recipes/form-files';
import { endingsFor, FORMATS, formatFor, titleOfEnding, titlesRead, type Holds } from './known';
import { meshFormat, readMesh } from './mesh-readers';
import { rasterFormat, readRaster } from './rasters';
import { tabularFormat } from './tabular';
import { readVectors, vectorFormat } from './vectors';
import { LOCAL_SYSTEM, writeAs, type Kind, type Written } from './writers';

const bytesOf = (b: string | Uint8Array) => (typeof b === 'string' ? new TextEncoder().encode(b) : b);
const mesh = {
	name: 'One & <two>',
	color: '#336699',
	mesh: {
		positions: Float64Array.from([500_000, 4_000_000, 0, 500_010, 4_000_000, 0, 500_000, 4_000_010, 5]),
		triangles: Uint32Array.from([0, 1, 2])
	}
};
const GIVEN: Written = {
	layer: {
		name: 'Places',
		features: [
			{ type: 'Feature', properties: { name: 'ä', depth: 3 }, geometry: { type: 'Point', coordinates: [500_001.25, 4_000_002.5, 7] } }
		]
	},
	grid: { x0: 500_000, y0: 4_000_000, dx: 10, dy: 10, nx: 3, ny: 2, values: Float32Array.from([1, 2, 3, 4, 5, NaN]) },
	surface: mesh,
	solids: [mesh],
	blocks: {
		info: { origin: [0, 0, 0], spacing: [1, 1, 1], counts: [1, 1, 1], names: ['a'] },
		arrays: { values: Float32Array.from([1]) }
	} as never
};
const files = async (holds: Kind) =>
	Promise.all(endingsFor(holds).map(async (ending) => ({ ending, ...(await writeAs(holds, ending, GIVEN[holds], LOCAL_SYSTEM)) })));
const recognised = (bytes: Uint8Array, name: string) => ({
	grid: rasterFormat(bytes, name),
	surface: meshFormat(bytes, name),
	layer: vectorFormat(bytes, name)
});

describe('formats', () => {
	it('have one ending for each thing that they hold, and are written as their media type says', async () => {
		for (const holds of ['layer', 'grid', 'surface', 'solids'] as const) {
			const written = await files(holds);
			expect(new Set(written.map((f) => f.ending)).size).toBe(written.length);
			for (const f of written) {
				expect(f.bytes.length).toBeGreaterThan(0);
				expect(f.media).toBe(FORMATS[formatFor(holds, f.ending)!].media);
			}
		}
	});

	it('are told by what was written, as what it holds and nothing else', async () => {
		for (const holds of ['layer', 'grid', 'surface'] as const)
			for (const { ending, bytes } of await files(holds)) {
				const found = recognised(bytesOf(bytes), `x.${ending}`);
				expect([ending, found]).toEqual([ending, { grid: null, surface: null, layer: null, [holds]: formatFor(holds, ending) }]);
			}
		for (const noise of ['', 'a,b\n1,2\n', '{"a":1}', 'PK\u0003\u0004 nothing'])
			expect(recognised(bytesOf(noise), 'x.dat')).toEqual({ grid: null, surface: null, layer: null });
		expect([tabularFormat(bytesOf('a,b\n1,2\n')), tabularFormat(bytesOf('PK\u0003\u0004'))]).toEqual(['delimited', 'xlsx']);
	});

	it('read back what they wrote', async () => {
		for (const { ending, bytes } of await files('layer')) {
			const { features } = await readVectors(bytesOf(bytes), `x.${ending}`);
			expect([ending, features.map((f) => (f.geometry as { coordinates: number[] }).coordinates)]).toEqual([
				ending,
				[[500_001.25, 4_000_002.5, 7]]
			]);
		}
		for (const { ending, bytes } of await files('grid')) {
			const { raster } = await readRaster(bytesOf(bytes), `x.${ending}`);
			expect([ending, ...raster.values]).toEqual([ending, 1, 2, 3, 4, 5, NaN]);
		}
		for (const { ending, bytes } of await files('surface')) {
			const { positions, triangles } = await readMesh(bytesOf(bytes), `x.${ending}`);
			expect([ending, triangles.length, positions.length]).toEqual([ending, 3, 9]);
		}
	});

	it('that something can not be saved in are refused with those that it can', async () => {
		for (const [holds, ending] of [
			['grid', 'obj'],
			['solids', 'ply'],
			['layer', ''],
			['blocks', 'csv'],
			['surface', '__proto__']
		] as const) {
			await expect(writeAs(holds, ending, GIVEN[holds] as never, LOCAL_SYSTEM, 'Top of sand')).rejects.toMatchObject({
				problem: { kind: 'not-found', hint: `It can be saved as ${endingsFor(holds).join(', ')}.` }
			});
		}
	});

	it('are offered by form, and named in words', () => {
		expect(endingsOfForm('places')).toEqual(['gpkg', 'geojson', 'zip', 'dxf', 'csv', 'json']);
		expect([endingsOfForm('table'), endingsOfForm(null), endingsOfForm('constructor')]).toEqual(Array(3).fill(['csv', 'json']));
		for (const form of FORMS) expect(endingsOfForm(form).slice(-2)).toEqual(['csv', 'json']);
		expect([titleOfEnding('zip'), titleOfEnding('glb'), titleOfEnding('nope')]).toEqual(['shapefiles', 'glTF', 'NOPE']);
		expect(titlesRead('grid')).toBe('GeoTIFF, ASCII grid, netCDF and lines of x, y and z');
	});

	it('stand in the manual', () => {
		const manual = readFileSync('docs/gather.md', 'utf8').toLowerCase();
		const reads = Object.values(FORMATS).filter((f) => (f.reads as readonly Holds[]).length);
		for (const { title } of reads) expect([title, manual.includes(title.toLowerCase().replace(/s$/, ''))]).toEqual([title, true]);
	});
});
