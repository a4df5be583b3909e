import { INK, NIGHT_INK, PAPER, SPACE_NIGHT, SPACE_PAPER, SPACE_SKY } from '#core/palette';
import type { SpaceScene } from './scene';

/** By name: the colour behind everything, and that behind letters. */
const PAPERS: Record<string, [string, string]> = {
	paper: [SPACE_PAPER, 'rgba(255,255,255,0.8)'],
	white: [PAPER, 'rgba(255,255,255,0.85)'],
	night: [SPACE_NIGHT, 'rgba(18,24,26,0.8)'],
	sky: [SPACE_SKY, 'rgba(255,255,255,0.8)']
};
export const BACKGROUNDS = Object.keys(PAPERS);

/** Draws the background that was chosen, paper by night as night, as the theme changes. @returns ends that */
export function keepBackground(scene: SpaceScene, chosen: string): () => void {
	const paint = () => {
		const night = document.documentElement.dataset['theme'] === 'malachite-night';
		const name = chosen === 'paper' && night ? 'night' : chosen;
		const [color, paper] = PAPERS[name] ?? PAPERS['paper']!;
		Object.assign(scene.overlay, { ink: name === 'night' ? NIGHT_INK : INK, paper });
		scene.stage.background(color);
	};
	paint();
	const watch = new MutationObserver(paint);
	watch.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] });
	return () => watch.disconnect();
}
