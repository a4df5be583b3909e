import type { Role } from './recipe';

/** Roles that several recipes have. */
export const MODEL: Role = { title: 'Model', forms: ['solids'], least: 1, most: 1 };
export const GRID: Role = { title: 'Grid', forms: ['grid'], least: 1, most: 1 };
/** Rows with places: a table, or what was made of one. */
export const READINGS: Role = { title: 'Readings', forms: ['table', 'places'], least: 1, most: 1 };
/** Lines and faces that were brought in or made. */
export const LINES: Role = { title: 'Lines', forms: ['lines', 'faces'], least: 1, most: 1 };
/** Sections: their lines on the map, whatever is drawn on them. */
export const SECTIONS: Role = { title: 'Sections', kinds: ['section'], least: 1, most: 100 };
export const perhapsOf = (role: Role, title: string, most = 1): Role => ({ ...role, title, least: 0, most });
