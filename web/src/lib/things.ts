import { rasterOf } from '#core/formats/raster-pack';
import type { Feature } from 'geojson';
import { readPack, type Pack } from '#core/formats/pack';
import type { CorePlace, HungPicture, Placement } from '#core/formats/picture';
import { dataSetOfGrid, dataSetOfReadings, unpackReadings } from '#core/datasets/readings';
import { getBytes } from './api/client';
import type { ProjectObject } from './api/types';
import type { Thing } from './workspace-parts';

/** Cells of a grid that panes take, at most; of a larger one they are wider, and the map reads the part that is looked at. */
const MOST_CELLS = 4_000_000;

/** Reads what was brought in. @param path of the objects of its project */
export async function loadThing(path: string, { id, name, form, kind, state }: ProjectObject): Promise<Thing> {
	if (kind === 'picture')
		return {
			id,
			name,
			kind,
			url: `/api/v1${path}/${id}/picture`,
			width: Number(state['width']),
			height: Number(state['height']),
			placement: (state['placement'] as Placement | undefined) ?? null,
			hung: (state['hung'] as HungPicture | undefined) ?? null,
			core: (state['core'] as CorePlace | undefined) ?? null
		};
	if (form !== 'grid') return thingOfPack(id, name, form, readPack(await getBytes(`${path}/${id}/pack`)));
	const thing = thingOfPack(id, name, form, readPack(await getBytes(`${path}/${id}/part?most=${MOST_CELLS}`)));
	return thing.kind === 'grid' ? { ...thing, path: `${path}/${id}/part` } : thing;
}

/** What a pack of a form is drawn from. */
export function thingOfPack(id: string, name: string, form: string | null, pack: Pack): Thing {
	const { info, arrays } = pack;
	if (form === 'lines' || form === 'faces') return { id, name, kind: 'layer', features: info['features'] as Feature[] };
	if (form === 'places') return { id, name, kind: 'places', set: dataSetOfReadings(unpackReadings(pack), id, name) };
	if (form === 'grid') {
		const raster = rasterOf(pack);
		return { id, name, kind: 'grid', raster, set: dataSetOfGrid(raster, id, name), every: Number(info['every'] ?? 1), path: null };
	}
	return { id, name, kind: 'surface', positions: arrays['positions'] as Float64Array, triangles: arrays['triangles'] as Uint32Array };
}
