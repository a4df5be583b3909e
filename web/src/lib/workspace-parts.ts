import type { Feature } from 'geojson';
import type { DataSet } from '#core/datasets/dataset';
import type { CorePlace, HungPicture, Placement } from '#core/formats/picture';
import type { Rectangle } from '#core/grids/frame';
import type { Raster } from '#core/grids/raster';
import type { BlockMesh, FaultBlock } from '#core/model/blocks';
import type { ReadyScale } from '#core/styles/scale';
import type { Arrival } from './workbench/solids.svelte';

/** The one position shared by all panes. */
export interface Probe {
	x: number;
	y: number;
	z: number | null;
	/** What lies there: unit or value. */
	what: string;
	/** The pane that moved it. */
	from: string;
}

/** What is selected, for Details. */
export type Selection =
	| { kind: 'hole'; name: string }
	| { kind: 'unit'; id: string }
	| { kind: 'fault'; id: string }
	/** Rows of a table by number; one or many. */
	| { kind: 'rows'; table: string; rows: number[] }
	| { kind: 'holes'; names: string[] }
	| { kind: 'object'; id: string }
	| { kind: 'objects'; ids: string[] };

export interface ModelScene {
	/** Key of what it was built from. */
	key: string;
	mesh: BlockMesh;
	blocks: FaultBlock[];
	/** Ids of the units in the order of the labels. */
	unitIds: string[];
	faults: { id: string; name: string }[];
	hasTerrain: boolean;
	/** Where it has fewer triangles, to be looked at: how far the whole one is on its way. */
	light: Arrival | null;
}

/** Colours of the model by a number at each of its vertices, instead of those of its units. */
export interface Paint {
	what: 'spread' | 'movement';
	label: string;
	/** The model that it belongs to. */
	key: string;
	values: Float32Array;
	scale: ReadyScale;
	/** Draws contacts and faults only. */
	surfacesOnly: boolean;
	/** Value at a place, where the number fills space. */
	at: ((x: number, y: number, z: number) => number) | null;
}

/** Reads the part of a grid in a box, or all of it, with `most` cells at most. */
export type GridReader = (box: Rectangle | null, most: number) => Promise<Uint8Array>;

/** Something that was brought in besides tables and terrain, by the id of its object. */
export type Thing = { id: string; name: string } & (
	| { kind: 'layer'; features: Feature[] }
	| { kind: 'surface'; positions: Float64Array; triangles: Uint32Array }
	/**
	 * Its values are the one column of its data set, so that it has a style. Of a large one the cells are wider: `every` cells of its own
	 * lie along a side, and `part` reads parts of it.
	 */
	| { kind: 'grid'; raster: Raster; set: DataSet; every: number; part: GridReader | null }
	/** Rows with places that a recipe made. */
	| { kind: 'places'; set: DataSet }
	| {
			kind: 'picture';
			url: string;
			width: number;
			height: number;
			placement: Placement | null;
			hung: HungPicture | null;
			core: CorePlace | null;
	  }
);

export interface GeologyPolygons {
	units: { unit: string; polygons: number[][][] }[];
}

/** A tool of the map that draws a line. */
export interface DrawTask {
	what: 'fault' | 'section' | 'contact' | 'outline' | 'contact on section';
	/** @param elevations of a line that was drawn on a section */
	done(line: [number, number][], elevations?: number[]): void;
}

/** What a result is to be made of, as far as it is known. */
export interface Making {
	recipe?: string;
	/** Ids of objects that are to be put in where they can. */
	inputs?: string[];
	parameters?: Record<string, unknown>;
}

export interface Message {
	id: number;
	tone: 'error' | 'note';
	text: string;
	/** Where it leads. */
	link?: { label: string; href: string };
}
