import type { SectionPicture } from './section';

/** What else stands on a section: terrain is part of the model's lines. */
export interface SectionHole {
	name: string;
	/** Distance, elevation of points down the hole, flat, with the unit below each point (−1 unknown). */
	points: Float64Array;
	units: Int16Array;
	/** How far the collar lies from the section. */
	off: number;
}

/** A section ready to be drawn: all that SVG, PNG, DXF and the pane need, in section coordinates. */
export interface SectionDrawing {
	title: string;
	picture: SectionPicture;
	units: { name: string; color: string }[];
	/** Name and stroke of each surface number in the picture. */
	surfaces: Map<number, { name: string; kind: 'contact' | 'fault' | 'terrain' }>;
	holes: SectionHole[];
	minZ: number;
	maxZ: number;
	lengthUnit: string;
	exaggeration: number;
	/** Names of the ends, for example A and A′. */
	ends: [string, string];
	/** Fill the units, or only draw the contacts. */
	filled: boolean;
}
