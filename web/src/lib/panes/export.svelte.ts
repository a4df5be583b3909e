import { sheetOf } from './sheet';
import { onDestroy } from 'svelte';
import { SvelteMap } from 'svelte/reactivity';

/** How a pane is saved as a picture. */
interface Exporter {
	/** Stands in the name of the file. */
	name: string;
	/** The pane as a picture of a size, pixels. */
	png?: (width: number, height: number) => Promise<HTMLCanvasElement>;
	/** The pane as drawing; for flat views. */
	svg?: () => string | Promise<string>;
}

/** Exporters by the id of their pane. */
export const exporters = new SvelteMap<string, Exporter>();

/** Says how the pane of this component is saved, as long as it stands. */
export function setExporter(id: () => string, exporter: Exporter): void {
	const own = id();
	exporters.set(own, exporter);
	onDestroy(() => {
		if (exporters.get(own) === exporter) exporters.delete(own);
	});
}

/** A drawing as a picture of a width; fonts of the page are not embedded, so the browser's own stand in. */
export async function rasterise(svg: string, width: number, height: number): Promise<HTMLCanvasElement> {
	const image = new Image();
	image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
	await image.decode();
	const { canvas, context } = sheetOf(width, height);
	context.drawImage(image, 0, 0, width, height);
	return canvas;
}
