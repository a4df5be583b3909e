<script lang="ts">
	import { ChevronLeft, ChevronRight, Pin } from '$lib/icons';
	import { setsOf, stepFrom } from '$lib/workbench/section-sets';
	import type { Section } from '$lib/workspace.svelte';

	interface Props {
		/** All sections of the project, and the one that is shown. */
		sections: readonly Section[];
		section: Section;
		/** Settings of the pane: the section that it keeps. */
		my: { line: string | number | null };
		/** There is room for its name only. */
		narrow: boolean;
		step: (by: 1 | -1) => void;
	}
	/** Steps through the set of the section that is shown, and keeps one in a pane. */
	let { sections, section, my, narrow, step }: Props = $props();
	const isShown = (s: Section) => s.id === section.id;
	const ownSet = $derived(setsOf(sections).find((s) => s.sections.some(isShown)) ?? { name: '', sections: [section] });
	const placeInSet = $derived(ownSet.sections.findIndex(isShown));
</script>

<button
	class="btn btn-xs btn-square bg-base-100"
	aria-label="Section before"
	title="Section before (Page up)"
	disabled={stepFrom(sections, section.id, -1) === null}
	onclick={() => step(-1)}><ChevronLeft size={13} /></button
>
<span class="bg-base-100 numbers truncate px-1 text-xs whitespace-nowrap {narrow ? 'max-w-20' : ''}" title={section.name}
	>{section.name}{narrow ? '' : ` · ${placeInSet + 1} of ${ownSet.sections.length}${ownSet.name ? `, ${ownSet.name}` : ''}`}</span
>
<button
	class="btn btn-xs btn-square {my.line === null ? 'bg-base-100' : 'btn-active'}"
	aria-pressed={my.line !== null}
	aria-label="Keep this section in this pane"
	title={my.line === null ? 'Keep this section in this pane, whatever others show' : 'Show the section again that all look at'}
	onclick={() => (my.line = my.line === null ? section.id : null)}><Pin size={13} /></button
>
<button
	class="btn btn-xs btn-square bg-base-100"
	aria-label="Next section"
	title="Next section (Page down)"
	disabled={stepFrom(sections, section.id, 1) === null}
	onclick={() => step(1)}><ChevronRight size={13} /></button
>
