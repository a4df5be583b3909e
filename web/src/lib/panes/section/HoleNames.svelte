<svelte:options namespace="svg" />

<script lang="ts">
	import { INK } from '#core/palette';
	import type { ProjectedHole } from '#core/sections/along-section';
	import type { Workspace } from '$lib/workspace.svelte';
	import { holeNames, type Place } from './section-drawing';

	interface Props {
		workspace: Workspace;
		holes: readonly ProjectedHole[];
		/** What is seen of the section, pixels. */
		frame: { x0: number; x1: number; y0: number; y1: number };
		place: Place;
	}
	/** The names of holes in a row above the section, each led to its collar. */
	let { workspace, holes, frame, place }: Props = $props();
</script>

{#each holeNames(holes, frame, place, workspace.selectedHoles) as l (l.name)}
	<path
		d="M{l.x} {l.collar}V{Math.min(l.collar, frame.y0 + 8)}L{l.at} {frame.y0 - 2}"
		fill="none"
		stroke={INK}
		stroke-opacity=".6"
		stroke-width=".7"
		class="pointer-events-none"
	/><text
		x={l.at}
		y={frame.y0 - 6}
		text-anchor="middle"
		class="pointer-events-none"
		stroke="#fff"
		stroke-width="3"
		paint-order="stroke"
		fill={INK}>{l.text}</text
	>
{/each}
