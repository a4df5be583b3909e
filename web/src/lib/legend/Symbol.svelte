<script lang="ts">
	import { INK } from '#core/palette';
	import Hatch from './Hatch.svelte';
	import type { PatternName } from '#core/styles/patterns';
	let {
		color,
		pattern = null,
		id,
		shape = 'fill'
	}: { color: string; pattern?: PatternName | null; id: string; shape?: 'fill' | 'dot' | 'tube' | 'disc' | 'line' } = $props();
	// Ids of patterns must be plain; names of classes are not.
	const own = $derived(
		`sym-${Array.from(id, (c) => c.charCodeAt(0).toString(36))
			.join('')
			.slice(-80)}`
	);
</script>

<svg width="28" height="16" aria-hidden="true" class="block shrink-0">
	{#if shape === 'fill'}
		{#if pattern}<defs><Hatch id={own} {pattern} {color} /></defs>{/if}
		<rect x=".5" y=".5" width="27" height="15" fill={pattern ? `url(#${own})` : color} stroke={INK} stroke-opacity=".7" />
	{:else if shape === 'dot'}<circle cx="14" cy="8" r="5" fill={color} stroke={INK} stroke-width="1.1" />
	{:else if shape === 'tube'}<path d="M3 8h22" stroke={color} stroke-width="6" stroke-linecap="round" />
	{:else if shape === 'disc'}<ellipse cx="14" cy="8" rx="11" ry="5" fill={color} stroke={INK} stroke-width=".8" />
	{:else}<path d="M2 12l8-7 8 5 8-6" stroke={color} stroke-width="1.8" fill="none" />{/if}
</svg>
