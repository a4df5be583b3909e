<script lang="ts" generics="K">
	import type { Picks } from './picks.svelte';

	/** Picks one of a list, with Shift everything from the last one; without a key all that are shown, or none of them. */
	let { picks, list, label, of = undefined }: { picks: Picks<K>; list: readonly K[]; label: string; of?: K } = $props();
	const picked = $derived(picks.of(list).length);
</script>

{#if of === undefined}<input
		type="checkbox"
		class="checkbox checkbox-xs block"
		aria-label={label}
		checked={list.length > 0 && picked === list.length}
		indeterminate={picked > 0 && picked < list.length}
		onchange={() => picks.all(list)}
	/>{:else}<input
		type="checkbox"
		class="checkbox checkbox-xs block shrink-0"
		aria-label={label}
		title="With Shift: all from the last one"
		checked={picks.keys.has(of)}
		onclick={(e) => picks.press(of, list, e.shiftKey)}
	/>{/if}
