import { spaced, ticks } from '#core/formats/ticks';
import { degrees, type Geographic } from '$lib/workbench/geographic.svelte';

interface GraticuleLine {
	points: [number, number][];
	name: string;
	geographic: boolean;
}

/** Lines of round project coordinates in a box (west, south, east, north), and of round longitudes and latitudes where they are known. */
export function graticuleLines([x0, y0, x1, y1]: [number, number, number, number], geographic: Geographic | null): GraticuleLine[] {
	const lines: GraticuleLine[] = [
		...ticks(x0, x1, 5).map((x) => ({
			points: [
				[x, y0],
				[x, y1]
			] as [number, number][],
			name: `${spaced(x)} E`,
			geographic: false
		})),
		...ticks(y0, y1, 5).map((y) => ({
			points: [
				[x0, y],
				[x1, y]
			] as [number, number][],
			name: `${spaced(y)} N`,
			geographic: false
		}))
	];
	if (!geographic) return lines;
	const corners = (
		[
			[x0, y0],
			[x1, y0],
			[x1, y1],
			[x0, y1]
		] as [number, number][]
	).map((c) => geographic.forward(c));
	if (corners.some((c) => !c.every(Number.isFinite))) return lines;
	const [west, east] = [Math.min(...corners.map((c) => c[0])), Math.max(...corners.map((c) => c[0]))];
	const [south, north] = [Math.min(...corners.map((c) => c[1])), Math.max(...corners.map((c) => c[1]))];
	// Round minutes or seconds, whichever gives about four lines.
	const step =
		[1 / 3600, 2 / 3600, 5 / 3600, 10 / 3600, 30 / 3600, 1 / 60, 2 / 60, 5 / 60, 10 / 60, 0.5, 1, 2, 5, 10].find(
			(s) => Math.max(east - west, north - south) / s <= 5
		) ?? 30;
	const along = Array.from({ length: 17 }, (_, i) => i / 16);
	for (let lon = Math.ceil(west / step) * step; lon <= east; lon += step)
		lines.push({
			points: along.map((t) => geographic.inverse([lon, south + (north - south) * t])),
			name: degrees(lon, 'EW'),
			geographic: true
		});
	for (let lat = Math.ceil(south / step) * step; lat <= north; lat += step)
		lines.push({
			points: along.map((t) => geographic.inverse([west + (east - west) * t, lat])),
			name: degrees(lat, 'NS'),
			geographic: true
		});
	return lines;
}
