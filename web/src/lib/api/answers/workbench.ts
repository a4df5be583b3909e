import { benchSchema, type BenchState } from '$lib/workbench/state';
import { typed } from './shapes';
import { id, list, obj, text, time } from './shapes';

export const benchAnswer = obj({ state: typed<BenchState>(benchSchema.clone().defined()) });
const viewpointShape = { id: id(), name: text(), stage: text(), createdBy: text(), createdAt: time() };
export const viewpointListAnswer = obj({ viewpoints: list(obj(viewpointShape)) });
export const viewpointAnswer = obj({ ...viewpointShape, state: typed<BenchState>(benchSchema.clone().defined()) });
