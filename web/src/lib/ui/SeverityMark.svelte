<script lang="ts">
	let { severity }: { severity: 'held' | 'noted' } = $props();
</script>

{#if severity === 'held'}
	<svg class="inline-block align-[-3px]" width="15" height="15" viewBox="0 0 16 16" role="img" aria-label="held back"
		><path d="M5 1h6l4 4v6l-4 4H5l-4-4V5z" fill="var(--color-error)" /><path d="M4 8h8" stroke="#fff" stroke-width="2.4" /></svg
	>
{:else}
	<svg class="inline-block align-[-3px]" width="15" height="15" viewBox="0 0 16 16" role="img" aria-label="noted"
		><circle cx="8" cy="8" r="5.6" fill="none" stroke="var(--color-warning)" stroke-width="2.6" /></svg
	>
{/if}
