<svelte:options namespace="svg" />

<script lang="ts">
	import { DRAWN, INK } from '#core/palette';
	import type { DataSet } from '#core/datasets/dataset';
	import type { ProjectedHole } from '#core/sections/along-section';
	import { cssOf } from '#core/styles/style';
	import type { Workspace } from '$lib/workspace.svelte';
	import { barPaths, curvePaths, pathOf, rowsPath, type Place } from './section-drawing';

	interface Props {
		workspace: Workspace;
		/** Those in the corridor. */
		holes: readonly ProjectedHole[];
		/** The table that is shown along them. */
		along: DataSet | null;
		trace: [number, number][];
		place: Place;
		/** Of the pane and of the bars along holes, pixels. */
		width: number;
		barWidth: number;
	}
	/** Holes on a section, with the rows along them, those that are selected, and curves. */
	let { workspace, holes, along, trace, place, width, barWidth }: Props = $props();
	const sets = $derived(workspace.sets);
	const d = $derived((points: ArrayLike<number>) => pathOf(points, place));
	const selected = $derived(workspace.selectedHoles);
	const bars = $derived(along ? barPaths(workspace, along, holes, place) : new Map<number, string>());
	/** Rows along the holes that are selected. */
	const glow = $derived.by(() => {
		const s = workspace.selection;
		if (s?.kind !== 'rows' || s.table !== along?.id || along.place !== 'interval' || !sets.paths) return '';
		return rowsPath(along, new Set(s.rows), holes, sets.paths.holes.length, place);
	});
	const alongOpacity = $derived(along ? sets.style(along).opacity : 1);
	const curves = $derived(curvePaths(workspace, holes, trace, width, place));
</script>

{#each holes as h (h.hole)}
	{#if selected.has(h.name) && !glow}<path d={d(h.points)} fill="none" stroke={DRAWN} stroke-width={barWidth + 6} /><path
			d={d(h.points)}
			fill="none"
			stroke="#fff"
			stroke-width={barWidth + 3.5}
		/>{/if}
	<path d={d(h.points)} fill="none" stroke={INK} stroke-width={along ? barWidth + 2 : 1.5} />
	{#if along}<path d={d(h.points)} fill="none" stroke="#fff" stroke-width={barWidth} />{/if}
{/each}
{#if glow}<path d={glow} fill="none" stroke={DRAWN} stroke-width={barWidth + 7} />{/if}
<g opacity={alongOpacity}
	>{#each [...bars] as [rgb, path] (rgb)}<path d={path} fill="none" stroke={cssOf(rgb)} stroke-width={barWidth} />{/each}</g
>
{#each curves as c, i (i)}{#if c.fill}<path d={c.fill} fill={c.color} fill-opacity=".45" />{/if}<path
		d={c.line}
		fill="none"
		stroke={c.color}
		stroke-width="1.3"
	/>{/each}
