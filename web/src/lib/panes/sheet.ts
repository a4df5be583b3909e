import { PAPER } from '#core/palette';

/** An empty sheet of a size in pixels that a picture is drawn on. */
export function sheetOf(width: number, height: number, color = PAPER): { canvas: HTMLCanvasElement; context: CanvasRenderingContext2D } {
	const canvas = document.createElement('canvas');
	canvas.width = width;
	canvas.height = height;
	const context = canvas.getContext('2d')!;
	context.fillStyle = color;
	context.fillRect(0, 0, width, height);
	return { canvas, context };
}
