import ImageCanvas from 'ol/source/ImageCanvas';
import type { Placement } from '#core/formats/picture';

/**
 * From corners of pixels of a picture (right, down) to pixels of a canvas that shows a box of the map, as the six numbers of a canvas transform.
 * @param placement takes centres of pixels to map coordinates
 * @param extent west, south, east, north of the box, map units
 * @param scale canvas pixels per map unit
 */
export function pictureTransform(p: Placement, extent: readonly number[], scale: number): [number, number, number, number, number, number] {
	const [west, , , north] = extent as [number, number, number, number];
	return [
		p.a * scale,
		-p.d * scale,
		p.b * scale,
		-p.e * scale,
		(p.c - (p.a + p.b) / 2 - west) * scale,
		(north - p.f + (p.d + p.e) / 2) * scale
	];
}

/** A picture on the map, turned and scaled as it is placed. */
export function placedPicture(url: string, placement: Placement): ImageCanvas {
	const image = new Image();
	const source = new ImageCanvas({
		canvasFunction: (extent, _resolution, _pixelRatio, size) => {
			const canvas = document.createElement('canvas');
			[canvas.width, canvas.height] = size as [number, number];
			const context = canvas.getContext('2d');
			if (context && image.complete && image.naturalWidth) {
				context.setTransform(...pictureTransform(placement, extent, canvas.width / (extent[2]! - extent[0]!)));
				context.drawImage(image, 0, 0);
			}
			return canvas;
		}
	});
	image.onload = () => source.changed();
	image.src = url;
	return source;
}

/** A picture that lies square on the map, drawn as it is: nothing of it is encoded and read again. @param extent west, south, east, north of its edges, map units */
export function gridPicture(picture: HTMLCanvasElement, extent: readonly number[], smooth: boolean): ImageCanvas {
	const [west, south, east, north] = extent as [number, number, number, number];
	return new ImageCanvas({
		canvasFunction: (shown, _resolution, _pixelRatio, size) => {
			const canvas = document.createElement('canvas');
			[canvas.width, canvas.height] = size as [number, number];
			const context = canvas.getContext('2d');
			if (!context) return canvas;
			const scale = canvas.width / (shown[2]! - shown[0]!);
			context.imageSmoothingEnabled = smooth;
			context.drawImage(picture, (west - shown[0]!) * scale, (shown[3]! - north) * scale, (east - west) * scale, (north - south) * scale);
			return canvas;
		}
	});
}
