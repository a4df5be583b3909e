import type { Feature, Geometry, Position } from 'geojson';
import { fail } from '../problem';
import type { Layer } from './layer';

/** The elements below another one. */
const below = (e: Element): Element[] => Array.from(e.childNodes).filter((n): n is Element => n.nodeType === 1);
const nameOf = (e: Element): string => e.localName ?? e.nodeName.replace(/^.*:/, '');
const first = (e: Element, ...names: string[]): Element | undefined => below(e).find((c) => names.includes(nameOf(c)));
const found = (e: Element, ...names: string[]): Element[] =>
	below(e).flatMap((c) => (names.includes(nameOf(c)) ? [c] : found(c, ...names)));

const GEOMETRIES = [
	'Point',
	'LineString',
	'Curve',
	'Polygon',
	'Surface',
	'MultiPoint',
	'MultiLineString',
	'MultiCurve',
	'MultiPolygon',
	'MultiSurface',
	'MultiGeometry',
	'Triangle',
	'TriangulatedSurface',
	'Tin',
	'PolyhedralSurface'
];

/** Systems of degrees name latitude first when they are called by their full name; short codes have longitude first. */
const LATITUDE_FIRST = /^(urn:|https?:)/i;

/**
 * Features of GML 2 or 3 (OGC 07-036r1): points, lines, polygons, patches, and many of them; properties are the elements of text of
 * each feature. Arcs are not read and are counted.
 * @throws ProblemError `empty-file`
 */
export function readGml(root: Element): Layer {
	const features: Feature<Geometry>[] = [];
	let epsg: number | null = null;
	let leftOut = 0;
	const visit = (e: Element): void => {
		for (const c of below(e)) {
			const n = nameOf(c);
			if (n === 'featureMember' || n === 'member' || n === 'featureMembers' || n === 'members') for (const f of below(c)) feature(f);
			else if (n !== 'boundedBy') visit(c);
		}
	};
	const feature = (e: Element): void => {
		const properties: Record<string, unknown> = {};
		const id = Array.from(e.attributes).find((a) => /(^|:)(id|fid)$/.test(a.name));
		if (id) properties['id'] = id.value;
		for (const p of below(e)) {
			const n = nameOf(p);
			if (n === 'boundedBy') continue;
			const inner = below(p);
			const g = inner.find((c) => GEOMETRIES.includes(nameOf(c)));
			if (g) {
				const system = [g, ...found(g, ...GEOMETRIES)].map((x) => x.getAttribute('srsName')).find(Boolean) ?? '';
				const code = Number(/(?:EPSG|epsg)(?:\/0\/|::?|\.xml#)(?:[\d.]*:)?(\d+)/.exec(system)?.[1] ?? NaN);
				if (Number.isFinite(code)) epsg ??= code;
				const swap = LATITUDE_FIRST.test(system) && (code === 4326 || code === 4258 || code === 4979);
				const geometry = shape(g, Number(g.getAttribute('srsDimension')) || 0, swap);
				if (geometry) features.push({ type: 'Feature', geometry, properties });
				else leftOut++;
			} else if (inner.length === 0) properties[n] = (p.textContent ?? '').trim();
		}
	};
	visit(root);
	if (features.length === 0)
		return fail(
			'empty-file',
			'the file has no features with a place',
			leftOut ? 'Its shapes are curves of a kind that is not read.' : 'Choose another file.'
		);
	return { features, epsg, ...(leftOut ? { notes: [`${leftOut} shapes of a kind that is not read are left out`] } : {}) };
}

function shape(e: Element, dimension: number, swap: boolean): Geometry | null {
	const of = (x: Element) => positions(x, dimension, swap);
	const parts = (...names: string[]) =>
		found(e, ...names)
			.map((p) => shape(p, dimension, swap))
			.filter((g): g is Geometry => g !== null);
	switch (nameOf(e)) {
		case 'Point': {
			const p = of(e);
			return p[0] ? { type: 'Point', coordinates: p[0] } : null;
		}
		case 'LineString': {
			const line = of(e);
			return line.length > 1 ? { type: 'LineString', coordinates: line } : null;
		}
		case 'Curve': {
			const segments = first(e, 'segments');
			if (!segments || below(segments).some((s) => nameOf(s) !== 'LineStringSegment')) return null;
			const line = below(segments).flatMap(of);
			return line.length > 1 ? { type: 'LineString', coordinates: line } : null;
		}
		case 'Polygon':
		case 'PolygonPatch':
		case 'Triangle': {
			const rings = below(e)
				.filter((b) => ['exterior', 'interior', 'outerBoundaryIs', 'innerBoundaryIs'].includes(nameOf(b)))
				.map(of);
			return rings[0] && rings[0].length > 3 ? { type: 'Polygon', coordinates: rings } : null;
		}
		case 'MultiPoint':
			return many('MultiPoint', parts('Point'));
		case 'MultiLineString':
		case 'MultiCurve':
			return many('MultiLineString', parts('LineString', 'Curve'));
		case 'MultiGeometry': {
			const geometries = parts(...GEOMETRIES);
			return geometries.length ? { type: 'GeometryCollection', geometries } : null;
		}
		default:
			return many('MultiPolygon', parts('Polygon', 'PolygonPatch', 'Triangle'));
	}
}

const many = (type: 'MultiPoint' | 'MultiLineString' | 'MultiPolygon', of: Geometry[]): Geometry | null =>
	of.length ? ({ type, coordinates: of.map((g) => (g as { coordinates: unknown }).coordinates) } as Geometry) : null;

/** The coordinates below an element, as newer and older files write them. */
function positions(e: Element, dimension: number, swap: boolean): Position[] {
	const list: Position[] = [];
	const take = (text: string, per: number) => {
		const numbers = text.trim().split(/\s+/).map(Number);
		for (let i = 0; i + per <= numbers.length; i += per) {
			const [a, b, ...z] = numbers.slice(i, i + per) as [number, number, ...number[]];
			list.push(swap ? [b, a, ...z] : [a, b, ...z]);
		}
	};
	for (const p of found(e, 'pos', 'posList', 'coordinates', 'coord')) {
		const text = p.textContent ?? '';
		const own = Number(p.getAttribute('srsDimension')) || dimension;
		if (nameOf(p) === 'pos') take(text, text.trim().split(/\s+/).length);
		else if (nameOf(p) === 'posList') take(text, own || 2);
		else if (nameOf(p) === 'coord')
			take(
				below(p)
					.map((c) => c.textContent)
					.join(' '),
				below(p).length
			);
		else for (const tuple of text.trim().split(/\s+/)) take(tuple.replaceAll(',', ' '), tuple.split(',').length);
	}
	return list;
}
