<script lang="ts">
	import { Navigation } from '$lib/icons';
	import { titleOf, type NumberColumn } from '#core/datasets/dataset';
	import type { ReadyScale } from '#core/styles/scale';
	import type { Workspace } from '$lib/workspace.svelte';
	import RampKey from '../RampKey.svelte';

	// What stands round the picture: where north is, how long a thing is, what colours mean, what is on its way.
	let {
		workspace,
		heading,
		scaleBar,
		solids,
		isAwaited,
		paint,
		scale
	}: {
		workspace: Workspace;
		/** Degrees from north that one looks along. */
		heading: number;
		scaleBar: { px: number; text: string };
		solids: ReturnType<Workspace['solids']>;
		/** Whether the model is on its way. */
		isAwaited: boolean;
		paint: Workspace['paint'];
		/** What the holes are coloured by, where that is a number. */
		scale: { column: NumberColumn; scale: ReadyScale; kind: { kind: string } } | null;
	} = $props();
	const exaggeration = $derived(workspace.bench.state.exaggeration);
</script>

<div class="pointer-events-none absolute top-2 right-2 flex flex-col items-end gap-1 text-xs">
	<span class="bg-base-100/80 flex items-center gap-1 px-1.5 py-0.5"
		><Navigation size={13} style="transform: rotate({-45 - heading}deg)" />N</span
	>
</div>
{#if scaleBar.text}<div class="pointer-events-none absolute bottom-2 left-2 text-xs">
		<div class="border-base-content h-1.5 border-x border-b" style="width: {Math.max(1, scaleBar.px)}px"></div>
		<span class="numbers">{scaleBar.text}{exaggeration === 1 ? '' : ` · ${exaggeration}× vertical`}</span>
	</div>{/if}
{#if paint}<div class="absolute right-2 {scale ? 'bottom-16' : 'bottom-2'}">
		<RampKey label={paint.label} scale={paint.scale} />
	</div>{/if}
{#if scale}<div class="absolute right-2 bottom-2">
		<RampKey label={titleOf(scale.column)} scale={scale.scale} log={scale.kind.kind === 'log'} />
	</div>{/if}
{#if solids && solids !== workspace.ownSolids}<p class="bg-base-100/90 absolute top-11 right-2 px-2 text-sm">{solids.name}</p>{/if}
{#if solids?.light}<p class="bg-base-100/90 absolute bottom-9 left-2 px-2 text-sm whitespace-nowrap" role="status">
		{solids.light.words}
	</p>
{:else if !solids && (isAwaited || workspace.modelBuild)}<p class="bg-base-100/90 absolute bottom-9 left-2 px-2 text-sm" role="status">
		{isAwaited ? 'The model is on its way…' : 'The model is being built, and is drawn when it is ready.'}
	</p>
{:else if solids?.outOfDate}<p
		class="bg-base-100/90 text-warning border-warning absolute bottom-2 left-1/2 -translate-x-1/2 border px-2 text-sm"
	>
		{workspace.modelBuild ? 'Out of date; being built anew' : 'The model shown is out of date'}
	</p>{/if}
