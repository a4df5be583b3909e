import { benchSchema } from '$lib/workbench/state';
import { id, list, obj, text, time } from './shapes';

export const benchAnswer = obj({ state: benchSchema.clone().defined() });
const viewpointShape = { id: id(), name: text(), stage: text(), createdBy: text(), createdAt: time() };
export const viewpointListAnswer = obj({ viewpoints: list(obj(viewpointShape)) });
export const viewpointAnswer = obj({ ...viewpointShape, state: benchSchema.clone().defined() });
