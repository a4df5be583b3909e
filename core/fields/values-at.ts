import type { Field } from './field';
import { finish, valuesSteps } from './steps';

/** Values of a field at places, each seen from its own fault block. */
export const valuesAt = (field: Field, places: readonly { x: number; y: number; z: number; block: number }[]): Float64Array =>
	finish(valuesSteps(field, places));
