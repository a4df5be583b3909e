import type { Feature } from 'geojson';
import { readPack } from '#core/formats/pack';
import type { CorePlace, HungPicture, Placement } from '#core/formats/picture';
import type { Raster } from '#core/grids/raster';
import { sortedValues } from '#core/statistics/spread';
import { proposeScale, readyScale } from '#core/styles/scale';
import { getBytes } from './api/client';
import type { ProjectObject } from './api/types';
import type { Thing } from './workspace-parts';

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
	const { info, arrays } = readPack(await getBytes(`${path}/${id}/pack`));
	if (form === 'lines' || form === 'faces') return { id, name, kind: 'layer', features: info['features'] as Feature[] };
	if (form === 'grid') {
		const raster = { ...(info as unknown as Omit<Raster, 'values'>), values: arrays['values'] as Float32Array };
		const sorted = sortedValues(raster.values);
		return { id, name, kind: 'grid', raster, scale: readyScale({ ...proposeScale(sorted), ramp: 'viridis' }, sorted) };
	}
	return { id, name, kind: 'surface', positions: arrays['positions'] as Float64Array, triangles: arrays['triangles'] as Uint32Array };
}
