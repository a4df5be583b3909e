<script lang="ts">
	/** One line that says what became of the readings. */
	let { report }: { report: Readonly<Record<string, unknown>> } = $props();
	interface Readings {
		rows: number;
		read: number;
		missing: number;
		outside: number;
		doubledCells: number;
		used: number;
	}
	const r = $derived(report['readings'] as Readings | undefined);
	const of = (v: number, one: string, more: string) => `${v.toLocaleString('en')} ${v === 1 ? one : more}`;
</script>

{#if r}
	<p class="quiet mt-1 text-sm" role="status">
		Read {r.read.toLocaleString('en')} of {r.rows.toLocaleString('en')} rows{r.missing
			? `, ${r.missing.toLocaleString('en')} without a value or place`
			: ''}{r.outside ? `, ${r.outside.toLocaleString('en')} outside the frame` : ''}{r.doubledCells
			? `; ${of(r.doubledCells, 'cell holds', 'cells hold')} several`
			: ''}.
	</p>
{/if}
