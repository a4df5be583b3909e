import { UNKNOWN } from '../palette';
/** Text inside an SVG document, or in a quoted attribute of it. */
export const escaped = (t: string): string =>
	t.replace(/[&<>"']/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' })[c]!);

const COLOR = /^(#[0-9a-f]{3,8}|rgba?\([\d.,%\s/]+\)|[a-z]{3,20})$/i;

/** A colour as an attribute of a drawing; grey for anything that is none. */
export const paintOf = (color: string): string => (COLOR.test(color) ? color : UNKNOWN);
