import { rasterOf } from '#core/formats/raster-pack';
import type { Feature } from 'geojson';
import { readPack, type Pack } from '#core/formats/pack';
import type { CorePlace, HungPicture, Placement } from '#core/formats/picture';
import { dataSetOfGrid, dataSetOfReadings, unpackReadings } from '#core/datasets/readings';
import type { OfProject } from './api/of-project';
import type { ProjectObject } from './api/types';
import type { GridReader, Thing } from './workspace-parts';

/** Cells of a grid that panes take, at most; of a larger one they are wider, and the map reads the part that is looked at. */
const MOST_CELLS = 4_000_000;

/** Reads what was brought in. */
export async function loadThing(api: OfProject, { id, name, form, kind, state }: ProjectObject): Promise<Thing> {
	if (kind === 'picture')
		return {
			id,
			name,
			kind,
			url: api.address('getPicture', { object: id }),
			width: Number(state['width']),
			height: Number(state['height']),
			placement: (state['placement'] as Placement | undefined) ?? null,
			hung: (state['hung'] as HungPicture | undefined) ?? null,
			core: (state['core'] as CorePlace | undefined) ?? null
		};
	if (form !== 'grid') return thingOfPack(id, name, form, readPack(await api.bytes('getObjectPack', { object: id })));
	const part: GridReader = (box, most) => api.bytes('getGridPart', { object: id, ...box, most });
	const thing = thingOfPack(id, name, form, readPack(await part(null, MOST_CELLS)));
	return thing.kind === 'grid' ? { ...thing, part } : thing;
}

/** What a pack of a form is drawn from. */
export function thingOfPack(id: string, name: string, form: string | null, pack: Pack): Thing {
	const { info, arrays } = pack;
	if (form === 'lines' || form === 'faces') return { id, name, kind: 'layer', features: info['features'] as Feature[] };
	if (form === 'places') return { id, name, kind: 'places', set: dataSetOfReadings(unpackReadings(pack), id, name) };
	if (form === 'grid') {
		const raster = rasterOf(pack);
		return { id, name, kind: 'grid', raster, set: dataSetOfGrid(raster, id, name), every: Number(info['every'] ?? 1), part: null };
	}
	return { id, name, kind: 'surface', positions: arrays['positions'] as Float64Array, triangles: arrays['triangles'] as Uint32Array };
}
