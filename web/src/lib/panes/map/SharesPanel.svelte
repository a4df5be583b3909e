<script lang="ts">
	/** Shares of the classes of holes, drawn at their collars. */
	let { my = $bindable(), unit }: { my: { pies: string; pieFrom: number; pieTo: number; pieSize: number }; unit: string } = $props();
</script>

<div class="bg-base-100 rule absolute top-10 left-2 flex w-64 flex-col gap-1.5 border p-2.5 text-sm shadow-sm">
	<label class="flex items-center justify-between gap-2"
		>At collars<select class="select select-xs w-36" bind:value={my.pies}
			><option value="none">nothing</option><option value="pie">shares of classes</option><option value="sized"
				>shares, sized by length</option
			></select
		></label
	>
	<div class="flex items-center justify-between gap-2">
		Depth, {unit}<span class="flex items-center gap-1"
			><input class="input input-xs numbers w-16" type="number" min="0" aria-label="From depth" bind:value={my.pieFrom} />–<input
				class="input input-xs numbers w-16"
				type="number"
				min="0"
				aria-label="To depth"
				title="0 is to the end"
				bind:value={my.pieTo}
			/></span
		>
	</div>
	<label class="flex items-center justify-between gap-2"
		>Radius, px<input class="input input-xs numbers w-16" type="number" min="3" max="60" bind:value={my.pieSize} /></label
	>
	<p class="quiet text-xs">
		Of the classes that holes are coloured by; hidden classes do not count, so "only this" shows the range within one unit.
	</p>
</div>
