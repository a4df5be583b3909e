<script lang="ts">
	import type { Workspace } from '$lib/workspace.svelte';

	interface Noted {
		kind?: string;
		/** Of what is odd in a log, with its table and row. */
		rule?: string;
		table?: string;
		row?: number;
		message: string;
		hint: string;
		hole?: string | undefined;
	}
	/** What the engine noted; a hole that it doubts can be believed as it is. */
	let { workspace, list }: { workspace: Workspace; list: readonly Noted[] } = $props();
	const MOST = 40;
	const DOUBTED = ['odd-unit', 'against-neighbours', 'twins-differ', 'passes-alone', 'alone-at-base', 'believed'];
	const certain = $derived(workspace.interpretation?.shaping.certain ?? []);
	/** Rows of one hole that are set aside for one reason are told together. */
	const told = $derived.by(() => {
		const out: { f: Noted; more: number }[] = [];
		const first = new Map<string, { f: Noted; more: number }>();
		for (const f of list) {
			const known = f.rule === 'odd-unit' && f.hole ? first.get(f.hole) : undefined;
			if (known) {
				known.more++;
				continue;
			}
			const entry = { f, more: 0 };
			out.push(entry);
			if (f.rule === 'odd-unit' && f.hole) first.set(f.hole, entry);
		}
		return out;
	});
	const tableOf = (f: Noted) => (f.row === undefined ? undefined : workspace.tables.find((t) => t.id === f.table));
	/** What is to be done about several after each other is said once. */
	const hintOf = (i: number) => (told[i - 1]?.f.hint === told[i]!.f.hint ? '' : told[i]!.f.hint);
	function believe(hole: string, on: boolean) {
		const rest = certain.filter((h) => h !== hole);
		void workspace.store('shaping', { certain: on ? [...rest, hole] : rest });
	}
</script>

{#snippet noted({ f, more }: { f: Noted; more: number }, hint: string)}
	{@const table = tableOf(f)}
	<li class="rule border-b py-1">
		{f.hole && f.rule ? `${f.hole}: ` : ''}{f.message}{more ? `, and ${more} more ${more === 1 ? 'row' : 'rows'}` : ''}.
		{#if hint}<span class="quiet">{hint}</span>{/if}
		{#if table}<a class="link mr-2 whitespace-nowrap" href="/{workspace.id}/check?table={table.id}&row={f.row}">Go to its row</a>{/if}
		{#if f.hole && DOUBTED.includes(f.kind ?? f.rule ?? '')}
			{@const hole = f.hole}
			{@const on = certain.includes(hole)}
			<span class="whitespace-nowrap">
				<button class="link" onclick={() => (workspace.selection = { kind: 'hole', name: hole })}>{table ? 'its hole' : 'Go to it'}</button>
				<button
					class="link ml-2"
					title={on ? 'Weigh it against its neighbours again' : 'Honour it as it was logged, whatever its neighbours say'}
					onclick={() => believe(hole, !on)}>{on ? 'Weigh it again' : 'This is so'}</button
				>
			</span>
			{#if on !== (f.kind === 'believed')}<span class="quiet">Holds with the next build.</span>{/if}
		{/if}
	</li>
{/snippet}

{#if told.length}
	<h2 class="panel-title mt-4 mb-1">What the engine noted</h2>
	<ul class="text-sm">
		{#each told.slice(0, MOST) as t, i (i)}{@render noted(t, hintOf(i))}{/each}
	</ul>
	{#if told.length > MOST}
		<details class="text-sm">
			<summary class="quiet cursor-pointer">and {told.length - MOST} more</summary>
			<ul>
				{#each told.slice(MOST) as t, i (i)}{@render noted(t, hintOf(MOST + i))}{/each}
			</ul>
		</details>
	{/if}
{/if}
