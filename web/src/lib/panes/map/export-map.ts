import { INK, SEA } from '#core/palette';
import { spaced, ticks } from '#core/formats/ticks';
import type OlMap from 'ol/Map';
import { sheetOf } from '../sheet';

/** The map as a picture of any size: what it shows now, drawn anew at that size. */
export function exportMap(map: OlMap, width: number, height: number): Promise<HTMLCanvasElement> {
	const size = map.getSize() as [number, number];
	const view = map.getView();
	const resolution = view.getResolution()!;
	return new Promise((resolve, reject) => {
		map.once('rendercomplete', () => {
			try {
				const { canvas, context } = sheetOf(width, height, SEA);
				for (const layer of map.getViewport()?.querySelectorAll<HTMLCanvasElement>('.ol-layer canvas, canvas.ol-layer') ?? []) {
					if (layer.width === 0) continue;
					const opacity = layer.parentElement?.style.opacity || layer.style.opacity;
					context.globalAlpha = opacity === '' ? 1 : Number(opacity);
					const matrix = /^matrix\(([^)]*)\)$/.exec(layer.style.transform)?.[1]?.split(',').map(Number);
					if (matrix) context.setTransform(...(matrix as [number, number, number, number, number, number]));
					else context.setTransform(width / layer.width, 0, 0, height / layer.height, 0, 0);
					context.drawImage(layer, 0, 0);
				}
				context.setTransform(1, 0, 0, 1, 0, 0);
				context.globalAlpha = 1;
				resolve(canvas);
			} catch (error) {
				reject(error instanceof Error ? error : new Error(String(error)));
			} finally {
				map.setSize(size);
				view.setResolution(resolution);
			}
		});
		map.setSize([width, height]);
		view.setResolution(resolution / Math.min(width / size[0], height / size[1]));
		map.renderSync();
	});
}

/** The map as picture with the coordinates of its frame as text: vector symbols of the map are drawn into the picture. */
export function mapSvg([w, h]: [number, number], [x0, y0, x1, y1]: [number, number, number, number], picture: string): string {
	const X = (v: number) => ((v - x0) / (x1 - x0)) * w;
	const Y = (v: number) => h - ((v - y0) / (y1 - y0)) * h;
	const marks = [
		...ticks(x0, x1, 5).map(
			(v) => `<path d="M${X(v)} ${h}v-6" stroke="${INK}"/><text x="${X(v)}" y="${h - 9}" text-anchor="middle">${spaced(v)}</text>`
		),
		...ticks(y0, y1, 5).map((v) => `<path d="M0 ${Y(v)}h6" stroke="${INK}"/><text x="9" y="${Y(v) + 4}">${spaced(v)}</text>`)
	].join('');
	return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" font-family="IBM Plex Sans, sans-serif" font-size="11" fill="${INK}"><image width="${w}" height="${h}" href="${picture}"/>${marks}</svg>`;
}
