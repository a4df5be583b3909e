import { PinchGesture } from '@use-gesture/vanilla';

/**
 * Two fingers on a drawing, or a pinch on a touch pad.
 * @param zoom factor since the last call, and the place between the fingers, client pixels
 */
export function pinch(element: HTMLElement, zoom: (factor: number, x: number, y: number) => void): { destroy(): void } {
	const gesture = new PinchGesture(element, ({ movement: [scale], memo, origin: [x, y], first }) => {
		if (!first) zoom(scale / (memo as number), x, y);
		return scale;
	});
	return { destroy: () => gesture.destroy() };
}
