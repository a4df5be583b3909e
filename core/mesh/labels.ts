/** Label of what lies above the terrain, and outside the box. Units have labels from 0. */
export const AIR = -1;
export const OUTSIDE = -2;

/** Surface numbers of the terrain and of the limits of the model; a contact has the number of its unit, fault k has FAULT + k, side s of the box SIDE + s. */
export const TERRAIN = 1000;
export const LIMIT = 1001;
export const FAULT = 2000;
export const SIDE = 3000;

/** Leaves that are no unit: the air, and what lies outside the limits or the box. */
export const AIR_LEAF = 0xffff;
export const OUTSIDE_LEAF = 0xfffe;

/** A decision: a function to ask, with what follows on either side; or a leaf with a label and a number of its own. */
export type Decision = { leaf: number; label: number } | { function: number; above: Decision; below: Decision };
