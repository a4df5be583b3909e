<script lang="ts">
	import type { Pixel } from '#core/scene/in-outline';

	/**
	 * Takes an outline that is drawn over the scene: with a drag, or by keys from corner to corner.
	 * @param done gets the outline, pixels from the upper left, and the event that ended it
	 */
	let { done, leave }: { done: (outline: Pixel[], event: PointerEvent | KeyboardEvent) => void; leave: () => void } = $props();

	/** Steps of the arrow keys, pixels. */
	const STEP = 12;
	/** A drag goes on when the pointer has moved so far. */
	const LEAST = 3;
	let sheet = $state<SVGSVGElement | null>(null);
	let outline = $state.raw<Pixel[]>([]);
	/** Where the keys are; null until one is pressed. */
	let cross = $state<[number, number] | null>(null);
	let drawing = $state(false);
	$effect(() => sheet?.focus());

	const at = (event: PointerEvent): Pixel => {
		const r = sheet!.getBoundingClientRect();
		return [event.clientX - r.left, event.clientY - r.top];
	};
	function end(event: PointerEvent | KeyboardEvent) {
		const drawn = outline;
		outline = [];
		drawing = false;
		if (drawn.length > 2) done(drawn, event);
	}
	function move(event: PointerEvent) {
		if (!drawing) return;
		const [x, y] = at(event);
		const last = outline.at(-1)!;
		if (Math.hypot(x - last[0], y - last[1]) >= LEAST) outline = [...outline, [x, y]];
	}
	function keys(event: KeyboardEvent) {
		const r = sheet!.getBoundingClientRect();
		const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
		if (by) {
			const [x, y] = cross ?? [r.width / 2, r.height / 2];
			cross = [Math.min(r.width, Math.max(0, x + STEP * by[0]!)), Math.min(r.height, Math.max(0, y + STEP * by[1]!))];
		} else if (event.key === 'Enter' && event.shiftKey) end(event);
		else if (event.key === 'Enter') {
			cross ??= [r.width / 2, r.height / 2];
			outline = [...outline, cross];
		} else if (event.key === 'Backspace') outline = outline.slice(0, -1);
		else if (event.key === 'Escape') leave();
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<svg
	bind:this={sheet}
	class="absolute inset-0 h-full w-full cursor-crosshair touch-none"
	role="application"
	tabindex="0"
	aria-label="Outline: draw round intervals. By keys: arrows move the cross, Enter sets a corner, Backspace takes it back, Shift Enter ends, Escape leaves."
	onpointerdown={(e) => {
		if (!e.isPrimary || e.button !== 0) return;
		sheet!.setPointerCapture(e.pointerId);
		cross = null;
		outline = [at(e)];
		drawing = true;
	}}
	onpointermove={move}
	onpointerup={(e) => drawing && end(e)}
	onpointercancel={() => {
		outline = [];
		drawing = false;
	}}
	onkeydown={keys}
>
	<polygon
		points={outline.map((p) => p.join()).join(' ')}
		fill="var(--color-primary)"
		fill-opacity="0.12"
		stroke="var(--color-primary)"
		stroke-width="1.5"
		stroke-dasharray="4 3"
	/>
	{#if cross}<path
			d="M{cross[0] - 8} {cross[1]}h16M{cross[0]} {cross[1] - 8}v16"
			stroke="var(--color-primary)"
			stroke-width="1.5"
			fill="none"
		/>{/if}
</svg>
