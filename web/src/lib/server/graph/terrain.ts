import { rasterOf } from '#core/formats/raster-pack';
import { readPack } from '#core/formats/pack';
import type { Raster } from '#core/grids/raster';
import type { Executor } from '../db/client';
import type { ObjectRow } from './graph';
import { sourcePack } from './source-packs';

let last: { hash: string; raster: Raster } | null = null;

/**
 * The first terrain of the project; null when it has none. Its values are shared with worker threads, not copied.
 * @throws ProblemError `not-built` when there is one, but its values can not be had: nothing is ever built without it unsaid
 */
export async function terrainOf(on: Executor, projectId: string, graph: readonly ObjectRow[]): Promise<Raster | null> {
	const node = graph.find((o) => o.kind === 'terrain');
	if (!node) return null;
	if (last?.hash === node.contentHash) return last.raster;
	const raster = rasterOf(readPack(await sourcePack(on, projectId, node)));
	const values = new Float32Array(new SharedArrayBuffer(raster.values.byteLength));
	values.set(raster.values);
	last = { hash: node.contentHash, raster: { ...raster, values } };
	return last.raster;
}
