<svelte:options namespace="svg" />

<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';
	import { planeMarks, type Place } from './section-drawing';

	interface Props {
		workspace: Workspace;
		section: Parameters<typeof planeMarks>[1];
		place: Place;
		exaggeration: number;
		/** Elevation of the upper edge. */
		top: number;
	}
	/** Planes that were measured near a section, as they dip on it. */
	let { workspace, section, place, exaggeration, top }: Props = $props();
	const marks = $derived(planeMarks(workspace, section, place, exaggeration, top));
</script>

{#each marks as p, i (i)}
	<g data-what={p.what} data-row={p.row} data-table={p.table}
		><path
			d="M{p.x - p.dx} {p.y - p.dy}L{p.x + p.dx} {p.y + p.dy}"
			stroke="#fff"
			stroke-width="4.5"
			data-what={p.what}
			data-row={p.row}
			data-table={p.table}
		/><path
			d="M{p.x - p.dx} {p.y - p.dy}L{p.x + p.dx} {p.y + p.dy}"
			stroke={p.color}
			stroke-width="2.4"
			data-what={p.what}
			data-row={p.row}
			data-table={p.table}
		/></g
	>
{/each}
