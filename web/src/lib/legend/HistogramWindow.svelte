<script lang="ts">
	import { INK } from '#core/palette';
	import type { NumberColumn } from '#core/datasets/dataset';
	import { histogramOf, statisticsOf } from '#core/statistics/spread';
	import type { ReadyScale } from '#core/styles/scale';
	import { sortedColumn } from '#core/styles/style';

	let {
		column,
		scale,
		log,
		window,
		change,
		point
	}: {
		column: NumberColumn;
		scale: ReadyScale;
		log: boolean;
		window: [number, number] | undefined;
		change: (window: [number, number] | null) => void;
		/** Values that the pointer stands on; null when it leaves. */
		point?: ((range: [number, number] | null) => void) | undefined;
	} = $props();
	const WIDTH = 206;
	const HEIGHT = 54;
	const sorted = $derived(sortedColumn(column));
	const bins = $derived(histogramOf(sorted, 40, { log, trimmed: true }));
	const most = $derived(Math.max(1, ...bins.counts));
	const low = $derived(bins.limits[0]!);
	const high = $derived(bins.limits[bins.limits.length - 1]!);
	const straight = $derived(!(log && low > 0));
	const x = $derived((v: number) =>
		Math.min(WIDTH, Math.max(0, (straight ? (v - low) / (high - low) : Math.log(Math.max(v, 1e-300) / low) / Math.log(high / low)) * WIDTH))
	);
	const value = $derived((px: number) => (straight ? low + ((high - low) * px) / WIDTH : low * (high / low) ** (px / WIDTH)));
	const statistics = $derived(statisticsOf(sorted, window?.[0], window?.[1]));
	const short = (v: number) => (Number.isNaN(v) ? '–' : String(Number(v.toPrecision(4))));
	let box: SVGSVGElement | undefined = $state();
	let drag: { part: 'low' | 'high' | 'both' | 'new'; from: number; was: [number, number] } | null = null;

	const at = (event: PointerEvent) => {
		const r = box!.getBoundingClientRect();
		return ((event.clientX - r.left) / r.width) * WIDTH;
	};
	const rounded = (v: number) => Number(v.toPrecision(4));
	/** A window from pixel to pixel; at an end of the axis it takes in all that lies beyond. */
	function set(a: number, b: number) {
		const [l, h] = [Math.min(a, b), Math.max(a, b)];
		const lowest = sorted[0] ?? low;
		const greatest = sorted[sorted.length - 1] ?? high;
		change([l <= 0.5 ? lowest : rounded(value(l)), h >= WIDTH - 0.5 ? greatest : rounded(value(h))]);
	}
	function down(event: PointerEvent) {
		const px = at(event);
		const was: [number, number] = window ? [x(window[0]), x(window[1])] : [0, WIDTH];
		const part = !window
			? 'new'
			: Math.abs(px - was[0]) < 6
				? 'low'
				: Math.abs(px - was[1]) < 6
					? 'high'
					: px > was[0] && px < was[1]
						? 'both'
						: 'new';
		drag = { part, from: px, was };
		box!.setPointerCapture(event.pointerId);
	}
	let pointed = -1;
	/** The bin under the pointer, told once. */
	function pointAt(event: PointerEvent) {
		const n = bins.counts.length;
		const i = Math.min(n - 1, Math.max(0, Math.floor((at(event) / WIDTH) * n)));
		if (i === pointed) return;
		pointed = i;
		// The last bins take in what lies beyond the axis.
		point?.([i === 0 ? -Infinity : bins.limits[i]!, i === n - 1 ? Infinity : bins.limits[i + 1]!]);
	}
	function leave() {
		pointed = -1;
		point?.(null);
	}
	function move(event: PointerEvent) {
		if (!drag) return point && event.pointerType !== 'touch' ? pointAt(event) : undefined;
		const px = Math.min(WIDTH, Math.max(0, at(event)));
		if (drag.part === 'new') {
			if (Math.abs(px - drag.from) > 2) set(drag.from, px);
		} else if (drag.part === 'both') {
			const shift = Math.min(WIDTH - drag.was[1], Math.max(-drag.was[0], px - drag.from));
			set(drag.was[0] + shift, drag.was[1] + shift);
		} else set(drag.part === 'low' ? px : drag.was[0], drag.part === 'high' ? px : drag.was[1]);
	}
	function keys(event: KeyboardEvent, end: 0 | 1) {
		const step = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key];
		if (step === undefined) return;
		event.preventDefault();
		const now: [number, number] = window ? [x(window[0]), x(window[1])] : [0, WIDTH];
		now[end] = Math.min(WIDTH, Math.max(0, now[end] + step * 3));
		if (now[0] < now[1]) set(...now);
	}
</script>

{#if sorted.length === 0}
	<p class="quiet text-xs">The column holds no number in any row in use.</p>
{:else}
	<svg
		bind:this={box}
		viewBox="0 0 {WIDTH} {HEIGHT + 4}"
		class="block w-full touch-none select-none"
		role="group"
		aria-label="Histogram of {column.label}. Drag over it to show only values in a window."
		onpointerdown={down}
		onpointermove={move}
		onpointerup={() => (drag = null)}
		onpointerleave={leave}
	>
		{#each bins.counts as n, i (i)}
			{@const mid = straight ? (bins.limits[i]! + bins.limits[i + 1]!) / 2 : Math.sqrt(bins.limits[i]! * bins.limits[i + 1]!)}
			<rect
				x={(i * WIDTH) / bins.counts.length}
				y={HEIGHT - (HEIGHT * n) / most}
				width={WIDTH / bins.counts.length - 0.6}
				height={(HEIGHT * n) / most}
				fill={scale.color(mid)}
				stroke={INK}
				stroke-opacity=".35"
				stroke-width=".5"
			/>
		{/each}
		<path d="M0 {HEIGHT + 0.5}h{WIDTH}" stroke="currentColor" stroke-opacity=".5" />
		{#if window}
			<rect x="0" y="0" width={x(window[0])} height={HEIGHT} fill="var(--color-base-100)" fill-opacity=".78" />
			<rect x={x(window[1])} y="0" width={WIDTH - x(window[1])} height={HEIGHT} fill="var(--color-base-100)" fill-opacity=".78" />
		{/if}
		{#each [0, 1] as const as end (end)}
			{@const px = window ? x(window[end]!) : end * WIDTH}
			<g
				role="slider"
				tabindex="0"
				aria-label="{end ? 'Upper' : 'Lower'} limit of {column.label}"
				aria-valuenow={window?.[end] ?? (end ? high : low)}
				aria-valuemin={low}
				aria-valuemax={high}
				onkeydown={(e) => keys(e, end)}
				class="cursor-ew-resize"
			>
				<path d="M{px} 0v{HEIGHT + 3}" stroke="var(--color-info)" stroke-width="2" /><rect
					x={px - 3}
					y={HEIGHT - 8}
					width="6"
					height="11"
					fill="var(--color-info)"
				/>
			</g>
		{/each}
	</svg>
	<div class="numbers flex justify-between text-xs">
		<span>{short(low)}</span><span>{column.unit}{straight ? '' : ', log'}</span><span>{short(high)}</span>
	</div>
	<dl class="numbers mt-1 grid grid-cols-4 gap-x-2 text-xs" aria-label="Of what is in the window">
		{#each [['count', String(statistics.count)], ['mean', short(statistics.mean)], ['median', short(statistics.median)], ['st. dev.', short(statistics.deviation)]] as const as [name, text] (name)}<div
			>
				<dt class="quiet">{name}</dt>
				<dd>{text}</dd>
			</div>{/each}
	</dl>
	{#if window}<button class="link text-xs" onclick={() => change(null)}>show all values again</button>{/if}
{/if}
