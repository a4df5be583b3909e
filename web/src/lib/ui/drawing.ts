const SVG = 'http://www.w3.org/2000/svg';
const ELEMENTS = new Set([
	'g',
	'path',
	'rect',
	'circle',
	'ellipse',
	'line',
	'polyline',
	'polygon',
	'text',
	'tspan',
	'defs',
	'pattern',
	'clipPath',
	'image',
	'title',
	'linearGradient',
	'stop'
]);
const ATTRIBUTES = new Set([
	'd',
	'x',
	'y',
	'x1',
	'y1',
	'x2',
	'y2',
	'cx',
	'cy',
	'r',
	'rx',
	'ry',
	'dx',
	'dy',
	'width',
	'height',
	'points',
	'transform',
	'fill',
	'fill-opacity',
	'fill-rule',
	'stroke',
	'stroke-width',
	'stroke-opacity',
	'stroke-dasharray',
	'stroke-linecap',
	'stroke-linejoin',
	'paint-order',
	'opacity',
	'font-size',
	'font-weight',
	'font-style',
	'font-family',
	'text-anchor',
	'id',
	'clip-path',
	'clip-rule',
	'patternUnits',
	'patternTransform',
	'preserveAspectRatio',
	'offset',
	'stop-color',
	'viewBox'
]);
/** Pictures that a drawing may show: of this server, made by this page, or part of the drawing. */
const PICTURE = /^(blob:|data:image\/(png|jpeg);base64,|\/api\/v1\/)/;
/** A reference may only lead to a part of the drawing itself. */
const OUTSIDE = /url\(\s*['"]?(?!#)/i;

/**
 * The elements of a drawing from its markup. Only what drawings are made of is taken over: no scripts, no handlers, no styles, nothing
 * that is loaded from elsewhere. This is the one place where markup becomes part of a page.
 */
function drawingOf(markup: string): DocumentFragment {
	const parsed = new DOMParser().parseFromString(`<svg xmlns="${SVG}">${markup}</svg>`, 'image/svg+xml');
	const out = document.createDocumentFragment();
	if (parsed.querySelector('parsererror')) return out;
	const take = (from: Element, to: ParentNode): void => {
		for (const node of from.childNodes) {
			if (node.nodeType === Node.TEXT_NODE) to.append(document.createTextNode(node.nodeValue ?? ''));
			if (!(node instanceof Element) || node.namespaceURI !== SVG || !ELEMENTS.has(node.localName)) continue;
			const own = document.createElementNS(SVG, node.localName);
			for (const { name, value } of node.attributes) {
				if (name === 'href' || name === 'xlink:href') {
					if (node.localName === 'image' && PICTURE.test(value)) own.setAttribute('href', value);
				} else if (ATTRIBUTES.has(name) && !OUTSIDE.test(value)) own.setAttribute(name, value);
			}
			take(node, own);
			to.append(own);
		}
	};
	take(parsed.documentElement, out);
	return out;
}

/** Draws markup into an element of a drawing, and again when it changes. */
export function drawn(node: SVGElement, markup: string) {
	const show = (text: string) => node.replaceChildren(drawingOf(text));
	show(markup);
	return { update: show };
}
