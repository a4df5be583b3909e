import { polygonsOf, type GeologyRings } from './geology-map';
import type { StratigraphicColumn } from '../units/column';

/** One coordinate pair as it is to be written. GeoJSON (RFC 7946) wants longitude and latitude. */
export type Project = (x: number, y: number) => [number, number];

/** The map view of the geology: one multi-polygon a unit. */
export function geologyGeoJson(rings: GeologyRings, column: StratigraphicColumn, project: Project) {
	return {
		type: 'FeatureCollection' as const,
		features: [...rings].map(([unit, list]) => ({
			type: 'Feature' as const,
			properties: { unit: column[unit]!.id, name: column[unit]!.name, color: column[unit]!.color, contact: column[unit]!.contact },
			geometry: {
				type: 'MultiPolygon' as const,
				coordinates: polygonsOf(list).map((polygon) =>
					polygon.map((ring) => {
						const out: [number, number][] = [];
						for (let i = 0; i < ring.length; i += 2) out.push(project(ring[i]!, ring[i + 1]!));
						return out;
					})
				)
			}
		}))
	};
}
