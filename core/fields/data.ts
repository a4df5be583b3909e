import type { BoundedZone } from './bounded';

/** A contact point (the field has the same, unknown value on all points of a group). */
export interface GroupDatum {
	x: number;
	y: number;
	z: number;
	group: number;
	block: number;
	/** How far above the level of its group it lies, length units; 0 when it is not given. */
	offset?: number;
	/** Variance of the error, as a share of the prior variance; 0 when it is not given: the datum is honoured. */
	nugget?: number;
}

/** A place where the value of the field is known, in length units. */
export interface ValueDatum {
	x: number;
	y: number;
	z: number;
	value: number;
	block: number;
	nugget?: number;
}

/** A place where the gradient is known: a unit vector to the younger side. */
export interface GradientDatum {
	x: number;
	y: number;
	z: number;
	gradient: readonly [number, number, number];
	block: number;
}

/** A place that is known to lie above (sense 1) or below (−1) the level of a group. */
export interface Bound {
	x: number;
	y: number;
	z: number;
	group: number;
	sense: 1 | -1;
	/** By how much at least, length units; 0 when it is not given. */
	margin?: number;
	block: number;
	/** Bounds of one source (a hole): only the worst of them becomes active. */
	source: string;
}

export interface FieldData {
	groupCount: number;
	faultCount: number;
	points: GroupDatum[];
	values: ValueDatum[];
	gradients: GradientDatum[];
	bounds: Bound[];
	/** Faults that die out; all others cut right through. */
	bounded?: BoundedZone[];
}
