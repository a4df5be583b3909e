<script lang="ts">
	import { spaced } from '#core/formats/ticks';
	import type { ReadyScale } from '#core/styles/scale';
	/** @param unit of the values, as it stands after a number */
	let { label, scale, log = false, unit = '' }: { label: string; scale: ReadyScale; log?: boolean; unit?: string } = $props();
	const value = $derived((t: number) => (log ? scale.low * (scale.high / scale.low) ** t : scale.low + (scale.high - scale.low) * t));
	const digits = $derived(Math.abs(scale.high - scale.low) < 10 ? 2 : Math.abs(scale.high - scale.low) < 100 ? 1 : 0);
	/** Classes where the scale has limits, else a smooth ramp. */
	const background = $derived(
		scale.limits.length
			? `linear-gradient(to right, ${[-Infinity, ...scale.limits].map((v, i, all) => `${scale.color(v === -Infinity ? scale.limits[0]! - 1 : v)} ${(100 * i) / all.length}% ${(100 * (i + 1)) / all.length}%`).join(',')})`
			: `linear-gradient(to right, ${Array.from({ length: 9 }, (_, i) => scale.color(value(i / 8))).join(',')})`
	);
</script>

<div class="bg-base-100/90 px-2 py-1 text-xs">
	{#if label}<div class="mb-0.5">{label}{log ? ', log' : ''}</div>{/if}
	<div class="h-2.5 w-36" style="background: {background}"></div>
	<div class="numbers flex justify-between">
		{#if scale.limits.length}{#each scale.limits as l (l)}<span>{Number(l.toPrecision(3))}</span>{/each}{:else}<span
				>{spaced(scale.low, digits)}</span
			><span>{spaced(scale.high, digits)}{unit}</span>{/if}
	</div>
</div>
