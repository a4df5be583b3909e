import type { Role } from './recipe';

/** Roles that several recipes have. */
export const MODEL: Role = { title: 'Model', forms: ['solids'], least: 1, most: 1 };
export const GRID: Role = { title: 'Grid', forms: ['grid'], least: 1, most: 1 };
