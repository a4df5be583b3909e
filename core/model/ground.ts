import type { Anisotropy } from '../fields/frame';
import type { Limit } from './limits';
import type { Box } from '../geometry/box';
import type { Vec3 } from '../geometry/vector';
import type { Absence, ContactPoint, FaultZones, Observation, Stretch } from '../units/contacts';
import type { StratigraphicColumn } from '../units/column';
import type { Raster } from '../grids/raster';

/** A plane measured in the field. */
export interface Orientation {
	x: number;
	y: number;
	z: number;
	dip: number;
	dipAzimuth: number;
	polarity: 1 | -1;
	/** Index into the column; −1 when it is not known. */
	unit: number;
	/** Name of the table it is from. */
	table?: string;
}

/** Where a fault dies out: an ellipse on it, round the middle of its trace. */
export interface FaultTips {
	/** Elevation of the middle of the fault. */
	elevation: number;
	/** Half-length along the trace; half of the trace when it is 0. */
	halfLength: number;
	/** Half-length down the fault. */
	halfHeight: number;
	/** Distance from the fault at which its displacement has faded. */
	reach: number;
}

/** A place on a fault, with its dip there when it is known. */
interface FaultPlace {
	x: number;
	y: number;
	z: number;
	/** Degrees down from horizontal, and the direction of it. */
	dip?: number | null | undefined;
	dipAzimuth?: number | null | undefined;
}

/** A place that must lie on one side of a fault: 1 in its hanging wall, −1 in its footwall; 0 where it fits on neither, and says nothing of the fault. */
export interface FaultSide {
	fault: string;
	x: number;
	y: number;
	z: number;
	sense: 1 | 0 | -1;
	hole: string;
}

/** A fault: right through the model, up to another fault, or to a tip line. */
export interface FaultSpec {
	id: string;
	name: string;
	/** Line on the map, in order; elevation comes from the terrain. */
	trace: [number, number][];
	/** Further lines on which it was seen, with gaps between: they are fitted like the trace. */
	pieces?: [number, number][][] | undefined;
	/** Degrees down from horizontal. */
	dip: number;
	/** Direction it dips to, roughly; the exact one is square to the trace on that side. */
	dipAzimuth: number;
	/** Id of the youngest unit that it cuts; everything older is cut, too. */
	youngestCut: string;
	/** Half of the width of the fault zone, length units: boundaries in holes inside it belong to the fault. */
	halfWidth: number;
	/** How far it may be off where it was drawn, length units: places that contradict their side of it are tried on the other one. A fiftieth of the extent when it is not given. */
	uncertainty?: number | null | undefined;
	/** Places that it passes through, at depth, and planes measured on it: they bend it. */
	places?: FaultPlace[] | undefined;
	on: boolean;
	/** Id of the fault that it ends on: it is there only on the side on which it was drawn. */
	endsOn?: string | null | undefined;
	/** Tip line of a fault that dies out; without one it goes right through. */
	tips?: FaultTips | null | undefined;
}

/** A place that is known to lie above (sense 1) or below (−1) the base, or inside or outside the boundary, of a unit. */
export interface PlaceBound {
	x: number;
	y: number;
	z: number;
	/** Index into the column. */
	surface: number;
	sense: 1 | -1;
	/** What it comes from: of one source only the worst becomes active. */
	source: string;
	/** Name of the table it is from. */
	table?: string;
	error?: number;
}

/** How the ground of one sequence varies. */
export interface Trend {
	/** Id of a unit of the sequence. */
	unit: string;
	/** Less along a plane than across it. */
	anisotropy?: Anisotropy | null | undefined;
	/** Follows the terrain (`terrain`) or the base of a unit of another sequence (its id). */
	follows?: string | null | undefined;
}

/** The base of a unit that is given, not interpolated from data. */
export interface MadeBase {
	/** Id of the unit. */
	unit: string;
	/** Elevations, or the id of a unit whose base it follows. */
	raster: Raster | null;
	follows: string | null;
	/** Moves it up, length units. */
	by: number;
	/** Taken off the elevations where it is known. */
	thickness: Raster | null;
}

/** A unit that is divided further, by a column and data of its own. */
export interface Division {
	id: string;
	name: string;
	/** Id of the unit that is divided. */
	unit: string;
	column: StratigraphicColumn;
	contacts: ContactPoint[];
	observations: Observation[];
	absences?: Absence[];
	unknown?: readonly Stretch[];
	orientations: Orientation[];
	bounds?: PlaceBound[];
	trends?: Trend[];
	/** Faults inside the unit only; those of the ground that cut it cut its parts, too. */
	faults: FaultSpec[];
}

/** Everything the engine needs to make fields. All lengths in one unit, all angles in degrees. */
export interface GroundInput {
	extent: Box;
	/** What lengths are in, for the words of findings. */
	lengthUnit?: string;
	column: StratigraphicColumn;
	contacts: ContactPoint[];
	observations: Observation[];
	/** Places where a unit pinches out. */
	absences?: Absence[];
	/** Where holes do not say what is there. */
	unknown?: readonly Stretch[];
	orientations: Orientation[];
	faults: FaultSpec[];
	terrain: Raster | null;
	bounds?: PlaceBound[];
	trends?: Trend[];
	limits?: Limit[];
	made?: MadeBase[];
	divisions?: Division[];
	/** Holes, and lines by their names, that are believed whatever their neighbours say. */
	certain?: readonly string[];
	/** What the evidence of the holes says of the sides of faults that are only roughly known. */
	faultSides?: readonly FaultSide[];
}

/** Something that the engine has to say about its data. */
export interface GroundFinding {
	kind: string;
	severity: 'noted' | 'held';
	message: string;
	hint: string;
	/** Where, when it is about one place. */
	at?: Vec3;
	hole?: string;
	/** The other hole, when it is about two. */
	other?: string;
}

/** The kind of what names a hole whose rows shape nothing, because its neighbours say otherwise. */
export const AGAINST_NEIGHBOURS = 'against-neighbours';

/** A length in the words of a finding. */
export const lengthSaid = ({ lengthUnit }: Pick<GroundInput, 'lengthUnit'>, by: number): string =>
	`${by.toFixed(by < 10 ? 1 : 0)}${lengthUnit ? ` ${lengthUnit}` : ''}`;

export type { FaultZones };
