import Feature from 'ol/Feature';
import { LineString, Point, Polygon } from 'ol/geom';
import VectorSource from 'ol/source/Vector';
import { describe, expect, it } from 'vitest';
import { featuresAt } from './features-at';

const layer = (z: number, features: Feature[], visible = true, opacity = 1) =>
	({ getSource: () => new VectorSource({ features }), getVisible: () => visible, getZIndex: () => z, getOpacity: () => opacity }) as never;
const named = (name: string, geometry: Point | LineString | Polygon) => Object.assign(new Feature({ geometry, label: name }));
const square = (name: string, a: number, b: number) => named(name, new Polygon([[[a, a], [b, a], [b, b], [a, b], [a, a]]])); // prettier-ignore
const labels = (list: Feature[]) => list.map((f) => f.get('label') as string);

describe('what lies at a place of the map', () => {
	const layers = [
		layer(1, [square('sand', 0, 100), square('clay', 100, 200)]),
		layer(5, [named('hole', new Point([50, 50])), named('other hole', new Point([53, 50]))]),
		layer(3, [named('fault', new LineString([[0, 60], [100, 60]]))]), // prettier-ignore
		layer(9, [named('hidden', new Point([50, 50]))], false),
		layer(9, [named('faded', new Point([50, 50]))], true, 0)
	];
	it('is what is on top first, then what is nearest, and nothing that is hidden', () => {
		expect(labels(featuresAt(layers, [51, 50], 4))).toEqual(['hole', 'other hole', 'sand']);
		expect(labels(featuresAt(layers, [30, 58], 3))).toEqual(['fault', 'sand']);
		expect(labels(featuresAt(layers, [30, 58], 1))).toEqual(['sand']);
	});
	it('is nothing outside of all', () => expect(featuresAt(layers, [500, 500], 5)).toEqual([]));
	it('an area is met by its inside, not by the corner of its box', () => {
		const triangle = named('triangle', new Polygon([[[0, 0], [100, 0], [0, 100], [0, 0]]])); // prettier-ignore
		expect(labels(featuresAt([layer(0, [triangle])], [90, 90], 5))).toEqual([]);
		expect(labels(featuresAt([layer(0, [triangle])], [20, 20], 5))).toEqual(['triangle']);
	});
});
