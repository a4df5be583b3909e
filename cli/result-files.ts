import { rasterOf } from '#core/formats/raster-pack';
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Feature } from 'geojson';
import { readingsTable, unpackReadings } from '#core/datasets/readings';
import type { Pack } from '#core/formats/pack';
import { LOCAL_SYSTEM, writeAs, type Kind, type Written } from '#core/formats/writers';
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

const written = async <H extends Kind>(
	holds: H,
	ending: string,
	value: Written[H],
	crs: number
): Promise<[string, string | Uint8Array]> => [ending, (await writeAs(holds, ending, value, { ...LOCAL_SYSTEM, crs })).bytes];

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
	grid: (pack, _name, crs) => written('grid', 'tif', rasterOf(pack), crs),
	faces: (pack, name, crs) => written('layer', 'dxf', { name, features: pack.info['features'] as Feature[] }, crs),
	lines: (pack, name, crs) => written('layer', 'dxf', { name, features: pack.info['features'] as Feature[] }, crs),
	places: (pack) => ['csv', csvOf(pack)],
	table: (pack) => ['csv', csvOf(pack)],
	blocks: (pack, _name, crs) => written('blocks', 'vti', pack, crs),
	solids: ({ info, arrays }, _name, crs, units) => {
		const mesh = { ...(arrays as unknown as Omit<SolidMesh, 'volumes'>), volumes: new Map(info['volumes'] as [number, number][]) };
		const ids = info['units'] as string[];
		const named = unitsIn(mesh).map((u) => {
			const own = units.find((x) => x.id === ids[u]);
			return { name: own?.name ?? ids[u]!, color: own?.color ?? '#888888', mesh: solidOf(mesh, u) };
		});
		return written('solids', 'obj', named, crs);
	}
};
