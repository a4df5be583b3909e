import { rasterOf } from '#core/formats/raster-pack';
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Feature } from 'geojson';
import { readingsTable, unpackReadings } from '#core/datasets/readings';
import { writeBlocks } from '#core/formats/blocks';
import { writeGeoTiff } from '#core/formats/geotiff';
import { layerDxf } from '#core/formats/layer-dxf';
import { writeObj } from '#core/formats/meshes';
import type { Pack } from '#core/formats/pack';
import type { SolidMesh } from '#core/mesh/cut-lattice';
import { solidOf, unitsIn } from '#core/mesh/extract';
import type { Form } from '#core/recipes/recipe';
import { writeCsv } from '#core/tables/delimited';
import type { Unit } from '#core/units/column';

/** Writes a file beside and moves it into place, so that it is whole or not there. */
export function writeWhole(folder: string, name: string, content: string | Uint8Array): void {
	mkdirSync(folder, { recursive: true });
	writeFileSync(join(folder, `${name}.part`), content);
	renameSync(join(folder, `${name}.part`), join(folder, name));
}

/** The file of a result of a form: ending and content; null for a form that has none. */
export const resultFiles = async (
	form: Form | null,
	pack: Pack,
	name: string,
	crs: number,
	units: readonly Unit[]
): Promise<[string, string | Uint8Array] | null> => (await FILES[form ?? '']?.(pack, name, crs, units)) ?? null;

const csvOf = (pack: Pack): string => {
	const { header, rows } = readingsTable(unpackReadings(pack));
	return writeCsv(header, rows);
};

/** A file of each form: ending and content. */
const FILES: Readonly<
	Record<
		string,
		(
			pack: Pack,
			name: string,
			crs: number,
			units: readonly Unit[]
		) => Promise<[string, string | Uint8Array]> | [string, string | Uint8Array]
	>
> = {
	grid: async (pack, _name, crs) => ['tif', await writeGeoTiff(rasterOf(pack), crs || 32767)],
	faces: (pack, name) => ['dxf', layerDxf(name, pack.info['features'] as Feature[])],
	lines: (pack, name) => ['dxf', layerDxf(name, pack.info['features'] as Feature[])],
	places: (pack) => ['csv', csvOf(pack)],
	table: (pack) => ['csv', csvOf(pack)],
	blocks: (pack) => ['vti', writeBlocks(pack)],
	solids: ({ info, arrays }, _name, _crs, units) => {
		const mesh = { ...(arrays as unknown as Omit<SolidMesh, 'volumes'>), volumes: new Map(info['volumes'] as [number, number][]) };
		const ids = info['units'] as string[];
		const named = unitsIn(mesh).map((u) => {
			const own = units.find((x) => x.id === ids[u]);
			return { name: own?.name ?? ids[u]!, color: own?.color ?? '#888888', mesh: solidOf(mesh, u) };
		});
		return ['obj', writeObj(named)];
	}
};
