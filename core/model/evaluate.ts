import type { Field } from '../fields/field';
import { evaluateField } from '../fields/field-kernel';

/** Evaluates a field, seen from a fault block, at points (flat xyz). The default does it on the spot; hosts give one that uses threads. */
export type Evaluate = (field: Field, block: number, xyz: Float64Array) => Promise<Float64Array>;

export const evaluateHere: Evaluate = async (field, block, xyz) => evaluateField(field, block, xyz);
