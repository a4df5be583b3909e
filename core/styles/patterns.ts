import { paintOf } from '../formats/svg-text';

/**
 * Lithology patterns, drawn for this project after the categories of the public-domain standard for geological map symbols (FGDC 2006):
 * each a tile of 16 × 16 with strokes and dots that repeats in both directions.
 */
export const PATTERNS = {
	sand: { label: 'sand', path: 'M3 3h.1M11 5h.1M7 9h.1M14 12h.1M2 13h.1M10 15h.1', width: 1.6 },
	silt: { label: 'silt', path: 'M2 4h4M10 4h.1M2 12h.1M8 12h4', width: 1.2 },
	mud: { label: 'mud, clay', path: 'M1 4h6M9 12h6', width: 1.1 },
	shale: { label: 'shale, slate', path: 'M0 3h16M0 8h16M0 13h16', width: 0.7 },
	gravel: { label: 'gravel, conglomerate', path: 'M4 2a2.4 2.4 0 1 0 .01 0M12 9a2.4 2.4 0 1 0 .01 0M12 2h.1M4 11h.1', width: 1 },
	breccia: { label: 'breccia', path: 'M2 6l3-4 2 4zM9 13l4-4 1 5zM11 3l3 1-2 2zM2 11l3 1-3 2z', width: 0.9 },
	limestone: { label: 'limestone', path: 'M0 1h16M0 9h16M4 1v8M12 9v8', width: 0.8 },
	dolomite: { label: 'dolomite', path: 'M0 1h16M0 9h16M5 1l-2 8M13 9l-2 8', width: 0.8 },
	chalk: { label: 'chalk, marl', path: 'M0 1h5M8 1h8M0 9h10M13 9h3M4 1v4M12 9v4', width: 0.8 },
	till: { label: 'till', path: 'M3 3l2 1M11 2a1.6 1.6 0 1 0 .01 0M6 10h.1M12 12l2-1M2 14h.1M7 6h.1', width: 1 },
	peat: { label: 'peat, soil', path: 'M3 6v-3M2 6h2M11 14v-3M10 14h2M8 3v-2M15 9v-2M5 12v-2', width: 0.9 },
	coal: { label: 'coal', path: 'M0 2h16M0 5h16M0 8h16M0 11h16M0 14h16', width: 1.9 },
	salt: { label: 'salt, gypsum', path: 'M4 1v6M1 4h6M12 9v6M9 12h6', width: 0.8 },
	granite: { label: 'granite', path: 'M3 3l3 3M6 3l-3 3M11 10l3 3M14 10l-3 3M12 4h.1M4 12h.1', width: 0.9 },
	basic: { label: 'gabbro, dolerite', path: 'M2 2l3 4 3-4M9 10l3 4 3-4', width: 0.9 },
	lava: { label: 'lava', path: 'M2 3l2.4 4 2.4-4M9 11l2.4 4 2.4-4M11 3h3M2 12h3', width: 0.9 },
	tuff: { label: 'tuff, ash', path: 'M2 2l1.6 3 1.6-3M10 10l1.6 3 1.6-3M11 3h.1M4 11h.1M8 7h.1', width: 1 },
	gneiss: { label: 'gneiss', path: 'M0 4c4-4 4 4 8 0s4 4 8 0M0 12c4-4 4 4 8 0s4 4 8 0', width: 0.9 },
	schist: { label: 'schist', path: 'M1 5c2-3 4-3 6 0M9 13c2-3 4-3 6 0M9 5c2-3 4-3 6 0M1 13c2-3 4-3 6 0', width: 0.9 },
	quartzite: { label: 'quartzite', path: 'M2 8h.1M8 2h.1M14 8h.1M8 14h.1M0 4l4-4M12 16l4-4', width: 1 },
	ore: { label: 'ore', path: 'M2 2h4v4h-4zM10 10h4v4h-4z', width: 1.3 },
	broken: { label: 'fault rock', path: 'M0 16L16 0M2 4l4 4M10 12l3 3', width: 0.9 },
	made: { label: 'made ground', path: 'M0 0l16 16M16 0L0 16', width: 0.6 }
} as const;

export type PatternName = keyof typeof PATTERNS;
export const isPattern = (name: string): name is PatternName => Object.hasOwn(PATTERNS, name);

/** An SVG pattern element that fills with a colour and draws the strokes in ink over it. @param id must be plain */
export const patternElement = (id: string, name: PatternName, color: string, ink = '#1E2A26', size = 16): string =>
	`<pattern id="${id}" width="${size}" height="${size}" patternUnits="userSpaceOnUse"><rect width="${size}" height="${size}" fill="${paintOf(color)}"/><path d="${PATTERNS[name].path}" transform="scale(${size / 16})" fill="none" stroke="${ink}" stroke-opacity="0.75" stroke-width="${PATTERNS[name].width}" stroke-linecap="round"/></pattern>`;

/** Words in names of codes and units that suggest a pattern, the more telling first. */
const SUGGESTIONS: [RegExp, PatternName][] = [
	[/breccia/, 'breccia'],
	[/conglom|gravel|\bcgl/, 'gravel'],
	[/siltst|\bsilt|\bslt/, 'silt'],
	[/sandst|\bsand|\bsst/, 'sand'],
	[/mudst|clay|\bmud|\bmdst/, 'mud'],
	[/shale|slate|\bsla\b/, 'shale'],
	[/dolom/, 'dolomite'],
	[/limest|\blst|carbonate|marble/, 'limestone'],
	[/chalk|marl/, 'chalk'],
	[/till|moraine|boulder clay/, 'till'],
	[/peat|soil|alluv/, 'peat'],
	[/coal|lignite/, 'coal'],
	[/salt|gypsum|anhydr|halite/, 'salt'],
	[/granit|granod|tonal|diorit/, 'granite'],
	[/gabbro|doler|basic|dyke/, 'basic'],
	[/basalt|andes|lava|rhyol/, 'lava'],
	[/tuff|ash|\btuf/, 'tuff'],
	[/gneiss/, 'gneiss'],
	[/schist|phyll/, 'schist'],
	[/quartzite/, 'quartzite'],
	[/skarn|ore|sulph|lode/, 'ore'],
	[/fault|gouge|cataclas/, 'broken'],
	[/made ground|fill/, 'made']
];

/** The pattern that a name suggests, or none. */
export const proposePattern = (name: string): PatternName | null =>
	SUGGESTIONS.find(([words]) => words.test(name.toLowerCase()))?.[1] ?? null;
