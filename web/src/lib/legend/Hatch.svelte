<script lang="ts">
	import { INK } from '#core/palette';
	import { PATTERNS, type PatternName } from '#core/styles/patterns';

	/** A pattern of SVG to fill with: strokes in ink, over a colour when there is one. */
	let {
		id,
		pattern,
		color = null,
		size = 16,
		ink = 0.75
	}: { /** Must be plain. */ id: string; pattern: PatternName; color?: string | null; size?: number; ink?: number } = $props();
</script>

<pattern {id} width={size} height={size} patternUnits="userSpaceOnUse"
	>{#if color}<rect width={size} height={size} fill={color} />{/if}<path
		d={PATTERNS[pattern].path}
		transform="scale({size / 16})"
		fill="none"
		stroke={INK}
		stroke-opacity={ink}
		stroke-width={PATTERNS[pattern].width}
		stroke-linecap="round"
	/></pattern
>
