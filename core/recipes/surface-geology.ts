import * as yup from 'yup';
import type { Feature } from 'geojson';
import { geologyAtSurface, polygonsOf, ringArea } from '../sections/geology-map';
import { solidsOf, unitsByNumber } from './opened';
import { recipe, theOne } from './recipe';
import { MODEL } from './roles';

/** Geology at the surface of a model: faces in project coordinates, to decimetres. */
export const surfaceGeology = recipe({
	id: 'surface-geology',
	title: 'Geology at the surface',
	about: 'Faces on the map: which unit of a model lies at the surface where.',
	version: 1,
	answers: 'units-at-surface',
	form: 'faces',
	atOnce: true,
	roles: { model: MODEL },
	parameters: yup.object({}).noUnknown(),
	run(inputs) {
		const given = theOne(inputs, 'model');
		const mesh = solidsOf(given);
		const units = unitsByNumber(given);
		const round = (v: number) => Math.round(v * 10) / 10;
		const areas: { unit: string; area: number }[] = [];
		const features: Feature[] = [...geologyAtSurface(mesh, given.pack!.info['hasTerrain'] === true)].map(([unit, rings]) => {
			const { id, name, color } = units[unit]!;
			areas.push({ unit: id, area: rings.reduce((sum, r) => sum + ringArea(r), 0) });
			return {
				type: 'Feature',
				properties: { unit: id, name, color },
				geometry: {
					type: 'MultiPolygon',
					coordinates: polygonsOf(rings).map((polygon) =>
						polygon.map((ring) => Array.from({ length: ring.length / 2 }, (_, i) => [round(ring[2 * i]!), round(ring[2 * i + 1]!)]))
					)
				}
			};
		});
		return { pack: { info: { features }, arrays: {} }, report: { areas } };
	}
});
