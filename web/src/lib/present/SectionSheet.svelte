<script lang="ts">
	import { sheetHeight } from '#core/sections/section-svg';
	import type { Box } from '#core/geometry/box';

	/** The sheet of a section as it will be saved. Its place is kept while it is drawn, so that nothing below it moves under a hand. */
	interface Props {
		src: string;
		title: string;
		/** Length of the section, the project's unit. */
		length: number;
		extent: Box | null;
		exaggeration: number;
	}
	let { src, title, length, extent, exaggeration }: Props = $props();
	let phase = $state<'drawing' | 'drawn' | 'failed'>('drawing');
	/** Height of the sheet for a width of 1400, pixels: as it came, before that as it is expected. */
	let came = $state(0);
	const expected = $derived(extent && length > 0 ? sheetHeight(length, extent.maxZ - extent.minZ, exaggeration) : 500);
	$effect(() => {
		void src;
		phase = 'drawing';
	});
	$effect(() => {
		void expected;
		came = 0;
	});
</script>

<div class="relative" style:aspect-ratio="1400 / {came || expected}">
	{#if phase === 'failed'}
		<p class="border-error absolute inset-x-0 top-0 border-l-4 px-3 py-1" role="alert">
			The section could not be drawn. <button class="link" onclick={() => (phase = 'drawing')}>Try again</button>
		</p>
	{:else}
		<img
			class="absolute inset-0 w-full {phase === 'drawing' && !came ? 'opacity-0' : ''}"
			{src}
			alt="Section {title} as it will be saved"
			onload={(e) => {
				const image = e.currentTarget as HTMLImageElement;
				came = (1400 * image.naturalHeight) / image.naturalWidth;
				phase = 'drawn';
			}}
			onerror={() => (phase = 'failed')}
		/>
		{#if phase === 'drawing'}<p class="quiet bg-base-100 absolute top-0 px-1 text-sm" role="status">The section is being drawn …</p>{/if}
	{/if}
</div>
