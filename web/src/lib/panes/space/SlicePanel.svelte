<script lang="ts">
	import type { Slice } from '$lib/workbench/state';

	/** How the scene is cut open, as numbers. */
	let {
		slice: s,
		hasSection,
		unit,
		change
	}: { slice: Slice; hasSection: boolean; unit: string; change: (values: Partial<Slice>) => void } = $props();
	/** What a kind of cut begins with: the corner is the one that is seen first, in the south-west. */
	const START: Record<string, Partial<Slice>> = { free: { dip: 45 }, corner: { azimuth: 180, thickness: 0 } };
</script>

<div class="bg-base-100 rule absolute top-10 left-2 flex w-60 flex-col gap-1.5 border p-2.5 text-sm shadow-sm">
	<label class="flex items-center justify-between gap-2"
		>Plane<select
			class="select select-xs w-32"
			value={s.kind}
			onchange={(e) => change({ kind: e.currentTarget.value as Slice['kind'], ...START[e.currentTarget.value] })}
			><option value="none">none</option><option value="section" disabled={!hasSection}>the section</option><option value="vertical"
				>vertical</option
			><option value="horizontal">horizontal</option><option value="free">free</option><option value="corner">a corner cut out</option
			></select
		></label
	>
	{#if s.kind === 'vertical' || s.kind === 'corner'}<label class="flex items-center justify-between gap-2"
			>Strike, °<input
				class="input input-xs numbers w-20"
				type="number"
				step="5"
				value={s.azimuth}
				onchange={(e) => change({ azimuth: ((e.currentTarget.valueAsNumber || 0) + 360) % 360 })}
			/></label
		>{/if}
	{#if s.kind === 'free'}
		<label class="flex items-center justify-between gap-2"
			>Dip, °<input
				class="input input-xs numbers w-20"
				type="number"
				min="0"
				max="90"
				value={s.dip}
				onchange={(e) => change({ dip: Math.min(90, Math.max(0, e.currentTarget.valueAsNumber || 0)) })}
			/></label
		>
		<label class="flex items-center justify-between gap-2"
			>Dip azimuth, °<input
				class="input input-xs numbers w-20"
				type="number"
				value={s.azimuth}
				onchange={(e) => change({ azimuth: ((e.currentTarget.valueAsNumber || 0) + 360) % 360 })}
			/></label
		>
	{/if}
	{#if s.kind !== 'none' && s.kind !== 'section'}
		{#each ['Easting', 'Northing', 'Elevation'] as name, c (name)}
			{#if s.kind !== 'horizontal' || c === 2}
				{#if (s.kind !== 'vertical' && s.kind !== 'corner') || c < 2}
					<label class="flex items-center justify-between gap-2"
						>{name}<input
							class="input input-xs numbers w-28"
							type="number"
							step="any"
							value={Math.round(s.at[c]! * 10) / 10}
							onchange={(e) =>
								change({
									at: s.at.map((v, k) =>
										k === c && Number.isFinite(e.currentTarget.valueAsNumber) ? e.currentTarget.valueAsNumber : v
									) as [number, number, number]
								})}
						/></label
					>
				{/if}
			{/if}
		{/each}
		{#if s.kind !== 'corner'}<p class="quiet text-xs">Drag the arrow in the picture to move the plane.</p>{/if}
	{/if}
	{#if s.kind === 'corner'}<button class="btn btn-xs" onclick={() => change({ azimuth: (s.azimuth + 90) % 360 })}>The next corner</button>
	{:else if s.kind !== 'none'}
		<label class="flex items-center justify-between gap-2" title="0 cuts one side away; else only a slab is kept"
			>Slab, {unit}<input
				class="input input-xs numbers w-20"
				type="number"
				min="0"
				step="any"
				value={s.thickness}
				onchange={(e) => change({ thickness: Math.max(0, e.currentTarget.valueAsNumber || 0) })}
			/></label
		>
		<label class="flex items-center gap-2"
			><input
				type="checkbox"
				class="checkbox checkbox-xs"
				checked={s.flipped}
				disabled={s.thickness > 0}
				onchange={(e) => change({ flipped: e.currentTarget.checked })}
			/>keep the other side</label
		>
	{/if}
</div>
