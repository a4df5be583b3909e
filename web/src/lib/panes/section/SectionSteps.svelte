<script lang="ts">
	import { ChevronLeft, ChevronRight, Pin } from '@lucide/svelte';
	import { setsOf, stepFrom } from './sets';

	interface Props {
		/** All section lines of the project. */
		lines: Parameters<typeof setsOf>[0];
		/** Which one is shown, and its name. */
		number: number;
		name: string;
		/** Settings of the pane: the section that it keeps. */
		my: { line: number | null };
		step: (by: 1 | -1) => void;
	}
	/** Steps through the set of the section that is shown, and keeps one in a pane. */
	let { lines, number, name, my, step }: Props = $props();
	const ownSet = $derived(setsOf(lines).find((s) => s.numbers.includes(number)) ?? { name: '', numbers: [number] });
	const placeInSet = $derived(ownSet.numbers.indexOf(number));
</script>

<button
	class="btn btn-xs btn-square bg-base-100"
	aria-label="Section before"
	title="Section before (Page up)"
	disabled={stepFrom(lines, number, -1) === null}
	onclick={() => step(-1)}><ChevronLeft size={13} /></button
>
<span class="bg-base-100 numbers px-1 text-xs"
	>{name} · {placeInSet + 1} of {ownSet.numbers.length}{ownSet.name ? `, ${ownSet.name}` : ''}</span
>
<button
	class="btn btn-xs btn-square {my.line === null ? 'bg-base-100' : 'btn-active'}"
	aria-pressed={my.line !== null}
	aria-label="Keep this section in this pane"
	title={my.line === null ? 'Keep this section in this pane, whatever others show' : 'Show the section again that all look at'}
	onclick={() => (my.line = my.line === null ? number : null)}><Pin size={13} /></button
>
<button
	class="btn btn-xs btn-square bg-base-100"
	aria-label="Next section"
	title="Next section (Page down)"
	disabled={stepFrom(lines, number, 1) === null}
	onclick={() => step(1)}><ChevronRight size={13} /></button
>
