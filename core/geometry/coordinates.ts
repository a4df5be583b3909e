import proj4 from 'proj4';
import { applySimilarity, type Similarity } from './similarity';

/** How the coordinates of a file come into the system of the project. Nothing given: they are in it already. */
export interface Coordinates {
	/** EPSG codes, for people; the definitions are what counts. */
	fromEpsg?: number;
	toEpsg?: number;
	/** Definitions in the form of PROJ strings. */
	from?: string;
	to?: string;
	/** From a site grid. */
	site?: Similarity;
	/** Added to elevations. */
	verticalShift?: number;
}

/** The map from the file's plane to the project's; null when there is nothing to do. */
export function placing(c: Coordinates): ((x: number, y: number) => [number, number]) | null {
	if (c.site) return (x, y) => applySimilarity(c.site!, x, y);
	if (!c.from || !c.to) return null;
	const transform = proj4(c.from, c.to);
	return (x, y) => {
		if (!Number.isFinite(x) || !Number.isFinite(y)) return [NaN, NaN];
		const [u, v] = transform.forward([x, y]);
		return [u!, v!];
	};
}

/** The map back from the project's plane to the file's. */
export function placingBack(c: Coordinates): ((x: number, y: number) => [number, number]) | null {
	if (c.site) {
		const { a, b, from, to } = c.site;
		const d = a * a + b * b;
		return (x, y) => applySimilarity({ a: a / d, b: -b / d, from: to, to: from }, x, y);
	}
	return c.from && c.to ? placing({ from: c.to, to: c.from }) : null;
}
