import { readScheme } from './scheme';

/** A scheme of trees in three ranks, with ages and a gap of forty million years. */
export const HEADER = ['Rank', 'Unit', 'Parent', 'Age top', 'Age base', 'Age error'];
export const ROWS = [
	['Group', 'Upper Group', '', '0', '20', '0.5'],
	['Formation', 'Alder', 'Upper Group', '0', '8', '0.5'],
	['Formation', 'Birch', 'Upper Group', '8', '20', '0.5'],
	['Member', 'Birch Top', 'Birch', '8', '12', '0.5'],
	['Member', 'Birch Foot', 'Birch', '12', '20', '0.5'],
	['Group', 'Lower Group', '', '60', '90', '1'],
	['Formation', 'Cedar', 'Lower Group', '60', '70', '1'],
	['Formation', 'Dogwood', 'Lower Group', '70', '90', '1']
];
export const scheme = (rows = ROWS) => readScheme('s', 'Trees', HEADER, rows).scheme;
