import proj4 from 'proj4';
import { ask } from '$lib/api/client';

/** Brings project coordinates to longitude and latitude (WGS 84) and back; null on a local grid. */
export interface Geographic {
	forward: (p: [number, number]) => [number, number];
	inverse: (p: [number, number]) => [number, number];
}

const known = new Map<number, Promise<Geographic | null>>();

export function geographicOf(epsg: number): Promise<Geographic | null> {
	if (!epsg) return Promise.resolve(null);
	let g = known.get(epsg);
	if (!g) {
		g = ask('coordinateSystem', { code: epsg }).then(
			({ definition }) => {
				const c = proj4(definition, '+proj=longlat +datum=WGS84 +no_defs');
				return { forward: (p) => c.forward(p), inverse: (p) => c.inverse(p) };
			},
			() => null
		);
		known.set(epsg, g);
	}
	return g;
}

/** Degrees, minutes and seconds with the letter of the hemisphere. */
export function degrees(v: number, letters: 'EW' | 'NS'): string {
	const total = Math.round(Math.abs(v) * 36_000) / 10;
	const d = Math.floor(total / 3600);
	const m = Math.floor((total - d * 3600) / 60);
	return `${d}°${String(m).padStart(2, '0')}′${(total - d * 3600 - m * 60).toFixed(1).padStart(4, '0')}″${v < 0 ? letters[1] : letters[0]}`;
}
