<script lang="ts">
	import { Search } from '$lib/icons';

	/** Narrows a long list; a short one needs none. */
	let {
		value = $bindable(''),
		label,
		shown,
		all,
		least = 9
	}: { value?: string; label: string; shown: number; all: number; least?: number } = $props();
</script>

{#if all >= least || value}
	<label class="input input-sm mb-2 flex w-full items-center gap-2"
		><Search size={14} class="quiet shrink-0" /><input
			type="search"
			class="min-w-0 grow"
			aria-label={label}
			placeholder={label}
			bind:value
			onkeydown={(e) => e.key === 'Escape' && value && (e.stopPropagation(), (value = ''))}
		/><span class="numbers quiet text-xs whitespace-nowrap" role="status">{value ? `${shown} of ${all}` : ''}</span></label
	>
{/if}
