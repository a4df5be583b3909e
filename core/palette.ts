/** The colours that pictures are drawn with, beside those of units and data. Pages take theirs from the theme (`web/src/app.css`). */
export const INK = '#1E2A26';
/** What is drawn by hand or is being drawn; what a pointer marks. */
export const DRAWN = '#2B5FA8';
export const DRAWN_DARK = '#174D8C';
/** What is not known, or has no unit. */
export const UNKNOWN = '#888888';
export const PAPER = '#FFFFFF';
export const FAULT_RED = '#8A2F2F';
/** Findings: held back, and noted. */
export const HELD = '#8A2F5C';
export const NOTED = '#A87B12';
/** The same for words on paper. */
export const NOTED_TEXT = '#8C6510';
/** Rules, frames and quiet lines. */
export const RULE = '#9AA09A';
export const GREEN = '#0F7B5F';
export const COPPER = '#B4622D';
export const MOSS = '#4A5E57';
export const FAULT_DARK = '#7A2424';
/** The ground of plots, of the map where there is no map, of the small picture of a project. */
export const PLOT = '#FBFAF7';
export const SEA = '#E9EDEC';
export const SHEET = '#F6F3EC';
/** Contour lines and their heights; outlines of polygons; frames on sections; what is quiet on a map. */
export const CONTOUR = '#9A7B4F';
export const CONTOUR_TEXT = '#7A5D34';
export const OUTLINE = '#3A4743';
export const GRATICULE = '#D9D3C5';
export const QUIET = '#8C8877';
/** Without a value; without a name of its own. */
export const BLANK = '#C9C6BC';
export const NAMELESS = '#4A4A4A';
/** Behind the block in space, and the ink of its night. */
export const SPACE_PAPER = '#EFECE3';
export const SPACE_NIGHT = '#12181A';
export const SPACE_SKY = '#D8E4EA';
export const NIGHT_INK = '#E4EAE6';
/** Text and lines of the axes of charts, by day and by night. */
export const AXES = { day: ['#4B5553', '#0000001A'], night: ['#B7C1BE', '#FFFFFF1F'] } as const;
