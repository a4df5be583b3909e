<svelte:options namespace="svg" />

<script lang="ts">
	import { DRAWN, DRAWN_DARK, FAULT_RED, INK } from '#core/palette';
	import { FAULT, TERRAIN } from '#core/mesh/cut-lattice';
	import { gridAlong } from '#core/sections/grid-along';
	import { cutSection, type SectionPicture } from '#core/sections/section';
	import Hatch from '$lib/legend/Hatch.svelte';
	import type { Workspace } from '$lib/workspace.svelte';
	import { pathOf, type Face, type Place } from './section-drawing';

	interface Props {
		workspace: Workspace;
		/** Of the pane: names of patterns and clips are its own. */
		id: string;
		trace: [number, number][];
		picture: SectionPicture | null;
		faces: readonly Face[];
		/** What fills the ground with numbers, as a picture of the whole section. */
		painted: string | null;
		solids: Solids;
		/** Those of another model, whose lines lie over it. */
		overlaid: Solids;
		place: Place;
		/** Least and greatest elevation. */
		range: [number, number];
		length: number;
	}
	type Solids = ReturnType<Workspace['solids']>;
	/** The ground on a section: pictures that hang on it, units, what paints them, contacts and faults, grids, lines of another model. */
	let { workspace, id, trace, picture, faces, painted, solids, overlaid, place, range, length }: Props = $props();
	const d = $derived((points: ArrayLike<number>, close: boolean) => pathOf(points, place, close));
	const filled = $derived(workspace.bench.state.filled);
	const unitOf = $derived(solids?.units ?? []);
	/** Grids whose values are elevations, along the section. */
	const gridLines = $derived(
		length > 0
			? workspace.gridThings
					.filter((g) => workspace.shown(`thing:${g.id}`) && workspace.raised(g.id))
					.map((g) => ({ id: g.id, name: g.name, lines: gridAlong(g.raster, trace) }))
			: []
	);
	const overLines = $derived(
		overlaid?.mesh && length > 0 ? [...cutSection(overlaid.mesh, trace).lines].filter(([s]) => s !== TERRAIN) : []
	);
</script>

{#each workspace.things as t (t.id)}
	{#if t.kind === 'picture' && t.hung && workspace.shown(`thing:${t.id}`) && JSON.stringify(t.hung.trace) === JSON.stringify(trace)}
		<image
			href={t.url}
			x={Math.min(place.X(t.hung.left), place.X(t.hung.right))}
			y={place.Y(t.hung.top)}
			width={Math.abs(place.X(t.hung.right) - place.X(t.hung.left))}
			height={place.Y(t.hung.bottom) - place.Y(t.hung.top)}
			preserveAspectRatio="none"
			opacity={workspace.opacityOf(`thing:${t.id}`)}
			data-what={t.name}
		/>
	{/if}
{/each}
{#if picture}
	<defs>
		{#each faces as { info, pattern }, i (info.id)}
			{#if pattern}<Hatch id="face-{id}-{i}" {pattern} size={18} ink={0.26} />{/if}
		{/each}
	</defs>
	{#each faces as { info, rings, pattern }, i (info.id)}
		{@const outline = rings.map((r) => d(r, true)).join('')}
		<path
			d={outline}
			fill={info.color}
			fill-rule="evenodd"
			fill-opacity={painted ? 0 : workspace.opacityOf('volumes')}
			data-what={info.name}
			data-unit={info.id}
		/>
		{#if pattern && !painted}<path
				d={outline}
				fill="url(#face-{id}-{i})"
				fill-rule="evenodd"
				opacity={workspace.opacityOf('volumes')}
				class="pointer-events-none"
			/>{/if}
	{/each}
	{#if painted}
		<clipPath id="ground-{id}"
			>{#each [...picture.fills] as [u, rings] (u)}{#if unitOf[u] && workspace.shown(`unit:${unitOf[u].id}`)}<path
						d={rings.map((r) => d(r, true)).join('')}
						clip-rule="evenodd"
					/>{/if}{/each}</clipPath
		>
		<image
			href={painted}
			x={place.X(0)}
			y={place.Y(range[1])}
			width={place.X(length) - place.X(0)}
			height={place.Y(range[0]) - place.Y(range[1])}
			preserveAspectRatio="none"
			clip-path="url(#ground-{id})"
			data-what={workspace.paint?.label}
		/>
	{/if}
	{#each [...picture.lines] as [s, list] (s)}
		{#if s === TERRAIN}
			{#if workspace.shown('terrain')}<path d={list.map((l) => d(l, false)).join('')} fill="none" stroke={INK} stroke-width="1.6" />{/if}
		{:else if s >= FAULT}
			{#if workspace.shown(`fault:${solids!.faults[s - FAULT]?.id}`)}<path
					d={list.map((l) => d(l, false)).join('')}
					fill="none"
					stroke={FAULT_RED}
					stroke-width="2.2"
					data-what={solids!.faults[s - FAULT]?.name}
				/>{/if}
		{:else}
			<path
				d={list.map((l) => d(l, false)).join('')}
				fill="none"
				stroke={filled ? INK : (unitOf[s]?.color ?? INK)}
				stroke-width={filled ? 0.7 : 1.8}
				data-what="base of {unitOf[s]?.name}"
			/>
		{/if}
	{/each}
{/if}
{#each gridLines as g (g.id)}
	<path d={g.lines.map((l) => d(l, false)).join('')} fill="none" stroke={DRAWN} stroke-width="2" data-what={g.name} />
{/each}
{#each overLines as [s, list] (s)}
	<path
		d={list.map((l) => d(l, false)).join('')}
		fill="none"
		stroke={DRAWN_DARK}
		stroke-width="1.8"
		stroke-dasharray="7 3"
		data-what="{s >= FAULT ? (overlaid!.faults[s - FAULT]?.name ?? '') : `base of ${overlaid!.units[s]?.name ?? ''}`} in {overlaid!.name}"
	/>
{/each}
