import type { Observation } from '../units/contacts';
import type { Cut } from './faults';
import type { GroundFinding, GroundInput } from './ground';
import type { Shape } from './trends';

/** A depth in a hole. */
export type Depth = Pick<Observation, 'hole' | 'depth'>;

/** What everything that makes the boundary of an intrusion is told of it. */
export interface Intrusion {
	input: GroundInput;
	name: string;
	/** Index into the column. */
	unit: number;
	/** Places in what is younger, or beyond a sheet that it ends at: nothing is known of it there. */
	hidden: readonly Observation[];
	/** Depths in holes at which nobody knows what is there. */
	unlogged: readonly Depth[];
	cut: Cut;
	/** Gets what is found on the way. */
	findings: GroundFinding[];
	shape: Shape;
}
