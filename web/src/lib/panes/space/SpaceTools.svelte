<script lang="ts">
	import PaneButton from '../PaneButton.svelte';
	import { Lasso, Ruler, Settings2, Slice as SliceIcon, Triangle } from '$lib/icons';
	import type { Tool } from './measuring';
	import type { Look } from './stage';

	/** What one does in space: where to look from, how it is shown, cut open, measured and picked in. */
	let {
		open = $bindable(),
		tool = $bindable(),
		hasSection,
		hasIntervals,
		isCut,
		look
	}: {
		open: '' | 'view' | 'slice';
		tool: Tool;
		hasSection: boolean;
		/** Whether holes are shown with intervals, which an outline picks. */
		hasIntervals: boolean;
		isCut: boolean;
		look: (from: Look | 'section' | 'selection') => void;
	} = $props();
	const LOOKS: [Look, string][] = [
		['oblique', 'Oblique'],
		['above', 'Above'],
		['south', 'South'],
		['north', 'North'],
		['east', 'East'],
		['west', 'West']
	];
</script>

<div
	class="pointer-events-none absolute top-2 right-14 left-2 flex flex-wrap gap-1 *:pointer-events-auto"
	role="group"
	aria-label="Look from"
>
	<select
		class="select select-xs bg-base-100 w-28"
		aria-label="Look from"
		value=""
		onchange={(e) => {
			const v = e.currentTarget.value;
			e.currentTarget.value = '';
			if (v) look(v as Look);
		}}
	>
		<option value="">look from…</option>
		{#each LOOKS as [from, label] (from)}<option value={from}>{label}</option>{/each}
		{#if hasSection}<option value="section">Square to the section</option>{/if}
		<option value="selection">At the selection</option>
	</select>
	<PaneButton active={open === 'view'} expanded={open === 'view'} press={() => (open = open === 'view' ? '' : 'view')}
		><Settings2 size={13} />View</PaneButton
	>
	<PaneButton active={Boolean(open === 'slice' || isCut)} expanded={open === 'slice'} press={() => (open = open === 'slice' ? '' : 'slice')}
		><SliceIcon size={13} />Slice</PaneButton
	>
	<PaneButton
		active={tool === 'line'}
		pressed={tool === 'line'}
		title="Distance, bearing and plunge between two points"
		press={() => (tool = tool === 'line' ? '' : 'line')}><Ruler size={13} />Distance</PaneButton
	>
	<PaneButton
		active={tool === 'plane'}
		pressed={tool === 'plane'}
		title="Dip of the plane through three points"
		press={() => (tool = tool === 'plane' ? '' : 'plane')}><Triangle size={13} />Plane</PaneButton
	>
	<button
		class="btn btn-xs {tool === 'outline' ? 'btn-active' : 'bg-base-100'}"
		aria-pressed={tool === 'outline'}
		disabled={!hasIntervals}
		title={hasIntervals ? 'Pick intervals by drawing round them' : 'Holes are shown without intervals: choose a log in the legend'}
		onclick={() => (tool = tool === 'outline' ? '' : 'outline')}><Lasso size={13} />Outline</button
	>
</div>
