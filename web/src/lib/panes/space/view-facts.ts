import { spaced } from '#core/formats/ticks';
import { RADIANS } from '#core/geometry/angles';
import type { Stage } from './stage';

/** A bar of the scale is as long as this at most, pixels. */
const LONGEST_BAR = 130;

/** Where a view looks to, degrees from north, and how long a bar of a round length is at what it looks at. */
export function viewFacts(stage: Stage, unit: string): { heading: number; scaleBar: { px: number; text: string } } {
	const toward = stage.camera.position.clone().sub(stage.controls.target);
	const perPixel = stage.pixelAt(stage.controls.target);
	const power = 10 ** Math.floor(Math.log10(perPixel * LONGEST_BAR));
	const length = ([5, 2, 1].find((m) => m * power <= perPixel * LONGEST_BAR) ?? 1) * power;
	return {
		heading: Math.atan2(-toward.x, -toward.y) / RADIANS,
		scaleBar: { px: length / perPixel, text: `${spaced(length, length < 1 ? 2 : 0)} ${unit}` }
	};
}
