<script lang="ts">
	import type { MadeState } from './choices';

	/** The state of something derived, by shape and colour; the word stands beside it or in its title. */
	let { state }: { state: MadeState } = $props();
	const COLORS: Record<MadeState, string> = {
		'up to date': 'var(--color-primary)',
		'out of date': 'var(--color-warning)',
		building: 'var(--color-info)',
		failed: 'var(--color-error)',
		'never built': 'var(--color-base-content)'
	};
</script>

<svg
	width="13"
	height="13"
	viewBox="0 0 13 13"
	class="shrink-0 {state === 'building' ? 'animate-pulse' : ''}"
	style="color:{COLORS[state]}"
	role="img"
	aria-label={state}
>
	<title>{state}</title>
	{#if state === 'up to date'}<circle cx="6.5" cy="6.5" r="4.5" fill="currentColor" />
	{:else if state === 'out of date'}<circle
			cx="6.5"
			cy="6.5"
			r="4.2"
			fill="none"
			stroke="currentColor"
			stroke-width="1.7"
			stroke-dasharray="3 1.8"
		/>
	{:else if state === 'building'}<path d="M2 11V8h3V5h3V2h3v9z" fill="currentColor" />
	{:else if state === 'failed'}<path d="M2.5 2.5l8 8M10.5 2.5l-8 8" stroke="currentColor" stroke-width="2.2" stroke-linecap="round" />
	{:else}<circle cx="6.5" cy="6.5" r="4.2" fill="none" stroke="currentColor" stroke-opacity=".55" stroke-width="1.2" />{/if}
</svg>
