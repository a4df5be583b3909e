<script lang="ts">
	import { DRAWN, INK, MOSS } from '#core/palette';
	import { WALLS } from '#core/project/shaping';
	import { projectOnTrace, type Trace } from '#core/sections/section';
	import type { Workspace } from '$lib/workspace.svelte';

	/** Contacts with elevations that were drawn or typed near the section, and the one that is being drawn. */
	let {
		workspace,
		trace,
		corridor,
		X,
		Y,
		drawn
	}: {
		workspace: Workspace;
		trace: Trace;
		corridor: number;
		X: (s: number) => number;
		Y: (z: number) => number;
		/** Distance and elevation of the vertices so far. */ drawn: [number, number][];
	} = $props();
	const lines = $derived(
		(workspace.interpretation?.shaping.lines ?? []).flatMap((l) => {
			if (!l.on) return [];
			const places = (l.vertices ?? []).flatMap(([x, y, z]) => {
				if (z === null) return [];
				const at = projectOnTrace(trace, x, y);
				return at.off <= corridor ? [[at.along, z] as const] : [];
			});
			return places.length
				? [
						{
							id: l.id,
							name: l.name,
							isLine: l.tells === 'base' || l.tells === 'top' || WALLS[l.tells] !== undefined,
							color: workspace.allUnits.find((u) => u.id === l.unit)?.color ?? MOSS,
							places
						}
					]
				: [];
		})
	);
	const path = (places: readonly (readonly [number, number])[]) =>
		places.map(([s, z], i) => `${i ? 'L' : 'M'}${X(s).toFixed(1)} ${Y(z).toFixed(1)}`).join('');
</script>

{#each lines as l (l.id)}
	{#if l.isLine && l.places.length > 1}<path d={path(l.places)} fill="none" stroke={INK} stroke-width="4" /><path
			d={path(l.places)}
			fill="none"
			stroke={l.color}
			stroke-width="2.2"
			data-what={l.name}
		/>{/if}
	{#each l.places as [s, z], i (i)}<circle
			cx={X(s)}
			cy={Y(z)}
			r={l.isLine && l.places.length > 1 ? 2.2 : 4}
			fill={l.color}
			stroke={INK}
			data-what={l.name}
		/>{/each}
{/each}
{#if drawn.length}
	<g data-probe="yes"
		><path d={path(drawn)} fill="none" stroke={DRAWN} stroke-width="2" stroke-dasharray="5 3" />{#each drawn as [s, z], i (i)}<circle
				cx={X(s)}
				cy={Y(z)}
				r="3"
				fill="#fff"
				stroke={DRAWN}
				stroke-width="1.6"
			/>{/each}</g
	>
{/if}
