<script lang="ts">
	import { ArrowDown, ArrowUp } from '$lib/icons';
	import { roving } from '$lib/ui/roving';

	interface Props {
		columns: readonly string[];
		/** So many of them, from the first, are of the table; the others are calculated. */
		logged: number;
		/** The column that rows are sorted by, empty for none. */
		sort: string;
		descending: boolean;
		press: (column: string) => void;
	}
	/** The row of names above a table, which stays when the rows are moved. */
	let { columns, logged, sort, descending, press }: Props = $props();
</script>

<div class="font-condensed sticky top-0 z-10 flex bg-base-100 text-[13px]" role="row" aria-rowindex={1} use:roving={{ items: 'button' }}>
	<span class="rule quiet w-16 shrink-0 border-b px-2 leading-6" role="columnheader">row</span>
	{#each columns as h, c (h)}
		<span
			class="rule w-28 shrink-0 border-b border-l"
			role="columnheader"
			aria-sort={sort === h ? (descending ? 'descending' : 'ascending') : 'none'}
			><button
				class="hover:bg-base-200 flex w-full items-center gap-1 px-1.5 text-left leading-6 font-medium"
				title="{h}{c >= logged ? ', calculated' : ''}. Press to sort."
				onclick={() => press(h)}
			>
				<span class="truncate {c >= logged ? 'italic' : ''}">{h}</span>{#if sort === h}{#if descending}<ArrowDown
							size={12}
						/>{:else}<ArrowUp size={12} />{/if}{/if}
			</button></span
		>
	{/each}
</div>
