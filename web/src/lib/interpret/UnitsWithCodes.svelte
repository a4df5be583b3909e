<script lang="ts">
	import { ChevronDown, ChevronRight, X } from '$lib/icons';
	import type { Unit } from '#core/units/column';
	import type { CodeOfLog } from '#core/logs/relog';
	import { spaced } from '$lib/ui/numbers';
	import { draggedCodes } from './dragged-codes';

	/** Units that open to show the codes in them, and take codes that are dragged onto them. */
	let {
		codes,
		units,
		lumping,
		details,
		unit,
		dragging,
		give
	}: {
		codes: readonly { code: string; count: number }[];
		units: readonly Unit[];
		lumping: Readonly<Record<string, string>>;
		details: ReadonlyMap<string, CodeOfLog>;
		unit: string;
		/** Codes are on their way: the units stand ready at the top. */
		dragging: boolean;
		/** Gives codes to a unit; an empty one is none. */
		give: (codes: string[], unit: string) => unknown;
	} = $props();
	let opened = $state<string[]>([]);
	let over = $state('');
	let wanted = $state(false);
	const inside = $derived.by(() => {
		const byUnit = new Map<string, { code: string; count: number }[]>();
		for (const c of codes) {
			const own = lumping[c.code] ?? c.code;
			byUnit.set(own, [...(byUnit.get(own) ?? []), c]);
		}
		return byUnit;
	});
	const lengthOf = (list: readonly { code: string }[]) => list.reduce((n, c) => n + (details.get(c.code)?.length ?? 0), 0);
	function drop(event: DragEvent, id: string) {
		over = '';
		const dragged = draggedCodes(event.dataTransfer, codes);
		if (!dragged.length) return;
		event.preventDefault();
		give(dragged, id);
	}
</script>

<details
	class="rule mb-2 border-y py-1 text-sm {dragging ? 'bg-base-100 sticky top-0 z-20 shadow-sm' : ''}"
	bind:open={
		() => dragging || wanted,
		(is) => {
			if (!dragging) wanted = is;
		}
	}
>
	<summary class="cursor-pointer">What is in each unit <span class="quiet text-xs">(codes can be dragged here)</span></summary>
	<ul aria-label="Units and their codes">
		{#each units as u, i (u.id)}
			{@const list = inside.get(u.id) ?? []}
			{@const isOpen = opened.includes(u.id)}
			<li
				class={over === u.id ? 'bg-base-200 outline-primary outline-2' : ''}
				ondragover={(e) => {
					e.preventDefault();
					over = u.id;
				}}
				ondragleave={() => (over = '')}
				ondrop={(e) => drop(e, u.id)}
			>
				<button
					class="hover:bg-base-200 flex w-full items-center gap-1.5 py-0.5 text-left"
					aria-expanded={isOpen}
					onclick={() => (opened = isOpen ? opened.filter((x) => x !== u.id) : [...opened, u.id])}
				>
					{#if isOpen}<ChevronDown size={13} />{:else}<ChevronRight size={13} />{/if}
					<span class="h-3.5 w-3.5 shrink-0 border border-(--ink)/60" style="background:{u.color}"></span>
					<span class="min-w-0 flex-1 truncate">{i < 9 ? `${i + 1} ` : ''}{u.name}</span>
					<span class="quiet numbers text-xs"
						>{list.length}
						{list.length === 1 ? 'code' : 'codes'}{details.size && list.length ? `, ${spaced(lengthOf(list))} ${unit}` : ''}</span
					>
				</button>
				{#if isOpen}
					<ul class="ml-6 text-xs">
						{#each list as c (c.code)}
							<li class="flex items-center gap-1">
								<span class="min-w-0 flex-1 truncate">{c.code}</span><span class="numbers quiet">{spaced(c.count)}</span>
								<button
									class="btn btn-ghost btn-xs btn-square"
									aria-label="Take {c.code} out of {u.name}"
									onclick={() => give([c.code], '')}><X size={12} /></button
								>
							</li>
						{:else}<li class="quiet">No code yet.</li>{/each}
					</ul>
				{/if}
			</li>
		{/each}
	</ul>
</details>
