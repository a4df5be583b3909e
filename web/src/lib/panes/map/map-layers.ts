import type Feature from 'ol/Feature';
import LayerGroup from 'ol/layer/Group';
import ImageLayer from 'ol/layer/Image';
import VectorLayer from 'ol/layer/Vector';
import VectorSource from 'ol/source/Vector';
import { MUTE } from './features-at';
import { shapeStyle } from './shape-features';
import {
	contourStyle,
	dotStyle,
	faceNameStyle,
	findingStyle,
	geologyStyle,
	graticuleStyle,
	madeStyle,
	markStyle,
	measureStyle,
	orientationStyle,
	pathStyle,
	pieStyle,
	probeStyle,
	sectionStyle,
	unitMarkStyle
} from './styles';

/** Sources and layers of a map, empty. */
export type MapLayers = ReturnType<typeof mapLayers>;
export type LayerName = keyof MapLayers['layers'];

export const vector = () => new VectorSource<Feature>();

export function mapLayers() {
	const sources = {
		contours: vector(),
		geology: vector(),
		paths: vector(),
		collars: vector(),
		orientations: vector(),
		points: vector(),
		pies: vector(),
		units: vector(),
		findings: vector(),
		faults: vector(),
		section: vector(),
		things: vector(),
		shape: vector(),
		graticule: vector(),
		measure: vector(),
		hand: vector(),
		preview: vector(),
		marks: vector(),
		probe: vector()
	};
	const relief = new ImageLayer();
	const grids = new LayerGroup();
	const pictures = new LayerGroup();
	const previews = new LayerGroup({ zIndex: 800 });
	/** From the lowest up; the names stand in the list of layers. */
	const layers = {
		terrain: relief,
		grids,
		pictures,
		geology: new VectorLayer({ source: sources.geology, style: geologyStyle }),
		things: new VectorLayer({ source: sources.things, style: madeStyle, declutter: 'values' }),
		shape: new VectorLayer({ source: sources.shape, style: shapeStyle }),
		contours: new VectorLayer({ source: sources.contours, style: contourStyle, declutter: true }),
		graticule: new VectorLayer({ source: sources.graticule, style: graticuleStyle, properties: MUTE }),
		paths: new VectorLayer({ source: sources.paths, style: pathStyle }),
		faults: new VectorLayer({ source: sources.faults, declutter: true }),
		section: new VectorLayer({ source: sources.section, style: sectionStyle }),
		points: new VectorLayer({ source: sources.points, style: dotStyle, declutter: 'points' }),
		orientations: new VectorLayer({ source: sources.orientations, style: orientationStyle }),
		pies: new VectorLayer({ source: sources.pies, style: pieStyle }),
		collars: new VectorLayer({ source: sources.collars, declutter: 'names' }),
		units: new VectorLayer({ source: sources.units, style: unitMarkStyle }),
		findings: new VectorLayer({ source: sources.findings, style: findingStyle })
	};
	const top = {
		previews,
		preview: new VectorLayer({ source: sources.preview, style: madeStyle, zIndex: 801, properties: MUTE }),
		marks: new VectorLayer({ source: sources.marks, style: markStyle, zIndex: 802 }),
		faceNames: new VectorLayer({ source: sources.geology, style: faceNameStyle, declutter: 'names', zIndex: 900, properties: MUTE }),
		measure: new VectorLayer({ source: sources.measure, style: measureStyle, zIndex: 1000 }),
		hand: new VectorLayer({ source: sources.hand, style: measureStyle, zIndex: 1000 }),
		probe: new VectorLayer({ source: sources.probe, style: probeStyle, zIndex: 1001, properties: MUTE })
	};
	return { sources, layers, top, relief, grids, pictures, previews };
}

/** Names of the layers, as they stand in their list. */
export const LAYER_NAMES: Readonly<Record<LayerName, string>> = {
	terrain: 'Terrain',
	grids: 'Grids',
	pictures: 'Pictures',
	geology: 'Geology',
	things: 'Points, lines, outlines',
	shape: 'Contacts that were drawn',
	contours: 'Contours',
	graticule: 'Graticule',
	paths: 'Traces of holes',
	faults: 'Faults',
	section: 'Sections',
	points: 'Measured places',
	orientations: 'Orientations',
	pies: 'Shares of units',
	collars: 'Collars',
	units: 'A unit in the holes',
	findings: 'Findings'
};
