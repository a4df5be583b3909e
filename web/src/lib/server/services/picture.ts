import { BLANK } from '#core/palette';
import { readPack, unpackValue } from '#core/formats/pack';
import type { HolePaths } from '#core/datasets/hole-paths';
import type { Box } from '#core/geometry/box';
import { drawMapPicture } from '#core/sections/map-picture';
import { runTableTask } from '../threads/threads';
import { db } from '../db/client';
import { checkInputOf, tablesOf } from '../graph/check-input';
import { one, seenByModel, seenProject } from '../graph/graph';
import { packInfo } from '#core/formats/pack';
import { polygonsOfFaces } from '#core/sections/geology-map';
import { recipeFor } from '#core/recipes/register';
import { packMadeNow } from '../graph/made-now';
import { sendPack } from './packs';
import { stateOf } from '../graph/states';

/** A small map of a project, for the list of projects. */
export async function pictureOf(p: { id: string; extent: Box | null }, request: Request): Promise<Response> {
	const seen = await seenProject(db(), p.id);
	const graph = seenByModel(seen.graph);
	const model = one(graph, 'model');
	const input = await checkInputOf(db(), seen);
	const column = stateOf(one(graph, 'column'), 'column').units;
	const section = stateOf(one(graph, 'section'), 'section').trace;
	const key = ['picture', input.key, model.contentHash, JSON.stringify([p.extent, column.map((u) => u.color), section])].join(' ');
	return sendPack(
		key,
		request,
		async () => {
			const { holes } = unpackValue<HolePaths>(readPack(await runTableTask('paths', { ...(await tablesOf(input)), since: null })));
			const places = holes.map((h) => [h.collar[0], h.collar[1]] as [number, number]);
			const geology = model.missing
				? []
				: polygonsOfFaces(
						packInfo((await packMadeNow(seen, recipeFor('units-at-surface').id, [{ role: 'model', object: model }])).bytes)['features']
					).map((u) => ({
						color: column.find((c) => c.id === u.unit)?.color ?? BLANK,
						rings: u.polygons.flat()
					}));
			return new TextEncoder().encode(drawMapPicture({ box: p.extent ?? around(places), geology, holes: places, section }));
		},
		'image/svg+xml'
	);
}

function around(places: readonly (readonly [number, number])[]): Box {
	const b: Box = { minX: Infinity, minY: Infinity, minZ: 0, maxX: -Infinity, maxY: -Infinity, maxZ: 0 };
	for (const [x, y] of places)
		Object.assign(b, { minX: Math.min(b.minX, x), minY: Math.min(b.minY, y), maxX: Math.max(b.maxX, x), maxY: Math.max(b.maxY, y) });
	return places.length ? b : { ...b, minX: 0, minY: 0, maxX: 1, maxY: 1 };
}
