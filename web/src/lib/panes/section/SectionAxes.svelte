<svelte:options namespace="svg" />

<script lang="ts">
	import { spaced, ticks } from '#core/formats/ticks';
	import { INK } from '#core/palette';
	import type { Place } from './section-drawing';

	interface Props {
		/** What is seen of the section, pixels. */
		frame: { x0: number; x1: number; y0: number; y1: number };
		place: Place;
		/** Least and greatest elevation. */
		range: [number, number];
		length: number;
		/** Pixels by length unit, along and upwards. */
		sx: number;
		sz: number;
		unit: string;
		name: string;
	}
	/** Elevations, distances and the letters at both ends. */
	let { frame, place, range, length, sx, sz, unit, name }: Props = $props();
	const { X, Y } = $derived(place);
</script>

{#each ticks(range[0], range[1], Math.max(3, (sz * (range[1] - range[0])) / 30)) as z (z)}
	{#if Y(z) >= frame.y0 - 1 && Y(z) <= frame.y1 + 1}<path d="M{frame.x0 - 4} {Y(z)}h4" stroke={INK} /><text
			x={frame.x0 - 7}
			y={Y(z) + 4}
			text-anchor="end"
			fill={INK}>{spaced(z)}</text
		>{/if}
{/each}
{#each ticks(0, length, Math.max(2, (sx * length) / 90)) as x (x)}
	{#if X(x) >= frame.x0 - 1 && X(x) <= frame.x1 + 1}<path d="M{X(x)} {frame.y1}v4" stroke={INK} /><text
			x={X(x)}
			y={frame.y1 + 16}
			text-anchor="middle"
			fill={INK}>{spaced(x)}{x === 0 ? ` ${unit}` : ''}</text
		>{/if}
{/each}
<text x={frame.x0} y={frame.y0 - 22} font-weight="600" fill={INK}>{name}</text><text
	x={frame.x1}
	y={frame.y0 - 22}
	text-anchor="end"
	font-weight="600"
	fill={INK}>{name}′</text
>
